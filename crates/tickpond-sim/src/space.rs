//! Distances in the arena.

use tickpond_lang::program::{Arena, Edge, ZoneShape};

/// Whether the arena wraps along x and along y.
pub fn wraps(arena: &Arena) -> (bool, bool) {
    (arena.edges.left == Edge::Wrap, arena.edges.low == Edge::Wrap)
}

/// From one place to another, the shortest way where an axis wraps.
pub fn offset(arena: &Arena, from: (f64, f64), to: (f64, f64)) -> (f64, f64) {
    let (width, height) = arena.size();
    let (wrap_x, wrap_y) = wraps(arena);
    let (x, y) = (to.0 - from.0, to.1 - from.1);
    (if wrap_x { shortest(x, width) } else { x }, if wrap_y { shortest(y, height) } else { y })
}

fn shortest(way: f64, around: f64) -> f64 {
    if way.abs() < around * 0.5 {
        return way;
    }
    let turns = (way / around).round();
    way - turns * around
}

/// The way from one place to another, ending where it ends: it may have crossed the seam, then the short
/// way begins outside.
pub fn way(arena: &Arena, old: (f64, f64), new: (f64, f64)) -> ((f64, f64), (f64, f64)) {
    let way = offset(arena, old, new);
    ((new.0 - way.0, new.1 - way.1), new)
}

/// A coordinate brought back into `low..high` on a wrapped axis.
pub fn wrapped(value: f64, low: f64, high: f64) -> f64 {
    if value >= low && value < high {
        return value;
    }
    let around = high - low;
    let back = value - ((value - low) / around).floor() * around;
    // Rounding can land on the upper bound itself.
    if back >= high || back < low { low } else { back }
}

/// Whether a place is inside a zone; its rim belongs to it.
pub fn in_zone(zone: &ZoneShape, at: (f64, f64)) -> bool {
    match *zone {
        ZoneShape::Box { low, high } => {
            (low.0..=high.0).contains(&at.0) && (low.1..=high.1).contains(&at.1)
        }
        ZoneShape::Circle { at: middle, radius } => {
            let (x, y) = (at.0 - middle.0, at.1 - middle.1);
            x * x + y * y <= radius * radius
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(5.0, 5.0)]
    #[case(10.0, 0.0)]
    #[case(-1.0, 9.0)]
    #[case(25.0, 5.0)]
    #[case(-1e-17, 0.0)]
    fn a_place_comes_in_on_the_other_side(#[case] value: f64, #[case] back: f64) {
        assert_eq!(wrapped(value, 0.0, 10.0), back);
    }

    #[rstest]
    #[case(1.0, 9.0, -2.0)]
    #[case(9.0, 1.0, 2.0)]
    #[case(2.0, 6.0, 4.0)]
    fn the_shortest_way_crosses_the_seam(#[case] from: f64, #[case] to: f64, #[case] way: f64) {
        assert_eq!(shortest(to - from, 10.0), way);
    }
}
