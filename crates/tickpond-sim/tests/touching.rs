//! Who touches whom, against looking at every pair.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;

use crate::common::{Play, play};
use proptest::prelude::*;
use rstest::rstest;
use tickpond_sim::{EntityId, What};

/// Width and height of the arena.
const SIZE: (f64, f64) = (60.0, 40.0);

/// One body: its kind, place and velocity, in u and u/s.
#[derive(Clone, Debug)]
struct Body {
    kind: usize,
    at: (f64, f64),
    vel: (f64, f64),
}

const KINDS: [&str; 3] = ["midge", "drop", "leaf"];

/// Which kinds notice which: `(0, 1)` is a handler of midges about drops.
type Notices = BTreeSet<(usize, usize)>;

fn text(radii: &[f64], bodies: &[Body], notices: &Notices, edges: &str) -> String {
    let mut text = format!("pond \"t\" {{ arena {} x {}; edges {edges} }}\n", SIZE.0, SIZE.1);
    for (kind, name) in KINDS.iter().enumerate() {
        let _ = writeln!(text, "kind {name} {{ body circle {} u, sensor", radii[kind]);
        for (_, other) in notices.iter().filter(|(me, _)| *me == kind) {
            let _ = writeln!(text, "  on touch {} as t {{ say \"x\" }}", KINDS[*other]);
        }
        text.push_str("}\n");
    }
    for Body { kind, at, vel } in bodies {
        let name = KINDS[*kind];
        let _ =
            writeln!(text, "place {name} at ({}, {}), vel ({}, {}) u/s", at.0, at.1, vel.0, vel.1);
    }
    text
}

type Places = BTreeMap<EntityId, (usize, (f64, f64))>;

fn places(play: &Play) -> Places {
    let kinds = KINDS.iter().enumerate().flat_map(|(kind, name)| {
        let c = play.columns(name);
        (0..c.len()).map(move |row| (c.id[row], (kind, (c.x[row], c.y[row]))))
    });
    kinds.collect()
}

/// The shorter way along an axis that goes around.
fn shortest(way: f64, size: f64, wraps: bool) -> f64 {
    if wraps { way - (way / size).round() * size } else { way }
}

/// How near the two ways come to each other, both gone evenly in the tick.
fn nearest(
    (a0, a1): ((f64, f64), (f64, f64)),
    (b0, b1): ((f64, f64), (f64, f64)),
    wraps: bool,
) -> f64 {
    let offset = |from: (f64, f64), to: (f64, f64)| {
        (shortest(to.0 - from.0, SIZE.0, wraps), shortest(to.1 - from.1, SIZE.1, wraps))
    };
    let (way_a, way_b, end) = (offset(a0, a1), offset(b0, b1), offset(a1, b1));
    let start = (end.0 - way_b.0 + way_a.0, end.1 - way_b.1 + way_a.1);
    let go = (end.0 - start.0, end.1 - start.1);
    let length = go.0 * go.0 + go.1 * go.1;
    let at = match length {
        0.0 => 0.0,
        _ => (-(start.0 * go.0 + start.1 * go.1) / length).clamp(0.0, 1.0),
    };
    (start.0 + go.0 * at).hypot(start.1 + go.1 * at)
}

fn bodies(most: usize) -> impl Strategy<Value = Vec<Body>> {
    let speed = prop_oneof![
        4 => -12.0..12.0f64,
        // Some go further in a tick than anything is wide.
        1 => -900.0..900.0f64,
        1 => Just(0.0),
    ];
    let number = |value: f64| (value * 100.0).round() / 100.0;
    let body = (0..3usize, 0.0..SIZE.0, 0.0..SIZE.1, speed.clone(), speed).prop_map(
        move |(kind, x, y, vx, vy)| Body {
            kind,
            at: (number(x), number(y)),
            vel: (number(vx), number(vy)),
        },
    );
    prop::collection::vec(body, 2..most)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn the_search_finds_what_a_look_at_every_pair_finds(
        bodies in bodies(60),
        radii in prop::collection::vec(prop_oneof![Just(0.2), Just(0.5), Just(1.0), Just(4.0)], 3),
        notices in prop::collection::btree_set((0..3usize, 0..3usize), 1..4),
        wraps in any::<bool>(),
    ) {
        let mut play = play(&text(&radii, &bodies, &notices, if wraps { "wrap" } else { "open" }), 1);
        play.engine.threads = 1;
        let mut touching: BTreeSet<(EntityId, EntityId)> = BTreeSet::new();
        // Pairs that come so near that rounding decides are left out, in this tick and the next.
        let mut unsure: BTreeSet<(EntityId, EntityId)> = BTreeSet::new();
        for _ in 0..12 {
            let before = places(&play);
            play.events.clear();
            play.ticks(1);
            let after = places(&play);
            let all: Vec<_> = after.iter().map(|(id, (kind, at))| (*id, *kind, *at)).collect();
            let (mut now, mut close) = (BTreeSet::new(), BTreeSet::new());
            for (nth, (a, kind_a, at_a)) in all.iter().enumerate() {
                for (b, kind_b, at_b) in &all[nth + 1..] {
                    let noticed = |x: &usize, y: &usize| notices.contains(&(*x, *y));
                    if !noticed(kind_a, kind_b) && !noticed(kind_b, kind_a) {
                        continue;
                    }
                    let ways = ((before[a].1, *at_a), (before[b].1, *at_b));
                    let room = nearest(ways.0, ways.1, wraps) - radii[*kind_a] - radii[*kind_b];
                    let pair = (*a.min(b), *a.max(b));
                    if room.abs() < 1e-6 {
                        close.insert(pair);
                    }
                    if room <= 0.0 {
                        now.insert(pair);
                    }
                }
            }
            let sure = |pair: &&(EntityId, EntityId)| !close.contains(*pair) && !unsure.contains(*pair);
            let begun: BTreeSet<_> = now.difference(&touching).filter(sure).copied().collect();
            let told: BTreeSet<_> = play
                .events
                .iter()
                .filter(|e| e.what == What::Touched)
                .map(|e| {
                    let (a, b) = (e.who.id, e.other.unwrap().id);
                    (a.min(b), a.max(b))
                })
                .collect();
            let told: BTreeSet<_> = told.iter().filter(sure).copied().collect();
            prop_assert_eq!(told, begun, "tick {}", play.state.tick);
            touching = now;
            unsure = close;
        }
    }
}

#[rstest]
#[case::wrap("wrap", 1)]
#[case::open("open", 0)]
fn a_fast_one_touches_what_it_flies_past_also_over_the_seam(
    #[case] edges: &str,
    #[case] touches: usize,
) {
    // From 1 u before the right edge to 9 u behind the left one.
    let drop = Body { kind: 1, at: (59.0, 20.0), vel: (600.0, 0.0) };
    let midge = Body { kind: 0, at: (4.0, 20.3), vel: (0.0, 0.0) };
    let mut play =
        play(&text(&[0.5, 0.2, 1.0], &[drop, midge], &Notices::from([(1, 0)]), edges), 1);
    play.ticks(1);
    assert_eq!(play.happened(What::Touched), touches);
}

#[rstest]
fn one_that_is_far_outside_still_touches_and_costs_nothing() {
    let far = [
        Body { kind: 0, at: (59.0, 20.0), vel: (1e7, 0.0) },
        Body { kind: 1, at: (59.5, 20.0), vel: (1e7, 0.0) },
        Body { kind: 1, at: (10.0, 10.0), vel: (0.0, 0.0) },
    ];
    let mut play = play(&text(&[0.5, 0.2, 1.0], &far, &Notices::from([(0, 1)]), "open"), 1);
    play.ticks(120);
    assert_eq!(play.happened(What::Touched), 1);
    assert_eq!(play.happened(What::Parted), 0);
}
