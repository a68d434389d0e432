//! `tickpond run FILE`

use std::fs::File;
use std::io::{self, BufWriter};
use std::path::{Path, PathBuf};

use clap::Args;
use tickpond_lab::files::{write_events, write_series};
use tickpond_lab::{Report, Run, RunOptions};

use super::options::{PlayArgs, guard_words, play};
use super::{complain, print};
use crate::failure::{Code, Failure};

#[derive(Args)]
pub struct RunArgs {
    /// The pond
    file: PathBuf,
    #[command(flatten)]
    play: PlayArgs,
    /// Seed of all chance
    #[arg(long, value_name = "S", default_value_t = 1)]
    seed: u64,
    /// Print one JSON object instead of a table
    #[arg(long)]
    json: bool,
    /// Write counts and watches of every tick as CSV
    #[arg(long, value_name = "OUT.csv")]
    series: Option<PathBuf>,
    /// Write every event as JSON Lines
    #[arg(long, value_name = "OUT.jsonl")]
    events: Option<PathBuf>,
}

/// Plays a pond and sums it up.
pub fn run(args: &RunArgs) -> Result<(), Failure> {
    let program = args.play.load(&args.file)?;
    let ticks = args.play.length(program.rate)?;
    let options = RunOptions { events: args.events.is_some(), ..args.play.options(args.seed) };
    let run = play(program, options, ticks)?;
    if let Some(path) = &args.series {
        write(path, |to| write_series(&run, to))?;
    }
    if let Some(path) = &args.events {
        write(path, |to| write_events(&run, to))?;
    }
    let report = Report::of(&run);
    if args.json {
        let object = serde_json::to_string_pretty(&report).unwrap_or_default();
        print(&format!("{object}\n"))?;
    } else {
        print(&table(&run, &report))?;
    }
    verdict(&run, &report, &args.file)
}

/// A guard weighs more than a failed expectation: the run is not what it was meant to be.
pub fn verdict(run: &Run, report: &Report, file: &Path) -> Result<(), Failure> {
    if let Some(words) = guard_words(run, file) {
        complain(&words);
        return Err(Failure::said(Code::Guard));
    }
    if report.any_failed() {
        return Err(Failure::said(Code::Expectation));
    }
    Ok(())
}

fn write(path: &Path, to: impl FnOnce(BufWriter<File>) -> io::Result<()>) -> Result<(), Failure> {
    let file = File::create(path).map_err(|e| Failure::writing(path, &e))?;
    to(BufWriter::new(file)).map_err(|e| Failure::writing(path, &e))
}

fn table(run: &Run, report: &Report) -> String {
    let program = run.program();
    let mut out = format!(
        "{}  seed {}  {} ticks ({:.2} s)  digest {}\n\n",
        report.pond,
        report.seed,
        report.ticks,
        report.ticks as f64 / report.rate,
        report.digest
    );
    let names = program.entity_kinds().map(|(_, k)| k.name.chars().count());
    let width = names.max().unwrap_or(0).max(4);
    out.push_str(&format!(
        "{:width$} {:>7} {:>7} {:>7}  ended by\n",
        "kind", "born", "live", "peak"
    ));
    for (_, kind) in program.entity_kinds() {
        let kind_report = &report.kinds[&kind.name];
        let causes: Vec<String> =
            kind_report.ended.iter().map(|(cause, count)| format!("{cause} {count}")).collect();
        out.push_str(&format!(
            "{:width$} {:>7} {:>7} {:>7}  {}\n",
            kind.name,
            kind_report.born,
            kind_report.live,
            kind_report.peak,
            causes.join(", ")
        ));
    }
    if !report.expectations.is_empty() {
        out.push('\n');
    }
    for expectation in &report.expectations {
        out.push_str(&expectation_line(expectation, report.rate));
    }
    out
}

/// One expectation: how it stands, its words, and where it failed.
pub fn expectation_line(e: &tickpond_lab::report::ExpectationReport, rate: f64) -> String {
    let (word, place) = match (e.held, e.tick) {
        (Some(true), _) => ("held   ", String::new()),
        (None, _) => ("untried", String::new()),
        (Some(false), Some(tick)) => {
            ("FAILED ", format!(" in tick {tick} ({:.2} s)", tick as f64 / rate))
        }
        (Some(false), None) => ("FAILED ", String::new()),
    };
    format!("{word} {}{place}, line {}\n", e.text, e.line)
}
