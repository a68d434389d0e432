//! What an edit is compared with, and what is known of the far past.

use crate::common::{DUSK, program, run};
use rstest::rstest;
use tickpond_lab::past::changes;
use tickpond_lab::run::MOST_PASTS;
use tickpond_lab::{Edited, Run, RunOptions, TapeChoice};
use tickpond_sim::Event;

fn drift(speed: u32) -> String {
    DUSK.replace("drift  = 6 u/s", &format!("drift  = {speed} u/s"))
}

/// Plays, firing in a fixed way from the 200th tick on.
fn fire(run: &mut Run, to: u64) {
    while run.tick() < to {
        let tick = run.tick();
        if tick >= 200 && tick.is_multiple_of(40) {
            run.press("fire", tick.is_multiple_of(80));
        }
        run.step();
    }
}

#[rstest]
#[case::in_the_newest_tick(None)]
#[case::in_the_past(Some(150))]
fn the_run_before_is_played_on_as_if_nobody_had_edited(#[case] back: Option<u64>) {
    let mut edited = run(DUSK);
    fire(&mut edited, 180);
    if let Some(tick) = back {
        edited.seek(tick);
    }
    assert_eq!(edited.edit(program(&drift(18))).unwrap(), Edited::Forked);
    fire(&mut edited, 700);
    let mut plain = run(DUSK);
    fire(&mut plain, 700);
    let past = edited.past().unwrap();
    assert_eq!(past.record.kinds, plain.record().kinds);
    assert_eq!(past.parted, back.unwrap_or(180));
    assert!(past.record.events().is_empty(), "only counts are kept");
    assert_ne!(past.record.kinds, edited.record().kinds, "the edit makes a difference");
    assert!(!changes(&past.record, edited.record()).is_empty());
}

#[rstest]
fn it_is_played_on_for_two_minutes_and_no_longer() {
    let mut edited = run(DUSK);
    edited.play_to(60);
    edited.edit(program(&drift(7))).unwrap();
    edited.play_to(60 + 7200 + 100);
    assert_eq!(edited.past().unwrap().record.len, 60 + 7200 + 1);
}

#[rstest]
fn looking_around_in_the_past_plays_nothing_on() {
    let mut edited = run(DUSK);
    edited.play_to(200);
    edited.edit(program(&drift(18))).unwrap();
    edited.play_to(400);
    let known = edited.past().unwrap().clone();
    edited.seek(100);
    edited.seek(400);
    assert_eq!(*edited.past().unwrap(), known);
}

#[rstest]
fn a_run_begun_again_is_compared_beyond_the_end_of_the_one_before() {
    let mut again = run(DUSK);
    again.play_to(120);
    again.restart(Some(5)).unwrap();
    again.play_to(600);
    let mut plain = run(DUSK);
    plain.play_to(600);
    assert_eq!(again.past().unwrap().record.kinds, plain.record().kinds);
}

#[rstest]
fn the_last_runs_are_kept_in_their_order() {
    let mut many = run(DUSK);
    for speed in 0..MOST_PASTS as u32 + 3 {
        many.play_to(many.tick() + 200);
        many.edit(program(&drift(7 + speed % 9))).unwrap();
    }
    let numbers: Vec<u64> = many.pasts().iter().map(|past| past.number).collect();
    assert_eq!(numbers, (4..=MOST_PASTS as u64 + 3).collect::<Vec<u64>>());
}

#[rstest]
fn a_run_made_again_keeps_its_memory_and_its_earlier_runs() {
    let mut moved = run(DUSK);
    moved.set_memory(3 << 20);
    moved.play_to(300);
    let text = DUSK.replace("place frog at (80, 8)", "place frog at (60, 8)");
    assert!(matches!(moved.edit(program(&text)).unwrap(), Edited::Remade(_)));
    moved.play_to(2000);
    assert_eq!(moved.pasts().len(), 1);
    assert!(moved.memory().1 <= 3 << 20, "{:?}", moved.memory());
}

#[rstest]
#[case::deep(700)]
#[case::near_the_start(30)]
fn events_that_were_dropped_are_made_again(#[case] tick: u64) {
    let whole: Vec<Event> = {
        let mut run = run(DUSK);
        fire(&mut run, 4000);
        run.record().events().to_vec()
    };
    let mut short = run(DUSK);
    short.set_most_events(whole.len() / 4);
    fire(&mut short, 4000);
    assert!(short.record().kept_from() > 1000);
    short.seek(tick);
    assert!(short.events().is_empty());
    short.recall();
    assert_eq!(short.tick(), tick);
    let from = tick.saturating_sub(600).max(1);
    let wanted = |until: u64| -> Vec<Event> {
        whole.iter().filter(|e| (from..=until).contains(&e.tick)).cloned().collect()
    };
    assert!(!wanted(tick).is_empty());
    assert_eq!(short.events(), wanted(tick));
    // What follows is added as it is played.
    short.step();
    short.step();
    assert_eq!(short.events(), wanted(tick + 2));
    // And gone back a little it is still known.
    short.seek(tick - 5);
    assert_eq!(short.events(), wanted(tick - 5));
    // Where the record has them they are taken from there.
    short.seek(4000);
    assert_eq!(short.events(), short.record().events());
}

// Tapes.

const TAPED: &str = "tape \"two\" { at 1 s tap fire; from 2 s to 2.5 s hold fire }\n";

fn taped() -> String {
    format!("{DUSK}\n{TAPED}")
}

#[rstest]
fn a_tape_plays_from_the_start_as_if_the_run_had_been_opened_with_it() {
    let mut run = run(&taped());
    run.play_to(300);
    run.press("fire", true);
    run.play_to(400);
    run.play_tape(TapeChoice::Named("two".into())).unwrap();
    assert_eq!((run.tick(), run.tape_played().as_deref()), (0, Some("two")));
    run.play_to(500);
    let options = RunOptions { tape: TapeChoice::Named("two".into()), ..RunOptions::default() };
    let mut opened = Run::new(program(&taped()), options).unwrap();
    opened.play_to(500);
    assert_eq!(run.state().digest(), opened.state().digest());
    assert_eq!(run.past().unwrap().record.len, 501, "the run before is played on beside it");
    run.play_tape(TapeChoice::Nothing).unwrap();
    assert!(run.input().is_empty() && run.tape_played().is_none());
}

#[rstest]
fn a_tape_that_is_not_there_changes_nothing() {
    let mut run = run(&taped());
    run.play_to(100);
    let error = run.play_tape(TapeChoice::Named("three".into())).unwrap_err().to_string();
    assert!(error.contains("three") && error.contains("\"two\""), "{error}");
    assert_eq!((run.tick(), run.past()), (100, None));
}

#[rstest]
fn a_tape_can_be_taken_out_of_the_text_while_it_plays() {
    let mut run = run(&taped());
    run.play_tape(TapeChoice::Named("two".into())).unwrap();
    run.play_to(90);
    let moved = DUSK.replace("place frog at (80, 8)", "place frog at (60, 8)");
    assert!(matches!(run.edit(program(&moved)).unwrap(), Edited::Remade(_)));
    assert_eq!(run.tape_played(), None);
    run.play_to(200);
    let drops = run.record().kinds.iter().find(|s| s.name == "drop").unwrap();
    assert!(drops.born.sum(0..201) >= 2, "what was played from it stays in the input");
}
