//! Runs of ponds over the whole grammar: edits that change nothing, edits that change much, and journeys in time.

use std::sync::Arc;

use proptest::prelude::*;
use rstest::rstest;
use tickpond_arbitrary::{cases, found_within_limits, ponds_within_limits};
use tickpond_lab::{Run, RunOptions};
use tickpond_lang::program::Program;

fn sound(text: &str) -> Option<Arc<Program>> {
    tickpond_lang::compile(text).program
}

fn run(program: Arc<Program>) -> Run {
    Run::new(program, RunOptions::default()).unwrap()
}

/// Blanks and remarks change nothing, also of a run that has come some way.
fn blanks_change_nothing(text: &str, at: u64) -> Result<(), TestCaseError> {
    let Some(program) = sound(text) else { return Ok(()) };
    let set = tickpond_lang::format::format(text).unwrap_or_else(|_| text.into());
    // A mark of the encoding stays in front.
    let mark = if set.starts_with('\u{feff}') { "\u{feff}" } else { "" };
    let remarked = format!("{mark}// a remark\n\n{}\n// another", &set[mark.len()..]);
    let Some(other) = sound(&remarked) else {
        return Err(TestCaseError::fail("it does not compile any more"));
    };
    let (mut plain, mut edited) = (run(program), run(other.clone()));
    plain.play_to(90);
    edited.play_to(90);
    prop_assert_eq!(plain.state().digest(), edited.state().digest(), "from the start");
    let mut edited = run(plain.newest().clone());
    edited.play_to(at);
    // It may have come to a limit before that.
    let at = edited.tick();
    edited.edit(other).map_err(|e| TestCaseError::fail(format!("{e:?}")))?;
    prop_assert_eq!(edited.tick(), at);
    edited.play_to(90);
    prop_assert_eq!(plain.state().digest(), edited.state().digest(), "from tick {}", at);
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { max_shrink_iters: 200, ..ProptestConfig::with_cases(cases(24)) })]

    #[test]
    fn an_edit_of_blanks_and_remarks_changes_no_run(pond in ponds_within_limits(), at in 0u64..90) {
        blanks_change_nothing(&pond.text(), at)?;
    }

    /// An edit to quite another pond is taken up, and played again it is the same run.
    #[test]
    fn an_edit_to_any_other_pond_is_carried_over(a in ponds_within_limits(), b in ponds_within_limits(), at in 1u64..60) {
        let (Some(a), Some(b)) = (sound(&a.text()), sound(&b.text())) else { return Ok(()) };
        let mut edited = run(a);
        edited.play_to(at);
        if edited.edit(b.clone()).is_ok() {
            prop_assert_eq!(&edited.newest().text, &b.text);
            edited.play_to(80);
            // It may come to a limit before that.
            let (tick, there) = (edited.tick(), edited.state().digest());
            edited.seek(at / 2);
            edited.seek(tick);
            prop_assert_eq!(edited.state().digest(), there, "the edit plays the same again");
        }
    }

    /// What a key in the past leaves behind is kept as text, taken up by another run, and gone back to.
    #[test]
    fn a_branch_is_kept_and_gone_back_to(pond in ponds_within_limits(), at in 1u64..60) {
        let Some(program) = sound(&pond.text()) else { return Ok(()) };
        let Some(input) = program.inputs.first().map(|input| input.name.clone()) else { return Ok(()) };
        let mut first = run(program.clone());
        first.press(&input, true);
        first.play_to(80);
        let (tick, digest) = (first.tick(), first.state().digest());
        first.seek(at.min(tick) / 2);
        first.press(&input, false);
        let Some(left) = first.pasts().last() else { return Ok(()) };
        let kept = serde_json::to_string(left.recipe.as_ref()).unwrap();
        let mut later = run(program);
        later.adopt_branches(vec![serde_json::from_str(&kept).unwrap()]);
        let number = later.pasts()[0].number;
        prop_assert!(later.go_back(number).is_ok());
        prop_assert_eq!((later.tick(), later.state().digest()), (tick, digest));
    }

    #[test]
    fn a_journey_in_time_ends_where_it_began(pond in ponds_within_limits(), stops in prop::collection::vec(0u64..100, 1..6)) {
        let Some(program) = sound(&pond.text()) else { return Ok(()) };
        let mut run = run(program);
        let mut digests = vec![run.state().digest()];
        while run.tick() < 100 && run.state().stopped.is_none() {
            run.play_to(run.tick() + 1);
            digests.push(run.state().digest());
        }
        let (last, events) = (run.tick(), run.events().len());
        for stop in stops.into_iter().map(|stop| stop.min(last)).chain([last]) {
            run.seek(stop);
            prop_assert_eq!((run.tick(), run.state().digest()), (stop, digests[stop as usize]));
        }
        prop_assert_eq!(run.events().len(), events);
    }
}

#[rstest]
fn blanks_and_remarks_change_no_run_of_what_showed_a_fault() {
    for (name, text) in found_within_limits() {
        blanks_change_nothing(&text, 25).unwrap_or_else(|e| panic!("{name}: {e}"));
    }
}
