//! What a person asks of a run: what changed, who meets a condition, how a tick went, how long they live.

use crate::common::{DUSK, program, run};
use rstest::{fixture, rstest};
use tickpond_lab::lifelines::lifelines;
use tickpond_lab::past::changes;
use tickpond_lab::taping::tape_text;
use tickpond_lab::{Probe, Run, RunOptions, TapeChoice};
use tickpond_sim::{Phase, What};

#[fixture]
fn dusk() -> Run {
    let mut run = run(DUSK);
    run.play_to(600);
    run
}

#[rstest]
#[case::forked(true)]
#[case::made_again(false)]
fn an_edit_tells_what_changed_in_words(mut dusk: Run, #[case] forks: bool) {
    dusk.press("fire", true);
    dusk.play_to(900);
    dusk.seek(300);
    let text = DUSK.replace("knob flock  = 6 ", "knob flock  = 12 ");
    dusk.edit_as(program(&text), forks).unwrap();
    dusk.play_to(900);
    let past = dusk.past().unwrap().clone();
    let changes = changes(&past.record, dusk.record());
    let midge = changes.iter().find(|c| c.kind == "midge").unwrap();
    let (what, old, new) = &midge.numbers[0];
    assert_eq!(what, "peak");
    assert_ne!(new, old, "{midge:?}");
    assert!(midge.words().starts_with("midge: peak "), "{}", midge.words());
}

#[rstest]
fn nothing_changed_says_nothing(mut dusk: Run) {
    dusk.restart(None).unwrap();
    dusk.play_to(600);
    let past = dusk.past().unwrap().clone();
    assert_eq!(changes(&past.record, dusk.record()), []);
}

#[rstest]
fn what_only_one_run_has_played_does_not_count(mut dusk: Run) {
    dusk.restart(None).unwrap();
    dusk.play_to(100);
    let past = dusk.past().unwrap().clone();
    assert_eq!(changes(&past.record, dusk.record()), []);
}

#[rstest]
#[case("midge", |_: f64, _: bool| true)]
#[case("midge where health < 2", |health: f64, _: bool| health < 2.0)]
#[case("midge where not calm", |_: f64, calm: bool| !calm)]
fn a_question_finds_those_that_meet_it(#[case] typed: &str, #[case] meets: fn(f64, bool) -> bool) {
    let mut run = run(DUSK);
    run.press("fire", true);
    run.play_to(500);
    run.press("croak", true);
    run.play_to(505);
    let mut probe = Probe::of_entities(run.program(), typed).unwrap();
    let found = probe.those(run.state());
    let kind = run.program().kind_named("midge").unwrap();
    let columns = &run.state().kinds[kind.index()];
    let wanted: Vec<u32> = (0..columns.len() as u32)
        .filter(|row| meets(columns.health[*row as usize], columns.vars[0][*row as usize] != 0))
        .collect();
    assert!(columns.len() > 3);
    assert_eq!(found, [(kind, wanted)]);
}

#[rstest]
#[case::empty("", "nothing")]
#[case::unknown("mige where health < 2", "mige")]
#[case::unknown_field("midge where helth < 2", "helth")]
#[case::more("midge lives at most 3 s\nplace midge at (1, 1)", "one line")]
#[case::comment("midge // all", "one line")]
fn what_is_no_question_is_told(#[case] typed: &str, #[case] words: &str) {
    let error = Probe::of_entities(&program(DUSK), typed).err().unwrap();
    assert!(error.contains(words), "{error}");
}

#[rstest]
fn a_condition_of_the_pond_holds_or_not(dusk: Run) {
    let mut many = Probe::of_pond(dusk.program(), "count(midge) > 3").unwrap();
    let mut none = Probe::of_pond(dusk.program(), "count(midge) > 3000").unwrap();
    assert!(many.holds(dusk.state()));
    assert!(!none.holds(dusk.state()));
    assert!(Probe::of_pond(dusk.program(), "count(midge)").is_err());
    assert!(Probe::of_pond(dusk.program(), "count(midge) > 3 s").is_err());
}

#[rstest]
fn a_tick_taken_apart_names_handlers_and_leaves_the_run_alone(mut dusk: Run) {
    dusk.press("fire", true);
    dusk.step();
    let (tick, digest, record) = (dusk.tick(), dusk.state().digest(), dusk.record().clone());
    let anatomy = dusk.anatomy();
    assert_eq!((dusk.tick(), dusk.state().digest()), (tick, digest));
    assert_eq!(*dusk.record(), record);
    let program = dusk.program().clone();
    let fire = anatomy.iter().find(|f| program.kinds[f.kind.index()].name == "frog").unwrap();
    assert_eq!((fire.count, fire.asked.births), (1, 1));
    assert_eq!(fire.who.len(), 1);
    let thinks = |f: &&tickpond_sim::Firings| {
        f.phase == Phase::Think && program.kinds[f.kind.index()].name == "heron"
    };
    assert_eq!(anatomy.iter().filter(thinks).count(), 1);
    assert!(anatomy.is_sorted_by_key(|f| f.phase));
}

#[rstest]
fn the_opening_has_no_handlers_of_the_tick() {
    assert_eq!(run(DUSK).anatomy(), []);
}

#[rstest]
fn lives_side_by_side_begin_and_end_as_recorded(mut dusk: Run) {
    dusk.press("fire", true);
    dusk.play_to(900);
    let lanes = lifelines(&dusk, 600, 500, &|_| true).lanes;
    let living = lanes.iter().filter(|lane| lane.ended.is_none()).count();
    let entities: usize = dusk.state().kinds.iter().skip(1).map(|c| c.len()).sum();
    assert_eq!(living, entities);
    let events = dusk.record().events();
    for lane in &lanes {
        let born = events.iter().find(|e| e.what == What::Born && e.who.id == lane.who.id);
        assert_eq!(born.map_or(0, |e| e.tick), lane.born, "{}", lane.name);
        if let Some((tick, cause)) = lane.ended {
            let end = events.iter().find(|e| e.what == What::Ended && e.who.id == lane.who.id);
            assert_eq!((end.unwrap().tick, end.unwrap().cause), (tick, cause));
            assert!(tick >= 600);
        }
    }
    assert!(lanes.iter().any(|lane| lane.marks.iter().any(|(_, what)| *what == What::Hurt)));
    let five = lifelines(&dusk, 600, 5, &|_| true);
    assert_eq!((five.lanes.len(), five.all), (5, lanes.len()));
    assert!(lifelines(&dusk, 600, 5, &|_| false).lanes.is_empty());
}

#[rstest]
fn what_was_played_by_hand_is_a_tape_that_plays_the_same() {
    let mut by_hand = run(DUSK);
    for (tick, input, down) in [
        (30, "fire", true),
        (200, "croak", true),
        (201, "croak", false),
        (260, "fire", false),
        (300, "lower", true),
    ] {
        by_hand.play_to(tick);
        by_hand.press(input, down);
    }
    by_hand.play_to(500);
    let tape = tape_text(by_hand.program(), "mine", by_hand.input(), (0, 501));
    assert!(tape.contains("from 31 ticks to 261 ticks hold fire"), "{tape}");
    assert!(tape.contains("at 201 ticks tap croak"), "{tape}");
    assert!(tape.contains("from 301 ticks to 501 ticks hold lower"), "{tape}");
    let options = RunOptions { tape: TapeChoice::Named("mine".into()), ..RunOptions::default() };
    let mut taped = Run::new(program(&format!("{DUSK}\n{tape}")), options).unwrap();
    taped.play_to(500);
    assert_eq!(taped.state().kinds, by_hand.state().kinds);
}

#[rstest]
fn what_is_placed_by_hand_is_born_in_the_next_tick_and_again_after_a_jump(mut dusk: Run) {
    let herons =
        |run: &Run| run.state().kinds[run.program().kind_named("heron").unwrap().index()].len();
    let before = herons(&dusk);
    dusk.place("heron", (20.0, 70.0));
    dusk.place("nobody", (20.0, 70.0));
    dusk.step();
    assert_eq!(herons(&dusk), before + 1);
    let born = dusk.record().events().iter().rev().find(|e| e.what == What::Born).unwrap();
    assert_eq!((born.tick, born.site, born.place.map(|p| p.0)), (601, None, Some(20.0)));
    dusk.play_to(700);
    let digest = dusk.state().digest();
    dusk.seek(10);
    dusk.seek(700);
    assert_eq!(dusk.state().digest(), digest);
}
