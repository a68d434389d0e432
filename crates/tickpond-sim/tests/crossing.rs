//! Zones, lines and edges: who crosses them, when, and how often.

use crate::common::{Play, play, pond};
use rstest::rstest;
use tickpond_sim::What;

/// What was said, and in which tick.
fn said(play: &Play) -> Vec<(u64, String)> {
    let said = play.events.iter().filter(|e| e.what == What::Said);
    said.map(|e| (e.tick, e.words.as_deref().unwrap_or("").to_string())).collect()
}

/// A midge that goes along x from (10, 50) at 60 u/s, one u a tick.
fn runner(handlers: &str) -> Play {
    pond(&format!(
        "zone weir = box (30, 40) size 10 x 20\nzone eddy = circle (60, 50) radius 5 u\n\
         kind midge {{ body circle 1 u, sensor; on birth {{ vel = (60, 0) u/s }}\n{handlers} }}\n\
         place midge at (10.5, 50)"
    ))
}

#[rstest]
#[case::enter_a_box("on enter weir { say \"in\" }", &[20])]
#[case::leave_a_box("on leave weir { say \"out\" }", &[30])]
#[case::enter_a_circle("on enter eddy { say \"in\" }", &[45])]
#[case::leave_a_circle("on leave eddy { say \"out\" }", &[55])]
#[case::right_of("on right of x 70 u { say \"past\" }", &[60])]
#[case::never_left_of("on left of x 5 u { say \"past\" }", &[])]
#[case::an_edge("on touch edge { say \"edge\" }", &[89])]
#[case::that_edge("on touch edge right { say \"edge\" }", &[89])]
#[case::another_edge("on touch edge left { say \"edge\" }", &[])]
#[case::out_of_the_arena("on leave arena { say \"gone\" }", &[91])]
fn a_crossing_is_told_in_its_tick_and_once(#[case] handler: &str, #[case] ticks: &[u64]) {
    let mut play = runner(handler);
    play.ticks(130);
    let told: Vec<u64> = said(&play).into_iter().map(|(tick, _)| tick).collect();
    assert_eq!(told, ticks, "{handler}");
}

#[rstest]
fn one_that_goes_to_and_fro_crosses_each_time() {
    let mut play = pond(
        "zone weir = box (30, 40) size 10 x 20\n\
         kind midge { on birth { vel = (60, 0) u/s }\n every 40 ticks { vel = vel * -1 }\n\
         on enter weir { say \"in\" } on leave weir { say \"out\" } on right of x 35 u { say \"right\" } on left of x 35 u { say \"left\" } }\n\
         place midge at (10.5, 50)",
    );
    play.ticks(160);
    let words: Vec<String> = play.said();
    let count = |word: &str| words.iter().filter(|w| *w == word).count();
    assert_eq!((count("in"), count("out")), (4, 4), "{words:?}");
    // It stands left of the line at its birth.
    assert_eq!((count("right"), count("left")), (2, 3), "{words:?}");
}

#[rstest]
fn who_is_born_inside_has_come_in() {
    let mut play = pond(
        "zone weir = box (30, 40) size 10 x 20\n\
         kind midge { on enter weir { say \"in\" } on leave weir { say \"out\" } }\nplace midge at (35, 50)",
    );
    play.ticks(20);
    assert_eq!(play.said(), ["in"]);
}

#[rstest]
fn one_that_flies_through_within_a_tick_came_in_and_went_out() {
    let mut play = pond(
        "zone thin = box (50, 40) size 1 x 20\n\
         kind midge { on birth { vel = (600, 0) u/s }\n on enter thin { say \"in\" } on leave thin { say \"out\" } }\n\
         place midge at (45, 50)",
    );
    play.ticks(3);
    let told = said(&play);
    assert_eq!(told.len(), 2, "{told:?}");
    assert_eq!(told[0].0, told[1].0);
}

#[rstest]
#[case::margin(", margin 5 u", 5)]
#[case::none("", 0)]
fn leaving_is_past_the_margin(#[case] margin: &str, #[case] more: u64) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100; edges open{margin} }}\n\
         kind midge {{ body circle 1 u, sensor; on birth {{ vel = (60, 0) u/s }}; on leave arena {{ end self }} }}\n\
         place midge at (90.5, 50)"
    );
    let mut play = play(&text, 1);
    play.ticks(40);
    // Its hind end is past 100 u after 10.5 u, which is in tick 11.
    assert_eq!(play.ends(), [format!("midge {} edge", 11 + more)]);
}

#[rstest]
#[case::y_up("y up", "below", "above")]
#[case::y_down("y down", "above", "below")]
fn below_is_where_down_is(#[case] axis: &str, #[case] first: &str, #[case] second: &str) {
    // It goes toward smaller y, and comes back.
    let text = format!(
        "pond \"t\" {{ arena 100 x 100, {axis} }}\n\
         kind midge {{ on birth {{ vel = (0, -60) u/s }}; after 40 ticks {{ vel = vel * -1 }}\n\
         on below y 30 u {{ say \"below\" }} on above y 30 u {{ say \"above\" }} }}\nplace midge at (50, 50.5)"
    );
    let mut play = play(&text, 1);
    play.ticks(80);
    let words = play.said();
    // At its birth it is on one side; it goes to the other, and comes back.
    assert_eq!(words[1..], [first.to_string(), second.to_string()], "{words:?}");
}

#[rstest]
fn leaving_the_arena_ends_nobody_by_itself() {
    let mut play = pond("kind midge { on birth { vel = (60, 0) u/s } }\nplace midge at (90, 50)");
    play.ticks(120);
    assert_eq!(play.count("midge"), 1);
    assert!(play.columns("midge").x[0] > 200.0);
}

#[rstest]
fn zones_are_asked_for_in_conditions_too() {
    let mut play = pond(
        "zone weir = box (30, 40) size 10 x 20\n\
         kind midge { on birth { vel = (60, 0) u/s }; every 10 ticks { say \"{inside(weir)} {(35, 45) is inside weir}\" } }\n\
         place midge at (10.5, 50)",
    );
    play.ticks(40);
    assert_eq!(play.said(), ["false true", "false true", "true true", "false true"]);
}

// What hangs on another.

#[rstest]
fn what_is_attached_goes_where_the_mount_goes_and_faces_as_it_does() {
    let mut play = pond(
        "kind frog { mount back at (-2 u, 1 u) facing 45 deg\n\
         on birth { speed = 6 u/s; spawn hat at back, attached }; every tick { turn by 6 deg } }\n\
         kind hat { look \"h\" }\nplace frog at (50, 50)",
    );
    for _ in 0..60 {
        play.ticks(1);
        let (frog, hat) = (play.columns("frog"), play.columns("hat"));
        let heading = frog.heading[0].to_radians();
        let wanted = (
            frog.x[0] - 2.0 * heading.cos() - heading.sin(),
            frog.y[0] - 2.0 * heading.sin() + heading.cos(),
        );
        let off = (hat.x[0] - wanted.0).hypot(hat.y[0] - wanted.1);
        assert!(off < 1e-9, "{off}");
        let facing = (hat.heading[0] - frog.heading[0] - 45.0).rem_euclid(360.0);
        assert!(facing.min(360.0 - facing) < 1e-9);
    }
}

#[rstest]
#[case::with_its_owner("attached", 0)]
#[case::outliving_it("attached outlives owner", 1)]
fn an_owner_takes_along_what_hangs_on_it(#[case] how: &str, #[case] left: usize) {
    let mut play = pond(&format!(
        "kind frog {{ mount back at (1, 0); on birth {{ spawn hat at back, {how} }}; after 9 ticks {{ end self }} }}\n\
         kind hat {{ look \"h\" }}\nplace frog at (50, 50)"
    ));
    play.ticks(15);
    assert_eq!((play.count("frog"), play.count("hat")), (0, left));
}

#[rstest]
fn a_chain_of_attached_ends_as_a_whole() {
    let mut play = pond(
        "kind frog { mount back at (1, 0); on birth { spawn snail at back, attached }; after 20 ticks { end self } }\n\
         kind snail { mount top at (0, 1); on birth { spawn hat at top, attached } }\nkind hat { look \"h\" }\n\
         place frog at (50, 50)",
    );
    play.ticks(19);
    assert_eq!((play.count("frog"), play.count("snail"), play.count("hat")), (1, 1, 1));
    play.ticks(2);
    assert_eq!((play.count("frog"), play.count("snail"), play.count("hat")), (0, 0, 0));
    let mut ends = play.ends();
    ends.sort();
    assert_eq!(ends, ["frog 20 timer", "hat 20 owner", "snail 20 owner"]);
}

#[rstest]
fn what_is_let_go_goes_on_with_the_velocity_it_had() {
    let mut play = pond(
        "kind frog { mount back at (1, 0); on birth { vel = (60, 0) u/s; spawn hat at back, attached }\n\
         after 10 ticks { detach each hat; vel = (0, 60) u/s } }\nkind hat { look \"h\" }\nplace frog at (10, 50)",
    );
    play.ticks(11);
    let at = play.columns("hat").x[0];
    play.ticks(20);
    assert!((play.columns("hat").x[0] - (at + 20.0)).abs() < 1e-9);
    assert_eq!(play.columns("hat").y[0], 50.0);
    assert!(play.columns("frog").y[0] > 65.0);
}

#[rstest]
#[case::on_a_way("on birth { vel = (60, 0) u/s; spawn hat at back, attached }", 49)]
#[case::at_a_jump("on birth { spawn hat at back, attached }; after 5 ticks { pos = (99, 50) }", 5)]
fn who_is_carried_out_has_left(#[case] frog: &str, #[case] tick: u64) {
    let mut play = pond(&format!(
        "kind frog {{ mount back at (2, 0); {frog} }}\n\
         kind hat {{ look \"h\"; on leave arena {{ say \"out\" }} }}\nplace frog at (50, 50)",
    ));
    play.ticks(60);
    assert_eq!(said(&play).iter().map(|(tick, _)| *tick).collect::<Vec<_>>(), [tick]);
}

/// Of many that fly about, to and fro over the edges, each leaving is told once, in its tick.
#[rstest]
#[case::few(7)]
#[case::many(700)]
fn each_of_a_crowd_leaves_when_it_does(#[case] count: usize) {
    let text = format!(
        "pond \"Out\" {{ arena 100 x 100; limit 2000 entities }}\nkind midge {{ vars {{ out = 0 }}\n\
         on birth {{ heading = any angle; speed = random(0 u/s .. 400 u/s) }}\n\
         on leave arena {{ out += 1 }}\n\
         every 9 ticks {{ if random(0 .. 1) < 0.5 {{ heading = any angle }} }}\n\
         after 90 ticks {{ if random(0 .. 1) < 0.5 {{ end self }} }} }}\n\
         every 40 ticks {{ spawn {count} midge anywhere }}"
    );
    let mut play = play(&text, 1);
    let mut outside: std::collections::BTreeMap<u64, (bool, f64)> = Default::default();
    let mut left = 0.0;
    for _ in 0..150 {
        play.ticks(1);
        let columns = play.columns("midge");
        for row in 0..columns.len() {
            let (was, times) = outside.entry(columns.serial[row]).or_default();
            let inside = |at: f64| (0.0..=100.0).contains(&at);
            let is = !(inside(columns.x[row]) && inside(columns.y[row]));
            if is && !*was {
                *times += 1.0;
                left += 1.0;
            }
            *was = is;
            assert_eq!(f64::from_bits(columns.vars[0][row]), *times, "{}", columns.serial[row]);
        }
    }
    assert!(left > count as f64, "{left}");
}
