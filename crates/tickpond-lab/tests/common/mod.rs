//! The demo and small ponds, run.
#![allow(dead_code, reason = "each test file uses its part")]

use std::sync::Arc;

use tickpond_lab::{Run, RunOptions};
use tickpond_lang::program::Program;

pub const DUSK: &str = include_str!("../../../../ponds/dusk.pond");

pub fn program(text: &str) -> Arc<Program> {
    let compiled = tickpond_lang::compile(text);
    compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics))
}

pub fn run(text: &str) -> Run {
    Run::new(program(text), RunOptions::default()).unwrap()
}
