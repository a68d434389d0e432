//! A tick taken apart, held against one worked out by hand.

use rstest::rstest;
use tickpond_lab::apart::{PhaseApart, apart};
use tickpond_lab::{Run, RunOptions};
use tickpond_sim::{Phase, What};

const FROGS: &str = "pond \"Apart\" { arena 100 x 60 }
kind midge { after 2 s { end self } }
kind frog {
    every 1 s { spawn 9 midge at here; say \"croak\" }
}
place frog at (5, 5)
place frog at (9, 9)
";

fn taken_apart(tick: u64) -> Vec<PhaseApart> {
    let program = tickpond_lang::compile(FROGS).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(tick);
    let digest = run.state().digest();
    let phases = apart(&mut run);
    assert_eq!((run.tick(), run.state().digest()), (tick, digest), "the run stays where it is");
    phases
}

#[rstest]
fn handlers_stand_in_their_phase_with_whom_they_ran_for_and_what_came_of_it() {
    // In tick 60 both frogs spawn nine each and croak; the midges are born in the same tick.
    let phases = taken_apart(60);
    let names: Vec<Phase> = phases.iter().map(|phase| phase.phase).collect();
    assert_eq!(names, [Phase::Clocks, Phase::Births]);
    let [clocks, births] = &phases[..] else { unreachable!() };
    let [ran] = &clocks.ran[..] else { panic!("{:?}", clocks.ran) };
    assert_eq!((ran.head.as_str(), ran.who.as_str()), ("frog every 1 s", "frog#1, frog#2"));
    assert_eq!((ran.asks.as_str(), ran.line), ("18 births", Some(4)));
    assert_eq!(clocks.words(), "1 handler, 2 events");
    let said: Vec<&str> = clocks.came.iter().map(|came| came.words.as_str()).collect();
    assert_eq!(said, ["frog#1: croak", "frog#2: croak"]);
    // Of eighteen births six are listed, and twelve are counted.
    assert_eq!(births.words(), "0 handlers, 18 events");
    let more: Vec<usize> = births.came.iter().map(|came| came.more).collect();
    assert_eq!(more, [0, 0, 0, 0, 0, 12]);
    assert!(births.came.iter().all(|came| came.what == What::Born && came.line == Some(4)));
    assert_eq!(births.came[0].words, "midge#1 by frog#1");
}

#[rstest]
fn of_many_a_handler_ran_for_the_first_are_named_and_the_rest_counted() {
    // The midges of tick 60 end 2 s later.
    let phases = taken_apart(180);
    let clocks = &phases[0];
    let heads: Vec<&str> = clocks.ran.iter().map(|ran| ran.head.as_str()).collect();
    assert_eq!(heads, ["midge after 2 s", "frog every 1 s"]);
    let midges = &clocks.ran[0];
    assert!(
        midges.who.starts_with("midge#1, midge#2") && midges.who.ends_with(" more"),
        "{midges:?}"
    );
    let named = midges.who.matches('#').count();
    assert!(midges.who.ends_with(&format!(" and {} more", 18 - named)), "{midges:?}");
    assert_eq!(midges.asks, "18 ends");
    let ends = phases.iter().find(|phase| phase.phase == Phase::Ends).unwrap();
    assert_eq!(ends.words(), "0 handlers, 18 events");
    assert_eq!(ends.came.last().unwrap().more, 12);
}

#[rstest]
#[case::the_opening_tick(0, 0)]
#[case::nothing_happens(30, 0)]
fn where_nothing_ran_and_nothing_happened_there_is_no_phase(
    #[case] tick: u64,
    #[case] phases: usize,
) {
    let found = taken_apart(tick);
    let handlers: usize = found.iter().map(|phase| phase.ran.len()).sum();
    assert_eq!(handlers, phases, "{found:?}");
}
