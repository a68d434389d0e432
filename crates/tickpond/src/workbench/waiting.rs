//! Keys whose meaning hangs on what the simulation has yet to answer.

use crossterm::event::{KeyEvent, MouseEvent};

use super::keys::Action;

/// What a person did, while it waits.
#[derive(Clone, Debug)]
pub enum Came {
    /// A key, at a time in seconds.
    Key(KeyEvent, f64),
    Paste(String),
    Mouse(MouseEvent),
}

/// What waits for the simulation.
#[derive(Default)]
pub struct Waiting {
    /// The time of what came last, in seconds.
    pub(super) now: f64,
    /// What is done as soon as it has answered.
    pub(super) action: Option<Action>,
    /// What came meanwhile, and since when it waits.
    pub(super) queued: Vec<Came>,
    pub(super) since: f64,
}
