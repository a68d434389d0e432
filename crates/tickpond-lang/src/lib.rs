//! The pond language: from text to a checked program.
//!
//! Text goes through [`lex`] into tokens, through [`parse`] into a lossless tree
//! ([`syntax`]), and through the checker into a [`program`] in which every name is resolved and
//! every unit is a base unit. What is wrong on the way is a [`Diagnostic`]; no stage stops at the
//! first mistake, and no text makes any of them panic. [`understand`] also gives the [`model`]: what each name
//! means, where it is defined and used, and of which type it is. [`units`] is the one table of units, [`words`]
//! of the language's words, and [`lines`] the one place where bytes become lines and columns.
//!
//! # Glossary
//!
//! | word | meaning |
//! |---|---|
//! | pond, kind, spawner, behavior | what a text defines; see `docs/language.md` |
//! | head | what sets a handler off, as it is written: `every 2 s` |
//! | site | a handler or statement, numbered for counting and for telling the line |
//! | finding | a diagnostic about something that is sound and hardly meant; it has a code, a page and often a mend |
//! | mend | an edit that puts right what a diagnostic speaks of |
//! | probe | a question a person types about a run: compiled like an expectation, part of no text |
//!
//! ```
//! let compiled = tickpond_lang::compile("pond \"Still\" { arena 10 x 10 }");
//! assert_eq!(compiled.program.unwrap().title, "Still");
//! ```

mod check;
pub mod diagnostic;
pub mod explain;
pub mod format;
pub mod lex;
pub mod lines;
pub mod model;
mod near;
pub mod parse;
pub mod program;
pub mod syntax;
pub mod texts;
pub mod tree;
pub mod units;
pub mod words;

pub use check::{Compilation, compile, compile_with_tape, understand};
pub use diagnostic::{Code, Diagnostic, Label, Mend, Severity, Span};
