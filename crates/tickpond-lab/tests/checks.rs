//! Every form of an expectation: held, failed or untried, and in which tick.

use crate::common::{program, run};
use rstest::rstest;
use tickpond_lab::{Outcome, Report, Run, RunOptions};

/// A pond of which the counts are known: a fly is born on every 20th tick, lives 50 ticks, and is hurt
/// once, 10 ticks after its birth.
const FLIES: &str = "message buzz\ninput go = key g\nkind fly { health 5; states { young, old }\n\
    after 10 ticks { damage self by 1; send buzz to pond }\n    after 30 ticks { become old }\n\
    after 50 ticks { end self because \"spent\" } }\n\
    kind moth { look \"m\" }\non buzz { seen += 1 }\nvars { seen = 0 }\n\
    every 20 ticks { spawn fly at (1, 1) }\nwatch flies = count(fly)\n";

/// What came of one expectation after so many ticks.
fn judged(check: &str, ticks: u64) -> (Outcome, Option<u64>) {
    let text = format!("pond \"t\" {{ arena 100 x 100 }}\n{FLIES}expect \"it\": {check}");
    let mut run = run(&text);
    run.play_to(ticks);
    run.close();
    (run.verdicts()[0].outcome(), run.verdicts()[0].failed)
}

use Outcome::{Failed, Held, Untried};

// One is born at 20, 40, 60, 80, …; each ends 50 ticks later: from 70 on two or three live.
#[rstest]
#[case::at_most("always count(fly) <= 3", Held, None)]
#[case::too_many("always count(fly) <= 2", Failed, Some(60))]
#[case::watch("always flies <= 2", Failed, Some(60))]
#[case::never("never count(fly) == 3", Failed, Some(60))]
#[case::never_so_many("never count(fly) > 3", Held, None)]
#[case::variable("always seen <= 2", Failed, Some(70))]
#[case::born("always born(fly) <= 4", Failed, Some(100))]
#[case::ended("always ended(fly) == 0", Failed, Some(70))]
#[case::ended_by("always ended(fly by damage) == 0", Held, None)]
#[case::ended_by_and_words("always ended(fly by timer because \"spent\") <= 1", Failed, Some(90))]
#[case::ended_by_other_words("always ended(fly because \"lost\") == 0", Held, None)]
#[case::peak("always peak(fly) <= 2", Failed, Some(60))]
#[case::sent("always sent(buzz) <= 1", Failed, Some(50))]
#[case::heard("always heard(buzz) <= 1", Failed, Some(50))]
#[case::unheard("always unheard(buzz) == 0", Held, None)]
#[case::by_state("always count(fly where state == old) == 0", Failed, Some(50))]
#[case::by_health("always count(fly where health < 5) == 0", Failed, Some(30))]
#[case::a_mean("always mean(fly.health) >= 4.2 or count(fly) == 0", Failed, Some(30))]
#[case::a_mean_of_two(
    "from 40 ticks on, always mean(fly.health) >= 4.2 or count(fly) == 0",
    Failed,
    Some(50)
)]
#[case::a_sum("always sum(fly.health) <= 10", Failed, Some(60))]
#[case::the_least("always min(fly.health) > 4 or count(fly) == 0", Failed, Some(30))]
#[case::the_largest("always max(fly.health) <= 5", Held, None)]
#[case::a_named_one("always fly#1.health == 5 or fly#1 is gone", Failed, Some(30))]
#[case::about("always count(fly) == 2 +- 2", Held, None)]
#[case::about_too_narrow("from 70 ticks on, always count(fly) == 2.4 +- 0.5", Failed, Some(80))]
fn what_holds_always(#[case] check: &str, #[case] outcome: Outcome, #[case] tick: Option<u64>) {
    assert_eq!(judged(check, 200), (outcome, tick), "{check}");
}

#[rstest]
#[case::at("at 45 ticks, count(fly) == 2", 200, Held, None)]
#[case::at_wrong("at 45 ticks, count(fly) == 3", 200, Failed, Some(45))]
#[case::at_not_yet("at 45 ticks, count(fly) == 3", 40, Untried, None)]
#[case::at_the_opening("at 0 s, count(fly) == 0", 10, Held, None)]
#[case::by("by 45 ticks, count(fly) == 2", 200, Held, None)]
#[case::by_met_and_over_again("by 45 ticks, count(fly) == 1", 200, Held, None)]
#[case::by_just("by 40 ticks, count(fly) == 2", 200, Held, None)]
#[case::by_missed("by 39 ticks, count(fly) == 2", 200, Failed, Some(39))]
#[case::by_not_over("by 100 ticks, count(moth) == 2", 60, Untried, None)]
#[case::from_to("from 45 ticks to 55 ticks, always count(fly) == 2", 200, Held, None)]
#[case::from_to_too_long(
    "from 45 ticks to 65 ticks, always count(fly) == 2",
    200,
    Failed,
    Some(60)
)]
#[case::from_to_not_reached(
    "from 300 ticks to 310 ticks, always count(fly) == 9",
    200,
    Untried,
    None
)]
#[case::from_on("from 60 ticks on, always count(fly) >= 2", 200, Held, None)]
#[case::from_on_failed("from 60 ticks on, always count(fly) == 3", 200, Failed, Some(70))]
#[case::in_the_end("in the end always count(fly) == 3", 200, Held, None)]
#[case::in_the_end_not("in the end always count(fly) == 3", 195, Failed, Some(195))]
fn what_holds_at_a_time(
    #[case] check: &str,
    #[case] ticks: u64,
    #[case] outcome: Outcome,
    #[case] tick: Option<u64>,
) {
    assert_eq!(judged(check, ticks), (outcome, tick), "{check}");
}

#[rstest]
#[case::within("after fly born, within 20 ticks, count(fly) >= 2", Held)]
#[case::within_too_short("after fly born, within 5 ticks, count(fly) >= 2", Failed)]
#[case::within_a_span("after fly born, within 8 ticks .. 12 ticks, seen >= 1", Held)]
#[case::within_a_span_too_early(
    "after fly born, within 2 ticks .. 8 ticks, count(fly where health < 5 and age < 12 ticks) >= 1",
    Failed
)]
#[case::held_for("after fly ends, for 9 ticks, count(fly) == 2", Held)]
#[case::held_too_long("after fly ends, for 12 ticks, count(fly) == 2", Failed)]
#[case::hurt("after fly hurt, within 1 ticks, count(fly where health < 5) >= 1", Held)]
#[case::ends_by("after fly ends by timer, within 1 s, count(fly) == 3", Held)]
#[case::ends_by_nothing_that_was("after fly ends by damage, within 1 s, count(fly) == 99", Untried)]
#[case::sent("after buzz sent, within 0 s, seen >= 1", Held)]
#[case::heard("after buzz heard, within 0 s, seen >= 1", Held)]
#[case::turned_and_stays_so("after count(fly) >= 1, within 20 ticks, count(fly) == 1", Held)]
#[case::so_from_the_opening_on("after count(fly) == 0, within 19 ticks, count(fly) == 9", Failed)]
#[case::no_more_so("after count(fly) == 0, for 19 ticks, count(fly) == 0", Held)]
#[case::turning_true("after count(fly) == 2, within 20 ticks, count(fly) == 3", Held)]
#[case::turning_true_in_vain("after count(fly) == 2, within 5 ticks, count(fly) == 3", Failed)]
#[case::never_an_occasion("after moth born, within 1 s, count(moth) == 99", Untried)]
#[case::no_key("after press go, within 1 s, count(fly) == 99", Untried)]
fn what_follows_an_event(#[case] check: &str, #[case] outcome: Outcome) {
    assert_eq!(judged(check, 200).0, outcome, "{check}");
}

#[rstest]
#[case::at_most("each fly lives at most 50 ticks", Held)]
#[case::at_most_too_short("each fly lives at most 49 ticks", Failed)]
#[case::at_least("each fly lives at least 50 ticks", Held)]
#[case::at_least_too_long("each fly lives at least 51 ticks", Failed)]
#[case::by_causes("each fly ends by timer or damage", Held)]
#[case::by_another_cause("each fly ends by damage or edge", Failed)]
#[case::hurt_at_most("each fly is hurt at most 1 times", Held)]
#[case::hurt_too_often("each fly is hurt at most 0 times", Failed)]
#[case::of_nobody("each moth lives at most 1 ticks", Untried)]
#[case::of_some_at_birth("each fly where health == 5 lives at most 50 ticks", Held)]
#[case::of_none_at_birth("each fly where health < 5 lives at most 50 ticks", Untried)]
fn what_holds_for_each(#[case] check: &str, #[case] outcome: Outcome) {
    assert_eq!(judged(check, 200).0, outcome, "{check}");
}

#[rstest]
fn one_that_lives_too_long_fails_while_it_lives() {
    // Not only as it ends: the last never does.
    let text = "pond \"t\" { arena 9 x 9 }\nkind a { look \"a\" }\nplace a at (1, 1)\n\
        expect \"it\": each a lives at most 1 s";
    let mut run = run(text);
    run.play_to(100);
    assert_eq!(run.verdicts()[0].outcome(), Failed);
    assert_eq!(run.verdicts()[0].failed, Some(61));
}

#[rstest]
fn a_verdict_is_that_of_the_tick_one_looks_at() {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100 }}\n{FLIES}expect \"a\": always count(fly) <= 2\n\
         expect \"b\": by 45 ticks, count(fly) == 2"
    );
    let mut run = run(&text);
    run.play_to(150);
    let outcomes =
        |run: &Run| -> Vec<Outcome> { run.verdicts().iter().map(|v| v.outcome()).collect() };
    let newest = outcomes(&run);
    assert_eq!(newest, [Failed, Held]);
    for (tick, wanted) in [(10, Untried), (41, Held), (59, Held)] {
        run.seek(tick);
        assert_eq!(outcomes(&run)[1], wanted, "tick {tick}");
        assert_ne!(outcomes(&run)[0], Failed, "tick {tick}");
    }
    run.seek(60);
    assert_eq!(outcomes(&run)[0], Failed);
    run.seek(150);
    assert_eq!(outcomes(&run), newest);
}

#[rstest]
fn an_expectation_on_a_tape_is_judged_on_that_tape_alone() {
    let text = "pond \"t\" { arena 9 x 9 }\ninput go = key g\nkind a { look \"a\" }\n\
        on press go { spawn a at (1, 1) }\ntape \"two\" { at 10 ticks tap go; at 20 ticks tap go }\n\
        expect \"on it\" on tape \"two\": in the end always count(a) == 2\n\
        expect \"without\": in the end always count(a) == 0";
    let program = program(text);
    let mut plain = Run::new(program.clone(), RunOptions::default()).unwrap();
    plain.play_to(60);
    plain.close();
    let plain = Report::of(&plain);
    let held = |report: &Report, text: &str| {
        report.expectations.iter().find(|e| e.text == text).map(|e| e.held)
    };
    assert_eq!(held(&plain, "without"), Some(Some(true)));
    assert_ne!(held(&plain, "on it"), Some(Some(false)));
    let options =
        RunOptions { tape: tickpond_lab::TapeChoice::Named("two".into()), ..RunOptions::default() };
    let mut taped = Run::new(program, options).unwrap();
    taped.play_to(60);
    taped.close();
    assert_eq!(held(&Report::of(&taped), "on it"), Some(Some(true)));
}

#[rstest]
#[case(1)]
#[case(7)]
#[case(99)]
fn looking_to_and_fro_changes_no_verdict(#[case] seed: u64) {
    let options = RunOptions { seed, ..RunOptions::default() };
    let mut straight = Run::new(program(crate::common::DUSK), options.clone()).unwrap();
    straight.play_to(900);
    let mut wandering = Run::new(program(crate::common::DUSK), options).unwrap();
    for tick in [300, 20, 500, 499, 0, 900, 450, 900] {
        wandering.seek(tick.min(wandering.head()));
        wandering.play_to(tick);
    }
    wandering.play_to(900);
    let told = |run: &Run| -> Vec<(Outcome, Option<u64>)> {
        run.verdicts().iter().map(|v| (v.outcome(), v.failed)).collect()
    };
    assert_eq!(told(&wandering), told(&straight));
    assert_eq!(wandering.state().digest(), straight.state().digest());
}

#[rstest]
#[case::sent_to_one_who_does_not_hear("after lost sent, within 0 s, count(frog) == 9", Failed)]
#[case::never_heard("after lost heard, within 0 s, count(frog) == 9", Untried)]
#[case::put_off_to_the_next_tick("after late sent, within 0 s, heard(late) == 1", Failed)]
#[case::heard_then("after late heard, within 0 s, heard(late) == 1", Held)]
fn sent_is_not_yet_heard(#[case] check: &str, #[case] outcome: Outcome) {
    let text = format!(
        "pond \"t\" {{ arena 9 x 9 }}\nmessage lost\nmessage late\n\
         kind frog {{ after 1 s {{ send lost to self }}; after 2 s {{ end self }}; on end {{ send late to each toad }} }}\n\
         kind toad {{ after 9 s {{ end self }}; on late {{ }} }}\n\
         place frog at (1, 1)\nplace toad at (2, 2)\nexpect \"it\": {check}"
    );
    let mut run = run(&text);
    run.play_to(300);
    run.close();
    assert_eq!(run.verdicts()[0].outcome(), outcome, "{check}");
}
