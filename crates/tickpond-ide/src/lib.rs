//! What an editor asks of a pond's text: what could stand at a place, what a word means, where a name is defined and
//! used, what can be folded, turned, muted and renamed. No screen and no protocol: the workbench shows it, and other
//! editors can.
//!
//! [`complete`] asks the parser what it looks for; [`names`] knows definitions and uses; [`help`] tells of words from the
//! language reference; [`tunables`] are the numbers that can be turned; [`edits`] makes changes of a text; [`folds`]
//! knows its items.

pub mod complete;
pub mod document;
pub mod edits;
pub mod folds;
pub mod help;
pub mod names;
pub mod tunables;
mod words;
