//! Every way to end: its cause, its words, its line, who did it, and which of several wins.

use crate::common::{Play, pond};
use rstest::rstest;
use tickpond_lang::program::Cause;
use tickpond_sim::What;

/// A frog `a` at (50, 50) with these handlers, and company that can do something to it.
fn with_company(handlers: &str, more: &str) -> Play {
    pond(&format!(
        "zone weir = box (60, 40) size 10 x 20\nmessage stop\ninput go = key g\n\
         kind a {{ body circle 1 u, sensor; health 3\n {handlers}\n}}\n\
         kind shard {{ body circle 0.2 u, sensor }}\n\
         kind b {{ body circle 1 u, sensor; {more} }}\nplace a at (50, 50)\nplace b at (56, 50)"
    ))
}

/// Cause and words of the first end of an `a`.
fn end_of_a(play: &Play) -> Option<(Cause, String)> {
    let a = play.program().kind_named("a").unwrap();
    let end = play.events.iter().find(|e| e.what == What::Ended && e.who.kind == a)?;
    Some((end.cause.unwrap(), end.words.as_deref().unwrap_or("").to_string()))
}

const GOES_RIGHT: &str = "on birth { vel = (30, 0) u/s }\n";

#[rstest]
#[case::after("after 1 s { end self }", "", Cause::Timer)]
#[case::every("every 1 s { end self }", "", Cause::Timer)]
#[case::every_tick("every tick { if age > 1 s { end self } }", "", Cause::Script)]
#[case::when("when age > 1 s { end self }", "", Cause::Script)]
#[case::birth("on birth { end self }", "", Cause::Script)]
#[case::press("on press go { end self }", "", Cause::Script)]
#[case::held("while held go every 1 s { end self }", "", Cause::Script)]
#[case::message("on stop { end self }", "after 1 s { send stop to all }", Cause::Script)]
#[case::hurt("on hurt { end self }", "after 1 s { damage each a by 1 }", Cause::Script)]
#[case::damage("", "after 1 s { damage each a by 3 }", Cause::Damage)]
#[case::by_oneself("after 1 s { damage self by 5 }", "", Cause::Damage)]
#[case::down("on down { end self }", "after 1 s { damage each a by 3 }", Cause::Script)]
#[case::by_another("", "after 1 s { end nearest(a) }", Cause::Timer)]
#[case::each("", "when age > 1 s { end each a }", Cause::Script)]
#[case::replaced("after 1 s { replace self with 2 shard }", "", Cause::Replaced)]
#[case::replaced_in_a_touch(
    "on touch b { replace self with shard }\non birth { vel = (30, 0) u/s }",
    "",
    Cause::Replaced
)]
#[case::in_a_wait("on birth { wait 1 s; end self }", "", Cause::Timer)]
#[case::in_a_routine("routine r { wait until age > 1 s; end self }", "", Cause::Timer)]
#[case::becoming(
    "states { one, two }\nafter 1 s { become two }\non becoming two { end self }",
    "",
    Cause::Script
)]
fn an_end_has_the_cause_of_what_asked_for_it(
    #[case] handlers: &str,
    #[case] more: &str,
    #[case] cause: Cause,
) {
    let mut play = with_company(handlers, more);
    play.key(true);
    play.ticks(70);
    assert_eq!(end_of_a(&play).map(|end| end.0), Some(cause), "{handlers}");
    let a = play.program().kind_named("a").unwrap();
    assert_eq!(play.state.totals[a.index()].ended[cause as usize], 1);
    assert_eq!(play.count("a"), 0);
}

#[rstest]
#[case::touch("on touch b { end self }", Cause::Touch)]
#[case::first_touch("on first touch b { end self }", Cause::Touch)]
#[case::while_touching("while touching b every 0.1 s { end self }", Cause::Touch)]
#[case::part("on part b { end self }", Cause::Touch)]
#[case::impact("on impact over 3 u/s with b { end self }", Cause::Impact)]
#[case::enter("on enter weir { end self }", Cause::Zone)]
#[case::leave("on leave weir { end self }", Cause::Zone)]
#[case::arena("on leave arena { end self }", Cause::Edge)]
#[case::edge("on touch edge { end self }", Cause::Edge)]
#[case::one_edge("on touch edge right { end self }", Cause::Edge)]
#[case::line("on right of x 75 u { end self }", Cause::Line)]
#[case::in_a_wait_of_an_event("on enter weir { wait 0.1 s; end self }", Cause::Zone)]
fn one_that_goes_its_way_ends_by_what_it_meets(#[case] handler: &str, #[case] cause: Cause) {
    let mut play = with_company(&format!("{GOES_RIGHT}{handler}"), "");
    play.ticks(180);
    assert_eq!(end_of_a(&play).map(|end| end.0), Some(cause), "{handler}");
}

#[rstest]
fn thinning_and_owners_have_causes_of_their_own() {
    let mut play = pond(
        "knob most = 5\nkind a { look \"a\" }\nkind hat { look \"h\" }\n\
         spawner bed { makes a at here; every 1 ticks; keep most alive }\nplace bed\n\
         kind b { mount top at (0, 1); on birth { spawn hat at top, attached }; after 10 ticks { end self } }\n\
         place b at (5, 5)",
    );
    play.ticks(30);
    // Now fewer are kept: the oldest are thinned out.
    play.state.knobs[0] = 2.0;
    play.ticks(3);
    let ends = play.ends();
    assert_eq!(ends.iter().filter(|e| e.contains("limit")).count(), 3, "{ends:?}");
    assert_eq!(ends.iter().filter(|e| e.starts_with("hat") && e.contains("owner")).count(), 1);
    let a = play.program().kind_named("a").unwrap();
    let first: Vec<u32> = play
        .events
        .iter()
        .filter(|e| e.what == What::Ended && e.who.kind == a)
        .map(|e| e.who.number)
        .collect();
    assert_eq!(first, [1, 2, 3]);
}

// Which of several wins.

#[rstest]
#[case::clocks_before_contact(
    "after 1 s { end self because \"late\" }",
    "after 1 s { end each a because \"told\" }",
    Cause::Timer
)]
#[case::damage_before_script(
    "on hurt { end self because \"hurt\" }",
    "after 1 s { damage each a by 9 }",
    Cause::Damage
)]
#[case::the_clock_before_the_script(
    "after 1 s { end self because \"clock\" }\nevery tick { if age >= 1 s { end self because \"thought\" } }",
    "",
    Cause::Timer
)]
fn the_earliest_phase_wins_then_the_cause(
    #[case] handlers: &str,
    #[case] more: &str,
    #[case] cause: Cause,
) {
    let mut play = with_company(handlers, more);
    play.ticks(70);
    assert_eq!(end_of_a(&play).map(|end| end.0), Some(cause));
    // One end, and the others are on record.
    let a = play.program().kind_named("a").unwrap();
    let ended = |what| play.events.iter().filter(|e| e.what == what && e.who.kind == a).count();
    assert_eq!(ended(What::Ended), 1);
    assert_eq!(ended(What::Outvoted), 1);
}

#[rstest]
fn of_two_lines_of_one_phase_and_cause_the_roll_decides() {
    // The elder asks first.
    let mut play = pond(
        "kind a { look \"a\" }\n\
         kind b { after 1 s { end each a because \"b\" } }\nkind c { after 1 s { end each a because \"c\" } }\n\
         place a at (1, 1)\nplace c at (2, 2)\nplace b at (3, 3)",
    );
    play.ticks(70);
    assert_eq!(end_of_a(&play).map(|end| end.1), Some("b".into()));
    // Placed by kind: b before c. The other way about it is c.
    let mut play = pond(
        "kind a { look \"a\" }\n\
         kind z { after 1 s { end each a because \"z\" } }\nkind c { after 1 s { end each a because \"c\" } }\n\
         place a at (1, 1)\nplace c at (2, 2)\nplace z at (3, 3)",
    );
    play.ticks(70);
    assert_eq!(end_of_a(&play).map(|end| end.1), Some("c".into()));
}

#[rstest]
fn asking_twice_from_one_line_is_no_vote() {
    let mut play = pond(
        "kind a { look \"a\" }\nkind b { after 1 s { end each a because \"b\" } }\n\
         place a at (1, 1)\nplace b at (2, 2)\nplace b at (3, 3)\nplace b at (4, 4)",
    );
    play.ticks(70);
    assert_eq!(play.happened(What::Ended), 1);
    assert_eq!(play.happened(What::Outvoted), 0);
}

// What comes with an end.

#[rstest]
fn an_end_knows_its_line_its_author_its_age_and_its_place() {
    let mut play = with_company("", "after 30 ticks { end nearest(a) because \"pecked\" }");
    play.ticks(40);
    let end = play.events.iter().find(|e| e.what == What::Ended).unwrap();
    let b = play.program().kind_named("b").unwrap();
    assert_eq!(end.other.map(|who| (who.kind, who.number)), Some((b, 1)));
    assert_eq!(end.words.as_deref(), Some("pecked"));
    assert_eq!((end.tick, end.value), (30, Some(30.0)));
    assert_eq!(end.place, Some((50.0, 50.0)));
    let text = &play.program().text;
    let line = play.program().line_of(end.site.unwrap()) as usize;
    assert!(text.lines().nth(line - 1).unwrap().contains("pecked"));
}

#[rstest]
#[case::to_the_asker("damage each a by 9", "b")]
#[case::to_another("damage each a by 9 credit maker", "pond")]
fn credit_goes_to_whom_it_is_given(#[case] damage: &str, #[case] wanted: &str) {
    let mut play = pond(&format!(
        "kind a {{ health 3 }}\nkind b {{ after 5 ticks {{ {damage} }} }}\n\
         place a at (1, 1)\nafter 1 ticks {{ spawn b at (5, 5) }}"
    ));
    play.ticks(20);
    let end = play.events.iter().find(|e| e.what == What::Ended).unwrap();
    let by = end.other.unwrap().kind;
    let name = if by.index() == 0 { "pond" } else { &play.program().kinds[by.index()].name };
    assert_eq!(name, wanted);
}

#[rstest]
fn until_the_ends_phase_one_that_was_asked_to_end_is_wholly_there() {
    // Asked to end in clocks, it still moves, is touched and hears mail in that tick.
    let mut play = pond(
        "message hail\n\
         kind a { body circle 1 u, sensor; on birth { vel = (60, 0) u/s }\n\
         after 30 ticks { end self }; on hail { say \"heard in {age}\" } }\n\
         kind b { body circle 1 u, sensor; on touch a { say \"touched\"; send hail to each a } }\n\
         place a at (19.1, 50)\nplace b at (51, 50)",
    );
    // In its last tick it comes to 49.1, from where it touches.
    play.ticks(29);
    assert_eq!(play.said(), Vec::<String>::new());
    play.ticks(1);
    assert_eq!(play.count("a"), 0);
    assert_eq!(play.said(), ["touched", "heard in 0.5 s"]);
}

#[rstest]
fn an_end_in_on_end_is_for_the_next_tick() {
    let mut play = pond(
        "kind a { after 10 ticks { end self }; on end { end each b because \"with a\" } }\n\
         kind b { look \"b\" }\nplace a at (1, 1)\nplace b at (5, 5)",
    );
    play.ticks(20);
    let ticks: Vec<u64> =
        play.events.iter().filter(|e| e.what == What::Ended).map(|e| e.tick).collect();
    assert_eq!(ticks, [10, 11]);
}

#[rstest]
fn the_ending_path_runs_once_whoever_asked_and_counts_no_more() {
    let mut play = pond(
        "kind a { health 2; after 10 ticks { end self; damage self by 5 }\n\
         on end { say \"{count(a)} left\" } }\nplace a at (1, 1)\nplace a at (5, 5)",
    );
    play.ticks(20);
    // Both end in the same tick: as ends begins, neither is counted.
    assert_eq!(play.said(), ["0 left", "0 left"]);
}

#[rstest]
fn pieces_keep_place_facing_and_velocity() {
    let mut play = pond(
        "kind pod { body circle 1 u, sensor; on birth { heading = 30 deg; vel = (6, 2) u/s }\n\
         after 10 ticks { replace self with 3 shard, keeping velocity } }\n\
         kind shard { look \"s\" }\nplace pod at (20, 20)",
    );
    play.ticks(12);
    let shards = play.columns("shard");
    assert_eq!(shards.len(), 3);
    for row in 0..3 {
        assert!((shards.vx[row] - 6.0).abs() < 1e-9 && (shards.vy[row] - 2.0).abs() < 1e-9);
        assert!((shards.heading[row] - 30.0).abs() < 1e-9);
        // Where the pod was in its last tick, and one move on.
        assert!((shards.x[row] - (20.0 + 12.0 * 0.1)).abs() < 1e-9, "{}", shards.x[row]);
    }
}

#[rstest]
fn pieces_break_again_at_a_higher_threshold() {
    let mut play = pond(
        "kind wall { body box 2 u x 80 u, solid fixed }\n\
         kind pod { body circle 1 u, solid; on birth { vel = (20, 0) u/s }\n\
         on impact over 5 u/s with wall { replace self with 2 piece, keeping velocity, spread 40 deg } }\n\
         kind piece { body circle 0.4 u, solid\n\
         on impact over 500 u/s with wall { end self } }\n\
         place wall at (60, 50)\nplace pod at (40, 50)",
    );
    play.ticks(120);
    assert_eq!((play.count("pod"), play.count("piece")), (0, 2));
    assert_eq!(play.happened(What::Ended), 1);
}

#[rstest]
fn a_count_never_goes_below_what_the_events_say() {
    let mut play = pond(
        "kind a { health 2; body circle 1 u, sensor; on birth { heading = any angle; speed = 9 u/s }\n\
         on leave arena { end self }; after 3 s { end self }; every 0.7 s { damage each a within 3 u by 1 } }\n\
         spawner bed { makes a anywhere; every 3 ticks; 4 at a time }\nplace bed",
    );
    let a = play.program().kind_named("a").unwrap();
    for _ in 0..300 {
        play.ticks(1);
        let count =
            |what| play.events.iter().filter(|e| e.what == what && e.who.kind == a).count() as u64;
        let totals = &play.state.totals[a.index()];
        assert_eq!(count(What::Born), totals.born);
        assert_eq!(count(What::Ended), totals.ended_in_all());
        assert_eq!(totals.born - totals.ended_in_all(), play.count("a") as u64);
    }
    for cause in Cause::ALL {
        let by_events = play
            .events
            .iter()
            .filter(|e| e.what == What::Ended && e.who.kind == a && e.cause == Some(cause))
            .count() as u64;
        assert_eq!(play.state.totals[a.index()].ended[cause as usize], by_events, "{cause:?}");
    }
}

#[rstest]
fn what_hangs_on_one_ends_by_the_line_that_ended_it(
    #[values(1, 2, 3, 4, 5, 6, 7, 8)] shuffle: u64,
) {
    let mut play = pond(
        "kind shell { after 9 s { end self } }\n\
         kind a { mount back at (1 u, 0 u); on birth { spawn shell at back, attached }\n after 1 s { end self } }\n\
         kind b { after 1 s { end each a } }\nkind c { after 1 s { end each a } }\n\
         place a at (50, 50)\nplace b at (1, 1)\nplace c at (2, 2)",
    );
    play.engine.shuffle = Some(shuffle);
    play.ticks(70);
    let ended = |name: &str| {
        let kind = play.program().kind_named(name).unwrap();
        let end = play.events.iter().find(|e| e.what == What::Ended && e.who.kind == kind);
        end.map(|e| (e.tick, e.site))
    };
    assert!(ended("a").is_some());
    assert_eq!(ended("shell"), ended("a"));
}
