//! Messages in their order: changes of the open texts, requests about them, and what is told of itself.

use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::panic::{AssertUnwindSafe, catch_unwind};

use lsp_server::{ErrorCode, Message, Notification, Request, RequestId, Response};
use serde::de::DeserializeOwned;
use serde_json::{Value, json};

use super::abilities::EXPLAIN;
use super::about::{Client, Refusal, diagnostics};
use super::answers::{Asked, answer};
use super::link::Link;
use super::open::Open;
use super::positions::Encoding;
use super::protocol::{Changed, Closed, Opened};
use crate::failure::{Code, Failure};

/// A client that has said what it is.
pub struct Server<'a> {
    link: &'a Link,
    encoding: Encoding,
    client: Client,
    /// By the address of the text.
    open: BTreeMap<String, Open>,
    /// What came in and was not looked at so far, with its weight.
    waiting: VecDeque<(Message, u64)>,
    /// Requests that wait and have been called off.
    called_off: BTreeSet<RequestId>,
}

impl<'a> Server<'a> {
    /// A server without a text.
    pub fn new(link: &'a Link, encoding: Encoding, client: Client) -> Server<'a> {
        let (open, waiting) = (BTreeMap::new(), VecDeque::new());
        Server { link, encoding, client, open, waiting, called_off: BTreeSet::new() }
    }

    /// Serves until the client says `exit`.
    ///
    /// # Errors
    /// A client that goes without `shutdown`.
    pub fn run(mut self) -> Result<(), Failure> {
        let mut is_over = false;
        // The protocol wants 1 of a server whose client goes so.
        let gone = || Failure {
            code: Code::Expectation,
            words: "the client went without saying `shutdown`".to_string(),
        };
        loop {
            self.take_in();
            let Some((message, weight)) = self.waiting.pop_front() else {
                self.called_off.clear();
                // With nothing left to do, tell what is wrong with the texts as they are now.
                self.tell();
                match self.link.next() {
                    Some(come) => self.waiting.push_back(come),
                    None if is_over => return Ok(()),
                    None => return Err(gone()),
                }
                continue;
            };
            self.link.is_done(weight);
            match message {
                Message::Notification(note) if note.method == "exit" => {
                    return if is_over { Ok(()) } else { Err(gone()) };
                }
                Message::Notification(note) => self.notice(note),
                Message::Request(request) if request.method == "shutdown" => {
                    is_over = true;
                    self.send(Response::new_ok(request.id, Value::Null));
                }
                Message::Request(request) if is_over => {
                    let words = "the server has been shut down".to_string();
                    let code = ErrorCode::InvalidRequest as i32;
                    self.send(Response::new_err(request.id, code, words));
                }
                Message::Request(request) => self.serve(request),
                Message::Response(_) => {}
            }
        }
    }

    fn send(&self, message: impl Into<Message>) {
        self.link.send(message);
    }

    /// Takes in all that has come, so that what was called off is known before it is done.
    fn take_in(&mut self) {
        for (message, weight) in self.link.come() {
            if let Message::Notification(note) = &message
                && note.method == "$/cancelRequest"
                && let Ok(id) = serde_json::from_value(note.params["id"].clone())
            {
                self.called_off.insert(id);
            }
            self.waiting.push_back((message, weight));
        }
    }

    fn notice(&mut self, note: Notification) {
        let Notification { method, params } = note;
        // Which text it is about can mostly be read all the same.
        let uri = params["textDocument"]["uri"].as_str().map(str::to_string);
        let noticed = match method.as_str() {
            "textDocument/didOpen" => read(params).map(|opened: Opened| {
                let text = opened.text_document;
                self.open.insert(text.uri, Open::new(text.version, text.text));
            }),
            "textDocument/didChange" => read(params).map(|changed: Changed| {
                if let Some(open) = self.open.get_mut(changed.text_document.uri.as_str()) {
                    let version = changed.text_document.version;
                    open.change(version, changed.content_changes, self.encoding);
                }
            }),
            "textDocument/didClose" => read(params).map(|closed: Closed| {
                let uri = closed.text_document.uri;
                if self.open.remove(&uri).is_some() {
                    self.publish(json!({ "uri": uri, "diagnostics": [] }));
                }
            }),
            _ => Ok(()),
        };
        if let Err(error) = noticed {
            let words = format!("`{method}` could not be read: {error}");
            self.show(1, &words);
            // What is known of the text is not what the client has.
            if let Some(uri) = uri.filter(|uri| self.open.remove(uri).is_some()) {
                let words = format!("{words}; close the text and open it again");
                self.publish(json!({ "uri": uri, "diagnostics": [about_the_whole(&words)] }));
            }
        }
    }

    /// Has the client show something to the person: 1 is an error, 3 good to know.
    fn show(&self, sort: u8, words: &str) {
        let params = json!({ "type": sort, "message": words });
        self.send(Notification { method: "window/showMessage".to_string(), params });
    }

    fn publish(&self, params: Value) {
        let method = "textDocument/publishDiagnostics".to_string();
        self.send(Notification { method, params });
    }

    /// Tells what is wrong with each text that changed; stops for what comes in between.
    fn tell(&mut self) {
        let untold: Vec<String> = self
            .open
            .iter()
            .filter(|(_, open)| !open.is_told)
            .map(|(uri, _)| uri.clone())
            .collect();
        for uri in untold {
            let Some(open) = self.open.get_mut(&uri) else { continue };
            open.is_told = true;
            let (version, encoding) = (open.version, self.encoding);
            let found =
                catch_unwind(AssertUnwindSafe(|| diagnostics(open.document(), &uri, encoding)));
            let found = found.unwrap_or_else(|_| {
                vec![about_the_whole("the server failed on this text: this is a fault of it")]
            });
            self.publish(json!({ "uri": uri, "version": version, "diagnostics": found }));
            if !self.link.is_empty() {
                return;
            }
        }
    }

    fn serve(&mut self, request: Request) {
        let Request { id, method, params } = request;
        if self.called_off.remove(&id) {
            let code = ErrorCode::RequestCanceled as i32;
            self.send(Response::new_err(id, code, "called off".to_string()));
            return;
        }
        let done = catch_unwind(AssertUnwindSafe(|| self.answer(&method, params)));
        let done = done.unwrap_or_else(|_| {
            let words = format!("`{method}` failed inside of the server; this is a fault of it");
            Err(Refusal { code: ErrorCode::InternalError, words })
        });
        self.send(match done {
            Ok(value) => Response::new_ok(id, value),
            Err(refusal) => Response::new_err(id, refusal.code as i32, refusal.words),
        });
    }

    fn answer(&mut self, method: &str, params: Value) -> Result<Value, Refusal> {
        let invalid = |words: String| Refusal { code: ErrorCode::InvalidParams, words };
        if method == "workspace/executeCommand" {
            return self.command(&params).map_err(invalid);
        }
        let Some(asked) = Asked::named(method) else {
            let words = format!("`{method}` is not known here");
            return Err(Refusal { code: ErrorCode::MethodNotFound, words });
        };
        let Some(uri) = params["textDocument"]["uri"].as_str().map(str::to_string) else {
            return Err(invalid(format!("`{method}` names no text")));
        };
        let Some(open) = self.open.get_mut(&uri) else {
            return Err(invalid(format!("`{uri}` is not open")));
        };
        answer(asked, open, &uri, params, (self.encoding, self.client))
    }

    /// Shows the page on a code, and gives it as the answer.
    fn command(&self, params: &Value) -> Result<Value, String> {
        let name = params["command"].as_str().unwrap_or_default();
        if name != EXPLAIN {
            return Err(format!("there is no command `{name}`"));
        }
        let code = params["arguments"][0].as_str().unwrap_or_default();
        let known = tickpond_lang::Code::named(code);
        let code = known.ok_or_else(|| format!("there is no code `{code}`"))?;
        let page = tickpond_lang::explain::explain(code);
        self.show(3, page);
        Ok(json!(page))
    }
}

fn read<T: DeserializeOwned>(params: Value) -> Result<T, serde_json::Error> {
    serde_json::from_value(params)
}

/// An error that is about no place of a text.
fn about_the_whole(words: &str) -> Value {
    let start = json!({ "line": 0, "character": 0 });
    let range = json!({ "start": start, "end": start });
    json!({ "range": range, "severity": 1, "source": "tickpond", "message": words })
}
