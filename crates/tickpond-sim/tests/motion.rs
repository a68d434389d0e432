//! Motion against its formulas: what is written down here is worked out by hand, tick by tick.

use crate::common::{Play, play, pond};
use rstest::rstest;

/// Place and velocity of the first of a kind.
fn at(play: &Play, kind: &str) -> (f64, f64, f64, f64) {
    let c = play.columns(kind);
    (c.x[0], c.y[0], c.vx[0], c.vy[0])
}

fn near(a: f64, b: f64) -> bool {
    (a - b).abs() <= 1e-9 * (1.0 + a.abs().max(b.abs()))
}

#[track_caller]
fn assert_near(a: (f64, f64), b: (f64, f64)) {
    assert!(near(a.0, b.0) && near(a.1, b.1), "{a:?} is not {b:?}");
}

/// A kind `a` at (50, 50) with these parts.
fn mover(parts: &str) -> Play {
    pond(&format!("place a at (50, 50)\nkind a {{ {parts} }}"))
}

#[rstest]
#[case::along_x("vel = (6, 0) u/s", (56.0, 50.0))]
#[case::along_y("vel = (0, -3) u/s", (50.0, 47.0))]
#[case::heading_and_speed("heading = 90 deg; speed = 4 u/s", (50.0, 54.0))]
#[case::speed_at_the_facing_of_birth("speed = 5 u/s", (55.0, 50.0))]
#[case::backwards("heading = 180 deg; speed = 5 u/s", (45.0, 50.0))]
#[case::head_toward_a_place("speed = 5 u/s; head toward (50, 90)", (50.0, 55.0))]
#[case::a_negative_speed_goes_back("speed = -2 u/s", (48.0, 50.0))]
fn a_second_at_a_constant_velocity(#[case] birth: &str, #[case] wanted: (f64, f64)) {
    let mut play = mover(&format!("on birth {{ {birth} }}"));
    play.ticks(60);
    let (x, y, ..) = at(&play, "a");
    assert_near((x, y), wanted);
}

#[rstest]
#[case(10)]
#[case(30)]
#[case(60)]
#[case(144)]
#[case(1000)]
fn speeds_are_per_second_whatever_the_rate(#[case] rate: u64) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100; rate {rate} per s }}\nplace a at (10, 10)\n\
         kind a {{ on birth {{ vel = (7, 3) u/s }} }}"
    );
    let mut play = play(&text, 1);
    play.ticks(rate * 2);
    let (x, y, ..) = at(&play, "a");
    assert_near((x, y), (24.0, 16.0));
}

#[rstest]
#[case::up("y up", 53.0)]
#[case::down("y down", 53.0)]
fn an_axis_is_named_by_where_it_grows(#[case] axis: &str, #[case] wanted: f64) {
    // The numbers are the same; only `top`, `bottom`, `above` and `below` change places.
    let text = format!(
        "pond \"t\" {{ arena 100 x 100, {axis} }}\nplace a at (50, 50)\n\
         kind a {{ on birth {{ vel = (0, 3) u/s }} }}"
    );
    let mut play = play(&text, 1);
    play.ticks(60);
    assert!(near(at(&play, "a").1, wanted));
}

#[rstest]
#[case::bottom_left("bottom-left", (0.0, 0.0), (100.0, 60.0))]
#[case::bottom_right("bottom-right", (-100.0, 0.0), (0.0, 60.0))]
#[case::top_left("top-left", (0.0, -60.0), (100.0, 0.0))]
#[case::center("center", (-50.0, -30.0), (50.0, 30.0))]
fn an_origin_is_where_it_is_said_to_be(
    #[case] origin: &str,
    #[case] low: (f64, f64),
    #[case] high: (f64, f64),
) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 60, origin {origin}, y up }}\nplace a at (0, 0)\nkind a {{ look \"a\" }}"
    );
    let play = play(&text, 1);
    let arena = &play.program().arena;
    assert_eq!((arena.low, arena.high), (low, high));
}

#[rstest]
fn a_push_changes_the_velocity_and_pushes_add_up() {
    let mut play = mover(
        "on birth { vel = (1, 0) u/s }\n\
         after 1 ticks { push self by (2, 0) u/s; push self by 3 u/s along 90 deg }\n\
         after 2 ticks { push self by (-3, 0) u/s }",
    );
    play.ticks(1);
    let (_, _, vx, vy) = at(&play, "a");
    assert_near((vx, vy), (3.0, 3.0));
    play.ticks(1);
    let (_, _, vx, vy) = at(&play, "a");
    assert_near((vx, vy), (0.0, 3.0));
}

#[rstest]
fn pushes_of_several_add_up_in_one_tick() {
    let mut play = pond(
        "place a at (50, 50)\nplace b at (40, 50)\nplace b at (60, 50)\nplace b at (50, 40)\n\
         kind a { look \"a\" }\n\
         kind b { after 5 ticks { if nearest(a) as other { push other by 2 u/s along 0 deg } } }",
    );
    play.ticks(7);
    assert_near((at(&play, "a").2, at(&play, "a").3), (6.0, 0.0));
}

#[rstest]
#[case::not_a_fixed_one("body circle 1 u, solid fixed", 0.0)]
#[case::a_sensor("body circle 1 u, sensor", 4.0)]
#[case::without_a_body("look \"a\"", 4.0)]
fn what_is_fixed_is_not_pushed(#[case] body: &str, #[case] wanted: f64) {
    let mut play = pond(&format!(
        "place a at (50, 50)\nplace b at (10, 10)\nkind a {{ {body} }}\n\
         kind b {{ after 2 ticks {{ if nearest(a) as other {{ push other by (4, 0) u/s }} }} }}"
    ));
    play.ticks(5);
    assert!(near(at(&play, "a").2, wanted), "{:?}", at(&play, "a"));
}

#[rstest]
fn thrust_is_an_acceleration() {
    let mut play = mover("every tick { thrust 6 u/s2 along 0 deg }");
    play.ticks(60);
    // A tick's share of it is laid on at each tick: 6 u/s after a second.
    let (x, _, vx, _) = at(&play, "a");
    assert!(near(vx, 6.0), "{vx}");
    let by_hand: f64 = (1..=60).map(|tick| f64::from(tick) * 0.1 / 60.0).sum();
    assert!(near(x, 50.0 + by_hand), "{x} {by_hand}");
}

#[rstest]
fn gravity_pulls_bodies_and_leaves_the_weightless_the_fixed_and_the_bodiless() {
    let text = "pond \"t\" { arena 100 x 100; gravity (0, -12) u/s2 }\n\
        kind a { body circle 1 u, sensor }\nkind b { body circle 1 u, sensor, weightless }\n\
        kind c { look \"c\" }\nkind d { body circle 1 u, fixed }\n\
        place a at (10, 50)\nplace b at (30, 50)\nplace c at (50, 50)\nplace d at (70, 50)";
    let mut play = play(text, 1);
    play.ticks(60);
    let falls: Vec<f64> = ["a", "b", "c", "d"].iter().map(|kind| at(&play, kind).3).collect();
    assert!(near(falls[0], -12.0), "{falls:?}");
    assert_eq!(falls[1..], [0.0, 0.0, 0.0]);
    let by_hand: f64 = (1..=60).map(|tick| f64::from(tick) * 0.2 / 60.0).sum();
    assert!(near(at(&play, "a").1, 50.0 - by_hand));
}

#[rstest]
#[case(0.5)]
#[case(2.0)]
fn drag_takes_its_share_of_the_speed(#[case] drag: f64) {
    let mut play = mover(&format!(
        "body circle 1 u, sensor, drag {drag} per s\non birth {{ vel = (10, 0) u/s }}"
    ));
    play.ticks(60);
    // The implicit step of the solver: v / (1 + d dt) at each tick.
    let by_hand = (0..60).fold(10.0, |v, _| v / (1.0 + drag / 60.0));
    assert!(near(at(&play, "a").2, by_hand));
    assert!(by_hand > 10.0 * (-drag).exp() && by_hand < 10.0 * (-drag).exp() * 1.1);
}

#[rstest]
fn spin_turns_the_heading_and_swings_the_velocity_unless_one_drifts() {
    let parts = "on birth { vel = (4, 0) u/s; spin = 90 deg/s }";
    let (mut swings, mut drifts) = (mover(parts), mover(&format!("drifts\n{parts}")));
    swings.ticks(60);
    drifts.ticks(60);
    assert!(near(swings.columns("a").heading[0], 90.0));
    assert!(near(drifts.columns("a").heading[0], 90.0));
    assert_near((at(&swings, "a").2, at(&swings, "a").3), (0.0, 4.0));
    assert_near((at(&drifts, "a").2, at(&drifts, "a").3), (4.0, 0.0));
}

#[rstest]
#[case::on_the_spot("turn by 6 deg", 360.0)]
#[case::the_other_way("turn by -6 deg", 0.0)]
#[case::by_heading("heading += 6 deg", 360.0)]
#[case::by_less("heading -= 3 deg", 180.0)]
fn sixty_turns_come_around(#[case] turn: &str, #[case] wanted: f64) {
    let mut play = mover(&format!("on birth {{ vel = (3, 0) u/s }}\nevery tick {{ {turn} }}"));
    play.ticks(60);
    let heading = play.columns("a").heading[0];
    let off = (heading - wanted).rem_euclid(360.0);
    assert!(off.min(360.0 - off) < 1e-9, "{heading}");
    assert!((0.0..360.0).contains(&heading));
    // Turning neither quickens nor slows.
    let (_, _, vx, vy) = at(&play, "a");
    assert!(near(vx.hypot(vy), 3.0));
}

#[rstest]
fn one_who_turns_evenly_goes_in_a_circle() {
    let mut play = mover("on birth { speed = 6 u/s }\nevery tick { turn by 6 deg }");
    let mut places = Vec::new();
    for _ in 0..60 {
        play.ticks(1);
        places.push((at(&play, "a").0, at(&play, "a").1));
    }
    // After a whole turn it is back; opposite places are a diameter apart.
    assert_near(places[59], (50.0, 50.0));
    let across: Vec<f64> = (0..30)
        .map(|n| {
            let ((x, y), (u, v)) = (places[n], places[n + 30]);
            (x - u).hypot(y - v)
        })
        .collect();
    // A regular polygon of 60 sides of 0.1 u: its diameter is side / sin(3 deg).
    let diameter = 0.1 / 3f64.to_radians().sin();
    assert!(across.iter().all(|d| near(*d, diameter)), "{across:?} {diameter}");
}

#[rstest]
#[case::the_short_way((50.0, 90.0), 45.0)]
#[case::the_other_short_way((50.0, 10.0), 315.0)]
#[case::there_already((90.0, 50.0), 0.0)]
fn turning_toward_takes_the_short_way_and_no_more_than_it_may(
    #[case] to: (f64, f64),
    #[case] wanted: f64,
) {
    let mut play =
        mover(&format!("every tick {{ turn toward ({}, {}) at most 45 deg/s }}", to.0, to.1));
    play.ticks(60);
    let heading = play.columns("a").heading[0];
    let off = (heading - wanted).rem_euclid(360.0);
    assert!(off.min(360.0 - off) < 1e-6, "{heading} is not {wanted}");
}

#[rstest]
fn turning_toward_ends_at_the_direction_and_stays() {
    let mut play = mover("every tick { turn toward (50, 90) at most 100 deg/s }");
    play.ticks(200);
    assert!(near(play.columns("a").heading[0], 90.0));
}

#[rstest]
#[case::open_goes_on("open", (124.0, 50.0), 12.0)]
#[case::wall_holds("wall", (100.0, 50.0), 0.0)]
#[case::wrap_comes_in("wrap", (24.0, 50.0), 12.0)]
fn an_edge_does_what_it_is(#[case] edge: &str, #[case] wanted: (f64, f64), #[case] speed: f64) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100; edges {edge} }}\nplace a at (100, 50)\n\
         kind a {{ on birth {{ pos = (99.9, 50); vel = (12, 0) u/s }} }}"
    );
    let mut play = play(&text, 1);
    play.ticks(2 * 60);
    let (x, y, vx, _) = at(&play, "a");
    assert!((x - wanted.0).abs() < 0.21 && near(y, wanted.1), "{x} {y}");
    assert!(near(vx, speed));
}

#[rstest]
#[case::circle("body circle 2 u, sensor", 98.0)]
#[case::upright_box("body box 6 u x 2 u, sensor, upright", 97.0)]
#[case::none("look \"a\"", 100.0)]
fn a_wall_holds_the_whole_body(#[case] body: &str, #[case] wanted: f64) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100; edges wall }}\nplace a at (50, 50)\n\
         kind a {{ {body}; on birth {{ vel = (60, 20) u/s }} }}"
    );
    let mut play = play(&text, 1);
    play.ticks(60 * 2);
    let (x, y, vx, vy) = at(&play, "a");
    assert!(near(x, wanted), "{x}");
    // Along the wall it goes on.
    assert!(near(vx, 0.0) && near(vy, 20.0) && near(y, 90.0), "{vx} {vy} {y}");
}

#[rstest]
fn setting_a_place_is_a_jump_that_touches_nothing_on_its_way() {
    let mut play = pond(
        "kind a { body circle 1 u, sensor; after 5 ticks { pos = (90, 50) } }\n\
         kind b { body circle 1 u, sensor; on touch a { say \"touched\" } }\n\
         place a at (10, 50)\nplace b at (50, 50)\nplace b at (90, 50)",
    );
    play.ticks(10);
    assert_eq!(play.said(), ["touched"]);
}

#[rstest]
fn a_place_that_is_set_is_where_the_move_begins() {
    let mut play = mover("on birth { vel = (6, 0) u/s }\nafter 5 ticks { pos = (10, 10) }");
    play.ticks(6);
    // Set in the clocks phase of tick 5; moved in it, and in the next.
    assert_near((at(&play, "a").0, at(&play, "a").1), (10.2, 10.0));
}

#[rstest]
fn nothing_moves_while_it_rests() {
    let mut play =
        mover("on birth { vel = (6, 0) u/s; spin = 30 deg/s }\nafter 10 ticks { deactivate self }");
    play.ticks(11);
    let (before, heading) = (at(&play, "a"), play.columns("a").heading[0]);
    play.ticks(30);
    assert_eq!((at(&play, "a"), play.columns("a").heading[0]), (before, heading));
}

#[rstest]
fn the_view_follows_the_oldest_and_stays_where_the_last_was() {
    let text = "pond \"t\" { arena 100 x 100; view 20 x 10 follows frog at (5, 5) }\n\
        kind frog { on birth { vel = (6, 0) u/s }; after 1 s { end self } }\n\
        place frog at (10, 50)\nplace frog at (10, 80)";
    let mut play = play(text, 1);
    assert_eq!(play.state.view, (10.0, 50.0));
    play.ticks(30);
    assert_near(play.state.view, (13.0, 50.0));
    play.ticks(60);
    assert_eq!(play.count("frog"), 0);
    let last = play.state.view;
    assert!((last.0 - 16.0).abs() < 0.2 && near(last.1, 50.0), "{last:?}");
    play.ticks(5);
    assert_eq!(play.state.view, last);
}

#[rstest]
fn a_view_that_follows_nobody_stays() {
    let text = "pond \"t\" { arena 100 x 100; view 20 x 10 at (30, 40) }\nkind a { look \"a\" }\nplace a at (1, 1)";
    let mut play = play(text, 1);
    play.ticks(10);
    assert_eq!(play.state.view, (30.0, 40.0));
}

#[rstest]
#[case::at_the_seam((1.0, 50.0), (99.0, 50.0), 2.0, 180.0)]
#[case::over_the_corner((1.0, 1.0), (99.0, 99.0), 8f64.sqrt(), 225.0)]
#[case::not_over_it((40.0, 50.0), (60.0, 50.0), 20.0, 0.0)]
fn distance_and_direction_go_the_shortest_way_on_wrapped_axes(
    #[case] a: (f64, f64),
    #[case] b: (f64, f64),
    #[case] distance: f64,
    #[case] direction: f64,
) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100; edges wrap }}\n\
         kind a {{ vars {{ d = 0 u; h = 0 deg }}\n\
         after 1 ticks {{ if nearest(b) as other {{ d = distance to other; h = direction to other }} }} }}\n\
         kind b {{ look \"b\" }}\nplace a at ({}, {})\nplace b at ({}, {})\n\
         watch w = sum(a.d)\nwatch v = sum(a.h)",
        a.0, a.1, b.0, b.1
    );
    let mut play = play(&text, 1);
    play.ticks(3);
    let vars: Vec<f64> =
        play.columns("a").vars.iter().map(|column| f64::from_bits(column[0])).collect();
    assert!(near(vars[0], distance) && near(vars[1], direction), "{vars:?}");
}

// Solid bodies.

#[rstest]
fn a_stone_falls_bounces_and_comes_to_rest_on_the_floor() {
    let text = "pond \"t\" { arena 40 x 40; edges wall; gravity (0, -20) u/s2 }\n\
        kind stone { body circle 1 u, solid, bounce 40 %; when resting { say \"rests\" } }\n\
        place stone at (20, 20)";
    let mut play = play(text, 1);
    let mut lowest = f64::INFINITY;
    let mut bounced = false;
    for _ in 0..600 {
        play.ticks(1);
        let (_, y, _, vy) = at(&play, "stone");
        lowest = lowest.min(y);
        bounced |= vy > 1.0;
    }
    assert!(bounced);
    assert!(lowest > 0.8, "{lowest}");
    assert!((at(&play, "stone").1 - 1.0).abs() < 0.05);
    assert_eq!(play.said(), ["rests"]);
}

#[rstest]
fn stones_pile_up_and_do_not_sink_into_each_other() {
    let text = "pond \"t\" { arena 40 x 60; edges wall; gravity (0, -20) u/s2 }\n\
        kind stone { body box 4 u x 2 u, solid, friction 80 % }\n\
        place stone at (20, 5)\nplace stone at (20, 10)\nplace stone at (20, 15)\nplace stone at (20, 20)";
    let mut play = play(text, 1);
    play.ticks(600);
    let mut heights: Vec<f64> = play.columns("stone").y.to_vec();
    heights.sort_by(f64::total_cmp);
    for (nth, y) in heights.iter().enumerate() {
        let wanted = 1.0 + 2.0 * nth as f64;
        assert!((y - wanted).abs() < 0.1, "{heights:?}");
    }
}

#[rstest]
fn a_heavy_stone_moves_a_light_one_more_than_it_is_moved() {
    let text = "pond \"t\" { arena 100 x 20 }\n\
        kind heavy { body circle 1 u, solid, weight 9, bounce 100 %; on birth { vel = (10, 0) u/s } }\n\
        kind light { body circle 1 u, solid, weight 1, bounce 100 % }\n\
        place heavy at (10, 10)\nplace light at (20, 10)";
    let mut play = play(text, 1);
    play.ticks(120);
    let (heavy, light) = (at(&play, "heavy").2, at(&play, "light").2);
    // Momentum stays, and no energy is lost: 8 and 18 u/s.
    assert!((9.0 * heavy + light - 90.0).abs() < 0.5, "{heavy} {light}");
    assert!((heavy - 8.0).abs() < 0.3 && (light - 18.0).abs() < 0.6, "{heavy} {light}");
}

#[rstest]
fn a_sensor_passes_through_what_is_solid_and_notices_it() {
    let mut play = pond(
        "kind wall { body box 2 u x 20 u, solid fixed }\n\
         kind ghost { body circle 1 u, sensor; on birth { vel = (20, 0) u/s }\n\
         on touch wall { say \"touch\" } on part wall { say \"part\" } }\n\
         place wall at (50, 50)\nplace ghost at (30, 50)",
    );
    play.ticks(120);
    assert_eq!(play.said(), ["touch", "part"]);
    assert!(near(at(&play, "ghost").0, 70.0));
}

#[rstest]
fn what_passes_neither_touches_nor_pushes() {
    let mut play = pond(
        "kind wall { body box 2 u x 20 u, solid fixed }\n\
         kind mole { body circle 1 u, solid, passes wall; on birth { vel = (20, 0) u/s }\n\
         on touch wall { say \"touch\" } }\n\
         kind stone { body circle 1 u, solid; on birth { vel = (20, 0) u/s }; on touch wall { say \"stopped\" } }\n\
         place wall at (50, 50)\nplace mole at (30, 50)\nplace stone at (30, 55)",
    );
    play.ticks(120);
    assert_eq!(play.said(), ["stopped"]);
    assert!((at(&play, "mole").0 - 70.0).abs() < 0.01);
    assert!(at(&play, "stone").0 < 49.0);
}

#[rstest]
fn two_that_are_placed_over_each_other_touch_at_once_for_they_are_no_siblings() {
    let mut play = pond(
        "kind a { body circle 1 u, sensor; on touch b { say \"touched\" } }\n\
         kind b { body circle 1 u, sensor }\nplace a at (50, 50)\nplace b at (50.5, 50)",
    );
    play.ticks(1);
    assert_eq!(play.said(), ["touched"]);
}

#[rstest]
fn siblings_of_one_request_touch_when_they_have_been_apart() {
    let mut play = pond(
        "kind a { body circle 1 u, sensor; on touch a { say \"touched {age}\" }\n\
         on birth { speed = 6 u/s }; after 1 s { vel = vel * -1 } }\n\
         after 1 ticks { spawn 2 a at (50, 50), spread 360 deg }",
    );
    play.ticks(200);
    // They part, turn back, and touch as any two do.
    let said = play.said();
    assert_eq!(said.len(), 2, "{said:?}");
}

#[rstest]
fn siblings_that_pass_each_other_are_not_followed() {
    let mut play = pond(
        "kind a { body circle 1 u, solid, passes a }\n\
         after 1 ticks { spawn 3 a at (50, 50) }",
    );
    play.ticks(30);
    assert!(play.state.contacts.is_empty());
}
