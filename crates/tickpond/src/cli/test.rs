//! `tickpond test PATH...`

use std::path::{Path, PathBuf};
use std::sync::Arc;

use clap::{Args, ValueEnum};
use rayon::prelude::*;
use tickpond_lab::report::ExpectationReport;
use tickpond_lab::{Report, RunOptions, TapeChoice};
use tickpond_lang::program::Program;

use super::check::ponds_in;
use super::junit::Junit;
use super::options::{PlayArgs, guard_words, play};
use super::outputs::Output;
use super::run::expectation_line;
use super::say::{complain, print};
use crate::failure::{Code, Failure};

#[derive(Args)]
pub struct TestArgs {
    /// Ponds, or folders that are searched for ponds
    #[arg(required = true)]
    paths: Vec<PathBuf>,
    #[command(flatten)]
    play: PlayArgs,
    /// Seeds to play, both included
    #[arg(long, value_name = "A..B", default_value = "1..1", value_parser = seeds)]
    seeds: (u64, u64),
    /// Print every expectation of every run, not only what failed
    #[arg(long)]
    verbose: bool,
    /// What an expectation comes to whose occasion never came
    #[arg(long, value_name = "WHAT", default_value = "tell")]
    untried: Untried,
    /// Write a report as JUnit XML
    #[arg(long, value_name = "OUT.xml")]
    junit: Option<PathBuf>,
    /// Print one JSON object instead of text
    #[arg(long)]
    json: bool,
}

#[derive(Clone, Copy, PartialEq, ValueEnum)]
enum Untried {
    /// It is counted and told
    Tell,
    /// It is a failure
    Fail,
}

fn seeds(text: &str) -> Result<(u64, u64), String> {
    let parse = |text: &str| text.trim().parse::<u64>().ok();
    let range = match text.split_once("..") {
        Some((a, b)) => parse(a).zip(parse(b)),
        None => parse(text).map(|seed| (seed, seed)),
    };
    match range {
        Some((a, b)) if a <= b && b - a < 100_000 => Ok((a, b)),
        _ => Err("write the first and the last seed, such as `1..20`".into()),
    }
}

/// One run to be played.
struct Job {
    pond: usize,
    seed: u64,
    tape: Option<String>,
    options: RunOptions,
}

/// A pond that is tested.
struct Pond {
    file: PathBuf,
    program: Arc<Program>,
    ticks: u64,
}

/// What came of a run.
struct Outcome {
    report: Report,
    /// What a guard had to say.
    stopped: Option<String>,
}

/// How many expectations held, failed and were untried.
#[derive(Clone, Copy, Default)]
struct Tally {
    passed: usize,
    failed: usize,
    untried: usize,
}

/// Judges every pond's expectations over the seeds and tapes, on all cores. Goes on after a failure; the worst decides
/// the exit code.
pub fn test(args: &TestArgs) -> Result<(), Failure> {
    let found = ponds_in(&args.paths);
    let files = found.ponds;
    if files.is_empty() {
        return Err(Failure::wrong(
            "there is no pond to test\nhelp: name a pond, or a folder with ponds",
        ));
    }
    let mut others: Vec<&Path> = files.iter().map(PathBuf::as_path).collect();
    others.extend(args.play.tape.as_deref().map(Path::new));
    let junit_file = args.junit.as_ref().map(|path| Output::open(path, &others)).transpose()?;
    let mut junit = Junit::new();
    let mut worst: Option<Code> = found.unread;
    let mut tally = Tally::default();
    let mut ponds: Vec<Pond> = Vec::new();
    for file in files {
        match load(args, &file) {
            Ok((program, ticks)) => ponds.push(Pond { file, program, ticks }),
            Err(failure) => {
                if !failure.words.is_empty() {
                    complain(&format!("error: {}", failure.words));
                }
                let words = if failure.words.is_empty() { "it has errors" } else { &failure.words };
                junit.add_broken(&file, words);
                tally.failed += 1;
                worst = worst.max_by_code(Some(failure.code));
            }
        }
    }
    let mut jobs = Vec::new();
    for (at, pond) in ponds.iter().enumerate() {
        jobs.extend(jobs_of(args, at, pond)?);
    }
    let played: Vec<Result<Outcome, Failure>> =
        jobs.par_iter().map(|job| play_one(&ponds[job.pond], job)).collect();
    let mut reports = Vec::new();
    for (at, pond) in ponds.iter().enumerate() {
        reports.clear();
        for (job, outcome) in jobs.iter().zip(&played).filter(|(job, _)| job.pond == at) {
            match outcome {
                Ok(outcome) => reports.push((job, outcome)),
                Err(failure) => {
                    return Err(Failure { code: failure.code, words: failure.words.clone() });
                }
            }
        }
        let (of_pond, code) = tell(args, pond, &reports, &mut junit)?;
        tally.passed += of_pond.passed;
        tally.failed += of_pond.failed;
        tally.untried += of_pond.untried;
        worst = worst.max_by_code(code);
    }
    if let Some(output) = junit_file {
        output.write(junit.text()?.as_bytes())?;
    }
    let Tally { passed, failed, untried } = tally;
    if args.json {
        let runs: Vec<serde_json::Value> = jobs
            .iter()
            .zip(&played)
            .filter_map(|(job, outcome)| json(&ponds, job, outcome))
            .collect();
        let object = serde_json::json!({
            "runs": runs, "passed": passed, "failed": failed, "untried": untried
        });
        print(&format!("{object:#}\n"))?;
    } else {
        let untried = if untried > 0 { format!(", {untried} untried") } else { String::new() };
        print(&format!("{passed} passed, {failed} failed{untried}\n"))?;
    }
    worst.map_or(Ok(()), |code| Err(Failure::said(code)))
}

fn load(args: &TestArgs, file: &Path) -> Result<(Arc<Program>, u64), Failure> {
    let program = args.play.load(file)?;
    let ticks = args.play.length(&program)?;
    args.play.options(1).tape.of(&program).map_err(Failure::wrong)?;
    args.play.options(1).knob_values(&program).map_err(Failure::wrong)?;
    Ok((program, ticks))
}

trait Worse {
    fn max_by_code(self, other: Option<Code>) -> Option<Code>;
}

impl Worse for Option<Code> {
    fn max_by_code(self, other: Option<Code>) -> Option<Code> {
        [self, other].into_iter().flatten().max_by_key(|code| *code as u8)
    }
}

/// The runs of a pond: for each seed as it is, and once for each other tape that an expectation is about.
fn jobs_of(args: &TestArgs, pond: usize, of: &Pond) -> Result<Vec<Job>, Failure> {
    let program = &of.program;
    let first = args.play.options(1).tape.of(program).map_err(Failure::wrong)?;
    let first = first.map(|tape| tape.name.clone());
    let mut tapes = vec![first.clone()];
    if args.play.tape.is_none() && !args.play.no_tape {
        let mut named: Vec<String> =
            program.expects.iter().filter_map(|e| e.tape.clone()).collect();
        named.sort();
        named.dedup();
        named.retain(|tape| Some(tape) != first.as_ref());
        tapes.extend(named.into_iter().map(Some));
    }
    let runs = (args.seeds.0..=args.seeds.1).flat_map(|seed| {
        tapes.iter().enumerate().map(move |(at, tape)| {
            let options = args.play.options(seed);
            let options = match tape {
                Some(tape) if at > 0 => {
                    RunOptions { tape: TapeChoice::Named(tape.clone()), ..options }
                }
                _ => options,
            };
            Job { pond, seed, tape: tape.clone(), options }
        })
    });
    Ok(runs.collect())
}

fn play_one(pond: &Pond, job: &Job) -> Result<Outcome, Failure> {
    let player = play(&pond.program, &job.options, pond.ticks, &mut [], false)?;
    Ok(Outcome { report: Report::of(&player), stopped: guard_words(&player, &pond.file) })
}

/// Tells what came of the runs of a pond: one line for each expectation over all of them, failures in full.
fn tell(
    args: &TestArgs,
    pond: &Pond,
    runs: &[(&Job, &Outcome)],
    junit: &mut Junit,
) -> Result<(Tally, Option<Code>), Failure> {
    let mut tally = Tally::default();
    let mut code = None;
    let mut out = String::new();
    let file = pond.file.display();
    out.push_str(&format!(
        "{file} ({} run{} of {} ticks)\n",
        runs.len(),
        if runs.len() == 1 { "" } else { "s" },
        pond.ticks
    ));
    for (job, outcome) in runs {
        let suite = format!("{file} {}", name_of(job));
        junit.add(&suite, &outcome.report, outcome.stopped.as_deref());
        if let Some(words) = &outcome.stopped {
            complain(&format!("{} stopped\n{words}", name_of(job)));
            code = code.max_by_code(Some(Code::Guard));
            tally.failed += 1;
        }
        if args.verbose {
            out.push_str(&format!("  {}\n", name_of(job)));
        }
        for expectation in &outcome.report.expectations {
            match expectation.held {
                Some(true) => tally.passed += 1,
                Some(false) => tally.failed += 1,
                None => tally.untried += 1,
            }
            if args.verbose {
                out.push_str(&format!(
                    "    {}",
                    expectation_line(expectation, outcome.report.rate)
                ));
            }
        }
    }
    if pond.program.expects.is_empty() {
        out.push_str("  this pond expects nothing: add `expect \"words\": always …`\n");
    }
    if !args.verbose {
        for expect in &pond.program.expects {
            let line = pond.program.lines.line(expect.span.start);
            let judged = runs.iter().flat_map(|(job, outcome)| {
                let judged = outcome.report.expectations.iter().filter(move |e| e.line == line);
                judged.filter(|e| e.text == expect.words).map(move |e| (*job, &outcome.report, e))
            });
            out.push_str(&over_all(&expect.words, line, &judged.collect::<Vec<_>>()));
        }
    }
    if tally.failed > 0 && code.is_none() {
        code = Some(Code::Expectation);
    }
    if args.untried == Untried::Fail && tally.untried > 0 {
        code = code.max_by_code(Some(Code::Expectation));
    }
    if !args.json {
        print(&out)?;
    }
    Ok((tally, code))
}

/// One expectation over all runs it was judged in: a line, and one for each run it failed in.
fn over_all(words: &str, line: u32, judged: &[(&Job, &Report, &ExpectationReport)]) -> String {
    let count = |held| judged.iter().filter(|(_, _, e)| e.held == held).count();
    let (held, failed, untried) = (count(Some(true)), count(Some(false)), count(None));
    let word = match (failed, held) {
        (0, 0) => "untried",
        (0, _) => "held   ",
        _ => "FAILED ",
    };
    let mut parts = Vec::new();
    if judged.len() > 1 || judged.is_empty() {
        let counts = [(held, "held"), (failed, "failed"), (untried, "untried")];
        let counts = counts.into_iter().filter(|(count, _)| *count > 0);
        parts.extend(counts.map(|(count, word)| format!("{count} {word}")));
    }
    let counts = if parts.is_empty() { String::new() } else { format!(" ({})", parts.join(", ")) };
    let mut out = format!("  {word} {words}, line {line}{counts}\n");
    for (job, report, e) in judged.iter().filter(|(_, _, e)| e.held == Some(false)) {
        let place =
            e.tick.map(|tick| format!(" in tick {tick} ({:.2} s)", tick as f64 / report.rate));
        let saw = e.saw.as_ref().map(|saw| format!(": {saw}")).unwrap_or_default();
        out.push_str(&format!("          {}{}{saw}\n", name_of(job), place.unwrap_or_default()));
    }
    out
}

/// A run by its seed and its tape.
fn name_of(job: &Job) -> String {
    match &job.tape {
        Some(tape) => format!("seed {}, tape \"{tape}\"", job.seed),
        None => format!("seed {}", job.seed),
    }
}

fn json(
    ponds: &[Pond],
    job: &Job,
    outcome: &Result<Outcome, Failure>,
) -> Option<serde_json::Value> {
    let outcome = outcome.as_ref().ok()?;
    let report = &outcome.report;
    Some(serde_json::json!({
        "file": ponds[job.pond].file.display().to_string(),
        "seed": job.seed,
        "tape": job.tape,
        "ticks": report.ticks,
        "stopped": report.stopped,
        "expectations": report.expectations,
    }))
}
