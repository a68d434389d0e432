//! Messages in their order: changes of the open texts, requests about them, and what is told of itself.

use std::collections::{BTreeMap, VecDeque};
use std::panic::{AssertUnwindSafe, catch_unwind};

use crossbeam_channel::{Receiver, Sender, bounded};
use lsp_server::{Connection, ErrorCode, Message, Notification, Request, RequestId, Response};
use serde::de::DeserializeOwned;
use serde_json::{Value, json};

use super::abilities::EXPLAIN;
use super::about::{Client, Refusal, diagnostics};
use super::answers::{Asked, answer};
use super::open::Open;
use super::positions::Encoding;
use super::protocol::{Changed, Closed, Opened};
use crate::failure::{Code, Failure};

/// Most messages that are read ahead.
const MOST_WAITING: usize = 10_000;

/// A client that has said what it is.
pub struct Server<'a> {
    /// What comes in, read ahead, so that what was called off is known before it is done.
    inbox: Receiver<Message>,
    outbox: &'a Sender<Message>,
    encoding: Encoding,
    client: Client,
    /// By the address of the text.
    open: BTreeMap<String, Open>,
    /// What came in and was not looked at so far.
    waiting: VecDeque<Message>,
}

impl<'a> Server<'a> {
    /// A server without a text.
    pub fn new(connection: &'a Connection, encoding: Encoding, client: Client) -> Server<'a> {
        let (sender, inbox) = bounded(MOST_WAITING);
        let receiver = connection.receiver.clone();
        // Ends with the last message, or when nobody listens any more.
        std::thread::spawn(move || receiver.iter().try_for_each(|message| sender.send(message)));
        let outbox = &connection.sender;
        let (open, waiting) = (BTreeMap::new(), VecDeque::new());
        Server { inbox, outbox, encoding, client, open, waiting }
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
            let Some(message) = self.waiting.pop_front() else {
                // With nothing left to do, tell what is wrong with the texts as they are now.
                self.tell();
                match self.inbox.recv() {
                    Ok(message) => self.waiting.push_back(message),
                    Err(_) if is_over => return Ok(()),
                    Err(_) => return Err(gone()),
                }
                continue;
            };
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
        // A client that is gone shows when the next message is read.
        let _ = self.outbox.send(message.into());
    }

    /// Takes in all that has come, so that what was called off is known before it is done.
    fn take_in(&mut self) {
        self.waiting.extend(self.inbox.try_iter());
    }

    /// Whether a request has been called off since.
    fn is_called_off(&self, id: &RequestId) -> bool {
        self.waiting.iter().any(|message| match message {
            Message::Notification(note) if note.method == "$/cancelRequest" => {
                serde_json::from_value::<RequestId>(note.params["id"].clone()).ok().as_ref()
                    == Some(id)
            }
            _ => false,
        })
    }

    fn notice(&mut self, note: Notification) {
        match note.method.as_str() {
            "textDocument/didOpen" => {
                if let Some(params) = read::<Opened>(note.params) {
                    let text = params.text_document;
                    self.open.insert(text.uri, Open::new(text.version, text.text));
                }
            }
            "textDocument/didChange" => {
                if let Some(params) = read::<Changed>(note.params)
                    && let Some(open) = self.open.get_mut(params.text_document.uri.as_str())
                {
                    let version = params.text_document.version;
                    open.change(version, params.content_changes, self.encoding);
                }
            }
            "textDocument/didClose" => {
                if let Some(params) = read::<Closed>(note.params) {
                    let uri = params.text_document.uri;
                    if self.open.remove(&uri).is_some() {
                        self.publish(json!({ "uri": uri, "diagnostics": [] }));
                    }
                }
            }
            _ => {}
        }
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
            let found = found.unwrap_or_default();
            self.publish(json!({ "uri": uri, "version": version, "diagnostics": found }));
            if !self.inbox.is_empty() {
                return;
            }
        }
    }

    fn serve(&mut self, request: Request) {
        let Request { id, method, params } = request;
        if self.is_called_off(&id) {
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
        let params = json!({ "type": 3, "message": page });
        self.send(Notification { method: "window/showMessage".to_string(), params });
        Ok(json!(page))
    }
}

/// The parameters, if they are what they should be; a notification cannot be refused.
fn read<T: DeserializeOwned>(params: Value) -> Option<T> {
    serde_json::from_value(params).ok()
}
