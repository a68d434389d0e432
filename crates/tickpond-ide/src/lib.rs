//! What an editor asks of a pond's text. No screen and no protocol: the workbench shows it, and the language server
//! tells other editors.
//!
//! A [`document`] is a text with what the compiler knows of it; all questions are asked of one.
//!
//! | Question | Module |
//! |---|---|
//! | What could stand here? | [`complete`], by what the parser looks for; [`signature`], what a call takes |
//! | What is this? | [`hover`]; [`help`], from the language reference; [`hints`], what a number comes to |
//! | Where is it defined and used, and how is it renamed? | [`names`] |
//! | What is in the text? | [`symbols`], the outline; [`folds`]; [`coloured`], what each word is |
//! | What is wrong, and what can be done? | [`mends`] |
//! | How is it set out? | [`setting`] |
//! | Which numbers can be turned? | [`tunables`] |
//! | Larger changes | [`edits`]: commenting, muting, brackets, finding |

pub mod coloured;
pub mod complete;
pub mod document;
pub mod edits;
pub mod folds;
pub mod help;
pub mod hints;
pub mod hover;
pub mod mends;
pub mod names;
pub mod setting;
pub mod signature;
pub mod symbols;
pub mod tunables;
mod words;
