//! Every pond of the gallery, and the demo: no findings, formatted, its expectations held, and the
//! promises of the tick kept.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use rstest::rstest;
use tickpond_lab::{Outcome, Report, Run, RunOptions, TapeChoice};
use tickpond_lang::program::Program;
use tickpond_sim::{Event, What};

fn program(path: &Path) -> Arc<Program> {
    let text = std::fs::read_to_string(path).unwrap();
    tickpond_lang::compile(&text).program.unwrap()
}

fn played(program: &Arc<Program>, options: RunOptions, seconds: f64) -> Run {
    let mut run = Run::new(program.clone(), options).unwrap();
    run.play_to((seconds * program.rate) as u64);
    run.close();
    run
}

/// The tapes a pond is tested with: its own choice, and each other an expectation is about.
fn tapes(program: &Program) -> Vec<TapeChoice> {
    let mut tapes = vec![TapeChoice::Played];
    for tape in program.expects.iter().filter_map(|e| e.tape.clone()) {
        let choice = TapeChoice::Named(tape);
        if !tapes.contains(&choice) {
            tapes.push(choice);
        }
    }
    tapes
}

#[rstest]
fn there_are_no_findings_and_the_text_is_formatted(
    #[files("../../ponds/**/*.pond")] path: PathBuf,
) {
    let text = std::fs::read_to_string(&path).unwrap();
    let compiled = tickpond_lang::compile(&text);
    assert!(compiled.diagnostics.is_empty(), "{:?}", compiled.diagnostics);
    assert_eq!(tickpond_lang::format::format(&text).unwrap(), text, "run `tickpond fmt ponds`");
}

#[rstest]
fn every_expectation_is_tried_and_held(#[files("../../ponds/gallery/*.pond")] path: PathBuf) {
    let program = program(&path);
    assert!(!program.expects.is_empty());
    let mut tried: BTreeMap<String, bool> =
        program.expects.iter().map(|e| (e.words.clone(), false)).collect();
    for tape in tapes(&program) {
        let run =
            played(&program, RunOptions { tape: tape.clone(), ..RunOptions::default() }, 60.0);
        assert_eq!(run.state().stopped, None);
        for (expect, verdict) in program.expects.iter().zip(run.verdicts()) {
            // On a tape of its own choice a pond is judged by what it expects on that tape.
            let counts = tape == TapeChoice::Played || expect.tape.is_some();
            if verdict.is_judged() && counts {
                assert_ne!(verdict.outcome(), Outcome::Failed, "{}", expect.words);
                *tried.get_mut(&expect.words).unwrap() |= verdict.outcome() == Outcome::Held;
            }
        }
    }
    let untried: Vec<_> = tried.iter().filter(|(_, tried)| !**tried).collect();
    assert!(untried.is_empty(), "{untried:?}");
}

fn report(program: &Arc<Program>, options: RunOptions) -> String {
    let run = played(program, options, 8.0);
    serde_json::to_string(&Report::of(&run)).unwrap()
}

#[rstest]
fn the_run_is_the_same_again_with_two_threads_and_with_shuffled_handlers(
    #[files("../../ponds/**/*.pond")] path: PathBuf,
) {
    let program = program(&path);
    let options = || RunOptions { seed: 7, tape: TapeChoice::Played, ..RunOptions::default() };
    let plain = report(&program, options());
    assert_eq!(report(&program, options()), plain, "again");
    let two = report(&program, RunOptions { threads: 2, grain: 2, ..options() });
    assert_eq!(two, plain, "two threads");
    for seed in 1..4 {
        let shuffled = report(&program, RunOptions { shuffle: Some(seed), ..options() });
        assert_eq!(shuffled, plain, "shuffle {seed}");
    }
}

#[rstest]
fn a_run_gone_back_in_goes_on_as_before(#[files("../../ponds/**/*.pond")] path: PathBuf) {
    let program = program(&path);
    let options = RunOptions { tape: TapeChoice::Played, ..RunOptions::default() };
    let mut run = played(&program, options, 8.0);
    let head = run.head();
    let end = run.state().digest();
    for tick in [head / 3, head - 1, 1, head / 2] {
        run.seek(tick);
        run.seek(head);
        assert_eq!(run.state().digest(), end, "by tick {tick}");
    }
}

#[rstest]
fn counts_equal_a_recount_from_the_events(#[files("../../ponds/**/*.pond")] path: PathBuf) {
    let program = program(&path);
    let options = RunOptions { tape: TapeChoice::Played, ..RunOptions::default() };
    let run = played(&program, options, 8.0);
    let events = run.record().events();
    for (id, kind) in program.entity_kinds() {
        let of = |what: What| {
            let of_kind = move |e: &&Event| e.what == what && e.who.kind == id;
            events.iter().filter(of_kind).count() as u64
        };
        let totals = &run.state().totals[id.index()];
        assert_eq!(totals.born, of(What::Born), "{} born", kind.name);
        assert_eq!(totals.ended_in_all(), of(What::Ended), "{} ended", kind.name);
        for cause in tickpond_lang::program::Cause::ALL {
            let by_cause = events
                .iter()
                .filter(|e| e.what == What::Ended && e.who.kind == id && e.cause == Some(cause));
            assert_eq!(totals.ended[cause as usize], by_cause.count() as u64, "{cause:?}");
        }
        let live = run.state().kinds[id.index()].len() as u64;
        assert_eq!(live, totals.born - totals.ended_in_all(), "{} live", kind.name);
        let series = run.record().kinds.iter().find(|s| s.name == kind.name).unwrap();
        if let Some(first_track) = kind.tracks.first() {
            let states = series.states.iter().take(first_track.states.len());
            let in_states: u32 = states.map(|(_, counts)| counts.last()).sum();
            assert_eq!(u64::from(in_states), live, "{} by state", kind.name);
        }
        // The states, told again from the events that changed them.
        recount_states(&run, &program, id);
    }
}

fn recount_states(run: &Run, program: &Program, id: tickpond_lang::program::KindId) {
    let kind = &program.kinds[id.index()];
    let [track] = &kind.tracks[..] else { return };
    let mut states: BTreeMap<u32, String> = BTreeMap::new();
    let name = |at: usize| program.state_names[track.states[at].0.0 as usize].clone();
    for event in run.record().events().iter().filter(|e| e.who.kind == id) {
        match event.what {
            What::Born => {
                states.insert(event.who.number, name(0));
            }
            What::Ended => {
                states.remove(&event.who.number);
            }
            What::Became => {
                states.insert(event.who.number, event.words.as_deref().unwrap().to_string());
            }
            _ => {}
        }
    }
    let series = run.record().kinds.iter().find(|s| s.name == kind.name).unwrap();
    for (at, (_, counts)) in series.states.iter().enumerate() {
        let recounted = states.values().filter(|s| **s == name(at)).count();
        assert_eq!(counts.last() as usize, recounted, "{} {}", kind.name, name(at));
    }
}
