//! Distances in the arena.

use tickpond_lang::program::{Arena, Edge, ZoneShape};

use crate::wide::wide;

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

/// The way from one place to others, with all that it takes of the arena: for many in a row.
#[derive(Clone, Copy)]
pub struct Ways {
    from: (f64, f64),
    size: (f64, f64),
    wraps: (bool, bool),
    /// Whether no place on a wrapped axis is further away than one time around.
    inside: bool,
}

/// How many places are looked at together.
const STRETCH: usize = 256;

impl Ways {
    /// From a place.
    pub fn from(arena: &Arena, from: (f64, f64)) -> Ways {
        let within = |at: f64, low: f64, high: f64| low <= at && at <= high;
        let inside =
            within(from.0, arena.low.0, arena.high.0) && within(from.1, arena.low.1, arena.high.1);
        Ways { from, size: arena.size(), wraps: wraps(arena), inside }
    }

    /// The place itself.
    pub fn start(self) -> (f64, f64) {
        self.from
    }

    /// To another: as [`offset`].
    #[inline(always)]
    pub fn to(self, x: f64, y: f64) -> (f64, f64) {
        let (x, y) = (x - self.from.0, y - self.from.1);
        let x = if self.wraps.0 { shortest(x, self.size.0) } else { x };
        let y = if self.wraps.1 { shortest(y, self.size.1) } else { y };
        (x, y)
    }

    /// To another that is in the arena, from a place that is: the same without a division.
    #[inline(always)]
    fn to_inside(self, x: f64, y: f64) -> (f64, f64) {
        let (x, y) = (x - self.from.0, y - self.from.1);
        let x = if self.wraps.0 { once_around(x, self.size.0) } else { x };
        let y = if self.wraps.1 { once_around(y, self.size.1) } else { y };
        (x, y)
    }

    /// The square of the distance to another.
    #[inline(always)]
    pub fn square(self, x: f64, y: f64) -> f64 {
        let (x, y) = self.to(x, y);
        x * x + y * y
    }

    /// The same for somebody's place: those on a wrapped axis are in the arena.
    #[inline(always)]
    pub fn square_of(self, (x, y): (f64, f64)) -> f64 {
        let (x, y) = self.to_one(x, y);
        x * x + y * y
    }

    /// To somebody's place: those on a wrapped axis are in the arena.
    #[inline(always)]
    pub fn to_one(self, x: f64, y: f64) -> (f64, f64) {
        if self.inside { self.to_inside(x, y) } else { self.to(x, y) }
    }

    /// Calls `see` with the place and the square of the distance of each that is no further than
    /// `limit` gives, which may shrink in the course of it. Most stretches have none: they are passed
    /// over, many places at a time.
    pub fn each_within(
        self,
        (xs, ys): (&[f64], &[f64]),
        mut limit: f64,
        mut see: impl FnMut(usize, f64) -> f64,
    ) {
        let mut squares = [0.0; STRETCH];
        for (nth, (xs, ys)) in xs.chunks(STRETCH).zip(ys.chunks(STRETCH)).enumerate() {
            let squares = &mut squares[..xs.len()];
            let any = self.squares(xs, ys, limit, squares);
            if !any {
                continue;
            }
            for (at, square) in squares.iter().enumerate() {
                if *square <= limit {
                    limit = see(nth * STRETCH + at, *square);
                }
            }
        }
    }

    /// The squares of the distances to some, and whether one is within a limit.
    fn squares(self, xs: &[f64], ys: &[f64], limit: f64, squares: &mut [f64]) -> bool {
        // Places on a wrapped axis are in the arena.
        if self.inside {
            return wide(
                #[inline(always)]
                move || {
                    let mut any = false;
                    for ((square, x), y) in squares.iter_mut().zip(xs).zip(ys) {
                        let (x, y) = self.to_inside(*x, *y);
                        *square = x * x + y * y;
                        any |= *square <= limit;
                    }
                    any
                },
            );
        }
        wide(
            #[inline(always)]
            move || {
                let mut any = false;
                for ((square, x), y) in squares.iter_mut().zip(xs).zip(ys) {
                    *square = self.square(*x, *y);
                    any |= *square <= limit;
                }
                any
            },
        )
    }
}

#[inline(always)]
fn shortest(way: f64, around: f64) -> f64 {
    if way.abs() < around * 0.5 {
        return way;
    }
    let turns = (way / around).round();
    way - turns * around
}

/// [`shortest`] of a way that is no longer than one time around.
#[inline(always)]
fn once_around(way: f64, around: f64) -> f64 {
    let back = way - around.copysign(way);
    if way.abs() < around * 0.5 { way } else { back }
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
    use proptest::prelude::*;
    use rstest::rstest;
    use tickpond_lang::program::Edges;

    #[rstest]
    #[case(5.0, 5.0)]
    #[case(10.0, 0.0)]
    #[case(-1.0, 9.0)]
    #[case(25.0, 5.0)]
    #[case(-1e-17, 0.0)]
    fn a_place_comes_in_on_the_other_side(#[case] value: f64, #[case] back: f64) {
        assert_eq!(wrapped(value, 0.0, 10.0), back);
    }

    proptest! {
        #[test]
        fn many_ways_are_as_one_by_one(
            places in prop::collection::vec((-30.0..30.0f64, -30.0..30.0f64), 0..600),
            from in (-14.0..14.0f64, -14.0..14.0f64),
            reach in 0.0..20.0f64,
            (wrap_x, wrap_y) in any::<(bool, bool)>(),
        ) {
            let edge = |wraps| if wraps { Edge::Wrap } else { Edge::Open };
            let edges = Edges {
                left: edge(wrap_x),
                right: edge(wrap_x),
                low: edge(wrap_y),
                high: edge(wrap_y),
            };
            let arena =
                Arena { low: (-10.0, -10.0), high: (10.0, 15.0), y_up: true, edges, margin: 0.0, bounce: 0.0, friction: 0.5 };
            let square = |to: (f64, f64)| {
                let (x, y) = offset(&arena, from, to);
                x * x + y * y
            };
            let inside = |at: f64, wraps: bool, high: f64| if wraps { wrapped(at, -10.0, high) } else { at };
            let places: Vec<(f64, f64)> =
                places.iter().map(|(x, y)| (inside(*x, wrap_x, 10.0), inside(*y, wrap_y, 15.0))).collect();
            let (xs, ys): (Vec<f64>, Vec<f64>) = places.iter().copied().unzip();
            let ways = Ways::from(&arena, from);
            let mut seen = Vec::new();
            ways.each_within((&xs, &ys), reach * reach, |at, square| {
                seen.push((at, square));
                reach * reach
            });
            let wanted: Vec<(usize, f64)> = (0..places.len())
                .map(|at| (at, square(places[at])))
                .filter(|(_, square)| *square <= reach * reach)
                .collect();
            prop_assert_eq!(seen, wanted);
            // A limit that shrinks finds the nearest.
            let mut nearest = None;
            ways.each_within((&xs, &ys), f64::INFINITY, |_, square| {
                nearest = Some(square);
                square
            });
            let wanted = places.iter().map(|to| square(*to)).reduce(f64::min);
            prop_assert_eq!(nearest, wanted);
        }
    }

    #[rstest]
    #[case(1.0, 9.0, -2.0)]
    #[case(9.0, 1.0, 2.0)]
    #[case(2.0, 6.0, 4.0)]
    fn the_shortest_way_crosses_the_seam(#[case] from: f64, #[case] to: f64, #[case] way: f64) {
        assert_eq!(shortest(to - from, 10.0), way);
    }
}
