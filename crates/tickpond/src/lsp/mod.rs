//! The language server: what `tickpond-ide` knows of a text, told to any editor in the Language Server Protocol 3.17
//! over standard input and output.
//!
//! [`wire`] is what messages are as bytes, [`link`] the threads that read and write them, [`parent`] watches the editor;
//! [`server`] takes messages and keeps the open texts; [`open`] is one such text; [`answers`] answers requests about one, [`about`] is what they share;
//! [`positions`] turns bytes into the lines and columns of the encoding that was agreed on; [`abilities`] is what the
//! server says of itself.

mod abilities;
mod about;
mod answers;
mod link;
mod offers;
mod open;
mod parent;
mod positions;
mod protocol;
mod server;
mod wire;

use lsp_server::{ErrorCode, Message, Response};
use serde_json::json;

use crate::failure::Failure;
use link::Link;
use positions::Encoding;

/// Serves one client until it says goodbye.
///
/// # Errors
/// A client that does not speak the protocol, or goes without a word.
pub fn serve() -> Result<(), Failure> {
    let link = Link::stdio();
    let result = talk(&link);
    let ended = link.end();
    result?;
    ended.map_err(|error| Failure::wrong(format!("the client could not be written to: {error}")))
}

/// From the first message to the last.
fn talk(link: &Link) -> Result<(), Failure> {
    let broken = |what: &str| {
        Failure::wrong(format!(
            "{what}\nhelp: `tickpond lsp` is started by an editor; the folder `editors` says how"
        ))
    };
    loop {
        let Some((message, weight)) = link.next() else {
            return Err(broken("no message of the protocol came in"));
        };
        link.is_done(weight);
        match message {
            Message::Request(request) if request.method == "initialize" => {
                let encoding = Encoding::agreed(&request.params);
                let client = about::Client::of(&request.params);
                parent::watch(&request.params);
                let answer = json!({
                    "capabilities": abilities::abilities(encoding),
                    "serverInfo": { "name": "tickpond", "version": env!("CARGO_PKG_VERSION") },
                });
                link.send(Response::new_ok(request.id, answer));
                return server::Server::new(link, encoding, client).run();
            }
            Message::Request(request) => {
                let words = "the first request is `initialize`".to_string();
                let code = ErrorCode::ServerNotInitialized as i32;
                link.send(Response::new_err(request.id, code, words));
            }
            Message::Notification(note) if note.method == "exit" => {
                return Err(broken("the client went before it said what it is"));
            }
            _ => {}
        }
    }
}
