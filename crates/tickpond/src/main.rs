//! The command line of Tick Pond.

use std::process::ExitCode;

fn main() -> ExitCode {
    tickpond::main()
}
