//! Lists that lie over the screen: commands, ponds, what could stand at the cursor, what a word means.

use std::path::PathBuf;

use tickpond_ide::complete::Candidate;
use tickpond_lang::Span;

/// A list that lies over the screen.
#[derive(Clone, Debug, PartialEq)]
pub enum Menu {
    /// All commands whose words fit what is typed.
    Commands { typed: String, chosen: usize },
    /// Ponds to open.
    Ponds { typed: String, chosen: usize, entries: Vec<Entry>, is_start: bool },
    /// Tapes to play, the last of which is none.
    Tapes { names: Vec<String>, chosen: usize },
    /// Branches to go back to, by number and words, the newest first.
    Branches { rows: Vec<(u64, String)>, chosen: usize },
    /// What could stand at the cursor.
    Words { span: Span, found: Vec<Candidate>, chosen: usize },
    /// Something to read: a title and lines, the first that is shown, and whether it belongs to the question what to do
    /// about a changed file.
    Page { title: String, lines: Vec<String>, top: usize, is_difference: bool },
}

impl Menu {
    /// Something to read.
    pub fn page(title: impl Into<String>, lines: Vec<String>) -> Menu {
        Menu::Page { title: title.into(), lines, top: 0, is_difference: false }
    }
}

/// A pond that can be opened.
#[derive(Clone, Debug, PartialEq)]
pub struct Entry {
    pub name: String,
    /// What it is about; empty for files.
    pub idea: String,
    pub what: Opening,
}

/// What is opened.
#[derive(Clone, Debug, PartialEq)]
pub enum Opening {
    /// A file.
    File(PathBuf),
    /// A pond that comes with the program.
    Shipped(&'static str),
    /// A small pond to start from.
    New,
    /// What is open already.
    Stay,
}
