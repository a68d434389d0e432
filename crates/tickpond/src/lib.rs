//! Tick Pond: script how game entities come to be, act and end; play; see which line did it.
//!
//! The library holds all of the program, so that benches can reach it; `main` is its command line.

mod cli;
mod drawing;
mod failure;
pub mod frames;
mod lsp;
mod ponds;
mod reading;
mod same;
mod show;
mod showable;
mod workbench;
mod writing;

pub use cli::main;
