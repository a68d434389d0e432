//! The language server: what `tickpond-ide` knows of a text, told to any editor in the Language Server Protocol 3.17
//! over standard input and output.
//!
//! [`server`] reads messages and keeps the open texts; [`open`] is one such text; [`answers`] answers requests about one, [`about`] is what they share;
//! [`positions`] turns bytes into the lines and columns of the encoding that was agreed on; [`abilities`] is what the
//! server says of itself.

mod abilities;
mod about;
mod answers;
mod offers;
mod open;
mod positions;
mod protocol;
mod server;

use lsp_server::{Connection, ErrorCode, Message, Response};
use serde_json::json;

use crate::failure::Failure;
use positions::Encoding;

/// Serves one client until it says goodbye.
///
/// # Errors
/// A client that does not speak the protocol, or goes without a word.
pub fn serve() -> Result<(), Failure> {
    let (connection, threads) = Connection::stdio();
    let result = talk(&connection);
    // The threads end when nobody can send any more.
    drop(connection);
    let ended = threads.join();
    result?;
    ended.map_err(|error| Failure::wrong(format!("the client could not be read: {error}")))
}

/// From the first message to the last.
fn talk(connection: &Connection) -> Result<(), Failure> {
    let broken = |what: &str| {
        Failure::wrong(format!(
            "{what}\nhelp: `tickpond lsp` is started by an editor; the folder `editors` says how"
        ))
    };
    loop {
        match connection.receiver.recv() {
            Ok(Message::Request(request)) if request.method == "initialize" => {
                let encoding = Encoding::agreed(&request.params);
                let client = about::Client::of(&request.params);
                let answer = json!({
                    "capabilities": abilities::abilities(encoding),
                    "serverInfo": { "name": "tickpond", "version": env!("CARGO_PKG_VERSION") },
                });
                let _ = connection.sender.send(Response::new_ok(request.id, answer).into());
                return server::Server::new(connection, encoding, client).run();
            }
            Ok(Message::Request(request)) => {
                let words = "the first request is `initialize`".to_string();
                let code = ErrorCode::ServerNotInitialized as i32;
                let _ = connection.sender.send(Response::new_err(request.id, code, words).into());
            }
            Ok(Message::Notification(note)) if note.method == "exit" => {
                return Err(broken("the client went before it said what it is"));
            }
            Ok(_) => {}
            Err(_) => return Err(broken("no message of the protocol came in")),
        }
    }
}
