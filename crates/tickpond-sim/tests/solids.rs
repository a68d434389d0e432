//! Solid bodies: what is fast, what falls on what, what walls give back.

use crate::common::{Play, play};
use rstest::rstest;

fn solids(header: &str, items: &str) -> Play {
    play(&format!("pond \"t\" {{ arena 200 x 100; rate 60 per s{header} }}\n{items}"), 1)
}

fn vx(play: &Play, kind: &str) -> f64 {
    play.columns(kind).vx[0]
}

/// A small fast body meets another that stands free: it is told, and both go on as the laws of impact say.
#[rstest]
#[case::a_pellet_and_a_crate("circle 0.2 u", "box 1 u x 1 u", 120.0)]
#[case::faster("circle 0.2 u", "box 1 u x 1 u", 600.0)]
#[case::much_faster("circle 0.1 u", "circle 0.5 u", 2000.0)]
#[case::a_small_one("circle 0.05 u", "box 0.4 u x 4 u", 300.0)]
#[case::two_boxes("box 0.3 u x 0.3 u", "box 1 u x 3 u", 150.0)]
#[case::slow("circle 0.2 u", "box 1 u x 1 u", 3.0)]
fn a_fast_body_pushes_what_it_meets(
    #[case] small: &str,
    #[case] large: &str,
    #[case] speed: f64,
    #[values(0.0, 0.37, 0.71)] shift: f64,
) {
    let mut play = solids(
        "",
        &format!(
            "kind pellet {{ body {small}, solid; vars {{ told = 0 }}; on birth {{ speed = {speed} u/s }} \
             on impact over 1 u/s with crate {{ told += 1 }} }}\n\
             kind crate {{ body {large}, solid }}\n\
             place pellet at (10, 50), facing 0 deg\nplace crate at ({}, 50)",
            30.0 + shift
        ),
    );
    let ticks = (25.0 / speed * 60.0) as u64 + 5;
    play.ticks(ticks);
    assert_eq!(f64::from_bits(play.columns("pellet").vars[0][0]), 1.0, "the impact is told once");
    let (pellet, crate_) = (vx(&play, "pellet"), vx(&play, "crate"));
    // Of one weight: without a bounce both go on with half the speed.
    assert!((pellet + crate_ - speed).abs() < speed * 0.02, "momentum: {pellet} {crate_}");
    assert!((crate_ - speed / 2.0).abs() < speed * 0.1, "pushed: {pellet} {crate_}");
    assert!(play.columns("pellet").x[0] < play.columns("crate").x[0], "it did not pass through");
}

/// A body that falls on others without a bounce stays on them.
#[rstest]
#[case::one(1)]
#[case::three(3)]
#[case::six(6)]
#[case::ten(10)]
fn a_pile_without_bounce_gives_nothing_back(
    #[case] height: usize,
    #[values("box 1 u x 1 u", "box 2 u x 1 u", "box 6 u x 1 u")] body: &str,
    #[values(4, 10, 25)] speed: u32,
) {
    let mut items = format!(
        "kind crate {{ body {body}, solid, bounce 0 % }}\nkind floor {{ body box 60 u x 2 u, solid fixed }}\n\
         kind stone {{ body {body}, solid, bounce 0 %; on birth {{ vel = (0, -{speed}) u/s }} }}\n\
         place floor at (50, 1)\n"
    );
    for at in 0..height {
        items.push_str(&format!("place crate at (50, {})\n", 2.5 + at as f64));
    }
    items.push_str(&format!("place stone at (50, {})", height as f64 + 4.0));
    let mut play = solids("; gravity (0, -20) u/s2", &items);
    let mut back: f64 = 0.0;
    for _ in 0..180 {
        play.ticks(1);
        let crates = play.columns("crate").vy.iter().chain(play.columns("stone").vy.iter());
        back = crates.fold(back, |most, vy| most.max(*vy));
    }
    let hits_with = f64::from(speed) + 2.0;
    assert!(back < hits_with * 0.03, "{back} u/s came back of some {hits_with}");
}
