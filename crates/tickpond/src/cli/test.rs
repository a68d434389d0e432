//! `tickpond test PATH...`

use std::path::{Path, PathBuf};

use clap::Args;
use tickpond_lab::{Report, RunOptions, TapeChoice};

use super::check::ponds_in;
use super::junit::Junit;
use super::options::{PlayArgs, guard_words, play};
use super::run::expectation_line;
use super::{complain, print};
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
    /// Write a report as JUnit XML
    #[arg(long, value_name = "OUT.xml")]
    junit: Option<PathBuf>,
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

/// What came of one pond with one seed.
enum Tested {
    Passed(usize),
    Failed(usize, usize),
    Stopped,
}

/// Judges every pond's expectations over the seeds. Goes on after a failure; the worst decides the
/// exit code.
pub fn test(args: &TestArgs) -> Result<(), Failure> {
    let files = ponds_in(&args.paths)?;
    let (mut passed, mut failed) = (0, 0);
    let mut worst: Option<Code> = None;
    let mut junit = Junit::new();
    for file in &files {
        for seed in args.seeds.0..=args.seeds.1 {
            let code = match test_one(file, seed, &args.play, &mut junit) {
                Ok(Tested::Passed(count)) => {
                    passed += count;
                    None
                }
                Ok(Tested::Failed(held, broken)) => {
                    passed += held;
                    failed += broken;
                    Some(Code::Expectation)
                }
                Ok(Tested::Stopped) => {
                    failed += 1;
                    Some(Code::Guard)
                }
                Err(failure) => {
                    if !failure.words.is_empty() {
                        complain(&format!("error: {}", failure.words));
                    }
                    let words =
                        if failure.words.is_empty() { "it has errors" } else { &failure.words };
                    junit.add_broken(file, words);
                    failed += 1;
                    Some(failure.code)
                }
            };
            let wrong = matches!(code, Some(Code::Wrong | Code::Files));
            worst = worst.max_by_code(code);
            if wrong {
                break;
            }
        }
    }
    if let Some(path) = &args.junit {
        junit.write(path)?;
    }
    print(&format!("{passed} passed, {failed} failed\n"))?;
    worst.map_or(Ok(()), |code| Err(Failure::said(code)))
}

trait Worse {
    fn max_by_code(self, other: Option<Code>) -> Option<Code>;
}

impl Worse for Option<Code> {
    fn max_by_code(self, other: Option<Code>) -> Option<Code> {
        [self, other].into_iter().flatten().max_by_key(|code| *code as u8)
    }
}

/// Plays a pond once as it is, and once for each other tape that an expectation is about.
fn test_one(file: &Path, seed: u64, args: &PlayArgs, junit: &mut Junit) -> Result<Tested, Failure> {
    let program = args.load(file)?;
    let ticks = args.length(program.rate)?;
    let options = args.options(seed);
    let first = options.tape.of(&program).map_err(Failure::wrong)?.map(|t| t.name.clone());
    let mut runs = vec![(first.clone(), options.clone())];
    if args.tape.is_none() && !args.no_tape {
        let mut tapes: Vec<String> =
            program.expects.iter().filter_map(|e| e.tape.clone()).collect();
        tapes.sort();
        tapes.dedup();
        for tape in tapes.into_iter().filter(|t| Some(t) != first.as_ref()) {
            let choice = TapeChoice::Named(tape.clone());
            runs.push((Some(tape), RunOptions { tape: choice, ..options.clone() }));
        }
    }
    let (mut held, mut broken, mut stopped) = (0, 0, false);
    for (at, (tape, options)) in runs.into_iter().enumerate() {
        let run = play(program.clone(), options, ticks)?;
        let mut report = Report::of(&run);
        if at > 0 {
            // Those on no tape were judged in the first run.
            let on_tape = program.expects.iter().filter(|e| e.tape.is_some()).map(|e| &e.words);
            let on_tape: Vec<&String> = on_tape.collect();
            report.expectations.retain(|e| on_tape.contains(&&e.text));
        }
        let on = tape.map(|tape| format!(", tape \"{tape}\"")).unwrap_or_default();
        print(&format!("{} (seed {seed}, {} ticks{on})\n", file.display(), report.ticks))?;
        for expectation in &report.expectations {
            print(&format!("  {}", expectation_line(expectation, report.rate)))?;
        }
        if program.expects.is_empty() {
            print("  this pond expects nothing: add `expect \"words\": always …`\n")?;
        }
        let words = guard_words(&run, file);
        junit.add(file, seed, &report, words.as_deref());
        if let Some(words) = words {
            complain(&words);
            stopped = true;
        }
        let failed = report.expectations.iter().filter(|e| e.held == Some(false)).count();
        broken += failed;
        held += report.expectations.len() - failed;
    }
    Ok(match (stopped, broken) {
        (true, _) => Tested::Stopped,
        (false, 0) => Tested::Passed(held),
        (false, _) => Tested::Failed(held, broken),
    })
}
