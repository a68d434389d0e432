//! Rays and blasts: what they reach, how far, and how strongly.

use crate::common::{Play, play, pond};
use rstest::rstest;
use tickpond_sim::What;

/// A frog at (10, 50) that sends a ray along x, and what it said of it.
fn ray(ray: &str, others: &str) -> Vec<String> {
    let mut play = pond(&format!(
        "kind frog {{ body circle 1 u, sensor; mount mouth at (1 u, 0 u)\n\
         after 5 ticks {{ {ray} as r {{ say \"{{r.target.name}} {{r.length}} {{r.place}}\" }} else {{ say \"miss {{r.length}} {{r.place}}\" }} }} }}\n\
         kind midge {{ tag insect; body circle 2 u, sensor; health 9 }}\n\
         kind wall {{ body box 2 u x 10 u, solid fixed }}\n\
         kind leaf {{ tag insect; look \"l\" }}\nplace frog at (10, 50)\n{others}"
    ));
    play.ticks(8);
    play.said()
}

#[rstest]
#[case::the_first_thing(
    "ray from here along 0 deg, reach 60 u, hits midge",
    "place midge at (40, 50)\nplace midge at (30, 50)",
    "midge#1 18 u (28, 50) u"
)]
#[case::as_far_as_it_reaches(
    "ray from here along 0 deg, reach 15 u, hits midge",
    "place midge at (30, 50)",
    "miss 15 u (25, 50) u"
)]
#[case::just_within_reach(
    "ray from here along 0 deg, reach 18 u, hits midge",
    "place midge at (30, 50)",
    "midge#1 18 u (28, 50) u"
)]
#[case::only_what_it_hits(
    "ray from here along 0 deg, reach 60 u, hits midge",
    "place wall at (20, 50)\nplace midge at (40, 50)",
    "midge#1 28 u (38, 50) u"
)]
#[case::what_stands_before_it(
    "ray from here along 0 deg, reach 60 u, hits midge or wall",
    "place wall at (20, 50)\nplace midge at (40, 50)",
    "wall#1 9 u (19, 50) u"
)]
#[case::any(
    "ray from here along 0 deg, reach 60 u, hits any",
    "place wall at (20, 50)\nplace midge at (40, 50)",
    "wall#1 9 u (19, 50) u"
)]
#[case::from_a_mount(
    "ray from mouth along 0 deg, reach 60 u, hits wall",
    "place wall at (20, 50)",
    "wall#1 8 u (19, 50) u"
)]
#[case::past_it(
    "ray from here along 0 deg, reach 60 u, hits midge",
    "place midge at (40, 53)",
    "miss 60 u (70, 50) u"
)]
#[case::behind(
    "ray from here along 0 deg, reach 60 u, hits midge",
    "place midge at (4, 50)",
    "miss 60 u (70, 50) u"
)]
#[case::straight_up(
    "ray from here along 90 deg, reach 30 u, hits midge",
    "place midge at (10, 70)",
    "midge#1 18 u (10, 68) u"
)]
#[case::never_what_has_no_body(
    "ray from here along 0 deg, reach 60 u, hits insect",
    "place leaf at (20, 50)\nplace midge at (40, 50)",
    "midge#1 28 u (38, 50) u"
)]
#[case::by_a_condition(
    "ray from here along 0 deg, reach 60 u, hits midge where health > 5",
    "place midge at (20, 50), health 3\nplace midge at (40, 50)",
    "midge#2 28 u (38, 50) u"
)]
#[case::not_the_sleeping(
    "ray from here along 0 deg, reach 60 u, hits midge",
    "place midge at (20, 50), inactive\nplace midge at (40, 50)",
    "midge#2 28 u (38, 50) u"
)]
#[case::no_reach(
    "ray from here along 0 deg, reach 0 u, hits midge",
    "place midge at (40, 50)",
    "miss 0 u (10, 50) u"
)]
fn a_ray_meets(#[case] statement: &str, #[case] others: &str, #[case] wanted: &str) {
    assert_eq!(ray(statement, others), [wanted]);
}

#[rstest]
fn a_ray_leaves_out_the_asker_its_maker_and_what_hangs_on_it() {
    let mut play = pond(
        "kind frog { body circle 3 u, sensor; mount back at (2 u, 0 u)\n\
         after 1 ticks { spawn drop at back; spawn hat at back, attached } }\n\
         kind hat { body circle 1 u, sensor }\n\
         kind drop { body circle 1 u, sensor\n\
         after 3 ticks { ray from here along 180 deg, reach 40 u, hits any as r { say \"{r.target.name}\" } else { say \"none\" } } }\n\
         kind wall { body box 2 u x 20 u, sensor }\nplace frog at (50, 50)\nplace wall at (30, 50)",
    );
    play.ticks(8);
    let said = play.said();
    assert_eq!(said.len(), 1);
    assert_ne!(said[0], "frog#1");
    assert_ne!(said[0], "drop#1");
}

#[rstest]
fn a_ray_crosses_the_seam() {
    let text = "pond \"t\" { arena 100 x 100; edges wrap }\n\
        kind frog { body circle 1 u, sensor; after 5 ticks {\n\
        ray from here along 180 deg, reach 30 u, hits midge as r { say \"{r.length}\" } else { say \"miss\" } } }\n\
        kind midge { body circle 2 u, sensor }\nplace frog at (10, 50)\nplace midge at (90, 50)";
    let mut play = play(text, 1);
    play.ticks(8);
    assert_eq!(play.said(), ["18 u"]);
}

#[rstest]
fn what_a_ray_hits_is_hurt_and_the_trace_fades() {
    let mut play = pond(
        "kind frog { after 5 ticks { ray from here along 0 deg, reach 60 u, hits midge as r {\n\
         damage r.target by 4; show r for 10 ticks } else { say \"miss\" } } }\n\
         kind midge { body circle 2 u, sensor; health 9 }\nplace frog at (10, 50)\nplace midge at (40, 50)",
    );
    play.ticks(5);
    assert_eq!(play.columns("midge").health[0], 5.0);
    assert_eq!(play.state.traces.len(), 1);
    let trace = play.state.traces[0];
    assert_eq!((trace.from, trace.to, trace.radius), ((10.0, 50.0), (38.0, 50.0), None));
    play.ticks(9);
    assert_eq!(play.state.traces.len(), 1);
    play.ticks(2);
    assert!(play.state.traces.is_empty());
}

// Blasts.

/// Health and velocity of the midges after a blast at (50, 50).
fn blasted(blast: &str, midges: &[(f64, f64)]) -> (Play, Vec<(f64, f64, f64)>) {
    let placed: String =
        midges.iter().map(|(x, y)| format!("place midge at ({x}, {y})\n")).collect();
    let mut play = pond(&format!(
        "kind midge {{ body circle 1 u, sensor; health 100 }}\n\
         kind bank {{ body box 2 u x 20 u, solid fixed }}\n\
         kind pod {{ body circle 1 u, sensor; health 100; after 5 ticks {{ {blast} }} }}\n\
         place pod at (50, 50)\n{placed}"
    ));
    play.ticks(6);
    let c = play.columns("midge");
    let told = (0..c.len()).map(|row| (c.health[row], c.vx[row], c.vy[row])).collect();
    (play, told)
}

#[rstest]
#[case::even("falloff even", 4.0, 8.0)]
#[case::even_at_the_rim("falloff even", 10.0, 8.0)]
#[case::straight("falloff straight", 5.0, 4.0)]
#[case::straight_at_the_rim("falloff straight", 10.0, 0.0)]
#[case::straight_near("falloff straight", 2.5, 6.0)]
#[case::square("falloff square", 5.0, 2.0)]
#[case::square_near("falloff square", 2.5, 4.5)]
#[case::beyond("falloff even", 10.5, 0.0)]
fn damage_falls_off_with_the_distance(
    #[case] falloff: &str,
    #[case] distance: f64,
    #[case] wanted: f64,
) {
    let blast = format!("blast at here, radius 10 u, damage 8, {falloff}");
    let (_, told) = blasted(&blast, &[(50.0 + distance, 50.0)]);
    assert!((100.0 - told[0].0 - wanted).abs() < 1e-9, "{told:?}");
}

#[rstest]
fn a_push_goes_away_from_the_middle() {
    let (_, told) = blasted(
        "blast at here, radius 20 u, push 12 u/s, falloff even",
        &[(55.0, 50.0), (50.0, 60.0), (47.0, 46.0), (90.0, 90.0)],
    );
    let way = |row: usize| (told[row].1, told[row].2);
    let close = |a: (f64, f64), b: (f64, f64)| (a.0 - b.0).abs() < 1e-9 && (a.1 - b.1).abs() < 1e-9;
    // Rows are in the order of their places: by x, then y.
    assert!(close(way(0), (-12.0 * 0.6, -12.0 * 0.8)), "{told:?}");
    assert!(close(way(1), (0.0, 12.0)), "{told:?}");
    assert!(close(way(2), (12.0, 0.0)), "{told:?}");
    assert!(close(way(3), (0.0, 0.0)), "{told:?}");
}

#[rstest]
#[case::spares_itself("blast at here, radius 20 u, damage 8, falloff even", 100.0)]
fn a_blast_leaves_out_who_asks_for_it(#[case] blast: &str, #[case] wanted: f64) {
    let (play, told) = blasted(blast, &[(55.0, 50.0)]);
    assert_eq!(told[0].0, 92.0);
    assert_eq!(play.columns("pod").health[0], wanted);
}

#[rstest]
#[case::spared(", spares maker", 100.0)]
#[case::not_spared("", 92.0)]
fn a_maker_is_spared_if_that_is_said(#[case] spares: &str, #[case] wanted: f64) {
    let mut play = pond(&format!(
        "kind frog {{ body circle 1 u, sensor; health 100; after 1 ticks {{ spawn pod at here }} }}\n\
         kind pod {{ body circle 1 u, sensor; after 5 ticks {{ blast at here, radius 9 u, damage 8, falloff even{spares} }} }}\n\
         place frog at (50, 50)"
    ));
    play.ticks(10);
    assert_eq!(play.columns("frog").health[0], wanted);
}

#[rstest]
#[case::behind_a_bank(", shielded by bank", 100.0)]
#[case::through_it("", 92.0)]
fn a_bank_shields_what_is_behind_it(#[case] shield: &str, #[case] wanted: f64) {
    let mut play = pond(&format!(
        "kind midge {{ body circle 1 u, sensor; health 100 }}\nkind bank {{ body box 2 u x 20 u, solid fixed }}\n\
         kind pod {{ body circle 1 u, sensor; after 5 ticks {{ blast at here, radius 20 u, damage 8, falloff even{shield} }} }}\n\
         place pod at (50, 50)\nplace bank at (55, 50)\nplace midge at (60, 50)\nplace midge at (40, 50)"
    ));
    play.ticks(8);
    let c = play.columns("midge");
    // The one on the other side is hurt either way.
    assert_eq!((c.health[0], c.health[1]), (92.0, wanted));
}

#[rstest]
fn a_blast_is_shown_with_its_reach() {
    let (play, _) = blasted("blast at here, radius 7 u, damage 1, falloff even", &[(55.0, 50.0)]);
    let shown: Vec<Option<f64>> = play.state.traces.iter().map(|trace| trace.radius).collect();
    assert_eq!(shown, [Some(7.0)]);
}

#[rstest]
fn a_delayed_blast_is_where_one_is_then() {
    let mut play = pond(
        "kind midge { body circle 1 u, sensor; health 9 }\n\
         kind pod { body circle 1 u, sensor; on birth { vel = (60, 0) u/s; wait 0.5 s\n\
         blast at here, radius 3 u, damage 5, falloff even; end self because \"burst\" } }\n\
         place pod at (10, 50)\nplace midge at (40, 50)\nplace midge at (10, 50)",
    );
    play.ticks(40);
    let c = play.columns("midge");
    // It has gone 30 u by then.
    assert_eq!((c.health[0], c.health[1]), (9.0, 4.0));
    assert!(play.ends().iter().any(|end| end.ends_with("timer burst")));
}

#[rstest]
fn damage_to_what_has_no_health_stands_out() {
    let mut play = pond(
        "kind leaf { body circle 1 u, sensor }\nkind midge { body circle 1 u, sensor; health 9 }\n\
         kind pod { body circle 1 u, sensor; after 5 ticks { ray from here along 0 deg, reach 60 u, hits leaf or midge as r { damage r.target by 1 } } }\n\
         place pod at (10, 50)\nplace leaf at (40, 50)",
    );
    play.ticks(10);
    assert_eq!(play.happened(What::Unheard), 1);
    assert_eq!(play.happened(What::Hurt), 0);
}
