//! What the parser expects at a place: a word nobody writes is put there, and what the parser looks for when it comes to
//! it is noted down.

use std::cell::{Cell, RefCell};

/// Something that could stand at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Expected {
    /// A word of the language.
    Word(String),
    /// A name, in the words of the message that asks for it.
    Name(String),
    /// A value.
    Value,
}

/// Notes what is looked for at one token.
#[derive(Default)]
pub(super) struct Probe {
    /// The significant token that is watched.
    pub(super) at: Option<usize>,
    /// What is looked for there after it was found wrong makes up for the mistake.
    closed: Cell<bool>,
    pub(super) seen: RefCell<Vec<Expected>>,
}

impl Probe {
    pub(super) fn watches(&self, at: usize) -> bool {
        self.at == Some(at) && !self.closed.get()
    }

    /// Something was found wrong at a token.
    pub(super) fn close(&self, at: usize) {
        if self.at == Some(at) {
            self.closed.set(true);
        }
    }

    pub(super) fn note(&self, at: usize, expected: impl FnOnce() -> Expected) {
        if self.watches(at) {
            let (expected, mut seen) = (expected(), self.seen.borrow_mut());
            if !seen.contains(&expected) {
                seen.push(expected);
            }
        }
    }

    /// The words in a message about what could stand there: those in code, else those of its list.
    pub(super) fn note_message(&self, at: usize, what: &str) {
        if !self.watches(at) {
            return;
        }
        let words: Vec<&str> = match (what.contains('`'), what.split_once('(')) {
            (true, _) => what.split('`').skip(1).step_by(2).collect(),
            (false, Some((_, list))) => {
                list.split([',', ')']).flat_map(|w| w.split(" or ")).collect()
            }
            (false, None) => Vec::new(),
        };
        for word in words {
            let word = word.trim();
            // Of several words the first: the next is looked for behind it.
            let first = word.split(' ').next().unwrap_or("");
            let is_word = !first.is_empty() && first.chars().all(|c| c.is_ascii_lowercase());
            let is_prose = !what.contains('`') && first != word && ["a", "an"].contains(&first);
            if is_word && !is_prose {
                self.note(at, || Expected::Word(first.to_string()));
            }
        }
    }
}
