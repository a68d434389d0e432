//! The language server, driven by a client that speaks the protocol and nothing else.

mod common;

use std::collections::VecDeque;
use std::io::{BufRead, BufReader, Read, Write};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};

use common::PROGRAM;
use rstest::rstest;
use serde_json::{Value, json};

/// A client of the server.
struct Client {
    child: Child,
    input: Option<ChildStdin>,
    output: BufReader<ChildStdout>,
    next: i64,
    /// What came while something else was waited for.
    notes: VecDeque<Value>,
}

const URI: &str = "file:///mill.pond";

impl Client {
    /// A server that has been started and nothing else.
    fn bare() -> Client {
        let mut child = Command::new(PROGRAM)
            .args(["lsp", "--stdio"])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        let (input, output) = (child.stdin.take(), child.stdout.take().unwrap());
        let output = BufReader::new(output);
        Client { child, input, output, next: 0, notes: VecDeque::new() }
    }

    /// A server that knows this client.
    fn with(capabilities: Value) -> (Client, Value) {
        let mut client = Client::bare();
        let params = json!({ "processId": null, "rootUri": null, "capabilities": capabilities });
        let answer = client.ask("initialize", params).unwrap();
        client.note("initialized", json!({}));
        (client, answer)
    }

    /// The same with a text that is open.
    fn on(text: &str) -> Client {
        let (mut client, _) = Client::with(json!({}));
        client.open(URI, text);
        client
    }

    fn open(&mut self, uri: &str, text: &str) {
        let text = json!({ "uri": uri, "languageId": "pond", "version": 1, "text": text });
        self.note("textDocument/didOpen", json!({ "textDocument": text }));
    }

    fn send(&mut self, message: Value) {
        let text = message.to_string();
        let input = self.input.as_mut().unwrap();
        write!(input, "Content-Length: {}\r\n\r\n{text}", text.len()).unwrap();
        input.flush().unwrap();
    }

    fn note(&mut self, method: &str, params: Value) {
        self.send(json!({ "jsonrpc": "2.0", "method": method, "params": params }));
    }

    fn request(&mut self, method: &str, params: Value) -> i64 {
        self.next += 1;
        let id = self.next;
        self.send(json!({ "jsonrpc": "2.0", "id": id, "method": method, "params": params }));
        id
    }

    fn read(&mut self) -> Value {
        let mut length = 0;
        loop {
            let mut line = String::new();
            assert!(self.output.read_line(&mut line).unwrap() > 0, "the server is gone");
            match line.trim_end() {
                "" => break,
                line => {
                    if let Some(number) = line.strip_prefix("Content-Length: ") {
                        length = number.parse().unwrap();
                    }
                }
            }
        }
        let mut body = vec![0; length];
        self.output.read_exact(&mut body).unwrap();
        serde_json::from_slice(&body).unwrap()
    }

    /// The answer to a request; what is told in between is kept.
    fn answer(&mut self, id: i64) -> Result<Value, Value> {
        loop {
            let message = self.read();
            if message["id"] == json!(id) {
                return match message.get("error") {
                    Some(error) => Err(error.clone()),
                    None => Ok(message["result"].clone()),
                };
            }
            self.notes.push_back(message);
        }
    }

    /// The answer to what was no request.
    fn answer_to_nobody(&mut self) -> Value {
        loop {
            let message = self.read();
            if message["id"].is_null() && message.get("error").is_some() {
                return message;
            }
            self.notes.push_back(message);
        }
    }

    fn ask(&mut self, method: &str, params: Value) -> Result<Value, Value> {
        let id = self.request(method, params);
        self.answer(id)
    }

    /// Asks about a place of the open text.
    fn at(
        &mut self,
        method: &str,
        (line, character): (u32, u32),
        more: Value,
    ) -> Result<Value, Value> {
        let mut params = json!({
            "textDocument": { "uri": URI },
            "position": { "line": line, "character": character },
        });
        for (key, value) in more.as_object().into_iter().flatten() {
            params[key] = value.clone();
        }
        self.ask(&format!("textDocument/{method}"), params)
    }

    /// What is wrong with a text, as told next.
    fn diagnostics(&mut self, uri: &str) -> Value {
        let told = |note: &Value| {
            note["method"] == "textDocument/publishDiagnostics" && note["params"]["uri"] == uri
        };
        if let Some(at) = self.notes.iter().position(told) {
            return self.notes.remove(at).unwrap()["params"].clone();
        }
        loop {
            let message = self.read();
            if told(&message) {
                return message["params"].clone();
            }
            self.notes.push_back(message);
        }
    }

    fn change(&mut self, version: i32, changes: Value) {
        let text = json!({ "uri": URI, "version": version });
        let params = json!({ "textDocument": text, "contentChanges": changes });
        self.note("textDocument/didChange", params);
    }

    /// Says goodbye; how the server ended.
    fn end(mut self) -> (i32, String) {
        self.ask("shutdown", Value::Null).unwrap();
        self.note("exit", Value::Null);
        self.close()
    }

    /// Goes without a word.
    fn close(&mut self) -> (i32, String) {
        self.input = None;
        let mut errors = String::new();
        let status = self.child.wait().unwrap();
        self.child.stderr.take().unwrap().read_to_string(&mut errors).unwrap();
        (status.code().unwrap(), errors)
    }
}

const TEXT: &str = "pond \"Mill\" { arena 10 x 10 }
// How fast they drift.
knob drift = 6 u/s
message warn(level: number, of: kind)
kind midge {
    vars { bites = 0 }
    on birth { speed = drift }
    on warn(level) { bites += level; say \"\u{1F438} {bites} of {drift}\" }
    every tick { heading += 2 deg }
    after 1.5 s { end self }
}
kind frog {
    every 1 s { send warn(2, midge) to each midge; each midge within 5 u as m { say \"{m.bites}\" } }
}
place midge at (1, 1)
";

fn place(line: u64, from: u64, to: u64) -> Value {
    json!({ "start": { "line": line, "character": from }, "end": { "line": line, "character": to } })
}

#[rstest]
fn mistakes_are_told_as_one_types() {
    let mut client =
        Client::on("pond \"t\" { arena 10 x 10 }\nkind midge { }\nplace mige at (1, 1)\n");
    let told = client.diagnostics(URI);
    assert_eq!(told["version"], 1);
    let first = &told["diagnostics"][0];
    assert_eq!(first["code"], "E0301");
    assert_eq!(first["severity"], 1);
    assert_eq!(first["range"], place(2, 6, 10));
    assert!(first["message"].as_str().unwrap().contains("did you mean `midge`?"));
    client.change(2, json!([{ "range": place(2, 6, 10), "text": "midge" }]));
    let told = client.diagnostics(URI);
    assert_eq!((&told["version"], &told["diagnostics"]), (&json!(2), &json!([])));
    assert_eq!(client.end(), (0, String::new()));
}

/// Typing letter by letter, as an editor tells it, comes to the same text: columns are those of UTF-16.
#[rstest]
fn changes_add_up() {
    let mut client = Client::on("");
    let mut typed = 0;
    let (mut line, mut column) = (0u64, 0u64);
    for c in TEXT.chars() {
        typed += 1;
        client.change(typed, json!([{ "range": place(line, column, column), "text": c }]));
        if c == '\n' {
            (line, column) = (line + 1, 0);
        } else {
            column += c.len_utf16() as u64;
        }
    }
    let whole = Client::on(TEXT).at("documentSymbol", (0, 0), json!({})).unwrap();
    assert_eq!(client.at("documentSymbol", (0, 0), json!({})).unwrap(), whole);
    assert_eq!(whole.as_array().unwrap().len(), 6);
}

#[rstest]
fn several_texts_are_open_at_once() {
    let mut client = Client::on(TEXT);
    client.open("file:///other.pond", "pond \"Other\" { arena 5 x 5 }\nkind midge { speed }\n");
    let other = client.diagnostics("file:///other.pond");
    assert_ne!(other["diagnostics"], json!([]));
    // The names of one text are not those of the other.
    let found =
        client.at("references", (4, 6), json!({ "context": { "includeDeclaration": true } }));
    let found = found.unwrap();
    assert_eq!(found.as_array().unwrap().len(), 5);
    assert!(found.as_array().unwrap().iter().all(|place| place["uri"] == URI));
    client
        .note("textDocument/didClose", json!({ "textDocument": { "uri": "file:///other.pond" } }));
    assert_eq!(client.diagnostics("file:///other.pond")["diagnostics"], json!([]));
    let params = json!({ "textDocument": { "uri": "file:///other.pond" } });
    let refused = client.ask("textDocument/documentSymbol", params).unwrap_err();
    assert_eq!(refused["code"], -32602);
}

#[rstest]
fn columns_are_counted_as_agreed() {
    // The frog on line 8 is 4 bytes and 2 units of UTF-16; behind it stands `bites`.
    let (line, utf16) = (7, 46);
    for (offered, name, column) in
        [(json!(["utf-16", "utf-8"]), "utf-8", utf16 + 2), (json!([]), "utf-16", utf16)]
    {
        let capabilities = json!({ "general": { "positionEncodings": offered } });
        let (mut client, answer) = Client::with(capabilities);
        assert_eq!(answer["capabilities"]["positionEncoding"], name);
        client.open(URI, TEXT);
        let highlights = client.at("documentHighlight", (line, column), json!({})).unwrap();
        let lines: Vec<&Value> =
            highlights.as_array().unwrap().iter().map(|h| &h["range"]["start"]["line"]).collect();
        assert_eq!(lines, [5, 7, 7, 12], "{name}");
        assert_eq!(highlights[2]["range"]["start"]["character"], column);
    }
}

#[rstest]
fn what_could_stand_there_is_offered() {
    let mut client = Client::on(TEXT);
    client.change(2, json!([{ "range": place(14, 6, 11), "text": "mi" }]));
    let found = client.at("completion", (14, 8), json!({})).unwrap();
    let first = &found["items"][0];
    assert_eq!((&first["label"], &first["detail"]), (&json!("midge"), &json!("kind")));
    assert_eq!(first["textEdit"]["range"], place(14, 6, 8));
    client.change(3, json!([{ "range": place(9, 4, 15), "text": "after 1.5 " }]));
    let found = client.at("completion", (9, 14), json!({})).unwrap();
    let labels: Vec<&str> =
        found["items"].as_array().unwrap().iter().map(|i| i["label"].as_str().unwrap()).collect();
    assert!(labels.contains(&"ticks") && !labels.contains(&"deg"), "{labels:?}");
}

#[rstest]
fn words_are_told() {
    let mut client = Client::on(TEXT);
    let knob = client.at("hover", (6, 24), json!({})).unwrap();
    let told = knob["contents"]["value"].as_str().unwrap();
    assert!(told.contains("knob drift = 6 u/s"), "{told}");
    assert!(told.contains("knob, a speed, line 3") && told.contains("How fast they drift."));
    assert_eq!(knob["range"], place(6, 23, 28));
    let word = client.at("hover", (9, 5), json!({})).unwrap();
    assert!(word["contents"]["value"].as_str().unwrap().starts_with("**after**"));
    assert_eq!(client.at("hover", (4, 11), json!({})).unwrap(), Value::Null);
}

#[rstest]
fn names_are_found_and_renamed() {
    let mut client = Client::on(TEXT);
    let defined = client.at("definition", (7, 60), json!({})).unwrap();
    assert_eq!(defined[0]["range"], place(2, 5, 10));
    assert_eq!(client.at("prepareRename", (6, 24), json!({})).unwrap()["placeholder"], "drift");
    assert_eq!(client.at("prepareRename", (6, 16), json!({})).unwrap(), Value::Null);
    let renamed = client.at("rename", (6, 24), json!({ "newName": "pull" })).unwrap();
    let edits = renamed["changes"][URI].as_array().unwrap();
    assert_eq!(edits.len(), 3);
    assert!(edits.iter().all(|edit| edit["newText"] == "pull"));
    let taken = client.at("rename", (6, 24), json!({ "newName": "midge" })).unwrap_err();
    assert!(taken["message"].as_str().unwrap().contains("used here already"), "{taken}");
    // Of its uses alone.
    let used =
        client.at("references", (2, 6), json!({ "context": { "includeDeclaration": false } }));
    assert_eq!(used.unwrap().as_array().unwrap().len(), 2);
}

#[rstest]
fn a_client_that_knows_versions_gets_them() {
    let capabilities = json!({ "workspace": { "workspaceEdit": { "documentChanges": true } } });
    let (mut client, _) = Client::with(capabilities);
    client.open(URI, TEXT);
    let renamed = client.at("rename", (6, 24), json!({ "newName": "pull" })).unwrap();
    assert_eq!(renamed["documentChanges"][0]["textDocument"], json!({ "uri": URI, "version": 1 }));
}

#[rstest]
fn the_text_is_outlined_folded_and_coloured() {
    let mut client = Client::on(TEXT);
    let outline = client.at("documentSymbol", (0, 0), json!({})).unwrap();
    let names = |list: &Value| -> Vec<String> {
        list.as_array().unwrap().iter().map(|s| s["name"].as_str().unwrap().to_string()).collect()
    };
    assert_eq!(
        names(&outline),
        ["Mill", "drift", "warn", "midge", "frog", "place midge at (1, 1)"]
    );
    assert_eq!(
        names(&outline[3]["children"]),
        ["bites", "on birth", "on warn(level)", "every tick", "after 1.5 s"]
    );
    let folds = client.at("foldingRange", (0, 0), json!({})).unwrap();
    assert_eq!((&folds[0]["startLine"], &folds[0]["endLine"]), (&json!(4), &json!(9)));
    let data = client.at("semanticTokens/full", (0, 0), json!({})).unwrap()["data"].clone();
    let data: Vec<u64> = data.as_array().unwrap().iter().map(|n| n.as_u64().unwrap()).collect();
    // Each piece, put back where it stands, is a whole word of its line.
    let lines: Vec<Vec<u16>> = TEXT.lines().map(|l| l.encode_utf16().collect()).collect();
    let (mut line, mut column, mut found) = (0, 0, Vec::new());
    for piece in data.chunks(5) {
        column = if piece[0] > 0 { piece[1] } else { column + piece[1] } as usize as u64;
        line += piece[0];
        let units = &lines[line as usize][column as usize..(column + piece[2]) as usize];
        found.push((String::from_utf16(units).unwrap(), piece[3], piece[4]));
    }
    for piece in
        [("drift", 7, 3), ("drift", 7, 2), ("midge", 5, 1), ("1.5 s", 3, 0), ("} of {", 2, 0)]
    {
        let piece = (piece.0.to_string(), piece.1, piece.2);
        assert!(found.contains(&piece), "{piece:?} in {found:?}");
    }
    let range = json!({ "range": place(2, 0, 99) });
    let part = client.at("semanticTokens/range", (0, 0), range).unwrap();
    assert_eq!(part["data"].as_array().unwrap().len(), 4 * 5);
}

#[rstest]
fn calls_and_numbers_are_told() {
    let mut client = Client::on(TEXT);
    let told = client.at("signatureHelp", (12, 29), json!({})).unwrap();
    assert_eq!(told["signatures"][0]["label"], "warn(level: number, of: kind)");
    assert_eq!(told["activeParameter"], 1);
    assert_eq!(told["signatures"][0]["parameters"][1]["label"], json!([20, 28]));
    let whole =
        json!({ "start": { "line": 0, "character": 0 }, "end": { "line": 99, "character": 0 } });
    let hints = client.at("inlayHint", (0, 0), json!({ "range": whole })).unwrap();
    let words: Vec<&str> =
        hints.as_array().unwrap().iter().map(|h| h["label"].as_str().unwrap()).collect();
    assert_eq!(words, ["= 120 deg per s", "= 90 ticks", "= 60 ticks"]);
    assert_eq!(hints[1]["position"], json!({ "line": 9, "character": 15 }));
}

#[rstest]
fn texts_are_set_out() {
    let text = "pond \"t\" {arena 10 x 10}\nkind midge {\non birth { speed = 3u/s }\n  after 2s { end self }\n}\n";
    let mut client = Client::on(text);
    let edits = client.at("formatting", (0, 0), json!({ "options": {} })).unwrap();
    let lines: Vec<&Value> = edits.as_array().unwrap().iter().map(|e| &e["newText"]).collect();
    assert_eq!(edits.as_array().unwrap().len(), 3, "{lines:?}");
    let range = json!({ "range": place(3, 0, 3), "options": {} });
    let part = client.at("rangeFormatting", (0, 0), range).unwrap();
    assert!(part[0]["newText"].as_str().unwrap().contains("    after 2 s { end self }\n"));
    client.change(2, json!([{ "range": place(1, 0, 4), "text": "" }]));
    let refused = client.at("formatting", (0, 0), json!({ "options": {} })).unwrap_err();
    assert!(refused["message"].as_str().unwrap().contains("mistakes in its form"), "{refused}");
}

#[rstest]
fn a_slip_is_mended_and_explained() {
    let text = "pond \"t\" { arena 10 x 10 }\nkind midge { }\nplace mige at (1, 1)\n";
    let mut client = Client::on(text);
    let more = json!({ "range": place(2, 7, 7), "context": { "diagnostics": [] } });
    let actions = client.at("codeAction", (0, 0), more).unwrap();
    assert_eq!(actions[0]["title"], "Replace `mige` by `midge`");
    assert_eq!(actions[0]["isPreferred"], true);
    assert_eq!(actions[0]["diagnostics"][0]["code"], "E0301");
    let edit = &actions[0]["edit"]["changes"][URI][0];
    assert_eq!((&edit["range"], &edit["newText"]), (&place(2, 6, 10), &json!("midge")));
    let explain = actions.as_array().unwrap().last().unwrap();
    assert!(explain["title"].as_str().unwrap().starts_with("Explain E0301: "));
    let page = client.ask("workspace/executeCommand", explain["command"].clone()).unwrap();
    assert_eq!(page, json!(tickpond_lang::explain::explain(tickpond_lang::Code::UnknownName)));
    let only = json!({ "range": place(2, 7, 7), "context": { "only": ["refactor"] } });
    assert_eq!(client.at("codeAction", (0, 0), only).unwrap(), json!([]));
}

/// What is called off before it is begun is not done. Whether the server sees that in time is chance; that it never
/// does in fifty times is a fault.
#[rstest]
fn a_request_is_called_off() {
    let mut client = Client::on(TEXT);
    client.diagnostics(URI);
    let position = json!({ "line": 6, "character": 24 });
    let called_off = (0..50).any(|_| {
        let params = json!({ "textDocument": { "uri": URI }, "position": position });
        let asked: Vec<i64> =
            (0..20).map(|_| client.request("textDocument/hover", params.clone())).collect();
        client.note("$/cancelRequest", json!({ "id": asked[19] }));
        assert!(client.answer(asked[0]).is_ok());
        client.answer(asked[19]).is_err_and(|error| error["code"] == -32800)
    });
    assert!(called_off);
    assert_eq!(client.end().0, 0);
}

#[rstest]
fn what_is_not_known_is_refused() {
    let mut client = Client::on(TEXT);
    assert_eq!(client.ask("textDocument/teleport", json!({})).unwrap_err()["code"], -32601);
    assert_eq!(client.ask("textDocument/hover", json!({})).unwrap_err()["code"], -32602);
    let wrong = json!({ "textDocument": { "uri": URI }, "position": "here" });
    assert_eq!(client.ask("textDocument/hover", wrong).unwrap_err()["code"], -32602);
    let command = json!({ "command": "tickpond.fly" });
    assert_eq!(client.ask("workspace/executeCommand", command).unwrap_err()["code"], -32602);
    assert_eq!(client.at("hover", (99, 99), json!({})).unwrap(), Value::Null);
    client.ask("shutdown", Value::Null).unwrap();
    assert_eq!(client.at("hover", (0, 0), json!({})).unwrap_err()["code"], -32600);
}

#[rstest]
fn before_it_knows_the_client_it_answers_nothing() {
    let mut client = Client::bare();
    let refused = client.at("hover", (0, 0), json!({})).unwrap_err();
    assert_eq!(refused["code"], -32002);
    let (code, errors) = client.close();
    assert_eq!(code, 2);
    assert!(errors.contains("started by an editor"), "{errors}");
}

#[rstest]
fn a_client_that_goes_without_a_word_is_told_of() {
    let mut client = Client::on(TEXT);
    client.diagnostics(URI);
    let (code, errors) = client.close();
    assert_eq!(code, 1);
    assert!(errors.contains("without saying `shutdown`"), "{errors}");
}

/// What the server knows would not be what the client has: it says so, and the text is opened again.
#[rstest]
fn a_change_that_cannot_be_read_is_told() {
    let mut client = Client::on(TEXT);
    let first = client.diagnostics(URI)["diagnostics"].clone();
    client.change(7, json!("nonsense"));
    let told = client.diagnostics(URI);
    let words = told["diagnostics"][0]["message"].as_str().unwrap();
    assert!(words.contains("didChange") && words.contains("open it again"), "{words}");
    assert_eq!(client.at("hover", (4, 6), json!({})).unwrap_err()["code"], -32602);
    client.open(URI, TEXT);
    assert_eq!(client.diagnostics(URI)["diagnostics"], first);
}

#[rstest]
fn malformed_messages_are_answered_and_the_server_goes_on() {
    let mut client = Client::on(TEXT);
    client.diagnostics(URI);
    let bad: [(&str, i64); 5] = [
        ("Content-Length: 9\r\n\r\n{nonsense", -32700),
        ("Content-Length: 2\r\n\r\n[]", -32600),
        ("Content-Length: 100000000000000\r\n\r\n", -32700),
        ("nonsense\r\n\r\n", -32700),
        ("Content-Length: none\r\n\r\n", -32700),
    ];
    for (bytes, code) in bad {
        client.input.as_mut().unwrap().write_all(bytes.as_bytes()).unwrap();
        let answer = client.answer_to_nobody();
        assert_eq!(answer["error"]["code"], code, "{bytes:?}");
        assert!(client.at("hover", (4, 6), json!({})).is_ok(), "{bytes:?}");
    }
    assert_eq!(client.end(), (0, String::new()));
}

/// The input stays open: somebody else may hold it.
#[rstest]
fn the_server_ends_with_the_editor() {
    let mut client = Client::bare();
    let mut editor = Command::new("sleep").arg("600").spawn().unwrap();
    let params = json!({ "processId": editor.id(), "rootUri": null, "capabilities": {} });
    client.ask("initialize", params).unwrap();
    assert!(client.child.try_wait().unwrap().is_none());
    editor.kill().unwrap();
    editor.wait().unwrap();
    assert_eq!(client.child.wait().unwrap().code(), Some(1));
    assert!(client.input.is_some());
}

/// The text that comes of edits, which are about the text as it was and do not overlap.
fn edited(text: &str, edits: &Value) -> String {
    let starts: Vec<usize> =
        std::iter::once(0).chain(text.match_indices('\n').map(|(at, _)| at + 1)).collect();
    let byte = |at: &Value| {
        let mut byte = starts[at["line"].as_u64().unwrap() as usize];
        let mut left = at["character"].as_u64().unwrap() as usize;
        while left > 0 {
            let c = text[byte..].chars().next().unwrap();
            (left, byte) = (left - c.len_utf16(), byte + c.len_utf8());
        }
        byte
    };
    let mut edits: Vec<(usize, usize, &str)> = edits
        .as_array()
        .unwrap()
        .iter()
        .map(|e| {
            let range = &e["range"];
            (byte(&range["start"]), byte(&range["end"]), e["newText"].as_str().unwrap())
        })
        .collect();
    edits.sort();
    assert!(edits.windows(2).all(|two| two[0].1 <= two[1].0), "edits overlap: {edits:?}");
    let mut out = text.to_string();
    for (start, end, new) in edits.into_iter().rev() {
        out.replace_range(start..end, new);
    }
    out
}

/// The edits come to what `tickpond fmt` writes, and those of a stretch leave all other lines.
#[rstest]
#[case::blank_lines(
    "pond \"t\" { arena 9 x 9 }\n\n\n\nkind a {look \"a\"}\n\n\nplace a at (1,1)\n"
)]
#[case::crlf(
    "pond \"t\" {arena 9 x 9 }\r\n\r\n\r\n  kind a {look \"\u{1F438}\"}\r\nplace a at (1,1)"
)]
#[case::mark("\u{feff}pond \"t\" {arena 9 x 9 }\n\tkind a {look \"a\"}\n\n\n")]
fn what_the_server_sets_out_is_what_the_command_sets_out(#[case] text: &str) {
    let mut client = Client::on(text);
    let set = tickpond_lang::format::format(text).unwrap();
    let edits = client.at("formatting", (0, 0), json!({ "options": {} })).unwrap();
    assert_eq!(edited(text, &edits), set);
    let lines: Vec<&str> = text.split_inclusive('\n').collect();
    for first in 0..lines.len() {
        for last in first + 1..=lines.len() {
            let range = json!({
                "start": { "line": first, "character": 0 },
                "end": { "line": last, "character": 0 },
            });
            let more = json!({ "range": range, "options": {} });
            let edits = client.at("rangeFormatting", (0, 0), more).unwrap();
            let part = edited(text, &edits);
            let (before, behind) = (lines[..first].concat(), lines[last..].concat());
            assert!(part.starts_with(&before) && part.ends_with(&behind), "{part:?}");
            let said = |text: &str| text.split_whitespace().collect::<String>();
            assert_eq!(said(&part), said(text), "{first}..{last}");
        }
    }
}
