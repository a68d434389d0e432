//! Keys and pointers: pressed, held and released told apart, and what tapes make of them.

use crate::common::{Play, play};
use rstest::rstest;
use tickpond_lang::program::InputId;
use tickpond_sim::{InputChange, What};

const TEXT: &str = "pond \"t\" { arena 100 x 100 }\n\
    input fire = key space; input spray = key s; input aim = pointer\n\
    kind frog {\n\
      on press fire { say \"press {age}\" }\n on release fire { say \"release {age}\" }\n\
      while held fire every 4 ticks { say \"held {age}\" }\n\
      while held spray every 10 ticks { spawn drop at here, toward aim, speed 6 u/s }\n }\n\
    kind drop { after 5 s { end self } }\nplace frog at (50, 50)";

fn frog() -> Play {
    play(TEXT, 1)
}

fn step(play: &mut Play, changes: &[InputChange]) {
    play.engine.step(&mut play.state, changes, &mut play.events);
}

fn key(input: u32, down: bool) -> InputChange {
    InputChange::Key { input: InputId(input), down }
}

/// What was said of an event, and in which ticks.
fn said(play: &Play, word: &str) -> Vec<u64> {
    let said = play.events.iter().filter(|e| e.what == What::Said);
    said.filter(|e| e.words.as_deref().is_some_and(|w| w.starts_with(word)))
        .map(|e| e.tick)
        .collect()
}

#[rstest]
fn one_press_is_one_press_however_long_it_lasts() {
    let mut play = frog();
    step(&mut play, &[key(0, true)]);
    (0..20).for_each(|_| step(&mut play, &[]));
    step(&mut play, &[key(0, false)]);
    (0..5).for_each(|_| step(&mut play, &[]));
    assert_eq!(said(&play, "press"), [1]);
    assert_eq!(said(&play, "release"), [22]);
    // At once, then every four ticks as long as it is down.
    assert_eq!(said(&play, "held"), [1, 5, 9, 13, 17, 21]);
}

#[rstest]
fn a_period_of_a_held_key_outlasts_releases() {
    let mut play = frog();
    for tick in 1..=12u64 {
        // Tapped on every tick.
        let changes = [key(0, true), key(0, false)];
        step(&mut play, &changes[..if tick.is_multiple_of(2) { 2 } else { 1 }]);
    }
    let held = said(&play, "held");
    assert!(held.windows(2).all(|pair| pair[1] - pair[0] >= 4), "{held:?}");
    assert_eq!(held.first(), Some(&1));
}

#[rstest]
fn a_key_that_is_told_down_twice_is_pressed_once() {
    let mut play = frog();
    step(&mut play, &[key(0, true)]);
    step(&mut play, &[key(0, true)]);
    step(&mut play, &[key(0, true), key(0, true)]);
    assert_eq!(said(&play, "press"), [1]);
}

#[rstest]
fn a_tap_within_a_tick_is_a_press_and_a_release() {
    let mut play = frog();
    step(&mut play, &[key(0, true), key(0, false)]);
    (0..6).for_each(|_| step(&mut play, &[]));
    assert_eq!(said(&play, "press"), [1]);
    assert_eq!(said(&play, "release").len(), 1);
    assert_eq!(said(&play, "held").len(), 1);
    assert_eq!(play.state.input.held, 0);
}

#[rstest]
fn keys_do_not_mix() {
    let mut play = frog();
    step(&mut play, &[key(1, true)]);
    (0..9).for_each(|_| step(&mut play, &[]));
    assert_eq!((said(&play, "press").len(), said(&play, "held").len()), (0, 0));
    assert_eq!(play.count("drop"), 1);
    step(&mut play, &[key(0, true)]);
    assert_eq!(said(&play, "press"), [11]);
    assert_eq!(play.count("drop"), 2);
}

#[rstest]
#[case::right((90.0, 50.0), 0.0)]
#[case::up((50.0, 90.0), 90.0)]
#[case::down_left((10.0, 10.0), 225.0)]
fn the_pointer_is_a_place_to_aim_at(#[case] to: (f64, f64), #[case] heading: f64) {
    let mut play = frog();
    step(&mut play, &[InputChange::Move { input: InputId(2), to }, key(1, true)]);
    assert!((play.columns("drop").heading[0] - heading).abs() < 1e-9);
}

#[rstest]
fn the_pointer_begins_in_the_middle_and_stays_where_it_was_put() {
    let mut play = frog();
    assert_eq!(play.state.input.places[2], (50.0, 50.0));
    step(&mut play, &[InputChange::Move { input: InputId(2), to: (3.0, 4.0) }]);
    (0..5).for_each(|_| step(&mut play, &[]));
    assert_eq!(play.state.input.places[2], (3.0, 4.0));
}

#[rstest]
#[case::not_an_input(9)]
#[case::a_pointer(2)]
fn keys_of_what_is_no_key_are_left_alone(#[case] input: u32) {
    let (mut odd, mut none) = (frog(), frog());
    step(&mut odd, &[key(input, true)]);
    step(&mut none, &[]);
    assert_eq!(odd.said(), none.said());
}

#[rstest]
fn what_is_placed_by_hand_is_born_in_that_tick_with_the_pond_as_its_maker() {
    let mut play = frog();
    let drop = play.program().kind_named("drop").unwrap();
    step(&mut play, &[InputChange::Place { kind: drop, at: (7.0, 8.0) }]);
    let c = play.columns("drop");
    assert_eq!((c.len(), c.x[0], c.y[0], c.born[0]), (1, 7.0, 8.0, 1));
    let born = play.events.iter().rfind(|e| e.what == What::Born).unwrap();
    assert_eq!((born.other, born.site), (Some(play.state.pond()), None));
}

#[rstest]
#[case::no_number((f64::NAN, 1.0))]
#[case::endless((1.0, f64::INFINITY))]
fn nothing_is_placed_by_hand_where_there_is_no_place(#[case] at: (f64, f64)) {
    let mut play = frog();
    let drop = play.program().kind_named("drop").unwrap();
    step(&mut play, &[InputChange::Place { kind: drop, at }]);
    assert_eq!(play.count("drop"), 0);
}

#[rstest]
fn the_same_keys_give_the_same_run() {
    let changes = |tick: u64| -> Vec<InputChange> {
        let mut changes = Vec::new();
        if tick.is_multiple_of(7) {
            changes.push(key(0, tick.is_multiple_of(2)));
        }
        if tick.is_multiple_of(5) {
            changes.push(key(1, tick.is_multiple_of(3)));
        }
        if tick.is_multiple_of(11) {
            changes.push(InputChange::Move { input: InputId(2), to: (tick as f64, 20.0) });
        }
        changes
    };
    let (mut one, mut other) = (frog(), frog());
    for tick in 1..200 {
        step(&mut one, &changes(tick));
        step(&mut other, &changes(tick));
        assert_eq!(one.state.digest(), other.state.digest(), "{tick}");
    }
    assert!(one.born("drop") > 3);
}

#[rstest]
fn the_pond_hears_keys_once_however_many_frogs_there_are() {
    let text = "pond \"t\" { arena 100 x 100 }\ninput go = key g\non press go { say \"pond\" }\n\
        kind frog { on press go { say \"frog\" } }\nplace frog at (1, 1)\nplace frog at (5, 5)";
    let mut play = play(text, 1);
    step(&mut play, &[key(0, true)]);
    assert_eq!(play.said(), ["pond", "frog", "frog"]);
}
