//! Touch in crowds, against every pair: however many look, however far they go, nobody is overlooked and
//! nobody touches from afar.

use std::collections::BTreeSet;

use crate::common::{Play, play};
use proptest::prelude::*;
use rstest::rstest;
use tickpond_lang::program::KindId;
use tickpond_sim::What;

const SIDE: f64 = 120.0;

/// A crowd of midges that only look, and a few drops that fly among them.
fn crowd(edges: &str, midges: usize, drops: usize, speed: u32, more: &str) -> String {
    format!(
        "pond \"Crowd\" {{ arena {SIDE} x {SIDE}; edges {edges}; limit 20_000 entities }}\n\
         kind midge {{ body circle 0.8 u, sensor\n on birth {{ heading = any angle; speed = 6 u/s }}\n{more} }}\n\
         kind drop {{ body circle 0.4 u, sensor\n on birth {{ heading = any angle; speed = {speed} u/s }}\n\
         on touch midge {{ say \"hit\" }} }}\n\
         after 1 ticks {{ spawn {midges} midge anywhere; spawn {drops} drop anywhere }}\n"
    )
}

fn kind(play: &Play, name: &str) -> KindId {
    play.program().kind_named(name).unwrap()
}

/// Places of a kind by number.
fn places(play: &Play, name: &str) -> Vec<(u32, (f64, f64), bool)> {
    let c = play.columns(name);
    (0..c.len()).map(|row| (c.number[row], (c.x[row], c.y[row]), c.is_active(row))).collect()
}

fn short(way: f64, wraps: bool) -> f64 {
    if !wraps {
        return way;
    }
    let way = way.rem_euclid(SIDE);
    if way > SIDE / 2.0 { way - SIDE } else { way }
}

/// Whether two circles met on straight ways within a tick, as the second sees the first; `None` if it is too
/// close to tell.
fn met(a: [(f64, f64); 2], b: [(f64, f64); 2], reach: f64, wraps: bool) -> Option<bool> {
    let way = |p: [(f64, f64); 2]| (short(p[1].0 - p[0].0, wraps), short(p[1].1 - p[0].1, wraps));
    let (wa, wb) = (way(a), way(b));
    let end = (short(b[1].0 - a[1].0, wraps), short(b[1].1 - a[1].1, wraps));
    let (dx, dy) = (wb.0 - wa.0, wb.1 - wa.1);
    let start = (end.0 - dx, end.1 - dy);
    let length = dx * dx + dy * dy;
    let along = if length == 0.0 { 0.0 } else { -(start.0 * dx + start.1 * dy) / length };
    let along = along.clamp(0.0, 1.0);
    let nearest = (start.0 + dx * along).hypot(start.1 + dy * along);
    if (nearest - reach).abs() < 1e-6 { None } else { Some(nearest < reach) }
}

/// Plays ticks and holds who touches whom in each against every pair.
fn against_every_pair(text: &str, wraps: bool, ticks: u64) -> usize {
    let mut play = play(text, 3);
    play.ticks(1);
    let (midge, drop) = (kind(&play, "midge"), kind(&play, "drop"));
    let mut touched_in_all = 0;
    for _ in 0..ticks {
        let before = [places(&play, "midge"), places(&play, "drop")];
        let known: BTreeSet<(u32, u32)> = touching(&play, midge, drop);
        let seen = play.events.len();
        play.ticks(1);
        let now = touching(&play, midge, drop);
        let told: BTreeSet<(u32, u32)> = play.events[seen..]
            .iter()
            .filter(|e| e.what == What::Touched)
            .map(|e| {
                let (a, b) = (e.who, e.other.unwrap());
                if a.kind == midge { (a.number, b.number) } else { (b.number, a.number) }
            })
            .collect();
        let after = [places(&play, "midge"), places(&play, "drop")];
        let at = |list: &[(u32, (f64, f64), bool)], number: u32| {
            list.iter().find(|p| p.0 == number).map(|p| p.1)
        };
        for (m, place, awake) in &after[0] {
            for (d, other, _) in &after[1] {
                let (Some(old), Some(old_other)) = (at(&before[0], *m), at(&before[1], *d)) else {
                    continue;
                };
                let wanted = met([old, *place], [old_other, *other], 1.2, wraps);
                let is = now.contains(&(*m, *d));
                if let Some(wanted) = wanted {
                    assert_eq!(
                        is,
                        wanted && *awake,
                        "midge#{m} at {place:?}, drop#{d} at {other:?}"
                    );
                }
                assert_eq!(told.contains(&(*m, *d)), is && !known.contains(&(*m, *d)));
            }
        }
        touched_in_all += told.len();
    }
    touched_in_all
}

fn touching(play: &Play, midge: KindId, drop: KindId) -> BTreeSet<(u32, u32)> {
    let number = |id, kind: KindId| {
        let who = play.state.who(id)?;
        (who.kind == kind).then_some(who.number)
    };
    play.state
        .contacts
        .iter()
        .filter(|c| !c.born_so)
        .filter_map(|c| {
            let pair = |m, d| Some((number(m, midge)?, number(d, drop)?));
            pair(c.elder, c.younger).or_else(|| pair(c.younger, c.elder))
        })
        .collect()
}

#[rstest]
#[case::sparse("wrap", true, 60, 6, 40)]
#[case::dense("wrap", true, 900, 40, 40)]
#[case::fast("wrap", true, 300, 30, 900)]
#[case::very_fast("wrap", true, 200, 10, 6000)]
#[case::slow("wrap", true, 300, 30, 0)]
#[case::open("open", false, 300, 30, 200)]
#[case::walls("wall", false, 300, 30, 200)]
#[case::more_drops_than_midges("wrap", true, 20, 400, 40)]
#[case::one_of_each("wrap", true, 1, 1, 6000)]
fn nobody_is_overlooked(
    #[case] edges: &str,
    #[case] wraps: bool,
    #[case] midges: usize,
    #[case] drops: usize,
    #[case] speed: u32,
) {
    let touched = against_every_pair(&crowd(edges, midges, drops, speed, ""), wraps, 12);
    assert!(touched > 0 || midges * drops < 500, "nobody touched at all");
}

/// Of a stretch of rows a few go much further than the rest, each time others.
#[rstest]
#[case::wrap("wrap", true)]
#[case::open("open", false)]
#[case::walls("wall", false)]
fn the_few_that_sprint_are_not_overlooked(#[case] edges: &str, #[case] wraps: bool) {
    let more = "every tick { speed = 6 u/s; if random(1 .. 20) == 1 { speed = 900 u/s } }";
    let touched = against_every_pair(&crowd(edges, 400, 40, 40, more), wraps, 12);
    assert!(touched > 20, "{touched}");
}

/// Who hangs on another goes as far as that does, whatever its own velocity.
#[rstest]
#[case::slow(30)]
#[case::fast(900)]
fn the_carried_are_not_overlooked(#[case] speed: u32) {
    let rafts = format!(
        "kind raft {{ mount deck at (3, 0)\n on birth {{ heading = any angle; speed = {speed} u/s\n\
         spawn midge at deck, attached }}\n every 5 ticks {{ turn by random(-90 deg .. 90 deg) }} }}\n\
         after 1 ticks {{ spawn 150 raft anywhere }}\n"
    );
    let text =
        crowd("wrap", 150, 30, 40, "").replace("after 1 ticks", &format!("{rafts}after 2 ticks"));
    let mut play = play(&text, 3);
    play.ticks(4);
    assert_eq!((play.count("midge"), play.state.attached.len()), (300, 150));
    assert!(against_every_pair(&text, true, 14) > 20);
}

#[rstest]
fn those_that_jump_are_found_where_they_land_and_not_on_the_way() {
    // A jump is no way: it is taken from where one lands.
    let more = "every 3 ticks { if random(1 .. 4) == 1 { pos = (random(5 .. 110) * 1 u, random(5 .. 110) * 1 u) } }";
    let text = crowd("open", 200, 20, 40, more);
    let mut play = play(&text, 5);
    play.ticks(40);
    let (midge, drop) = (kind(&play, "midge"), kind(&play, "drop"));
    for (m, d) in touching(&play, midge, drop) {
        let place =
            |name, number| places(&play, name).into_iter().find(|p| p.0 == number).unwrap().1;
        let (a, b) = (place("midge", m), place("drop", d));
        // Both have moved at most a step since they met.
        assert!((a.0 - b.0).hypot(a.1 - b.1) < 1.2 + 0.9, "{a:?} {b:?}");
    }
    assert!(play.happened(What::Touched) > 10);
}

#[rstest]
fn the_sleeping_are_not_touched() {
    let more = "on birth { if random(1 .. 2) == 1 { deactivate self } }";
    // Two handlers of one head would be an error: the first birth handler is replaced.
    let text = crowd("wrap", 300, 30, 90, "")
        .replace("on birth { heading = any angle; speed = 6 u/s }\n", &format!("{more}\n"));
    against_every_pair(&text, true, 12);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    #[test]
    fn any_crowd_touches_as_every_pair_does(
        midges in 1..250usize,
        drops in 1..60usize,
        speed in 0..3000u32,
        (edges, wraps) in prop::sample::select(vec![("wrap", true), ("open", false), ("wall", false)]),
    ) {
        against_every_pair(&crowd(edges, midges, drops, speed, ""), wraps, 5);
    }

    #[test]
    fn a_crowd_on_threads_and_shuffled_is_the_same_crowd(seed in 0..500u64, midges in 10..300usize) {
        let text = crowd("wrap", midges, 30, 60, "on touch drop { turn by 20 deg }");
        let (mut one, mut other) = (play(&text, seed), play(&text, seed));
        other.engine.threads = 2;
        other.engine.grain = 2;
        other.engine.shuffle = Some(seed);
        one.ticks(20);
        other.ticks(20);
        prop_assert_eq!(one.state.digest(), other.state.digest());
        prop_assert_eq!(one.events, other.events);
    }
}
