//! States: which handlers run, timed states, tracks beside one another, behaviours.

use crate::common::{Play, pond};
use rstest::rstest;
use tickpond_sim::What;

fn one(parts: &str) -> Play {
    pond(&format!("message poke\nplace a at (50, 50)\nkind a {{\n {parts}\n}}"))
}

/// The ticks in which an `a` became something, and what.
fn becomes(play: &Play) -> Vec<(u64, String)> {
    let became = play.events.iter().filter(|e| e.what == What::Became);
    became.map(|e| (e.tick, e.words.as_deref().unwrap_or("").to_string())).collect()
}

fn named(list: &[(u64, &str)]) -> Vec<(u64, String)> {
    list.iter().map(|(tick, name)| (*tick, name.to_string())).collect()
}

#[rstest]
#[case::untimed("after 10 ticks { become up }", &[(10, "up")])]
#[case::timed("after 10 ticks { become up for 5 ticks }", &[(10, "up"), (15, "low")])]
#[case::timed_under_a_tick("after 10 ticks { become up for 0 s }", &[(10, "up"), (11, "low")])]
#[case::again_restarts("after 10 ticks { become up for 8 ticks }\n after 15 ticks { become up for 8 ticks }", &[(10, "up"), (23, "low")])]
#[case::another_cancels("after 10 ticks { become up for 8 ticks }\n after 15 ticks { become mid }", &[(10, "up"), (15, "mid")])]
#[case::back_to_the_last_untimed("after 5 ticks { become mid }\n after 10 ticks { become up for 5 ticks }", &[(5, "mid"), (10, "up"), (15, "mid")])]
#[case::timed_over_timed("after 10 ticks { become up for 9 ticks }\n after 12 ticks { become mid for 3 ticks }", &[(10, "up"), (12, "mid"), (15, "low")])]
#[case::where_one_is_already("after 10 ticks { become low }", &[])]
#[case::untimed_stops_the_time("after 10 ticks { become up for 9 ticks }\n after 12 ticks { become up }", &[(10, "up")])]
fn a_state_begins_and_ends_when_it_is_said_to(
    #[case] handlers: &str,
    #[case] wanted: &[(u64, &str)],
) {
    let mut play = one(&format!("states {{ low, mid, up }}\n {handlers}"));
    play.ticks(60);
    assert_eq!(becomes(&play), named(wanted));
}

#[rstest]
fn the_first_named_is_where_one_begins_and_its_handlers_run() {
    let mut play =
        one("states { first, second }\n in state first { every 4 ticks { say \"1\" } }\n\
         in state second { every 4 ticks { say \"2\" } }\n after 9 ticks { become second }");
    play.ticks(20);
    // In the first at 4 and 8; the clock of the second counts from tick 9.
    assert_eq!(play.said(), ["1", "1", "2", "2"]);
    let ticks: Vec<u64> =
        play.events.iter().filter(|e| e.what == What::Said).map(|e| e.tick).collect();
    assert_eq!(ticks, [4, 8, 13, 17]);
}

#[rstest]
fn becoming_changes_which_handlers_run_from_the_next_phase() {
    // Both think: the one that becomes does not set off the other in the same phase.
    let mut play = one("states { calm, wild }\n in state calm { every tick { become wild } }\n\
         in state wild { every tick { say \"wild {age}\" } }");
    play.ticks(3);
    let ticks: Vec<u64> =
        play.events.iter().filter(|e| e.what == What::Said).map(|e| e.tick).collect();
    assert_eq!(ticks, [2, 3]);
}

#[rstest]
fn becoming_and_quitting_are_told_once_each() {
    let mut play = one("states { shut, open }\n every 10 ticks { become open for 3 ticks }\n\
         on becoming open { say \"opens\" }\n on quitting open { say \"shuts\" }\n\
         on becoming shut { say \"shut\" }");
    play.ticks(24);
    // It is shut from its birth.
    assert_eq!(play.said(), ["shut", "opens", "shut", "shuts", "opens", "shut", "shuts"]);
}

#[rstest]
fn quitting_is_told_though_it_is_in_the_other_state_already() {
    let mut play = one(
        "states { one, two }\n in state one { on quitting one { say \"left {state == two}\" } }\n\
         after 5 ticks { become two }",
    );
    play.ticks(10);
    assert_eq!(play.said(), ["left true"]);
}

#[rstest]
#[case::clocks("in state one { every 4 ticks { say \"x\" } }", 1)]
#[case::when("in state one { when age > 3 ticks { say \"x\" } }", 2)]
#[case::waits("in state one { on becoming one { wait 4 ticks; say \"x\" } }", 1)]
#[case::messages("in state one { on poke { say \"x\" } }\n every 3 ticks { send poke to self }", 3)]
fn leaving_a_state_drops_what_was_under_way(#[case] handler: &str, #[case] wanted: usize) {
    // In `one` for 7 ticks, away for 3, and back for 3.
    let mut play = one(&format!(
        "states {{ one, two }}\n {handler}\n after 7 ticks {{ become two for 3 ticks }}"
    ));
    play.ticks(13);
    assert_eq!(play.said().len(), wanted, "{handler}");
}

#[rstest]
fn tracks_of_a_kind_and_its_behaviours_do_not_mix() {
    let mut play = pond(
        "behavior blinks(span: time = 3 ticks) {\n states { dark, lit }\n on hurt { become lit for span } }\n\
         behavior hides {\n states { seen, hidden }\n every 10 ticks { become hidden for 5 ticks } }\n\
         kind a {\n health 9; uses blinks(4 ticks); uses hides\n states { idle, busy }\n\
         after 12 ticks { become busy; damage self by 1 }\n\
         every tick { if blinks.state == lit and hides.state == hidden and state == busy { say \"all\" } } }\n\
         place a at (1, 1)",
    );
    play.ticks(29);
    let ticks: Vec<u64> =
        play.events.iter().filter(|e| e.what == What::Said).map(|e| e.tick).collect();
    // Hurt in the settle phase of 12, lit from then to 16; hidden from 10 to 15.
    assert_eq!(ticks, [13, 14]);
    let seen: Vec<(u64, String)> = becomes(&play);
    assert_eq!(
        seen,
        named(&[
            (10, "hidden"),
            (12, "busy"),
            (12, "lit"),
            (15, "seen"),
            (16, "dark"),
            (20, "hidden"),
            (25, "seen")
        ])
    );
}

#[rstest]
fn states_of_others_are_asked_for_and_counted() {
    let mut play = pond(
        "kind a { states { low, high }; vars { when_up = 0 s }\n\
         every tick { if age > when_up and state == low { become high } } }\n\
         kind b { every 10 ticks { say \"{count(a where state == high)} of {count(a)}\" } }\n\
         place a at (1, 1) { when_up = 5 ticks }\nplace a at (2, 1) { when_up = 15 ticks }\n\
         place a at (3, 1) { when_up = 25 ticks }\nplace b at (9, 9)",
    );
    play.ticks(30);
    assert_eq!(play.said(), ["1 of 3", "2 of 3", "3 of 3"]);
    let a = play.program().kind_named("a").unwrap();
    assert_eq!((play.state.in_state(a, 0, 0), play.state.in_state(a, 0, 1)), (0, 3));
}

#[rstest]
fn a_behavior_on_two_kinds_has_its_own_parameters_for_each() {
    let mut play = pond(
        "behavior ticks_along(gap: time, words: number = 1) { every gap { say \"{name} {words}\" } }\n\
         kind a { uses ticks_along(10 ticks) }\nkind b { uses ticks_along(15 ticks, 2) }\n\
         place a at (1, 1)\nplace b at (2, 2)",
    );
    play.ticks(31);
    assert_eq!(play.said(), ["a#1 1", "b#1 2", "a#1 1", "a#1 1", "b#1 2"]);
}

#[rstest]
fn behaviours_may_use_what_the_kind_has() {
    let mut play = pond(
        "behavior counts { every 5 ticks { score += 2 } }\n\
         kind a { vars { score = 1 }; uses counts; after 12 ticks { say \"{score}\" } }\nplace a at (1, 1)",
    );
    assert_eq!(play.ticks(13).said(), ["5"]);
}

#[rstest]
#[case::true_later("when n > 2 { say \"x\" }", &[4])]
#[case::true_at_birth("when n >= 0 { say \"x\" }", &[1])]
#[case::again_after_it_was_false("when n == 3 or n == 6 { say \"x\" }", &[4, 7])]
#[case::never("when n > 90 { say \"x\" }", &[])]
fn a_condition_fires_as_it_turns_true(#[case] handler: &str, #[case] wanted: &[u64]) {
    let mut play = one(&format!("vars {{ n = 0 }}\n every tick {{ n += 1 }}\n {handler}"));
    play.ticks(12);
    let ticks: Vec<u64> =
        play.events.iter().filter(|e| e.what == What::Said).map(|e| e.tick).collect();
    // What thinks in a tick sees what was so at its beginning.
    assert_eq!(ticks, wanted);
}

// Rest.

/// Everybody's names who are active.
fn awake(play: &Play) -> Vec<String> {
    let mut names = Vec::new();
    for (kind, columns) in play.program().kinds.iter().zip(&play.state.kinds).skip(1) {
        for row in (0..columns.len()).filter(|row| columns.is_active(*row)) {
            names.push(format!("{}#{}", kind.name, columns.number[row]));
        }
    }
    names
}

#[rstest]
#[case::one("deactivate nearest(a)", &["a#2", "b#1", "c#1"])]
#[case::oneself("deactivate self", &["a#1", "a#2", "b#1"])]
#[case::a_kind("deactivate each a", &["b#1", "c#1"])]
#[case::a_tag("deactivate each small", &["c#1"])]
#[case::some("deactivate each a where n > 1", &["a#1", "b#1", "c#1"])]
#[case::within("deactivate each small within 15 u", &["a#2", "b#1", "c#1"])]
fn rest_comes_to_whom_it_is_for(#[case] statement: &str, #[case] wanted: &[&str]) {
    let mut play = pond(&format!(
        "kind a {{ tag small; vars {{ n = 1 }} }}\nkind b {{ tag small; look \"b\" }}\n\
         kind c {{ after 5 ticks {{ {statement} }} }}\n\
         place a at (20, 10)\nplace a at (60, 10) {{ n = 2 }}\nplace b at (90, 10)\nplace c at (10, 10)"
    ));
    play.ticks(6);
    assert_eq!(awake(&play), wanted);
}

#[rstest]
fn a_sleeper_takes_no_part_and_keeps_what_it_has() {
    let mut play = pond(
        "message hail\n\
         kind a { body circle 1 u, sensor; health 5; vars { n = 7 }\n\
         on birth { vel = (6, 0) u/s }; every 2 ticks { n += 1 }; after 2 s { end self }\n\
         on touch b { say \"touch\" }; on hail { say \"mail\" }; on hurt { say \"hurt\" } }\n\
         kind b { body circle 1 u, sensor\n\
         every 3 ticks { damage each a by 1; push nearest(a) by (9, 9) u/s; send hail to each a } }\n\
         place a at (20, 50), inactive\nplace b at (21, 50)",
    );
    play.ticks(150);
    assert_eq!(play.said(), Vec::<String>::new());
    let c = play.columns("a");
    assert_eq!((c.len(), c.x[0], c.health[0], f64::from_bits(c.vars[0][0])), (1, 20.0, 5.0, 7.0));
    assert_eq!(c.age(0, play.state.tick), 0);
    // It is counted, and can be ended.
    let a = play.program().kind_named("a").unwrap();
    assert_eq!(play.state.count(a), 1);
    assert!(play.happened(What::Unheard) > 0);
}

#[rstest]
fn one_is_woken_by_the_mail_it_asks_for_and_goes_on_where_it_was() {
    let mut play = pond(
        "message rise\n\
         kind a { on rise while inactive { activate self }; every 10 ticks { say \"{age}\" } }\n\
         kind b { after 25 ticks { send rise to each a } }\n\
         place a at (1, 1)\nplace b at (9, 9)\nafter 4 ticks { deactivate each a }",
    );
    play.ticks(50);
    // It slept from tick 4 to 25, and its clock stood still with its age.
    let said: Vec<(u64, String)> = play
        .events
        .iter()
        .filter(|e| e.what == What::Said)
        .map(|e| (e.tick, e.words.as_deref().unwrap().to_string()))
        .collect();
    assert_eq!(said.len(), 2, "{said:?}");
    assert_eq!(said[1].0 - said[0].0, 10);
    assert!(said[0].0 > 25 && said[0].0 <= 35, "{said:?}");
}

#[rstest]
fn what_is_asleep_is_ended_all_the_same() {
    let mut play = pond(
        "kind a { on end { say \"gone\" } }\nplace a at (1, 1), inactive\nafter 9 ticks { end each a }",
    );
    play.ticks(12);
    assert_eq!((play.count("a"), play.said()), (0, vec!["gone".to_string()]));
}

#[rstest]
fn falling_asleep_and_waking_are_on_record_once() {
    let mut play = pond(
        "kind a { look \"a\" }\nplace a at (1, 1)\n\
         after 5 ticks { deactivate each a }\nafter 6 ticks { deactivate each a }\n\
         after 9 ticks { activate each a }\nafter 12 ticks { activate each a }",
    );
    play.ticks(20);
    assert_eq!((play.happened(What::Deactivated), play.happened(What::Activated)), (1, 1));
}
