//! `tickpond draw FILE --what counts --out F.svg|F.pdf`

use std::path::PathBuf;

use clap::{Args, ValueEnum};

use super::options::{PlayArgs, guard_words, record};
use super::outputs::Output;
use super::say::complain;
use crate::drawing::{Format, counts};
use crate::failure::{Code, Failure};

#[derive(Args)]
pub struct DrawArgs {
    /// The pond
    file: PathBuf,
    /// What to draw
    #[arg(long, value_name = "WHAT", default_value = "counts")]
    what: What,
    /// The file to write; its ending, .svg or .pdf, says in which format
    #[arg(long, value_name = "F.svg|F.pdf")]
    out: PathBuf,
    #[command(flatten)]
    play: PlayArgs,
    /// Seed of all chance
    #[arg(long, value_name = "S", default_value_t = 1)]
    seed: u64,
}

#[derive(Clone, Copy, ValueEnum)]
enum What {
    /// How many of each kind are alive over time
    Counts,
}

/// Plays a pond and draws the run. A run a guard has stopped is drawn as far as it went.
pub fn draw(args: &DrawArgs) -> Result<(), Failure> {
    let format = Format::of(&args.out)?;
    let output = Output::open(&args.out, &[&args.file])?;
    let program = args.play.load(&args.file)?;
    let ticks = args.play.length(&program)?;
    let run = record(program, args.play.options(args.seed), ticks)?;
    let What::Counts = args.what;
    output.write(&counts(&run, false, format)?)?;
    complain(&format!("wrote {}", args.out.display()));
    match guard_words(&run, &args.file) {
        Some(words) => {
            complain(&words);
            Err(Failure::said(Code::Guard))
        }
        None => Ok(()),
    }
}
