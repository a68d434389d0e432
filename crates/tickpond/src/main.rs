//! Tick Pond: script how entities come to be, act and end; play; see which line did it.
//!
//! [`cli`] is the command line, [`workbench`] the full-screen program, [`ponds`] what is shipped.

mod cli;
mod drawing;
mod failure;
mod ponds;
mod show;
mod workbench;

use std::process::ExitCode;

fn main() -> ExitCode {
    cli::main()
}
