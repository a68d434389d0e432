-- Ponds in Neovim, 0.7 or later: put this folder on the runtime path. `tickpond` has to be on the PATH.

if vim.g.loaded_tickpond then return end
vim.g.loaded_tickpond = true

vim.api.nvim_create_autocmd({ "BufRead", "BufNewFile" }, {
  pattern = "*.pond",
  callback = function() vim.bo.filetype = "pond" end,
})

local client

local function attach(buffer)
  client = client or vim.lsp.start_client({
    name = "tickpond",
    cmd = { vim.g.tickpond or "tickpond", "lsp" },
    root_dir = vim.fn.getcwd(),
    on_exit = function() client = nil end,
    -- The page on a code, in a window of its own.
    handlers = {
      ["window/showMessage"] = function(_, message)
        local lines = vim.split(message.message, "\n", { plain = true })
        if #lines > 3 then
          vim.lsp.util.open_floating_preview(lines, "markdown", { border = "single" })
        else
          vim.api.nvim_echo({ { message.message } }, true, {})
        end
      end,
    },
  })
  if client then vim.lsp.buf_attach_client(buffer, client) end
end

vim.api.nvim_create_autocmd("FileType", {
  pattern = "pond",
  callback = function(event)
    local buffer = event.buf
    vim.bo[buffer].commentstring = "// %s"
    vim.bo[buffer].expandtab = true
    vim.bo[buffer].shiftwidth = 4
    vim.bo[buffer].omnifunc = "v:lua.vim.lsp.omnifunc"
    vim.bo[buffer].formatexpr = "v:lua.vim.lsp.formatexpr()"
    attach(buffer)
  end,
})
