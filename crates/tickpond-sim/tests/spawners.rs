//! Spawners: their rhythm, their caps, what they make and where, and how they are ruled.

use crate::common::{Play, pond};
use rstest::rstest;
use tickpond_sim::{Phase, What};

/// A spawner with these rules, placed at (50, 50), whose midges live for 40 ticks.
fn bed(rules: &str) -> Play {
    pond(&format!(
        "kind midge {{ look \"m\"; after 40 ticks {{ end self }} }}\n\
         kind fly {{ look \"f\" }}\nknob most = 3\n\
         spawner bed(what: kind = midge, gap: time = 5 ticks) {{ {rules} }}\nplace bed at (50, 50)"
    ))
}

/// The ticks in which a kind was born.
fn born(play: &Play, kind: &str) -> Vec<u64> {
    let kind = play.program().kind_named(kind).unwrap();
    let born = play.events.iter().filter(|e| e.what == What::Born && e.who.kind == kind);
    born.map(|e| e.tick).collect()
}

#[rstest]
#[case::every("makes midge at here; every 7 ticks", &[7, 14, 21, 28])]
#[case::by_a_parameter("makes midge at here; every gap", &[5, 10, 15, 20, 25, 30])]
#[case::first_at_once("makes midge at here; every 10 ticks, first at once", &[1, 11, 21, 31])]
#[case::several("makes midge at here; every 15 ticks; 2 at a time", &[15, 15, 30, 30])]
#[case::capped("makes midge at here; every 5 ticks; keep at most 2 alive", &[5, 10])]
#[case::capped_in_a_batch("makes midge at here; every 5 ticks; 3 at a time; keep at most 4 alive", &[5, 5, 5, 10])]
#[case::in_all("makes midge at here; every 5 ticks; at most 3 in all", &[5, 10, 15])]
#[case::from("makes midge at here; every 5 ticks; from 12 ticks", &[17, 22, 27, 32])]
#[case::from_at_once("makes midge at here; every 9 ticks, first at once; from 12 ticks", &[12, 21, 30])]
#[case::until("makes midge at here; every 5 ticks; until count(midge) >= 2", &[5, 10])]
#[case::keeps("makes midge at here; keep 2 alive", &[1, 1])]
#[case::keeps_a_knob("makes midge at here; keep most alive", &[1, 1, 1])]
#[case::once("makes midge at here", &[1])]
#[case::again("makes midge at here; again 3 ticks after its end", &[1])]
fn a_rhythm_is_kept(#[case] rules: &str, #[case] wanted: &[u64]) {
    let mut play = bed(rules);
    play.ticks(34);
    assert_eq!(born(&play, "midge"), wanted, "{rules}");
}

#[rstest]
#[case::again("again 3 ticks after its end", &[1, 44, 87])]
#[case::again_at_once("again 0 s after its end", &[1, 42, 83])]
#[case::keep("keep 1 alive", &[1, 42, 83])]
#[case::under_a_cap("every 3 ticks; keep at most 1 alive", &[3, 45, 87])]
fn what_ended_is_made_again(#[case] rule: &str, #[case] wanted: &[u64]) {
    let mut play = bed(&format!("makes midge at here; {rule}"));
    play.ticks(90);
    assert_eq!(born(&play, "midge"), wanted, "{rule}");
    assert!(play.count("midge") <= 1);
}

#[rstest]
fn a_kept_number_is_met_in_every_tick_but_that_of_an_end() {
    let mut play = bed("makes midge at here; keep 5 alive");
    for tick in 1..=200u64 {
        play.ticks(1);
        // All five end together, and are missing at the end of that tick alone.
        let wanted = if tick % 41 == 0 { 0 } else { 5 };
        assert_eq!(play.count("midge"), wanted, "tick {tick}");
    }
}

#[rstest]
fn until_stops_for_good() {
    let mut play = bed("makes midge at here; every 5 ticks; until count(midge) >= 2");
    play.ticks(150);
    // They have all ended, and none has come since.
    assert_eq!((play.count("midge"), play.born("midge")), (0, 2));
}

#[rstest]
fn a_spawner_is_the_maker_and_counts_only_its_own() {
    let mut play = pond(
        "kind midge { look \"m\" }\nspawner bed { makes midge at here; every 2 ticks; keep at most 3 alive }\n\
         place bed at (10, 10)\nplace bed at (20, 20)\nplace midge at (5, 5)",
    );
    play.ticks(30);
    assert_eq!(play.count("midge"), 7);
    let beds = play.columns("bed").id.to_vec();
    let made = |bed: usize| play.columns("midge").maker.iter().filter(|m| *m == beds[bed]).count();
    assert_eq!((made(0), made(1)), (3, 3));
}

#[rstest]
fn parameters_are_given_where_it_is_placed() {
    let mut play = pond(
        "kind midge { look \"m\" }\nkind fly { look \"f\" }\n\
         spawner bed(what: kind = midge, gap: time = 5 ticks, number: count = 1) { makes what at here; every gap; number at a time }\n\
         place bed at (10, 10)\nplace bed at (20, 20) { what = fly }\nplace bed at (30, 30) { gap = 10 ticks; number = 3 }",
    );
    play.ticks(10);
    assert_eq!((play.count("midge"), play.count("fly")), (2 + 3, 2));
}

#[rstest]
#[case::rested("deactivate each bed", 20, 40)]
#[case::ended("end each bed", 20, 1000)]
fn one_that_is_put_to_rest_or_ended_makes_no_more(
    #[case] statement: &str,
    #[case] at: u64,
    #[case] again: u64,
) {
    let mut play = pond(&format!(
        "kind midge {{ look \"m\" }}\nspawner bed {{ makes midge at here; every 4 ticks }}\nplace bed at (10, 10)\n\
         after {at} ticks {{ {statement} }}\nafter {again} ticks {{ activate each bed }}"
    ));
    play.ticks(40);
    let before = play.born("midge");
    assert!((4..=5).contains(&before), "{before}");
    play.ticks(40);
    let more = play.born("midge") - before;
    assert_eq!(more > 0, again < 100, "{more}");
}

#[rstest]
fn a_spawner_has_handlers_messages_and_variables_of_its_own() {
    let mut play = pond(
        "message more\nkind midge { look \"m\" }\n\
         spawner bed { vars { told = 0 }; makes midge at here; every 100 ticks\n\
         on more { told += 1; spawn 2 midge at here, speed 3 u/s }\n when told > 1 { say \"{name} was told {told} times\" } }\n\
         place bed at (10, 10)\nafter 5 ticks { send more to each bed }\nafter 9 ticks { send more to each bed }",
    );
    play.ticks(20);
    assert_eq!(play.count("midge"), 4);
    assert_eq!(play.said(), ["bed#1 was told 2 times"]);
}

#[rstest]
fn nothing_a_spawner_does_can_push_touch_or_be_hit() {
    let mut play = pond(
        "kind stone { body circle 1 u, solid; on birth { vel = (20, 0) u/s }; on touch any { say \"touch\" } }\n\
         kind leaf { look \"l\" }\nspawner bed { makes leaf at here; every 1 ticks; keep at most 2 alive }\n\
         place bed at (50, 50)\nplace stone at (30, 50)",
    );
    play.ticks(120);
    assert_eq!(play.said(), Vec::<String>::new());
    assert!((play.columns("stone").x[0] - 70.0).abs() < 1e-3);
}

#[rstest]
#[case::here("at here", (50.0, 50.0))]
#[case::offset("at here + (2, -3)", (52.0, 47.0))]
#[case::absolute("at (7, 8)", (7.0, 8.0))]
fn it_makes_where_it_is_told_to(#[case] place: &str, #[case] wanted: (f64, f64)) {
    let mut play = bed(&format!("makes midge {place}; every 5 ticks; at most 1 in all"));
    play.ticks(6);
    let c = play.columns("midge");
    assert_eq!((c.x[0], c.y[0]), wanted);
}

#[rstest]
fn a_place_out_of_sight_is_looked_for_in_bounds() {
    let text = "pond \"t\" { arena 100 x 100; view 40 x 40 at (50, 50) }\n\
        kind midge { body circle 1 u, sensor }\n\
        spawner bed { makes midge anywhere; every 1 ticks, not within view widened by 5 u; keep at most 60 alive }\n\
        place bed";
    let mut play = crate::common::play(text, 4);
    play.ticks(80);
    let c = play.columns("midge");
    assert_eq!(c.len(), 60);
    for row in 0..60 {
        let (dx, dy) = ((c.x[row] - 50.0).abs(), (c.y[row] - 50.0).abs());
        // Half the view, the margin and the whole body.
        assert!(dx > 26.0 || dy > 26.0, "{dx} {dy}");
    }
}

#[rstest]
fn where_there_is_no_place_nothing_is_born_and_that_is_said() {
    let text = "pond \"t\" { arena 100 x 100; view 400 x 400 at (50, 50) }\nkind midge { look \"m\" }\n\
        spawner bed { makes midge anywhere; every 10 ticks, not within view }\nplace bed";
    let mut play = crate::common::play(text, 4);
    play.ticks(35);
    assert_eq!((play.count("midge"), play.happened(What::NoPlace)), (0, 3));
}

#[rstest]
fn a_muted_spawner_makes_nothing() {
    let mut play = pond(
        "kind midge { look \"m\" }\nspawner bed { makes midge at here; every 2 ticks }\n\
         off place bed at (10, 10)\nplace midge at (1, 1)",
    );
    play.ticks(20);
    assert_eq!(play.count("midge"), 1);
}

// Waves.

#[rstest]
fn a_wave_is_over_when_its_own_are_whatever_else_is_there() {
    let mut play = pond(
        "kind midge { look \"m\"; after 20 ticks { end self } }\nkind fly { look \"f\" }\n\
         spawner bed { makes midge at here; every 3 ticks }\nplace bed at (10, 10)\n\
         routine dusk { wait 5 ticks; repeat 3 times as n {\n\
         wave as w { spawn n midge at (50, 50); spawn fly at (1, 1) }\n\
         wait until count(w) == 1\n say \"wave {n} of {count(midge) > 0}\" } }",
    );
    play.ticks(200);
    assert_eq!(play.said(), ["wave 1 of true", "wave 2 of true", "wave 3 of true"]);
}

#[rstest]
fn each_wave_that_begins_is_told_with_who_began_it_and_its_line() {
    let mut play = pond(
        "kind midge { after 1 s { end self } }\n\
         kind heron { routine brood { wait 15 ticks\n wave as w { spawn midge at here } } }\n\
         routine dusk { wait 10 ticks\n repeat 3 times {\n\
         wave as w { spawn 2 midge at (50, 50) }\n wait 20 ticks } }\n\
         place heron at (5, 5)\nplace heron at (9, 5)",
    );
    play.ticks(120);
    let waves = play.events.iter().filter(|e| e.what == What::Wave);
    let told: Vec<_> = waves
        .map(|e| {
            let line = play.program().line_of(e.site.unwrap());
            (e.tick, e.phase, e.who.number, line)
        })
        .collect();
    // The wave goes on in the tick after its last birth, which is in its own tick.
    let clocks = Phase::Clocks;
    let [pond, heron] = [7, 4];
    assert_eq!(
        told,
        [
            (11, clocks, 1, pond),
            (16, clocks, 1, heron),
            (16, clocks, 2, heron),
            (32, clocks, 1, pond),
            (53, clocks, 1, pond),
        ]
    );
}

#[rstest]
fn a_wave_waits_until_its_last_is_born() {
    let mut play = pond(
        "kind midge { look \"m\" }\n\
         routine dusk { wait 5 ticks\n wave as w { spawn 4 midge at (50, 50), spaced 10 ticks }\n\
         say \"all {count(w)}\" }",
    );
    play.ticks(60);
    let said: Vec<(u64, String)> = play
        .events
        .iter()
        .filter(|e| e.what == What::Said)
        .map(|e| (e.tick, e.words.as_deref().unwrap().to_string()))
        .collect();
    assert_eq!(born(&play, "midge"), [6, 16, 26, 36]);
    assert_eq!(said.len(), 1);
    assert_eq!(said[0].1, "all 4");
    assert!(said[0].0 >= 36, "{said:?}");
}
