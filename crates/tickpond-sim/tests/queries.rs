//! Queries, blasts and rays, against a walk over everybody written down here.

use std::fmt::Write;

use crate::common::{Play, play};
use proptest::prelude::*;

const SIZE: (f64, f64) = (60.0, 40.0);

/// A midge: its place in u and its number.
#[derive(Clone, Debug)]
struct Midge {
    at: (f64, f64),
    n: i32,
}

fn midges(most: usize) -> impl Strategy<Value = Vec<Midge>> {
    let hundredth = |value: f64| (value * 100.0).round() / 100.0;
    let midge = (0.0..SIZE.0, 0.0..SIZE.1, -9..9i32)
        .prop_map(move |(x, y, n)| Midge { at: (hundredth(x), hundredth(y)), n });
    prop::collection::vec(midge, 1..most)
}

fn header(wraps: bool) -> String {
    let edges = if wraps { "wrap" } else { "open" };
    format!("pond \"t\" {{ arena {} x {}; edges {edges} }}\n", SIZE.0, SIZE.1)
}

fn place_all(text: &mut String, midges: &[Midge]) {
    for Midge { at, n } in midges {
        let n = if *n < 0 { format!("0 - {}", -n) } else { n.to_string() };
        let _ = writeln!(text, "place midge at ({}, {}) {{ n = {n} }}", at.0, at.1);
    }
}

fn offset(from: (f64, f64), to: (f64, f64), wraps: bool) -> (f64, f64) {
    let axis = |way: f64, size: f64| if wraps { way - (way / size).round() * size } else { way };
    (axis(to.0 - from.0, SIZE.0), axis(to.1 - from.1, SIZE.1))
}

fn distance(from: (f64, f64), to: (f64, f64), wraps: bool) -> f64 {
    let (x, y) = offset(from, to, wraps);
    x.hypot(y)
}

/// The rows as they were placed: births of one kind go by x, then y, so the walk sorts alike.
fn rows(play: &Play) -> Vec<Midge> {
    let c = play.columns("midge");
    let n = |row: usize| f64::from_bits(c.vars[0][row]) as i32;
    (0..c.len()).map(|row| Midge { at: (c.x[row], c.y[row]), n: n(row) }).collect()
}

fn var(play: &Play, kind: &str, word: usize, row: usize) -> f64 {
    f64::from_bits(play.columns(kind).vars[word][row])
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn what_is_asked_is_what_a_walk_finds(
        midges in midges(40),
        reach in 1..30u32,
        least in -9..9i32,
        wraps in any::<bool>(),
    ) {
        let reach_u = f64::from(reach);
        // A rounding decides those that stand exactly at the reach.
        let mut text = header(wraps);
        let least_word = if least < 0 { format!("(0 - {})", -least) } else { least.to_string() };
        let _ = write!(
            text,
            "kind midge {{ vars {{ n = 0; near = 0; more = 0; other = 0; far = 0 u; next = 0; most = 0 }}
    after 1 ticks {{
        near = count(midge within {reach} u)
        more = count(midge where n > {least_word} and n < self.n)
        if nearest(midge) as m {{ other = m.n; far = distance to m }} else {{ other = 99 }}
        if any(midge where n == self.n + 1) {{ next = 1 }}
        most = sum(midge.n) + 100 * max(midge.n)
    }} }}\n"
        );
        place_all(&mut text, &midges);
        let mut play = play(&text, 1);
        let before = rows(&play);
        prop_assert_eq!(before.len(), midges.len());
        play.ticks(1);
        prop_assert!(play.state.stopped.is_none(), "{:?}", play.state.stopped);
        let sum: i32 = before.iter().map(|m| m.n).sum();
        let largest = before.iter().map(|m| m.n).max().unwrap();
        for (row, me) in before.iter().enumerate() {
            let away = |m: &Midge| distance(me.at, m.at, wraps);
            let unsure = before.iter().any(|m| (away(m) - reach_u).abs() < 1e-9);
            if !unsure {
                let near = before.iter().filter(|m| away(m) <= reach_u).count();
                prop_assert_eq!(var(&play, "midge", 1, row), near as f64, "near {}", row);
            }
            let more = before.iter().filter(|m| m.n > least && m.n < me.n).count();
            prop_assert_eq!(var(&play, "midge", 2, row), more as f64, "more {}", row);
            let others = before.iter().enumerate().filter(|(other, _)| *other != row);
            // Of two as near the older, which comes first.
            let nearest = others.clone().min_by(|a, b| away(a.1).total_cmp(&away(b.1)));
            match nearest {
                None => prop_assert_eq!(var(&play, "midge", 3, row), 99.0),
                Some((_, nearest)) => {
                    let far = var(&play, "midge", 4, row);
                    prop_assert!((far - away(nearest)).abs() < 1e-9, "{} is {}", far, away(nearest));
                    let alone = others.clone().filter(|(_, m)| away(m) < far + 1e-9).count() == 1;
                    if alone {
                        prop_assert_eq!(var(&play, "midge", 3, row), f64::from(nearest.n));
                    }
                }
            }
            let next = others.clone().any(|(_, m)| m.n == me.n + 1);
            prop_assert_eq!(var(&play, "midge", 5, row), f64::from(u8::from(next)), "any {}", row);
            prop_assert_eq!(var(&play, "midge", 6, row), f64::from(sum + 100 * largest));
        }
    }

    #[test]
    fn each_within_reach_is_met_once(
        midges in midges(40),
        reach in 1..30u32,
        wraps in any::<bool>(),
    ) {
        let mut text = header(wraps);
        let _ = write!(
            text,
            "kind midge {{ health 100; vars {{ n = 0 }} }}
kind frog {{ after 1 ticks {{ damage each midge within {reach} u by 7 }} }}
place frog at (30, 20)\n"
        );
        place_all(&mut text, &midges);
        let mut play = play(&text, 1);
        play.ticks(1);
        let c = play.columns("midge");
        for row in 0..c.len() {
            let away = distance((30.0, 20.0), (c.x[row], c.y[row]), wraps);
            if (away - f64::from(reach)).abs() > 1e-9 {
                let hurt = if away <= f64::from(reach) { 7.0 } else { 0.0 };
                prop_assert_eq!(c.health[row], 100.0 - hurt, "{} u away", away);
            }
        }
    }

    #[test]
    fn a_blast_hurts_by_its_falloff_and_pushes_away(
        midges in midges(30),
        reach in 1..40u32,
        damage in 1..60u32,
        falloff in 0..3usize,
        wraps in any::<bool>(),
    ) {
        let (reach_u, damage_h) = (f64::from(reach), f64::from(damage));
        let name = ["even", "straight", "square"][falloff];
        let mut text = header(wraps);
        let _ = write!(
            text,
            "kind midge {{ body circle 0.5 u, sensor; health 100; vars {{ n = 0 }} }}
kind pod {{ after 1 ticks {{
    blast at here, radius {reach} u, damage {damage}, push 12 u/s, falloff {name}
}} }}
place pod at (30, 20)\n"
        );
        place_all(&mut text, &midges);
        let mut play = play(&text, 1);
        let before = rows(&play);
        // Pushes of one tick are carried out in the next one's motion.
        play.ticks(2);
        let c = play.columns("midge");
        for (row, midge) in before.iter().enumerate() {
            let way = offset((30.0, 20.0), midge.at, wraps);
            let away = way.0.hypot(way.1);
            if (away - reach_u).abs() < 1e-9 || away < 1e-6 {
                continue;
            }
            let straight = 1.0 - away / reach_u;
            let share = if away > reach_u { 0.0 } else { [1.0, straight, straight * straight][falloff] };
            prop_assert!((c.health[row] - (100.0 - damage_h * share)).abs() < 1e-9, "{}", away);
            let vel = (12.0 * share * way.0 / away, 12.0 * share * way.1 / away);
            prop_assert!((c.vx[row] - vel.0).abs() < 1e-6 && (c.vy[row] - vel.1).abs() < 1e-6);
        }
    }

    #[test]
    fn a_ray_meets_the_first_in_its_way(
        midges in midges(30),
        heading in 0..360u32,
        reach in 1..50u32,
    ) {
        let reach_u = f64::from(reach);
        let mut text = header(false);
        let _ = write!(
            text,
            "kind midge {{ body circle 1 u, sensor; health 100; vars {{ n = 0 }} }}
kind frog {{ vars {{ far = 0 u }}
    after 1 ticks {{
        ray from here along {heading} deg, reach {reach} u, hits midge as r {{
            damage r.target by 5
            far = r.length
        }} else {{ far = 0 u - r.length }}
    }} }}
place frog at (30, 20)\n"
        );
        place_all(&mut text, &midges);
        let mut play = play(&text, 1);
        play.ticks(1);
        let c = play.columns("midge");
        let angle = f64::from(heading).to_radians();
        let along = (angle.cos(), angle.sin());
        // Where the ray comes into a circle: the first root, or at once from inside.
        let meets = |row: usize| -> Option<f64> {
            let to = (c.x[row] - 30.0, c.y[row] - 20.0);
            let (ahead, aside) = (to.0 * along.0 + to.1 * along.1, to.0 * along.1 - to.1 * along.0);
            if to.0.hypot(to.1) <= 1.0 {
                return Some(0.0);
            }
            let inside = 1.0 - aside * aside;
            if inside < 0.0 || ahead < 0.0 {
                return None;
            }
            Some(ahead - inside.sqrt()).filter(|far| *far <= reach_u)
        };
        let first = (0..c.len()).filter_map(meets).fold(f64::INFINITY, f64::min);
        // Those a ray grazes, or meets just at its end, are left to rounding.
        let grazes = (0..c.len()).any(|row| {
            let to = (c.x[row] - 30.0, c.y[row] - 20.0);
            let aside = (to.0 * along.1 - to.1 * along.0).abs();
            (aside - 1.0).abs() < 1e-6 || (meets(row).unwrap_or(0.0) - reach_u).abs() < 1e-6
        });
        prop_assume!(!grazes);
        let far = var(&play, "frog", 0, 0);
        let hurt = (0..c.len()).filter(|row| c.health[*row] < 100.0).count();
        if first.is_finite() {
            prop_assert!((far - first).abs() < 1e-6, "{} is {}", far, first);
            prop_assert_eq!(hurt, 1);
        } else {
            prop_assert!((far + reach_u).abs() < 1e-9, "{}", far);
            prop_assert_eq!(hurt, 0);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Where many ask, a ray is followed piece by piece among those noted by place; one that is alone walks through all. Of
    /// two kinds one has too few to be noted.
    #[test]
    fn a_ray_meets_the_same_alone_and_among_many(
        seed: u64,
        wraps in any::<bool>(),
        reach in 1..300u32,
        turn in 0..360u32,
        (many, few) in (64..400u32, 1..40u32),
    ) {
        const ASKING: usize = 12;
        let text = |only: usize| format!(
            "{}kind midge {{ body circle 0.4 u, sensor; health 9 }}
kind reed {{ body box 1 u x 2 u, sensor }}
kind frog {{ vars {{ n = 0; far = 0 u; who: any }}
    after 3 ticks {{
        if n == {only} or {only} == 0 {{
            ray from here along {turn} deg + n * 31 deg, reach {reach} u, hits midge or reed where pos.x > self.pos.y - 9 u as r {{
                far = r.length
                who = r.target
            }} else {{ far = 0 u - r.length }}
        }}
    }} }}
watch w = sum(frog.far) / 1 u + count(frog where who is alive) + sum(midge.health)
after 1 ticks {{
    spawn {many} midge anywhere
    spawn {few} reed anywhere, facing 20 deg
    repeat {ASKING} times as i {{ spawn frog anywhere {{ n = i }} }}
}}",
            header(wraps)
        );
        let mut all = play(&text(0), seed);
        all.ticks(5);
        for row in 0..ASKING {
            let mut alone = play(&text(row + 1), seed);
            alone.ticks(5);
            let met = |play: &Play| {
                let vars = &play.columns("frog").vars;
                (0..3).map(|word| vars[word][row]).collect::<Vec<u64>>()
            };
            prop_assert_eq!(met(&all), met(&alone), "frog#{}", row + 1);
        }
    }
}
