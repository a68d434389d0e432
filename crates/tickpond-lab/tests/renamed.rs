//! What was recorded, told and judged before an edit, seen after it.

use crate::common::{program, run};
use rstest::rstest;
use tickpond_lab::lifelines::lifelines;
use tickpond_lab::taping::tape_text;
use tickpond_lab::{Edited, Outcome, Run};

const TEXT: &str = "pond \"t\" { arena 40 x 20 }
input fire = key f
input fires = key g
input aim = pointer
kind midge { look \"m\"; after 0.5 s { end self } }
kind frog { look \"f\"; on press fire { say \"f\" } on press fires { say \"g\" } every 1 s { head toward aim } }
place midge at (1, 1)
place midge at (2, 1)
place frog at (9, 9)
expect \"few\": always count(midge) <= 2
expect \"gone\": by 1 s, count(midge) == 0
expect \"a frog\": after midge ends, for 2 s, count(frog) == 1
expect \"frogs live\": each frog lives at most 3 s
";

fn edited(run: &mut Run, text: &str) {
    assert_eq!(run.edit(program(text)).unwrap(), Edited::Forked);
}

fn outcomes(run: &Run) -> Vec<(Outcome, Option<u64>)> {
    run.verdicts().iter().map(|v| (v.outcome(), v.failed.or(v.met))).collect()
}

#[rstest]
#[case::before("kind ant { look \"a\" }\nkind midge")]
#[case::before_and_after("kind ant { look \"a\" }\nkind bee { look \"b\" }\nkind midge")]
fn the_dead_keep_their_names_when_an_edit_renumbers_the_kinds(#[case] kinds: &str) {
    let mut run = run(TEXT);
    run.play_to(60);
    edited(&mut run, &TEXT.replacen("kind midge", kinds, 1));
    run.play_to(90);
    let lanes = lifelines(&run, 0, 99, &|_| true).lanes;
    let mut names: Vec<(&str, bool)> =
        lanes.iter().map(|lane| (lane.name.as_str(), lane.ended.is_some())).collect();
    names.sort_unstable();
    assert_eq!(names, [("frog#1", false), ("midge#1", true), ("midge#2", true)]);
}

#[rstest]
#[case::one_name_is_the_beginning_of_another("input fire = key f\n", "", "fire ", "fires ")]
#[case::the_longer_one_goes("input fires = key g\n", "", "fires ", "fire ")]
#[case::a_key_became_a_pointer("input fire = key f", "input fire = pointer", "tap fire ", "fires ")]
#[case::a_pointer_became_a_key("input aim = pointer", "input aim = key h", "move aim ", "fires ")]
fn a_recorded_tape_holds_the_inputs_there_are_and_no_others(
    #[case] was: &str,
    #[case] now: &str,
    #[case] gone: &str,
    #[case] left: &str,
) {
    let mut run = run(TEXT);
    for (tick, input, down) in
        [(10, "fire", true), (11, "fire", false), (20, "fires", true), (30, "fires", false)]
    {
        run.play_to(tick);
        run.press(input, down);
    }
    run.point("aim", (3.0, 4.0));
    run.play_to(60);
    let handler = match gone {
        "fires " => "on press fires { say \"g\" }",
        "move aim " => "every 1 s { head toward aim }",
        _ => "on press fire { say \"f\" }",
    };
    let text = TEXT.replace(was, now).replace(handler, "");
    let tape = tape_text(&program(&text), "mine", run.input(), (0, 61));
    let words = tape.replace('\n', " \n");
    assert!(!words.contains(gone), "{tape}");
    assert!(words.contains(left), "{tape}");
    assert!(tickpond_lang::compile(&format!("{text}{tape}")).program.is_some(), "{tape}");
}

#[rstest]
fn verdicts_go_over_an_edit_by_their_words() {
    let mut run = run(TEXT);
    run.play_to(100);
    let before = outcomes(&run);
    assert_eq!(before[0].0, Outcome::Held);
    // The midges ended in tick 30; two seconds are not over.
    assert_eq!(before[2].0, Outcome::Untried);
    // The order of the lines changes, one is new, one is gone, the others go on where they were.
    let few = "expect \"few\": always count(midge) <= 2\n";
    let text = TEXT.replace(few, "").replace(
        "expect \"a frog\"",
        "expect \"new\": after midge ends, within 1 s, count(frog) == 9\nexpect \"a frog\"",
    );
    edited(&mut run, &text);
    run.step();
    assert_eq!(outcomes(&run)[0], before[1]);
    assert_eq!(outcomes(&run)[1].0, Outcome::Untried, "its occasion was before it stood there");
    run.play_to(149);
    assert_eq!(outcomes(&run)[2].0, Outcome::Untried);
    run.play_to(150);
    assert_eq!(outcomes(&run)[2].0, Outcome::Held, "the span of before goes on");
    assert_eq!(outcomes(&run)[3], (Outcome::Held, None));
    // The frog, known from its birth before the edit, is too old in the tick after three seconds.
    run.play_to(185);
    assert_eq!(outcomes(&run)[3], (Outcome::Failed, Some(181)));
    // Another check of the same name is another claim.
    edited(&mut run, &text.replace("lives at most 3 s", "lives at most 4 s"));
    run.step();
    assert_eq!(outcomes(&run)[3], (Outcome::Held, None), "the frog is younger than four seconds");
}

#[rstest]
fn what_has_failed_stays_failed_over_an_edit() {
    let text = TEXT.replace("<= 2", "<= 1");
    let mut run = run(&text);
    run.play_to(100);
    assert_eq!(outcomes(&run)[0], (Outcome::Failed, Some(0)));
    edited(&mut run, &format!("{text}watch crowd = count(midge)\n"));
    run.play_to(120);
    assert_eq!(outcomes(&run)[0], (Outcome::Failed, Some(0)));
}

#[rstest]
#[case::in_its_second_line("<= 1", "<= 9", Outcome::Held)]
#[case::behind_it("<= 1", "<= 1 // two are too many", Outcome::Failed)]
fn an_expectation_of_two_lines_is_the_same_if_both_are(
    #[case] was: &str,
    #[case] now: &str,
    #[case] outcome: Outcome,
) {
    let text =
        TEXT.replace("\"few\": always count(midge) <= 2", "\"few\":\n    always born(midge) <= 1");
    let mut run = run(&text);
    run.play_to(100);
    assert_eq!(outcomes(&run)[0], (Outcome::Failed, Some(0)));
    // One more watch, so that the second edit, too, is one of meaning.
    edited(&mut run, &format!("{}watch crowd = count(midge)\n", text.replace(was, now)));
    run.step();
    assert_eq!(outcomes(&run)[0].0, outcome);
}
