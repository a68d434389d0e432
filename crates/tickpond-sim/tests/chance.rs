//! Chance: evenly spread, the same for the same seed, and of one entity left alone by all the others.

use crate::common::{Play, play, pond};
use rstest::rstest;

/// The words of a variable of a kind, as numbers.
fn numbers(play: &Play, kind: &str, var: usize) -> Vec<f64> {
    play.columns(kind).vars[var].iter().map(|word| f64::from_bits(*word)).collect()
}

/// Chi-squared of counts that should be alike.
fn unevenness(counts: &[u32]) -> f64 {
    let mean = f64::from(counts.iter().sum::<u32>()) / counts.len() as f64;
    counts.iter().map(|n| (f64::from(*n) - mean).powi(2) / mean).sum()
}

#[rstest]
fn a_number_is_drawn_evenly_between_its_bounds() {
    let mut play = pond(
        "kind a { vars { n = 0 }; every tick { n = random(2.0 .. 6.0) } }\n\
         after 1 ticks { spawn 4000 a anywhere }\nwatch w = sum(a.n)",
    );
    play.ticks(3);
    let mut tenths = [0u32; 10];
    for n in numbers(&play, "a", 0) {
        assert!((2.0..6.0).contains(&n));
        tenths[((n - 2.0) / 0.4) as usize] += 1;
    }
    // Nine degrees of freedom: 27.9 is passed once in a thousand.
    assert!(unevenness(&tenths) < 27.9, "{tenths:?}");
}

#[rstest]
fn whole_numbers_reach_both_bounds_and_no_further() {
    let mut play = pond(
        "kind a { vars { n = 0 }; every tick { n = random(1 .. 6) } }\n\
         after 1 ticks { spawn 3000 a anywhere }\nwatch w = sum(a.n)",
    );
    play.ticks(2);
    let mut faces = [0u32; 6];
    for n in numbers(&play, "a", 0) {
        assert_eq!(n.fract(), 0.0);
        faces[n as usize - 1] += 1;
    }
    // Five degrees of freedom: 20.5 is passed once in a thousand.
    assert!(unevenness(&faces) < 20.5, "{faces:?}");
}

#[rstest]
fn one_of_many_is_picked_evenly_and_never_oneself() {
    let mut play = pond(
        "message pick\nkind a { vars { picked = 0 }; on pick { picked += 1 }\n\
         every tick { if random one of a as other { send pick to other } } }\n\
         after 1 ticks { spawn 10 a anywhere }\nwatch w = sum(a.picked)",
    );
    play.ticks(400);
    let picked: Vec<u32> = numbers(&play, "a", 0).iter().map(|n| *n as u32).collect();
    assert_eq!(picked.iter().sum::<u32>(), 4000);
    assert!(unevenness(&picked) < 27.9, "{picked:?}");
}

#[rstest]
fn spots_are_taken_evenly() {
    let mut play = pond(
        "spots reeds { (10, 10), (20, 10), (30, 10), (40, 10), (50, 10) }\n\
         kind a { look \"a\" }\nafter 1 ticks { spawn 2000 a at reeds }",
    );
    play.ticks(2);
    let mut at = [0u32; 5];
    play.columns("a").x.iter().for_each(|x| at[(*x / 10.0) as usize - 1] += 1);
    // Four degrees of freedom: 18.5 is passed once in a thousand.
    assert!(unevenness(&at) < 18.5, "{at:?}");
}

#[rstest]
fn any_angle_is_all_around() {
    let mut play = pond(
        "kind a { on birth { heading = any angle } }\nafter 1 ticks { spawn 3000 a anywhere }",
    );
    play.ticks(1);
    let mut parts = [0u32; 8];
    play.columns("a").heading.iter().for_each(|h| parts[(*h / 45.0) as usize] += 1);
    // Seven degrees of freedom: 24.3 is passed once in a thousand.
    assert!(unevenness(&parts) < 24.3, "{parts:?}");
}

#[rstest]
fn a_disc_is_filled_evenly() {
    let mut play =
        pond("kind a { look \"a\" }\nafter 1 ticks { spawn 4000 a around (50, 50) within 10 u }");
    play.ticks(1);
    let c = play.columns("a");
    let mut rings = [0u32; 4];
    for row in 0..c.len() {
        let distance = (c.x[row] - 50.0).hypot(c.y[row] - 50.0);
        assert!(distance <= 10.0 + 1e-9);
        // Rings of one area.
        rings[((distance / 10.0).powi(2) * 4.0).min(3.0) as usize] += 1;
    }
    // Three degrees of freedom: 16.3 is passed once in a thousand.
    assert!(unevenness(&rings) < 16.3, "{rings:?}");
}

#[rstest]
fn two_handlers_two_draws_and_two_ticks_draw_apart() {
    let mut play = pond(
        "kind a { vars { n = 0; m = 0; k = 0 }\n\
         every tick { n = random(0.0 .. 1.0); m = random(0.0 .. 1.0) }\n\
         every 1 ticks { k = random(0.0 .. 1.0) } }\nplace a at (1, 1)\n\
         watch w = sum(a.n) + sum(a.m) + sum(a.k)",
    );
    let mut drawn = Vec::new();
    for _ in 0..50 {
        play.ticks(1);
        drawn.extend((0..3).map(|var| numbers(&play, "a", var)[0].to_bits()));
    }
    drawn.sort_unstable();
    drawn.dedup();
    assert_eq!(drawn.len(), 150);
}

#[rstest]
fn seeds_differ_and_each_comes_again() {
    let text = include_str!("../benches/ponds/drift.pond").replace("= 1000 in", "= 50 in");
    let digest = |seed: u64| play(&text, seed).ticks(20).state.digest();
    let digests: Vec<u64> = (1..=8).map(digest).collect();
    let again: Vec<u64> = (1..=8).map(digest).collect();
    assert_eq!(digests, again);
    let mut apart = digests.clone();
    apart.sort_unstable();
    apart.dedup();
    assert_eq!(apart.len(), 8);
}

/// Places of all midges, which are born and drift by chance.
fn midges(more: &str, extra_spawn: &str) -> Vec<(u64, u64)> {
    let mut play = pond(&format!(
        "kind midge {{ on birth {{ heading = any angle; speed = random(1.0 .. 6.0) * 1 u/s }}\n\
         every 5 ticks {{ turn by random(-30 deg .. 30 deg) }} }}\n\
         spawner bed {{ makes midge anywhere; every 3 ticks; at most 20 in all }}\nplace bed\n\
         {more}\n{extra_spawn}"
    ));
    play.ticks(120);
    let c = play.columns("midge");
    (0..20).map(|row| (c.x[row].to_bits(), c.y[row].to_bits())).collect()
}

#[rstest]
#[case::one_more_kind(
    "kind fly { on birth { heading = any angle }; every tick { turn by random(-9 deg .. 9 deg) } }\nplace fly at (3, 3)",
    ""
)]
#[case::one_more_spawner(
    "kind fly { after 1 s { end self } }\nspawner swarm { makes fly anywhere; every 2 ticks }\nplace swarm at (9, 9)",
    ""
)]
#[case::another_order_of_text("", "knob unused_before = 3 in 1..9\nwatch w = unused_before")]
#[case::the_pond_draws(
    "every 4 ticks { spawn fly at (random(1 .. 90) * 1 u, 5 u) }\nkind fly { after 9 ticks { end self } }",
    ""
)]
fn one_more_of_something_else_leaves_the_luck_of_the_others_alone(
    #[case] more: &str,
    #[case] extra: &str,
) {
    assert_eq!(midges(more, extra), midges("", ""));
}

#[rstest]
fn one_more_of_a_request_leaves_those_before_it_alone() {
    let places = |count: usize| -> Vec<(u64, u64)> {
        let mut play = pond(&format!(
            "kind a {{ on birth {{ heading = any angle; speed = 5 u/s }} }}\n\
             after 1 ticks {{ spawn {count} a anywhere }}"
        ));
        play.ticks(30);
        let c = play.columns("a");
        (0..c.len()).map(|row| (c.x[row].to_bits(), c.y[row].to_bits())).collect()
    };
    assert_eq!(places(12)[..11], places(11)[..]);
}

#[rstest]
fn asked_for_at_once_or_one_by_one_they_are_the_same() {
    // A request for many is one request inside; the births are those of as many requests.
    let at_once = "after 1 ticks { spawn 9 a anywhere, speed 3 u/s }";
    let one_by_one = "after 1 ticks { repeat 9 times as i { spawn a anywhere, speed 3 u/s } }";
    let lucks = |births: &str| -> Vec<u64> {
        let mut play = pond(&format!("kind a {{ on birth {{ heading = any angle }} }}\n{births}"));
        play.ticks(5);
        play.columns("a").luck.to_vec()
    };
    assert_eq!(lucks(at_once), lucks(one_by_one));
}

#[rstest]
fn a_draw_for_another_party_does_not_hang_on_who_else_is_there() {
    // Each touch draws for its two parties; a second midge elsewhere changes nothing for the first.
    let drawn = |more: &str| -> Vec<String> {
        let mut play = pond(&format!(
            "kind a {{ body circle 1 u, sensor; on touch b as t {{ say \"{{t.name}} {{random(0.0 .. 1.0)}}\" }} }}\n\
             kind b {{ body circle 1 u, sensor }}\nplace a at (50, 50)\nplace b at (50.5, 50)\n{more}"
        ));
        play.ticks(2);
        let mut said = play.said();
        said.retain(|words| words.starts_with("b#1 "));
        said
    };
    let alone = drawn("");
    assert_eq!(alone.len(), 1);
    assert_eq!(drawn("place b at (51, 50)"), alone);
}
