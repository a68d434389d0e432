//! Questions that come up by themselves while a person does something else: what another program did to the file, a text that
//! a window left behind. They take nothing from who goes on: keys belong to the text and the bands until they have rested for a
//! moment, a choice holds only behind Enter, and a key that was taken for one comes into its own with the next.

use crossterm::event::{KeyCode, KeyEvent};

use super::recovery::Left;

/// Seconds a question is on the screen, and no other key comes, before a key can be meant for it.
pub const SETTLES: f64 = 0.5;

/// What is asked.
#[derive(Clone, Debug, PartialEq)]
pub enum Asks {
    /// A text was left behind by a program that ended: take it up or not.
    Recover(Left),
    /// The file has changed, to this text, and the text here, too.
    Disk(String),
}

/// A question that stands at the bottom of the screen while all else goes on.
#[derive(Clone, Debug, PartialEq)]
pub struct Offer {
    pub asks: Asks,
    /// Since when it is shown and no key came that is not for it, in seconds.
    pub since: f64,
    /// Keys that choose, the last of them what is chosen.
    pub held: Vec<KeyEvent>,
}

impl Offer {
    pub fn new(asks: Asks, now: f64) -> Offer {
        Offer { asks, since: now, held: Vec::new() }
    }

    /// Whether a key stands for a choice.
    pub fn chooses(&self, code: KeyCode) -> bool {
        match self.asks {
            Asks::Recover(_) => matches!(code, KeyCode::Char('r') | KeyCode::Delete),
            Asks::Disk(_) => matches!(code, KeyCode::Char('d' | 't' | 'k')),
        }
    }

    /// What is chosen and not yet done.
    pub fn chosen(&self) -> Option<KeyCode> {
        self.held.last().map(|key| key.code)
    }

    /// What is asked, and the keys for it.
    pub fn words(&self) -> &'static str {
        let chosen = self.chosen().filter(|code| *code != KeyCode::Char('d'));
        match (&self.asks, chosen) {
            (Asks::Recover(_), None) => {
                "Typed and not saved at the end:  r take it up   Del set it aside   Esc later"
            }
            (Asks::Recover(_), Some(KeyCode::Delete)) => {
                "Set the text aside, where it is offered no more:  Enter does it   Esc does not"
            }
            (Asks::Recover(_), Some(_)) => {
                "Take up what was typed; Ctrl+Z goes back:  Enter does it   Esc does not"
            }
            (Asks::Disk(_), None) => {
                "Changed here and by another program:  d what differs  k keep mine  t take theirs"
            }
            (Asks::Disk(_), Some(KeyCode::Char('k'))) => {
                "Keep mine; saving puts it in place of theirs:  Enter does it   Esc does not"
            }
            (Asks::Disk(_), Some(_)) => {
                "Take theirs; Ctrl+Z brings mine back:  Enter does it   Esc does not"
            }
        }
    }
}
