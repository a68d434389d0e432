-- Opens a pond with mistakes in Neovim, asks the server through Neovim's own client, and writes down what came back.
local text, out = vim.env.POND, vim.env.OUT

local function give_up(words)
  io.stderr:write(words .. "\n")
  vim.cmd("cquit 1")
end

local function wait_for(what, is_so)
  if not vim.wait(20000, is_so, 20) then give_up("waited in vain for " .. what) end
end

vim.cmd("edit " .. vim.fn.fnameescape(text))
local buffer = vim.api.nvim_get_current_buf()
local found = {}

local function diagnostics() return vim.diagnostic.get(buffer) end

wait_for("diagnostics", function() return #diagnostics() > 0 end)
found.filetype = vim.bo.filetype
found.diagnostics = {}
for _, d in ipairs(diagnostics()) do
  table.insert(found.diagnostics, { code = d.code, line = d.lnum, column = d.col, message = d.message })
end

local function ask(method, params)
  local answers = vim.lsp.buf_request_sync(buffer, method, params, 20000)
  for _, answer in pairs(answers or {}) do
    if answer.err then give_up(method .. ": " .. answer.err.message) end
    return answer.result
  end
  give_up("no answer to " .. method)
end

-- Behind `mi` in `place mige`.
vim.api.nvim_win_set_cursor(0, { 5, 8 })
local completion = ask("textDocument/completion", vim.lsp.util.make_position_params(0))
found.first = completion.items[1].label

-- The mend of the slip, as a person would choose it.
local range = vim.lsp.util.make_range_params(0)
range.context = { diagnostics = {} }
for _, action in ipairs(ask("textDocument/codeAction", range)) do
  if action.isPreferred then
    found.mend = action.title
    vim.lsp.util.apply_workspace_edit(action.edit, "utf-16")
  end
end
wait_for("a text without mistakes", function() return #diagnostics() == 0 end)

-- The kind gets another name, from its use.
vim.api.nvim_win_set_cursor(0, { 5, 7 })
local rename = vim.lsp.util.make_position_params(0)
rename.newName = "gnat"
vim.lsp.util.apply_workspace_edit(ask("textDocument/rename", rename), "utf-16")

found.text = table.concat(vim.api.nvim_buf_get_lines(buffer, 0, -1, false), "\n")
local file = assert(io.open(out, "w"))
file:write(vim.json.encode(found))
file:close()
vim.cmd("qall!")
