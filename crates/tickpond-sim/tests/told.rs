//! What the reference promises and is easily lost: a test for each, by hand.

use crate::common::{Play, play, pond};
use rstest::rstest;
use tickpond_sim::What;

fn var(play: &Play, kind: &str, at: usize, row: usize) -> f64 {
    f64::from_bits(play.columns(kind).vars[at][row])
}

fn nth(play: &Play, what: What, nth: usize) -> tickpond_sim::Event {
    play.events.iter().filter(|e| e.what == what).nth(nth).cloned().expect("it happened so often")
}

// The pond as a maker.

#[rstest]
#[case::end("end maker")]
#[case::damage("damage maker by 1")]
#[case::heal("heal maker by 1")]
#[case::push("push maker by 1 u/s along 0 deg")]
#[case::deactivate("deactivate maker")]
#[case::activate("activate maker")]
#[case::attach("attach maker at m")]
#[case::attach_to("attach self to maker at m")]
#[case::detach("detach maker")]
fn what_is_asked_of_the_pond_is_refused_and_noted(#[case] what: &str) {
    let mut play = pond(&format!(
        "vars {{ n = 0 }}\nevery tick {{ n += 1; say \"on\" }}\n\
         kind child {{ mount m at (1 u, 0 u); after 2 ticks {{ {what} }} after 4 ticks {{ spawn bit at here }} }}\n\
         kind bit {{ look \"b\" }}\nplace child at (10, 10)"
    ));
    play.ticks(9);
    assert_eq!(play.happened(What::Refused), 1, "{what}");
    assert_eq!((play.said().len(), play.count("bit")), (9, 1), "the pond goes on: {what}");
}

// Touch on a way.

#[rstest]
fn one_that_meets_three_is_told_in_the_order_of_its_way() {
    // The oldest lies farthest.
    let mut play = pond(
        "kind fly { body circle 1 u; health 3; vars { order = 0 } }\n\
         kind shot { body circle 0.2 u; vars { left = 2; met = 0 }\n\
         on birth { speed = 3600 u/s }\n\
         on touch fly as t { met += 1; if left > 0 { left -= 1; damage t by 1 } say \"{t.name} {met}\" } }\n\
         after 1 ticks { spawn fly at (50, 10) }\nafter 2 ticks { spawn fly at (40, 10) }\nafter 3 ticks { spawn fly at (30, 10) }\n\
         after 5 ticks { spawn shot at (10, 10), facing 0 deg }",
    );
    play.ticks(8);
    assert_eq!(play.said(), ["fly#3 1", "fly#2 2", "fly#1 3"]);
    assert_eq!(play.columns("fly").health.iter().collect::<Vec<_>>(), [3.0, 2.0, 2.0]);
}

#[rstest]
fn two_met_at_once_are_told_the_older_first() {
    let mut play = pond(
        "kind fly { body circle 1 u }\nplace fly at (30, 12)\nplace fly at (30, 8)\n\
         kind shot { body circle 4 u; on birth { speed = 1200 u/s } on touch fly as t { say \"{t.name}\" } }\n\
         after 3 ticks { spawn shot at (15, 10), facing 0 deg }",
    );
    play.ticks(6);
    assert_eq!(play.said(), ["fly#1", "fly#2"]);
}

// Births.

#[rstest]
#[case::first_gone("on birth { if self == m#1 { end self } }", 2, true)]
#[case::second_gone("on birth { if self == m#2 { end self } }", 2, false)]
#[case::all_there("", 3, false)]
fn spawn_as_gives_the_first_of_the_request(
    #[case] part: &str,
    #[case] count: u32,
    #[case] gone: bool,
) {
    let mut play = pond(&format!(
        "kind m {{ {part} }}\nkind a {{ after 2 ticks {{ spawn {count} m at here as h; say \"{{h.name}}\" }} }}\nplace a at (5, 5)"
    ));
    play.ticks(6);
    assert_eq!(play.said(), [if gone { "gone" } else { "m#1" }]);
}

#[rstest]
#[case::where_it_stands("spawn 3 shot at q, along q, spaced 30 ticks", [45.0, 90.0, 135.0])]
#[case::by_the_place("spawn 3 shot at q, spaced 30 ticks", [45.0, 90.0, 135.0])]
#[case::by_the_maker("spawn 3 shot at here, spaced 30 ticks", [45.0, 90.0, 135.0])]
#[case::given("spawn 3 shot at here, facing heading, spaced 30 ticks", [45.0, 45.0, 45.0])]
fn a_facing_that_is_not_given_is_found_at_each_birth(
    #[case] spawn: &str,
    #[case] wanted: [f64; 3],
) {
    let mut play = pond(&format!(
        "kind shot {{ vars {{ faced = 0 deg }}; on birth {{ faced = heading }} }}\n\
         kind gun {{ mount q at (2 u, 0 u); on birth {{ spin = 90 deg/s }} after 30 ticks {{ {spawn} }} }}\n\
         place gun at (50, 50), facing 0 deg"
    ));
    play.ticks(120);
    let faced: Vec<f64> = (0..3).map(|row| var(&play, "shot", 0, row).round()).collect();
    // In tick 30 it has turned through 29 moves, and so on: within two degrees.
    for (faced, wanted) in faced.iter().zip(wanted) {
        assert!((faced - wanted).abs() <= 2.0, "{spawn}: {faced} {wanted}");
    }
}

#[rstest]
fn who_is_born_without_health_is_judged_in_its_tick() {
    let mut play = pond(
        "kind a { health 4; on down { say \"down {name}\" } }\nkind b { health 4 }\n\
         after 3 ticks { spawn a at (1, 1), health 0; spawn b at (2, 2), health -3; spawn b at (3, 3), health 1 }",
    );
    play.ticks(3);
    assert_eq!(play.said(), ["down a#1"]);
    assert_eq!((play.count("b"), play.ends()), (1, vec!["b 3 damage".to_string()]));
    assert_eq!((play.columns("a").health[0], play.happened(What::Hurt)), (0.0, 0));
}

#[rstest]
fn a_birth_that_finds_no_place_counts_for_nothing() {
    let mut play = pond(
        "kind m { body circle 1 u }\nkind w { body circle 5 u; after 45 ticks { end self } }\n\
         spawner nest { makes m at (5, 5), not within 1 u of w; every 10 ticks; at most 3 in all }\n\
         spawner one { makes m at (50, 50), not within 1 u of w; again 10 ticks after its end }\n\
         place nest\nplace w at (5, 5)\nplace one\nplace w at (50, 50)",
    );
    play.ticks(44);
    assert_eq!(play.count("m"), 0);
    // Each in its own rhythm: 10, 20, 30, 40 for the one, 1, 11, 21, 31, 41 for the other.
    assert_eq!(play.happened(What::NoPlace), 4 + 5);
    play.ticks(60);
    assert_eq!(play.count("m"), 4, "three in all, and one at a time");
}

#[rstest]
fn a_refused_birth_frees_its_spawner() {
    let text = "pond \"t\" { arena 100 x 100; limit 4 entities }\nkind m { after 5 ticks { end self } }\nkind w { after 9 ticks { end self } }\n\
                spawner nest { makes m at (5, 5); every 3 ticks; keep at most 1 alive }\nplace nest\nplace w at (1, 1)\nplace w at (2, 2)\nplace w at (3, 3)";
    let mut play = play(text, 1);
    play.ticks(8);
    assert!(play.happened(What::Refused) >= 2, "it asks again, though it was refused");
    play.ticks(10);
    assert!(play.born("m") > 0);
}

// The opening.

#[rstest]
fn the_view_goes_where_it_belongs_between_the_given_and_the_chosen() {
    let mut counts = [0, 0];
    for seed in 1..40 {
        let text = "pond \"t\" { arena 100 x 100; view 20 x 20 follows frog at (90, 90) }\n\
            kind frog { body circle 1 u }\nkind fly { body circle 1 u }\nplace frog at (20, 20)\n\
            place fly anywhere, not within view\nplace fly anywhere, not within view";
        let play = play(text, seed);
        let flies = play.columns("fly");
        for (x, y) in flies.x.iter().zip(flies.y.iter()) {
            let near = |at: f64| (*x - at).abs() <= 11.0 && (*y - at).abs() <= 11.0;
            counts[0] += usize::from(near(20.0));
            counts[1] += usize::from(near(90.0));
        }
    }
    assert_eq!(counts[0], 0, "none where the view is");
    assert!(counts[1] > 0, "but where it was before");
}

#[rstest]
fn what_is_placed_is_numbered_by_what_is_said_of_it() {
    let head = "pond \"t\" { arena 100 x 100 }\nkind m { vars { n = 0 }; on birth { heading = any angle } }\n";
    let lines = [
        "place m at (5, 5) { n = 2 }",
        "place m at (5, 5) { n = 1 }",
        "place m anywhere { n = 7 }",
        "place m anywhere { n = 5 }",
        "place m at (5, 5), facing 9 deg",
    ];
    let forwards = play(&format!("{head}{}", lines.join("\n")), 3);
    let backwards =
        play(&format!("{head}{}", lines.iter().rev().copied().collect::<Vec<_>>().join("\n")), 3);
    let told = |play: &Play| {
        let columns = play.columns("m");
        (
            columns.vars[0].to_vec(),
            columns.heading.to_vec(),
            columns.x.to_vec(),
            columns.luck.to_vec(),
        )
    };
    assert_eq!(told(&forwards), told(&backwards));
    assert_eq!(forwards.state.digest(), backwards.state.digest());
}

// Hurt.

#[rstest]
fn hurt_is_the_sum_of_a_tick_where_it_lowers_health() {
    let mut play = pond(
        "kind a { health 9; vars { n = 0 }; on hurt { n += 1 }\n\
         after 2 ticks { damage self by 1; heal self by 1 }\nafter 4 ticks { damage self by 0 }\n\
         after 6 ticks { damage self by 1\ndamage self by 2 }\nafter 8 ticks { damage self by 5 } }\nplace a at (1, 1)",
    );
    play.ticks(9);
    assert_eq!(var(&play, "a", 0, 0), 2.0);
    let told = |what| {
        let told = play.events.iter().filter(move |e| e.what == what);
        told.map(|e| (e.tick, e.value.unwrap())).collect::<Vec<_>>()
    };
    assert_eq!(told(What::Hurt), [(6, 3.0), (8, 5.0)]);
    // Where several shared in it, or nothing came of it, each is told; one alone is told as the sum.
    assert_eq!(told(What::Damaged), [(2, 1.0), (6, 1.0), (6, 2.0)]);
    // The line of the sum is that of the largest share.
    let site = nth(&play, What::Hurt, 0).site.unwrap();
    assert_eq!(play.program().line_of(site), 6);
}

#[rstest]
fn health_stops_at_nothing() {
    let mut play = pond(
        "kind a { health 3; on down { say \"down {health}\" } after 2 ticks { damage self by 50 } after 4 ticks { heal self by 2 } }\nplace a at (1, 1)",
    );
    play.ticks(5);
    assert_eq!(play.said(), ["down 0"]);
    assert_eq!((play.columns("a").health[0], play.columns("a").down[0]), (2.0, false));
}

// Rest.

#[rstest]
#[case::the_maker("spawn egg at here, inactive", 0)]
#[case::siblings("spawn 2 egg at here, inactive", 0)]
#[case::a_stranger("spawn egg at (40.5, 50), inactive", 1)]
fn who_is_born_inactive_lies_over_its_kin_until_they_part(
    #[case] spawn: &str,
    #[case] touches: usize,
) {
    let mut play = pond(&format!(
        "kind egg {{ body circle 1 u; on touch egg {{ say \"egg\" }} on touch frog {{ say \"frog\" }} }}\n\
         kind frog {{ body circle 1 u; after 3 ticks {{ {spawn} }} after 9 ticks {{ activate each egg }} }}\n\
         kind stone {{ body circle 1 u; on touch egg {{ say \"stone\" }} }}\nplace stone at (40, 50)\nplace frog at (50, 50)"
    ));
    play.ticks(20);
    assert_eq!(play.said().len(), touches, "{:?}", play.said());
}

#[rstest]
fn a_nap_does_not_part_those_who_lie_over_each_other() {
    let mut play = pond(
        "kind egg { body circle 1 u; on touch frog { say \"touch\" } }\n\
         kind frog { body circle 1 u; after 3 ticks { spawn egg at here } after 6 ticks { deactivate each egg } after 9 ticks { activate each egg } }\n\
         place frog at (50, 50)",
    );
    play.ticks(20);
    assert!(play.said().is_empty());
}

// Attachments.

#[rstest]
fn one_that_is_let_go_has_the_velocity_of_its_mount() {
    let mut play = pond(
        "kind wheel { mount rim at (4 u, 0 u); on birth { spin = 90 deg/s; vel = (3, 0) u/s; spawn bug at rim, attached } after 30 ticks { detach each bug } drifts }\n\
         kind bug { look \"b\"; vars { was = (0, 0) u/s } }\nplace wheel at (50, 50), facing 0 deg",
    );
    play.ticks(31);
    let (bug, wheel) = (play.columns("bug"), play.columns("wheel"));
    // In 30 moves it has turned by 45 deg: v = (3, 0) + w x r, w = pi/2 per s, r = 4 u, as it was then.
    let turned = (29.0f64 * 1.5).to_radians();
    let spin = std::f64::consts::FRAC_PI_2 * 4.0;
    let wanted = (3.0 - spin * turned.sin(), spin * turned.cos());
    assert!(
        (bug.vx[0] - wanted.0).abs() < 0.2 && (bug.vy[0] - wanted.1).abs() < 0.2,
        "{} {} {wanted:?}",
        bug.vx[0],
        bug.vy[0]
    );
    assert_eq!(wheel.vx[0], 3.0);
}

#[rstest]
#[case::attached("after 5 ticks { attach snail#1 at back }")]
#[case::its_owner_jumps(
    "after 3 ticks { attach snail#1 at back } after 5 ticks { pos = (90, 10) }"
)]
fn to_be_put_on_a_mount_is_a_jump(#[case] handlers: &str) {
    let mut play = pond(&format!(
        "zone weir = box (50, 0) size 5 x 40\nkind frog {{ mount back at (1 u, 0 u); {handlers} }}\n\
         kind snail {{ body circle 0.5 u; vars {{ n = 0 }}; on touch lily {{ n += 1 }} on enter weir {{ n += 1 }} on leave weir {{ n += 1 }} }}\n\
         kind lily {{ body circle 1 u }}\nplace frog at (10, 10)\nplace snail at (12, 10)\nplace lily at (45, 10)\n\
         place lily at (30, 10)"
    ));
    play.ticks(9);
    assert_eq!(var(&play, "snail", 0, 0), 0.0);
}

#[rstest]
fn what_hangs_is_swept_along_its_owners_way() {
    let mut play = pond(
        "kind frog { mount back at (1 u, 0 u); on birth { spawn snail at back, attached; speed = 1800 u/s } }\n\
         kind snail { body circle 0.2 u; on touch lily { say \"touch\" } }\nkind lily { body circle 0.5 u }\n\
         place frog at (10, 10), facing 0 deg\nplace lily at (55.2, 10)",
    );
    play.ticks(4);
    assert_eq!(play.said(), ["touch"]);
}

// Totals.

#[rstest]
fn the_peak_of_several_kinds_is_that_of_all_of_them_together() {
    let mut play = pond(
        "kind a { after 5 ticks { end self } }\nkind b { after 20 ticks { end self } }\n\
         after 1 ticks { spawn 4 a at (1, 1) }\nafter 10 ticks { spawn 3 b at (1, 1) }\n\
         watch together = peak(a or b)\nwatch apart = peak(a) + peak(b)",
    );
    play.ticks(30);
    let state = play.state.clone();
    assert_eq!(play.engine.watches(&state), [4.0, 7.0]);
}

#[rstest]
fn a_letter_to_who_is_gone_is_stale_and_not_unheard() {
    let mut play = pond(
        "message hi\nkind a { vars { friend: b }; on birth { friend = b#1 } after 5 ticks { send hi to friend } on end { send hi to b#1 } }\n\
         kind b { on hi { say \"hi\" } after 3 ticks { end self } }\nkind c { look \"c\" }\nplace a at (1, 1)\nplace b at (2, 2)\nplace c at (3, 3)\n\
         after 7 ticks { send hi to c#1 }",
    );
    play.ticks(9);
    let totals = play.state.mail_totals[0];
    assert_eq!((totals.sent, totals.heard, totals.unheard), (1, 0, 1));
    assert_eq!(play.happened(What::Stale), 1);
}

// Solids.

#[rstest]
fn a_fixed_body_acts_where_it_is_placed_and_nowhere_else() {
    let mut play = pond(
        "kind crate { body box 1 u x 1 u, solid }\nkind ledge { body box 10 u x 1 u, solid fixed }\n\
         place crate at (3, 0.5)\nplace ledge at (50, 20)\nplace crate at (80, 80)\n\
         kind mover { body box 4 u x 1 u, solid fixed; after 5 ticks { pos = (83, 80.2) } }\nplace mover at (20, 80)",
    );
    play.ticks(3);
    let crates = play.columns("crate");
    assert!((crates.x[0] - 3.0).abs() < 1e-3 && (crates.y[0] - 0.5).abs() < 1e-3);
    // A jump puts it over the crate without sweeping what lies on the way.
    play.ticks(3);
    let crates = play.columns("crate");
    assert!(crates.vx[1].abs() < 30.0, "{}", crates.vx[1]);
}

#[rstest]
#[case::circle("circle 1 u", false)]
#[case::upright_circle("circle 1 u", true)]
#[case::upright_box("box 2 u x 2 u", true)]
fn an_upright_solid_is_turned_by_nothing(#[case] body: &str, #[case] upright: bool) {
    let word = if upright { ", upright" } else { "" };
    let mut play = play(
        &format!(
            "pond \"t\" {{ arena 100 x 40; edges wall; gravity (0, -20) u/s2 }}\n\
             kind ball {{ body {body}, solid{word}, friction 90 %; on birth {{ vel = (20, 0) u/s }} }}\nplace ball at (10, 1)"
        ),
        1,
    );
    play.ticks(60);
    assert_eq!(play.columns("ball").heading[0] != 0.0, !upright);
}

#[rstest]
#[case::none("", 0.0)]
#[case::half(", bounce 50 %", 0.5)]
#[case::all(", bounce 100 %", 1.0)]
fn a_wall_gives_back_what_it_is_said_to(#[case] bounce: &str, #[case] share: f64) {
    let mut play = play(
        &format!(
            "pond \"t\" {{ arena 100 x 40; edges wall{bounce}, friction 0 % }}\n\
             kind ball {{ body circle 1 u, solid; on birth {{ vel = (20, 0) u/s }} }}\nplace ball at (80, 20)"
        ),
        1,
    );
    play.ticks(120);
    let back = -play.columns("ball").vx[0];
    assert!((back - 20.0 * share).abs() < 1.0, "{back}");
}

#[rstest]
fn of_two_solids_the_larger_bounce_counts() {
    let mut play = pond(
        "kind a { body circle 1 u, solid, bounce 0 %; on birth { vel = (10, 0) u/s } }\nkind b { body circle 1 u, solid, bounce 80 % }\n\
         place a at (10, 50)\nplace b at (20, 50)",
    );
    play.ticks(90);
    let (a, b) = (play.columns("a").vx[0], play.columns("b").vx[0]);
    assert!((b - a - 8.0).abs() < 0.5, "they part with 80 % of the speed: {a} {b}");
}

/// Who went through a list and then waits keeps nothing of the place it had beside others.
#[rstest]
fn a_wait_behind_a_list_is_the_same_with_two_threads() {
    let text = "pond \"test\" { arena 100 x 100 }\n\
         kind a { vars { n = 0 }\nafter 3 ticks { each a as o { n += 1 }\nwait 1 s\nn = 0 } }\n\
         after 1 ticks { spawn 8 a at (20, 20) }\n";
    let (mut one, mut two) = (play(text, 1), play(text, 1));
    (two.engine.threads, two.engine.grain) = (2, 2);
    for _ in 0..10 {
        one.ticks(1);
        two.ticks(1);
        assert_eq!(one.state.parts(), two.state.parts(), "tick {}", one.state.tick);
    }
    assert_eq!(one.state.waits.len(), 8);
}
