//! `tickpond draw FILE --what counts --out F.svg|F.pdf`

use std::path::{Path, PathBuf};

use clap::Args;
use clap::builder::PossibleValue;
use clap::builder::PossibleValuesParser;
use tickpond_draw::{Beside, DRAWINGS, Ticks, Wanted, drawing_named, prepare};
use tickpond_lab::Run;
use tickpond_lang::program::Program;

use super::options::{PlayArgs, guard_words, load, record, seconds};
use super::outputs::Output;
use super::say::complain;
use crate::drawing::{Format, bytes, of_run, without_picture};
use crate::failure::{Code, Failure};

/// Most runs that are drawn beneath.
const MOST_BESIDE: usize = 3;

#[derive(Args)]
pub struct DrawArgs {
    /// The pond
    file: PathBuf,
    /// What to draw
    #[arg(long, value_name = "WHAT", default_value = "counts", value_parser = drawings())]
    what: String,
    /// The file to write; its ending, .svg or .pdf, says in which format
    #[arg(long, value_name = "F.svg|F.pdf")]
    out: PathBuf,
    /// The time that is shown, for drawings of one tick [default: the end of the run]
    #[arg(long, value_name = "TIME", conflicts_with_all = ["from", "to"])]
    at: Option<String>,
    /// The time from which on is drawn [default: 0s; of lifelines 10 s before the end]
    #[arg(long, value_name = "TIME")]
    from: Option<String>,
    /// The time up to which is drawn [default: the end of the run]
    #[arg(long, value_name = "TIME")]
    to: Option<String>,
    /// Draw these kinds alone
    #[arg(long, value_name = "KIND,…", value_delimiter = ',')]
    kinds: Vec<String>,
    /// Draw another run beneath, in grey: another pond, or this one with another value of a knob; up to three
    #[arg(long, value_name = "FILE|NAME=VALUE")]
    beside: Vec<String>,
    #[command(flatten)]
    play: PlayArgs,
    /// Seed of all chance
    #[arg(long, value_name = "S", default_value_t = 1)]
    seed: u64,
}

fn drawings() -> PossibleValuesParser {
    let values = DRAWINGS.iter();
    PossibleValuesParser::new(values.map(|kind| PossibleValue::new(kind.name).help(kind.words)))
}

/// Plays a pond and draws the run. A run a guard has stopped is drawn as far as it went.
pub fn draw(args: &DrawArgs) -> Result<(), Failure> {
    let format = Format::of(&args.out)?;
    heeded(args)?;
    // What is drawn beneath may be a file, or a value of a knob, which is no name of one that is there.
    let mut reads = args.play.reads(&args.file);
    reads.extend(args.beside.iter().map(Path::new));
    let output = Output::open(&args.out, &reads)?;
    let program = args.play.load(&args.file)?;
    known_kinds(&program, &args.kinds)?;
    let ticks = args.play.length(&program)?;
    let tick = |time: &Option<String>| -> Result<Option<u64>, Failure> {
        let Some(time) = time else { return Ok(None) };
        let tick = (seconds(time, program.rate)? * program.rate).round().max(0.0) as u64;
        match tick <= ticks {
            true => Ok(Some(tick)),
            false => Err(Failure::wrong(format!(
                "`{time}` is behind the end of the run, which is {} s long\nhelp: play longer with --for",
                ticks as f64 / program.rate
            ))),
        }
    };
    let (at, from, to) = (tick(&args.at)?, tick(&args.from)?, tick(&args.to)?);
    if from.zip(to).is_some_and(|(from, to)| from >= to) {
        return Err(Failure::wrong(
            "nothing lies between --from and --to\nhelp: --from comes first",
        ));
    }
    let mut run = record(program.clone(), args.play.options(args.seed), ticks)?;
    if args.beside.len() > MOST_BESIDE {
        return Err(Failure::wrong(format!(
            "more than {MOST_BESIDE} runs beneath cannot be told apart\nhelp: leave some of --beside out"
        )));
    }
    let mut others = Vec::new();
    for beside in &args.beside {
        others.push((beside, beside_run(args, beside, ticks)?));
    }
    // A run that a guard stopped is shorter than it was to be.
    run.seek(at.or(to).unwrap_or(ticks).min(run.head()));
    let prepared = prepare(&mut run, &args.what, from);
    let wanted = Wanted {
        prepared,
        from,
        to,
        kinds: args.kinds.clone(),
        beside: others
            .iter()
            .map(|(words, run)| Beside { words: named(words), record: run.record() })
            .collect(),
    };
    let drawing = of_run(&run, &args.what, &wanted)?;
    output.write(&bytes(&drawing, format)?)?;
    complain(&format!("wrote {}", args.out.display()));
    if let Some(words) = without_picture(&drawing, format) {
        complain(&words);
    }
    run.seek(run.head());
    match guard_words(&run, &args.file) {
        Some(words) => {
            complain(&words);
            Err(Failure::said(Code::Guard))
        }
        None => Ok(()),
    }
}

/// Options that a drawing has no use for are refused, not passed over.
fn heeded(args: &DrawArgs) -> Result<(), Failure> {
    let Some(kind) = drawing_named(&args.what) else { return Ok(()) };
    let stretch = args.from.is_some() || args.to.is_some();
    let useless = match kind.ticks {
        Ticks::Stretch if args.at.is_some() => Some(("--at", "--from and --to choose its stretch")),
        Ticks::One if stretch => Some(("--from and --to", "--at chooses its tick")),
        _ if !args.beside.is_empty() && !kind.has_beside => Some(("--beside", "it is of one run")),
        Ticks::Stretch | Ticks::One | Ticks::Both => None,
    };
    match useless {
        Some((option, help)) => Err(Failure::wrong(format!(
            "the drawing `{}` has no use for {option}\nhelp: {help}",
            kind.name
        ))),
        None => Ok(()),
    }
}

/// What is drawn beneath, in a word: a file's name without its folder, or a knob's value.
fn named(beside: &str) -> String {
    let path = Path::new(beside);
    let file = path.file_name().filter(|_| path.exists());
    file.map_or(beside.to_string(), |name| name.to_string_lossy().into_owned())
}

fn known_kinds(program: &Program, kinds: &[String]) -> Result<(), Failure> {
    let unknown = kinds.iter().find(|name| program.kind_named(name).is_none());
    let Some(unknown) = unknown else { return Ok(()) };
    let known: Vec<&str> = program.entity_kinds().map(|(_, kind)| kind.name.as_str()).collect();
    Err(Failure::wrong(format!(
        "there is no kind `{unknown}`\nhelp: there are {}",
        known.join(", ")
    )))
}

/// The run that is drawn beneath: of another pond, or of this one with another value of a knob.
fn beside_run(args: &DrawArgs, beside: &str, ticks: u64) -> Result<Run, Failure> {
    let mut options = args.play.options(args.seed);
    let path = PathBuf::from(beside);
    let program = match beside.split_once('=').filter(|_| !path.exists()) {
        Some((name, value)) => {
            let (name, value) = (name.trim(), value.trim().to_string());
            options.knobs.retain(|(known, _)| known != name);
            options.knobs.push((name.to_string(), value));
            args.play.load(&args.file)?
        }
        None => load(&path)?,
    };
    record(program, options, ticks)
}
