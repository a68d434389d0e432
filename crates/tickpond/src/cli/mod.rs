//! The command line: one file per subcommand. Results go to standard output, all else to standard
//! error.

mod check;
mod draw;
mod explain;
mod fmt;
mod interrupt;
mod junit;
mod new;
mod open;
mod options;
mod outputs;
mod run;
mod say;
mod streams;
mod test;

use std::ffi::OsString;
use std::path::Path;
use std::process::ExitCode;

use clap::{CommandFactory, Parser, Subcommand};

use say::{complain, print};

use crate::failure::Code;

/// Script how entities come to be, act and end; play; see which line did it
#[derive(Parser)]
#[command(
    name = "tickpond",
    version,
    max_term_width = 100,
    after_help = "A pond's file alone opens it: `tickpond FILE.pond`. Alone, `tickpond` lists the ponds opened last."
)]
struct Cli {
    #[command(subcommand)]
    command: Option<Command>,
}

#[derive(Subcommand)]
enum Command {
    /// Open the workbench on a pond that comes with the program
    Demo(open::DemoArgs),
    /// Open the workbench on a pond
    Open(open::OpenArgs),
    /// Write a small commented pond to start from
    New(new::NewArgs),
    /// Report errors and findings
    Check(check::CheckArgs),
    /// Print a page on a code, with an example of wrong and of right
    Explain(explain::ExplainArgs),
    /// Format ponds in place
    Fmt(fmt::FmtArgs),
    /// Play a pond without a screen
    Run(run::RunArgs),
    /// Judge every pond's expectations
    Test(test::TestArgs),
    /// Draw a run as SVG or PDF
    Draw(draw::DrawArgs),
    /// Serve an editor: the Language Server Protocol on standard input and output
    Lsp {
        /// What editors pass to say which way they talk; there is no other
        #[arg(long, hide = true)]
        stdio: bool,
    },
    /// Print a completion script for a shell
    Completions {
        /// The shell
        shell: clap_complete::Shell,
    },
}

/// Runs the program.
pub fn main() -> ExitCode {
    let cli = match Cli::try_parse_from(with_command(std::env::args_os().collect())) {
        Ok(cli) => cli,
        Err(error) if error.use_stderr() => {
            // What was typed is told back, made showable as all else.
            complain(error.render().to_string().trim_end());
            return ExitCode::from(Code::Wrong as u8);
        }
        Err(error) => error.exit(),
    };
    let done = match cli.command {
        None => open::start(),
        Some(Command::Demo(args)) => open::demo(&args),
        Some(Command::Open(args)) => open::open(&args),
        Some(Command::New(args)) => new::new(&args),
        Some(Command::Check(args)) => check::check(&args),
        Some(Command::Explain(args)) => explain::explain(&args),
        Some(Command::Fmt(args)) => fmt::fmt(&args),
        Some(Command::Run(args)) => run::run(&args),
        Some(Command::Test(args)) => test::test(&args),
        Some(Command::Draw(args)) => draw::draw(&args),
        Some(Command::Lsp { .. }) => crate::lsp::serve(),
        Some(Command::Completions { shell }) => {
            let mut script = Vec::new();
            clap_complete::generate(shell, &mut Cli::command(), "tickpond", &mut script);
            print(&String::from_utf8_lossy(&script))
        }
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => {
            if !failure.words.is_empty() {
                complain(&format!("error: {}", failure.words));
            }
            ExitCode::from(match failure.code {
                Code::Interrupted => interrupt::code(),
                code => code as u8,
            })
        }
    }
}

/// A pond's file alone is meant to be opened.
fn with_command(mut words: Vec<OsString>) -> Vec<OsString> {
    let is_pond = |word: &OsString| Path::new(word).extension().is_some_and(|end| end == "pond");
    if words.get(1).is_some_and(is_pond) {
        words.insert(1, "open".into());
    }
    words
}
