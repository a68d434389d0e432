//! Ponds that once played otherwise than the reference says, each with what must hold.

use std::path::PathBuf;

use rstest::rstest;
use tickpond_lab::{Outcome, Played, Player, RunOptions, TapeChoice};

fn read(path: &PathBuf) -> std::sync::Arc<tickpond_lang::program::Program> {
    let text = std::fs::read_to_string(path).unwrap();
    let compiled = tickpond_lang::compile(&text);
    compiled.program.unwrap_or_else(|| panic!("{}: {:?}", path.display(), compiled.diagnostics))
}

#[rstest]
fn what_is_expected_holds(
    #[files("tests/truths/*.pond")] path: PathBuf,
    #[values(1, 7)] seed: u64,
    #[values(1, 2)] threads: usize,
) {
    let program = read(&path);
    // A verdict that fails is what this one is about; it has a test of its own.
    if path.ends_with("green_though_failed.pond") {
        return;
    }
    let tape = TapeChoice::Played;
    let options = RunOptions { seed, threads, grain: 1, tape, ..RunOptions::default() };
    let mut player = Player::new(program.clone(), &options).unwrap();
    let ticks = (program.rate * 20.0) as u64;
    assert!(player.play_to(ticks, &mut []).unwrap());
    player.close();
    for (expect, verdict) in program.expects.iter().zip(player.verdicts()) {
        let judged = (verdict.outcome(), verdict.failed, &verdict.saw);
        assert_eq!(verdict.outcome(), Outcome::Held, "{}: {judged:?}", expect.words);
    }
}

/// An expectation without a tape is judged in the run of a tape, too.
#[rstest]
#[case(TapeChoice::Nothing, Outcome::Held)]
#[case(TapeChoice::Named("t".into()), Outcome::Failed)]
fn an_expectation_without_a_tape_is_judged_in_every_run(
    #[case] tape: TapeChoice,
    #[case] wanted: Outcome,
) {
    let program = read(&"tests/truths/green_though_failed.pond".into());
    let options = RunOptions { tape, ..RunOptions::default() };
    let mut player = Player::new(program.clone(), &options).unwrap();
    player.play_to(600, &mut []).unwrap();
    player.close();
    let at = program.expects.iter().position(|e| e.words == "lives").unwrap();
    assert_eq!(player.verdicts()[at].outcome(), wanted);
}
