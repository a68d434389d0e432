//! Nothing that was played is gone because of an edit, a key or a new beginning: it is a branch, and gone back to exactly.

use std::sync::Arc;

use proptest::prelude::*;
use rstest::rstest;
use tickpond_lab::run::MOST_PASTS;
use tickpond_lab::{BranchError, Edited, Recipe, Run, RunOptions, TapeChoice};
use tickpond_lang::program::Program;

/// A mill pond in which a knob, a key and chance matter.
fn pond(gap: u32, more: &str) -> Arc<Program> {
    let text = format!(
        "pond \"t\" {{ arena 80 x 40 }}\ninput fire = key f\nknob gap = {gap} ticks in 0.01..2\n\
         kind midge {{ body circle 1 u, sensor; vars {{ n = random(0 .. 9) }}\n\
         on birth {{ heading = any angle; speed = 4 u/s }}\non press fire {{ n += 1; end self because \"hit\" }}\n\
         after 2 s {{ end self }} {more} }}\n\
         spawner bed {{ makes midge anywhere; every gap }}\nplace bed\n\
         expect \"few\": always count(midge) < 9\n"
    );
    let compiled = tickpond_lang::compile(&text);
    compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics))
}

fn run() -> Run {
    Run::new(pond(7, ""), RunOptions::default()).unwrap()
}

/// All that tells whether two runs are one: states, counts, events, verdicts.
fn told(run: &Run) -> (u64, u64, Vec<String>, String) {
    let events = run.record().events_until(run.tick()).iter().map(|e| format!("{e:?}")).collect();
    let counts = run
        .record()
        .kinds
        .iter()
        .map(|s| format!("{} {:?}", s.name, s.live.iter().collect::<Vec<_>>()));
    let counts: Vec<String> = counts.collect();
    (run.head(), run.state().digest(), events, format!("{counts:?} {:?}", run.verdicts()))
}

fn newest_branch(run: &Run) -> u64 {
    run.pasts().last().unwrap().number
}

/// A key at 36 and 78, an edit at 100, played to 300.
fn played() -> Run {
    let mut run = run();
    for tick in [36, 78] {
        run.play_to(tick);
        run.press("fire", true);
        run.play_to(tick + 1);
        run.press("fire", false);
    }
    run.play_to(100);
    assert_eq!(run.edit(pond(5, "")).unwrap(), Edited::Forked);
    run.play_to(300);
    run
}

#[rstest]
#[case::at_once(&[3])]
#[case::there_and_back(&[3, 4, 9])]
fn an_edit_in_the_past_that_is_taken_back_leaves_all_as_it_was(#[case] gaps: &[u32]) {
    let mut run = played();
    let before = told(&run);
    let branches = run.pasts().len();
    run.seek(60);
    for gap in gaps {
        assert_eq!(run.edit(pond(*gap, "")).unwrap(), Edited::Forked);
    }
    assert_eq!(run.edit(pond(5, "")).unwrap(), Edited::TakenBack);
    assert_eq!((run.tick(), run.head(), run.pasts().len()), (60, 300, branches));
    run.seek(300);
    assert!(told(&run) == before, "the rest of the run, keys included");
}

#[rstest]
fn a_mute_that_is_taken_back_does_the_same() {
    let mut run = played();
    let before = told(&run);
    run.seek(60);
    run.edit(pond(5, "off every 1 s { n += 1 }")).unwrap();
    assert_eq!(run.edit(pond(5, "")).unwrap(), Edited::TakenBack);
    run.seek(300);
    assert!(told(&run) == before);
}

/// What a deed in the past leaves behind, and what it is called.
#[rstest]
#[case::an_edit(|run: &mut Run| drop(run.edit(pond(3, ""))), "`knob gap = 3 ticks in 0.01..2` in line 3 at 1.00 s")]
#[case::a_key(|run: &mut Run| run.press("fire", true), "the key of `fire` at 1.00 s")]
#[case::something_put_there(|run: &mut Run| run.place("midge", (3.0, 3.0)), "a midge was put in place at 1.00 s")]
#[case::another_seed(|run: &mut Run| run.restart(Some(2)).unwrap(), "starting again with seed 2")]
#[case::another_tape(|run: &mut Run| run.play_tape(TapeChoice::Nothing).unwrap(), "playing without a tape")]
#[case::edits_that_play_anew(|run: &mut Run| drop(run.edit_as(pond(3, ""), false)), "`knob gap = 3 ticks in 0.01..2` in line 3 at 1.00 s")]
fn what_is_left_behind_is_a_branch_and_gone_back_to_exactly(
    #[case] deed: fn(&mut Run),
    #[case] before: &str,
) {
    let mut run = played();
    let was = told(&run);
    run.seek(60);
    deed(&mut run);
    run.play_to(run.tick() + 40);
    let (branch, now) = (newest_branch(&run), told(&run));
    assert_eq!(run.pasts().last().unwrap().recipe.before, before);
    run.go_back(branch).unwrap();
    assert!(told(&run) == was, "{before}");
    assert_eq!(&*run.newest().text, &*pond(5, "").text);
    // What was left for it is a branch in turn.
    let branch = newest_branch(&run);
    run.go_back(branch).unwrap();
    assert!(told(&run) == now, "{before}: there again");
}

#[rstest]
fn keys_recorded_are_never_gone_unasked() {
    let mut run = played();
    // Edit upon edit, key upon key, all of them in the past.
    for (at, gap) in [(90, 3), (50, 4), (20, 6), (10, 8)] {
        run.seek(at);
        run.edit(pond(gap, "")).unwrap();
        run.play_to(at + 30);
        run.seek(at + 5);
        run.press("fire", true);
        run.play_to(at + 20);
    }
    let first = run.pasts().iter().find(|past| past.recipe.head == 300);
    let number = first.expect("the keys of the first run").number;
    run.go_back(number).unwrap();
    assert!(told(&run) == told(&played()));
}

#[rstest]
fn the_oldest_branch_goes_first_and_that_is_told() {
    let mut run = run();
    for seed in 0..MOST_PASTS as u64 + 2 {
        run.play_to(30);
        run.restart(Some(seed)).unwrap();
    }
    assert_eq!(run.pasts().len(), MOST_PASTS);
    assert_eq!(run.let_go().as_deref(), Some("2, before starting again with seed 1"));
    assert_eq!((run.let_go(), run.go_back(1)), (None, Err(BranchError::Unknown(1))));
    assert!(run.takes().branches > 0);
    // With less memory there are fewer.
    run.set_memory(16 << 10);
    assert!(run.pasts().len() < MOST_PASTS && run.let_go().is_some());
}

#[rstest]
fn an_earlier_session_s_branches_are_taken_up() {
    let mut run = played();
    run.seek(60);
    run.press("fire", true);
    let recipe = run.pasts().last().unwrap().recipe.as_ref().clone();
    let kept = serde_json::to_string(&recipe).unwrap();
    let mut later = Run::new(pond(5, ""), RunOptions::default()).unwrap();
    later.adopt_branches(vec![serde_json::from_str(&kept).unwrap()]);
    let number = later.pasts()[0].number;
    later.go_back(number).unwrap();
    assert!(told(&later) == told(&played()));
    // Several keep their order, the oldest first, before those of this session.
    let named = |before: &str| Recipe { before: before.into(), ..recipe.clone() };
    later.adopt_branches(["a", "b", "c"].map(named).into());
    let order: Vec<&str> = later.pasts().iter().take(3).map(|p| &*p.recipe.before).collect();
    assert_eq!(order, ["a", "b", "c"]);
    // One that cannot be read or opened is told; it is still there, and nothing has changed.
    let broken = Recipe { texts: vec![(0, "pond {".into())], ..recipe.clone() };
    let without = Recipe { tape: TapeChoice::Named("gone".into()), ..recipe };
    let first = later.pasts().iter().map(|past| past.number).max().unwrap() + 1;
    later.adopt_branches(vec![broken, without]);
    let before = later.pasts().len();
    assert_eq!(later.go_back(first), Err(BranchError::Text(first)));
    assert!(matches!(later.go_back(first + 1), Err(BranchError::Options(_))));
    assert_eq!(later.pasts().len(), before);
    assert!(told(&later) == told(&played()));
}

/// Something a person does.
#[derive(Clone, Debug)]
enum Deed {
    Play(u64),
    Seek(u64),
    Edit(u32),
    Press(bool),
    Restart(u64),
    Back(usize),
}

fn deeds() -> impl Strategy<Value = Vec<Deed>> {
    let deed = prop_oneof![
        (1u64..60).prop_map(Deed::Play),
        (0u64..150).prop_map(Deed::Seek),
        (3u32..6).prop_map(Deed::Edit),
        any::<bool>().prop_map(Deed::Press),
        (1u64..3).prop_map(Deed::Restart),
        (0usize..4).prop_map(Deed::Back),
    ];
    proptest::collection::vec(deed, 1..14)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    /// Whatever is done, each branch that is kept plays again what it was when it was left.
    #[test]
    fn every_branch_is_what_it_was(deeds in deeds()) {
        let mut run = run();
        let mut left: Vec<(u64, (u64, u64))> = Vec::new();
        for deed in deeds {
            let before = run.pasts().last().map(|past| past.number);
            let now = run.tick();
            run.seek(run.head());
            let was = (run.head(), run.state().digest());
            run.seek(now);
            match deed {
                Deed::Play(ticks) => run.play_to(run.tick() + ticks),
                Deed::Seek(tick) => run.seek(tick.min(run.head())),
                Deed::Edit(gap) => drop(run.edit(pond(gap, "")).unwrap()),
                Deed::Press(down) => run.press("fire", down),
                Deed::Restart(seed) => run.restart(Some(seed)).unwrap(),
                Deed::Back(at) => {
                    if let Some(past) = run.pasts().iter().rev().nth(at) {
                        let (number, head) = (past.number, past.recipe.head);
                        run.go_back(number).unwrap();
                        let wanted = left.iter().find(|(n, _)| *n == number).map(|(_, was)| *was);
                        prop_assert_eq!(Some((run.head(), run.state().digest())), wanted);
                        prop_assert_eq!(run.head(), head);
                    }
                }
            }
            if let Some(past) = run.pasts().last().filter(|past| Some(past.number) != before) {
                left.push((past.number, was));
            }
        }
    }
}
