//! All tests of the crate in one program: it is built and linked once.

mod apart;
mod asking;
mod beside;
mod between;
mod branches;
mod by_chance;
mod checks;
mod common;
mod edits;
mod gallery;
mod renamed;
mod run;
mod story;
mod told_in_play;
mod truths;
mod verdicts;
mod why;
