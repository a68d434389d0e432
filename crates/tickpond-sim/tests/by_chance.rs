//! The promises of the tick over ponds of the whole grammar.

use proptest::prelude::*;
use rstest::rstest;
use tickpond_arbitrary::{Oddities, Pond, cases, found_within_limits, ponds_within_limits};
use tickpond_lang::program::InputId;
use tickpond_sim::{Guard, InputChange};

use crate::at_once::patient;
use crate::common::{Play, play};

/// The text, if it compiles.
fn sound(pond: &Pond) -> Option<String> {
    let text = pond.text();
    tickpond_lang::compile(&text).program.is_some().then_some(text)
}

/// Plays with keys held now and then.
fn press_and_play(play: &mut Play, ticks: u64) {
    for _ in 0..ticks {
        let tick = play.state.tick;
        let key = |down| InputChange::Key { input: InputId((tick / 20 % 3) as u32), down };
        let change = match tick % 20 {
            5 => vec![key(true)],
            14 => vec![key(false)],
            _ => vec![],
        };
        play.engine.step(&mut play.state, &change, &mut play.events);
    }
}

fn is_same(a: &Play, b: &Play) -> Result<(), TestCaseError> {
    prop_assert_eq!(a.state.digest(), b.state.digest());
    let first = a.events.iter().zip(&b.events).find(|(a, b)| a != b);
    prop_assert!(first.is_none() && a.events.len() == b.events.len(), "{:?}", first);
    let guard = |play: &Play| play.state.stopped.as_ref().map(|s| (s.guard, s.tick));
    prop_assert_eq!(guard(a), guard(b));
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { max_shrink_iters: 300, ..ProptestConfig::with_cases(cases(32)) })]

    #[test]
    fn a_run_repeated_is_the_same_run(pond in ponds_within_limits(), seed: u64) {
        let Some(text) = sound(&pond) else { return Ok(()) };
        let (mut a, mut b) = (play(&text, seed), play(&text, seed));
        press_and_play(&mut a, 80);
        press_and_play(&mut b, 80);
        is_same(&a, &b)?;
    }

    #[test]
    fn two_threads_and_another_order_are_the_same_run(pond in ponds_within_limits(), shuffle: u64) {
        let Some(text) = sound(&pond) else { return Ok(()) };
        let (mut a, mut b) = (play(&text, 7), play(&text, 7));
        (b.engine.threads, b.engine.grain, b.engine.shuffle) = (2, 2, Some(shuffle));
        press_and_play(&mut a, 80);
        press_and_play(&mut b, 80);
        is_same(&a, &b)?;
    }

    #[test]
    fn a_saved_state_goes_on_as_the_run_does(pond in ponds_within_limits(), at in 1u64..70) {
        let Some(text) = sound(&pond) else { return Ok(()) };
        let mut a = play(&text, 5);
        press_and_play(&mut a, at);
        let mut b = play(&text, 5);
        b.state = a.state.clone();
        a.events.clear();
        b.events.clear();
        press_and_play(&mut a, 80 - at);
        press_and_play(&mut b, 80 - at);
        is_same(&a, &b)?;
    }

    #[test]
    fn what_takes_hold_at_once_is_the_same_run(pond in ponds_within_limits(), seed: u64) {
        let Some(text) = sound(&pond) else { return Ok(()) };
        let (mut a, mut b) = (play(&text, seed), patient(&text, seed));
        press_and_play(&mut a, 80);
        press_and_play(&mut b, 80);
        is_same(&a, &b)?;
    }

    /// Whatever is near a limit, a run ends in order, with a line.
    #[test]
    fn near_a_limit_a_run_stops_in_order(seed: u64) {
        let pond = Pond::draw(seed, Oddities { limits_near: true, ..Oddities::of(seed) });
        let Some(text) = sound(&pond) else { return Ok(()) };
        let mut run = play(&text, 3);
        for _ in 0..60 {
            press_and_play(&mut run, 1);
            if let Some(stopped) = &run.state.stopped {
                // Bodies that touch do so on no line.
                let has_line = stopped.guard != Guard::Touches;
                prop_assert!(!has_line || stopped.lines().count() + usize::from(stopped.span.is_some()) > 0, "{:?}", stopped);
            }
        }
    }
}

#[rstest]
fn what_showed_a_fault_is_the_same_run_in_every_way() {
    let (mut played, mut apart) = (0, Vec::new());
    for (name, text) in found_within_limits() {
        if tickpond_lang::compile(&text).program.is_none() {
            continue;
        }
        let start = || play(&text, 7);
        let (mut one, mut again, mut threads, mut waits) =
            (start(), start(), start(), patient(&text, 7));
        (threads.engine.threads, threads.engine.grain, threads.engine.shuffle) = (2, 2, Some(3));
        press_and_play(&mut one, 100);
        if one.state.stopped.is_some() {
            continue;
        }
        for (way, other) in
            [("again", &mut again), ("threads", &mut threads), ("patient", &mut waits)]
        {
            press_and_play(other, 100);
            if is_same(&one, other).is_err() {
                apart.push(format!("{name}, {way}"));
            }
        }
        played += 1;
    }
    assert_eq!(apart, [""; 0]);
    assert!(played > 60, "{played}");
}
