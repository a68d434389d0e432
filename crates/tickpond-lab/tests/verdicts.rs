//! What a verdict tells: what was seen, of whom; and that nothing holds about nobody.

use crate::common::program;
use rstest::rstest;
use tickpond_lab::{Edited, Outcome, Played, Player, Run, RunOptions, Verdict};

/// Two, of which one ends after 2 s, played for 5 s.
fn judged(check: &str) -> Verdict {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100; rate 10 per s }}\n\
         kind a {{ health 5; vars {{ n = 1 }}; after 2 s {{ if self == a#1 {{ end self }} }} after 1 s {{ damage self by 1; n = 2 }} after 3 s {{ damage self by 1 }} }}\n\
         place a at (3, 4)\nplace a at (20, 5)\nvars {{ zero = 0 }}\nexpect \"it\": {check}"
    );
    let mut player = Player::new(program(&text), &RunOptions::default()).unwrap();
    assert!(player.play_to(50, &mut []).unwrap());
    player.close();
    player.verdicts()[0].clone()
}

#[rstest]
#[case::not_equal("at 1 s, born(a) == 4", "born(a) was 2, not 4")]
#[case::over("always count(a) <= 1", "count(a) was 2 (`count(a) <= 1`)")]
#[case::written_first("always 1 >= count(a)", "count(a) was 2 (`1 >= count(a)`)")]
#[case::two_values("always count(a) < born(a)", "count(a) was 2 and born(a) was 2")]
#[case::with_a_unit("at 1 s, a#2.pos.x < 4 u", "a#2.pos.x was 20 u (`a#2.pos.x < 4 u`)")]
#[case::a_pair("at 1 s, a#2.pos == (1, 1)", "a#2.pos was (20, 5) u, not (1, 1) u")]
#[case::the_first_part("always count(a) == 3 and born(a) == 2", "count(a) was 2, not 3")]
#[case::the_second_part("always born(a) == 2 and count(a) == 3", "count(a) was 2, not 3")]
#[case::both_parts(
    "always born(a) == 9 and count(a) == 3",
    "born(a) was 2, not 9; count(a) was 2, not 3"
)]
#[case::neither_of_two(
    "always born(a) == 9 or count(a) == 3",
    "born(a) was 2, not 9; count(a) was 2, not 3"
)]
#[case::what_must_not_be("never count(a) == 2", "count(a) was 2 (`count(a) == 2`)")]
#[case::not_so("always not count(a) == 2", "count(a) was 2 (`count(a) == 2`)")]
#[case::a_plain_condition("at 4 s, a#1 is alive", "`a#1 is alive` does not hold")]
#[case::one_that_is_gone("at 4 s, a#2 is gone", "`a#2 is gone` does not hold")]
#[case::one_that_is_not_gone("at 4 s, not (a#1 is gone)", "`a#1 is gone` holds")]
#[case::nearly("at 1 s, count(a) == 5 +- 1", "count(a) was 2 (`count(a) == 5 +- 1`)")]
#[case::not_nearly("at 1 s, count(a) != 3 +- 1", "count(a) was 2 (`count(a) != 3 +- 1`)")]
#[case::never_nearly("never count(a) != 5 +- 1", "count(a) was 2 (`count(a) != 5 +- 1`)")]
#[case::in_the_end("in the end always count(a) == 2", "count(a) was 1, not 2")]
#[case::not_by_then("by 1 s, count(a) == 1", "count(a) was 2, not 1")]
#[case::after_something("after a ends, within 0.5 s, born(a) == 3", "born(a) was 2, not 3")]
#[case::throughout("after a ends, for 0.5 s, born(a) == 3", "born(a) was 2, not 3")]
#[case::a_life_too_long("each a lives at most 1 s", "a#1 lives, 1.10 s old")]
#[case::a_life_too_short("each a lives at least 3 s", "a#1 lived 2.00 s (line 2)")]
#[case::another_end("each a ends by damage", "a#1 ended by timer (line 2)")]
#[case::hurt_too_often("each a is hurt at most 1 times", "a#2 was hurt 2 times (line 2)")]
#[case::no_number("always 1 / zero > 3", "a value in it is no finite number")]
#[case::no_number_never("never 1 / zero > 3", "a value in it is no finite number")]
fn a_failure_tells_what_it_saw(#[case] check: &str, #[case] saw: &str) {
    let verdict = judged(check);
    assert_eq!(verdict.outcome(), Outcome::Failed, "{check}");
    assert_eq!(verdict.saw.as_deref(), Some(saw), "{check}");
}

#[rstest]
#[case::never_born("always a#7.health < 4", Outcome::Untried)]
#[case::never_born_never("never a#7.health > 4", Outcome::Untried)]
#[case::never_born_then("at 1 s, a#7.n == 0", Outcome::Untried)]
#[case::gone_by_then("at 4 s, a#1.n == 0", Outcome::Untried)]
#[case::there_at_times("always a#1.n >= 1", Outcome::Held)]
#[case::asked_whether_it_is_there("at 4 s, a#1 is gone", Outcome::Held)]
#[case::one_way_or_the_other("always a#1 is gone or a#1.n >= 1", Outcome::Held)]
#[case::what_decides_without_it("always count(a) == 9 and a#7.n == 0", Outcome::Failed)]
#[case::what_holds_without_it("always count(a) > 0 or a#7.n == 5", Outcome::Held)]
fn nothing_holds_about_nobody(#[case] check: &str, #[case] outcome: Outcome) {
    assert_eq!(judged(check).outcome(), outcome, "{check}");
}

#[rstest]
#[case::whole("after a ends, for 3 s, count(a) == 1", Outcome::Held)]
#[case::cut_off("after a ends, for 3.1 s, count(a) == 1", Outcome::Untried)]
#[case::cut_off_and_broken("after a ends, for 9 s, count(a) == 2", Outcome::Failed)]
#[case::within("after a ends, within 3.1 s, count(a) == 0", Outcome::Untried)]
#[case::within_failed("after a ends, within 3 s, count(a) == 0", Outcome::Failed)]
#[case::within_a_span("after a ends, within 1 s .. 2 s, count(a) == 1", Outcome::Held)]
#[case::again_and_again("after a hurt, for 1.5 s, born(a) == 2", Outcome::Held)]
#[case::the_last_is_cut_off("after a hurt, for 2.5 s, born(a) == 2", Outcome::Held)]
#[case::the_lower_bound("after a ends, within 0.2 s .. 0.3 s, count(a) == 1", Outcome::Held)]
fn a_span_that_the_end_cuts_off_is_untried(#[case] check: &str, #[case] outcome: Outcome) {
    assert_eq!(judged(check).outcome(), outcome, "{check}");
}

/// Before the lower bound it need not hold, nor does it count if it does.
#[rstest]
fn within_begins_at_its_lower_bound() {
    assert_eq!(
        judged("after a hurt, within 0.5 s .. 0.6 s, a#2.age < 1.2 s").outcome(),
        Outcome::Failed
    );
    assert_eq!(
        judged("after a hurt, within 0.1 s .. 0.6 s, a#2.age < 1.2 s or a#2.age > 2.9 s").outcome(),
        Outcome::Held
    );
}

#[rstest]
fn an_expectation_on_a_tape_that_is_added_in_mid_run_waits_for_that_tape() {
    let text = "pond \"t\" { arena 10 x 10; rate 10 per s }\ninput fire = key f\nkind a { on press fire { end self } }\nplace a at (1, 1)\n\
                tape \"t\" { at 1 s tap fire }\nexpect \"first\": always count(a) <= 1\n";
    let mut run = Run::new(program(text), RunOptions::default()).unwrap();
    run.play_to(20);
    let more = format!("{text}expect \"second\" on tape \"t\": always count(a) == 0\n");
    assert_eq!(run.edit(program(&more)).unwrap(), Edited::Forked);
    run.play_to(30);
    assert_eq!(run.verdicts().len(), 2);
    assert!(run.verdicts()[0].is_judged() && !run.verdicts()[1].is_judged());
}

/// What is kept of a verdict does not grow with the run.
#[rstest]
#[case("each m where n > 0 lives at most 2 s")]
#[case("each m where n > 0 is hurt at most 9 times")]
#[case("after m born, for 60 s, count(m) < 999")]
#[case("after m born, within 60 s, count(m) > 99")]
#[case("after m born, within 0.1 s .. 60 s, count(m) > 99")]
fn a_verdict_stays_small(#[case] check: &str) {
    let text = format!(
        "pond \"t\" {{ arena 10 x 10; rate 100 per s }}\nkind m {{ health 9; vars {{ n = 1 }}; after 0.1 s {{ damage self by 1 }} after 1 s {{ end self }} }}\n\
         every tick {{ spawn m at (1, 1) }}\nexpect \"it\": {check}"
    );
    let mut run = Run::new(program(&text), RunOptions::default()).unwrap();
    run.play_to(500);
    let judge =
        tickpond_lab::judge::Judge { verdicts: run.verdicts().to_vec(), ..Default::default() };
    assert!(judge.bytes() < 16_000, "{}", judge.bytes());
    assert_ne!(run.verdicts()[0].outcome(), Outcome::Failed);
}

/// A span in which nothing can be said of its end is over all the same: what comes later is none of its business.
#[rstest]
#[case::throughout("after a ends, for 1 s, b#1.n == 0", Outcome::Untried)]
#[case::within("after a ends, within 1 s, b#1.n == 0", Outcome::Untried)]
#[case::gone_before_it_held("after a ends, within 6 s, b#1.n == 0", Outcome::Failed)]
#[case::by_a_time("by 2 s, b#1.n == 0", Outcome::Untried)]
#[case::by_a_time_gone_before_it_held("by 7 s, b#1.n == 0", Outcome::Failed)]
#[case::born_in_time("after a ends, within 4 s, b#1.n == 1", Outcome::Held)]
#[case::in_a_later_stretch_alone("after a ends, within 5 s .. 6 s, b#1.n == 0", Outcome::Untried)]
#[case::born_in_time_and_otherwise("after a ends, for 4 s, b#1.n == 0", Outcome::Failed)]
fn a_span_about_nobody_ends_with_its_last_tick(#[case] check: &str, #[case] outcome: Outcome) {
    let text = format!(
        "pond \"t\" {{ arena 10 x 10; rate 10 per s }}\nkind a {{ after 1 s {{ end self }} }}\nkind b {{ vars {{ n = 1 }}; after 1 s {{ end self }} }}\n\
         place a at (1, 1)\nafter 4 s {{ spawn b at (2, 2) }}\nexpect \"it\": {check}"
    );
    let mut run = Run::new(program(&text), RunOptions::default()).unwrap();
    run.play_to(80);
    run.close();
    assert_eq!(run.verdicts()[0].outcome(), outcome, "{check}");
}
