//! Which text plays from which tick: the newest from the next one on, whatever was typed and taken back before.

use crate::common::{program, run};
use proptest::prelude::*;
use rstest::rstest;
use tickpond_lab::{Edited, Run};

/// A pond whose frog goes so many u a second: how far it is tells which text played how long.
fn pond(speed: u32) -> String {
    format!(
        "pond \"t\" {{ arena 9000 x 9 }}\ninput hop = key h\nknob pace = {speed} u/s\n\
         kind frog {{ every 1 ticks {{ pos = pos + (pace * 1 ticks, 0 u) }}\n on press hop {{ say \"hop\" }} }}\n\
         place frog at (0, 5)\n"
    )
}

/// The same words with other places.
fn remarked(speed: u32) -> String {
    format!("// a remark\n{}", pond(speed))
}

fn plays(run: &Run, tick: u64) -> String {
    run.program_at(tick).text.to_string()
}

#[rstest]
fn an_edit_taken_back_before_a_tick_has_played_leaves_nothing() {
    let mut run = run(&pond(6));
    run.play_to(60);
    assert_eq!(run.edit(program(&pond(8))).unwrap(), Edited::Forked);
    assert_eq!(run.edit(program(&pond(6))).unwrap(), Edited::TakenBack);
    assert_eq!((plays(&run, 61), run.edits()), (pond(6), vec![]));
    assert_eq!(*run.newest().text, *pond(6));
}

#[rstest]
fn an_edit_taken_back_in_the_past_of_another_is_taken_up() {
    let mut run = run(&pond(6));
    run.play_to(60);
    run.edit(program(&pond(8))).unwrap();
    run.play_to(120);
    run.seek(30);
    // The text of this tick is not the one on the screen: taking the edit back is an edit.
    assert_eq!(run.edit(program(&pond(6))).unwrap(), Edited::Forked);
    run.play_to(120);
    assert_eq!((plays(&run, 120), run.edits()), (pond(6), vec![]));
}

#[rstest]
fn where_every_edit_plays_anew_a_later_turn_is_taken_up_too() {
    let mut run = run(&pond(6));
    run.play_to(60);
    run.edit(program(&pond(8))).unwrap();
    assert!(matches!(run.edit_as(program(&pond(10)), false).unwrap(), Edited::Remade(_)));
    assert!(matches!(run.edit_as(program(&pond(6)), false).unwrap(), Edited::Remade(_)));
    assert_eq!((run.tick(), plays(&run, 60)), (60, pond(6)));
    assert_eq!(run.pasts().len(), 3, "each is a whole run to compare with");
}

#[rstest]
fn what_a_player_does_in_the_past_is_played_by_the_text_on_the_screen() {
    let mut run = run(&pond(6));
    run.play_to(60);
    run.edit(program(&pond(8))).unwrap();
    run.play_to(120);
    run.seek(30);
    run.press("hop", true);
    run.play_to(90);
    assert_eq!((plays(&run, 30), plays(&run, 31), run.edits()), (pond(6), pond(8), vec![31]));
    assert_eq!(run.made_again(), None);
}

#[rstest]
fn a_text_the_state_cannot_go_over_to_is_played_from_the_start() {
    let mut run = run(&pond(6));
    let moved = pond(8).replace("at (0, 5)", "at (0, 5)\nplace frog at (0, 7)");
    run.play_to(60);
    run.edit(program(&pond(8))).unwrap();
    run.play_to(90);
    let edited = run.edit(program(&moved)).unwrap();
    run.seek(20);
    run.press("hop", true);
    run.play_to(40);
    assert_eq!(plays(&run, 40), moved, "{edited:?}");
}

#[rstest]
fn each_edit_has_a_run_before_it_and_typing_one_has_one() {
    let mut run = run(&pond(6));
    run.play_to(300);
    for speed in [7, 8, 9, 6, 8] {
        run.edit(program(&pond(speed))).unwrap();
    }
    assert_eq!((run.pasts().len(), run.edits()), (1, vec![301]));
    assert!(run.is_edited());
    run.play_to(600);
    run.edit(program(&pond(10))).unwrap();
    assert_eq!(run.pasts().len(), 2);
    run.seek(400);
    run.edit(program(&pond(12))).unwrap();
    assert_eq!(run.pasts().len(), 3, "another place is another edit");
    run.restart(None).unwrap();
    assert!(!run.is_edited());
}

/// What a person does.
#[derive(Clone, Debug)]
enum Deed {
    /// A text with this number, with a remark or without.
    Edit(u32, bool),
    Play(u64),
    Seek(u64),
    Press,
}

fn deeds() -> impl Strategy<Value = Vec<Deed>> {
    let deed = prop_oneof![
        5 => (1..4u32, any::<bool>()).prop_map(|(speed, remarked)| Deed::Edit(speed, remarked)),
        3 => (0..150u64).prop_map(Deed::Play),
        2 => (0..400u64).prop_map(Deed::Seek),
        1 => Just(Deed::Press),
    ];
    prop::collection::vec(deed, 1..25)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(100))]

    /// Against the smallest model there is: a speed for each tick, and the one of the text.
    #[test]
    fn the_newest_text_plays_from_the_next_tick_on(deeds in deeds()) {
        let mut run = run(&pond(1));
        // The speed of each tick played, from 1 on; the text; where the person stands.
        let (mut played, mut text, mut tick) = (Vec::<u32>::new(), (1, false), 0usize);
        // What an edit in the past cut off: where, the text it took the place of, and all that was played.
        let mut left: Option<(usize, u32, Vec<u32>)> = None;
        for deed in deeds {
            match deed {
                Deed::Edit(speed, with_remark) => {
                    let new = if with_remark { remarked(speed) } else { pond(speed) };
                    run.edit(program(&new)).unwrap();
                    // What means the same cuts nothing off, and what is taken back before another tick gives it back.
                    if speed != text.0 {
                        match &left {
                            Some((at, old, all)) if (*at, *old) == (tick, speed) => {
                                played.clone_from(all);
                                left = None;
                            }
                            _ if tick < played.len() => {
                                left = Some((tick, text.0, played.clone()));
                                played.truncate(tick);
                            }
                            _ => {}
                        }
                    }
                    text = (speed, with_remark);
                }
                Deed::Play(ticks) => {
                    run.play_to(run.tick() + ticks);
                    tick += ticks as usize;
                    left = left.filter(|_| tick <= played.len());
                    played.resize(played.len().max(tick), text.0);
                }
                Deed::Seek(to) => {
                    tick = (to as usize).min(played.len());
                    run.seek(tick as u64);
                }
                Deed::Press => {
                    run.press("hop", true);
                    played.truncate(tick);
                    left = None;
                }
            }
            let newest = if text.1 { remarked(text.0) } else { pond(text.0) };
            prop_assert_eq!(&*run.newest().text, &*newest);
            prop_assert_eq!((run.tick(), run.head()), (tick as u64, played.len() as u64));
            let far: f64 = played[..tick].iter().map(|speed| f64::from(*speed) / 60.0).sum();
            let state = run.state();
            let x = state.kinds.last().unwrap().x[0];
            prop_assert!((x - far).abs() < 1e-6, "{} where {} is wanted", x, far);
        }
    }
}
