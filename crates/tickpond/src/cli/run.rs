//! `tickpond run FILE`

use std::path::{Path, PathBuf};

use clap::Args;
use tickpond_lab::files::{EventFile, SeriesFile};
use tickpond_lab::odd::Odd;
use tickpond_lab::{Played, Report, RunOptions, Sink};
use tickpond_lang::program::Program;

use super::options::{PlayArgs, guard_words, play};
use super::outputs::Output;
use super::say::{complain, print};
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

/// Plays a pond and sums it up. Series and events are written as it plays.
pub fn run(args: &RunArgs) -> Result<(), Failure> {
    let program = args.play.load(&args.file)?;
    let ticks = args.play.length(&program)?;
    let options = RunOptions { events: args.events.is_some(), ..args.play.options(args.seed) };
    let open = |path: &Option<PathBuf>, other: Option<&Path>| {
        let reads = args.play.reads(&args.file);
        let others: Vec<&Path> = reads.into_iter().chain(other).collect();
        path.as_ref().map(|path| Output::open(path, &others)).transpose()
    };
    let series = open(&args.series, None)?;
    let events = open(&args.events, args.series.as_deref())?;
    let mut series_to = series.as_ref().map(Output::writer).transpose()?.map(SeriesFile::new);
    let mut events_to = events.as_ref().map(Output::writer).transpose()?.map(EventFile::new);
    let mut sinks: Vec<&mut dyn Sink> = Vec::new();
    sinks.extend(series_to.as_mut().map(|sink| sink as &mut dyn Sink));
    sinks.extend(events_to.as_mut().map(|sink| sink as &mut dyn Sink));
    let mut odd = Odd::default();
    sinks.push(&mut odd);
    let player = play(&program, &options, ticks, &mut sinks, true)?;
    if let (Some(output), Some(sink)) = (series, series_to) {
        sink.finish().map_err(|e| output.failed(&e))?;
        output.keep()?;
    }
    if let (Some(output), Some(sink)) = (events, events_to) {
        sink.finish().map_err(|e| output.failed(&e))?;
        output.keep()?;
    }
    let report = Report::of(&player);
    if args.json {
        let object = serde_json::to_string_pretty(&report).unwrap_or_default();
        print(&format!("{object}\n"))?;
    } else {
        print(&table(&program, &report))?;
        print(&odd.table(&program))?;
    }
    verdict(&player, &report, &args.file)
}

/// A guard weighs more than a failed expectation: the run is not what it was meant to be.
pub fn verdict(run: &impl Played, report: &Report, file: &Path) -> Result<(), Failure> {
    if let Some(words) = guard_words(run, file) {
        complain(&words);
        return Err(Failure::said(Code::Guard));
    }
    if report.any_failed() {
        return Err(Failure::said(Code::Expectation));
    }
    Ok(())
}

fn table(program: &Program, report: &Report) -> String {
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
    for (name, not) in &report.not_finite {
        let seconds = not.tick as f64 / report.rate;
        out.push_str(&format!(
            "watch {name} was no finite number in {} tick{}, first in tick {} ({seconds:.2} s)\n",
            not.ticks,
            if not.ticks == 1 { "" } else { "s" },
            not.tick
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
    let saw = e.saw.as_ref().map(|saw| format!(": {saw}")).unwrap_or_default();
    format!("{word} {}{place}, line {}{saw}\n", e.text, e.line)
}
