//! Reading and writing on threads of their own, so that what was called off is known before it is done. What waits is bounded.

use std::io::{self, BufReader};
use std::sync::{Arc, Condvar, Mutex, PoisonError};
use std::thread::JoinHandle;

use crossbeam_channel::{Receiver, Sender, bounded, unbounded};
use lsp_server::Message;
use serde_json::Value;

use super::wire::{self, Came};

/// Bytes of messages that may wait to be looked at. A message alone may have more.
const MOST_WAITING: u64 = 2 * wire::LONGEST;
/// What a message weighs besides its bytes: small ones take more than they look.
const OF_EACH: u64 = 256;

/// Answers that may wait for a client that does not read them.
const MOST_UNREAD: usize = 64;

/// Both directions of a client.
pub struct Link {
    inbox: Receiver<(Message, u64)>,
    /// What is to be written; `None` when that was all.
    outbox: Sender<Option<Value>>,
    waiting: Arc<Waiting>,
    writer: JoinHandle<io::Result<()>>,
}

/// How many bytes wait; whoever reads waits until there is room.
#[derive(Default)]
struct Waiting {
    bytes: Mutex<u64>,
    has_room: Condvar,
}

impl Waiting {
    fn come(&self, bytes: u64) {
        let held = self.bytes.lock().unwrap_or_else(PoisonError::into_inner);
        let is_full = |held: &mut u64| *held > 0 && *held + bytes > MOST_WAITING;
        let held = self.has_room.wait_while(held, is_full);
        *held.unwrap_or_else(PoisonError::into_inner) += bytes;
    }

    fn go(&self, bytes: u64) {
        *self.bytes.lock().unwrap_or_else(PoisonError::into_inner) -= bytes;
        self.has_room.notify_one();
    }
}

impl Link {
    /// Over standard input and output.
    pub fn stdio() -> Link {
        let (outbox, to_write) = bounded::<Option<Value>>(MOST_UNREAD);
        let (sender, inbox) = unbounded();
        let waiting = Arc::new(Waiting::default());
        let writer = std::thread::spawn(move || {
            let mut out = io::stdout().lock();
            to_write.iter().map_while(|message| message).try_for_each(|m| wire::write(&mut out, &m))
        });
        let (answers, counted) = (outbox.clone(), waiting.clone());
        // Ends with the input, with `exit`, or when nobody listens any more. Nobody waits for it: its input may not end.
        std::thread::spawn(move || {
            let mut input = BufReader::new(io::stdin());
            while let Ok(Some(came)) = wire::read(&mut input) {
                match came {
                    Came::Broken(answer) => drop(answers.send(Some(answer))),
                    Came::Message(message, length) => {
                        let bytes = length + OF_EACH;
                        let is_exit =
                            matches!(&message, Message::Notification(n) if n.method == "exit");
                        counted.come(bytes);
                        if sender.send((message, bytes)).is_err() || is_exit {
                            return;
                        }
                    }
                }
            }
        });
        Link { inbox, outbox, waiting, writer }
    }

    /// The next message and its weight; none when there will be no more.
    pub fn next(&self) -> Option<(Message, u64)> {
        self.inbox.recv().ok()
    }

    /// Those that have come.
    pub fn come(&self) -> impl Iterator<Item = (Message, u64)> {
        self.inbox.try_iter()
    }

    /// Whether nothing has come.
    pub fn is_empty(&self) -> bool {
        self.inbox.is_empty()
    }

    /// A message of this weight waits no more.
    pub fn is_done(&self, bytes: u64) {
        self.waiting.go(bytes);
    }

    /// Sends a message.
    pub fn send(&self, message: impl Into<Message>) {
        let mut value = serde_json::to_value(message.into()).unwrap_or_default();
        value["jsonrpc"] = "2.0".into();
        // A client that is gone shows when the next message is read.
        let _ = self.outbox.send(Some(value));
    }

    /// Ends when all that was sent has been written.
    ///
    /// # Errors
    /// Output that cannot be written.
    pub fn end(self) -> io::Result<()> {
        let _ = self.outbox.send(None);
        self.writer.join().unwrap_or(Ok(()))
    }
}
