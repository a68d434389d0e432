//! Who came into a zone in this tick, and who left one.
//!
//! Of most rows neither end of the way is near the zone: they are passed over many at a time, by the bounds of the way and of
//! the zone alone. What is left is asked exactly.

use smallvec::SmallVec;
use tickpond_lang::program::{Arena, ZoneShape};

use crate::space;
use crate::state::{Columns, HeldAt};
use crate::sweep::{Shape, meet};
use crate::wide::wide;

/// How much wider than it is a zone is taken to be at first, as a share of the sizes there are: more than rounding is.
const SLACK: f64 = 1.0e-9;

/// A bit for each row of so many, in a word.
pub(super) const WORD: usize = 64;

/// The active rows that came into a zone, or went out of it; what flew through within the tick did both.
pub(super) fn in_and_out(
    arena: &Arena,
    zone: &ZoneShape,
    columns: &mut Columns,
    held: HeldAt,
    enters: bool,
) -> Vec<u32> {
    let mut crossed = Vec::new();
    for (first, mut asked) in Near::new(arena, zone).rows(columns, held) {
        while asked != 0 {
            let row = first + asked.trailing_zeros() as usize;
            asked &= asked - 1;
            if columns.is_active(row) && crosses(arena, zone, columns, held, row, enters) {
                crossed.push(row as u32);
            }
        }
    }
    crossed
}

/// Whether one came in, or went out; notes where it is.
fn crosses(
    arena: &Arena,
    zone: &ZoneShape,
    columns: &mut Columns,
    held: HeldAt,
    row: usize,
    enters: bool,
) -> bool {
    let inside = space::in_zone(zone, (columns.x[row], columns.y[row]));
    let was_inside = held.of(&columns.bits, row) == 1;
    held.set(&mut columns.bits, row, u64::from(inside));
    match (was_inside, inside) {
        (true, true) => false,
        (true, false) => !enters,
        (false, true) => enters,
        (false, false) => way_meets(arena, zone, columns, row),
    }
}

/// The bounds of a zone, a little wider.
struct Near {
    low: (f64, f64),
    high: (f64, f64),
    /// From how far on the way of one may lead over a seam, across and up, in u.
    over_seam: (f64, f64),
}

impl Near {
    fn new(arena: &Arena, zone: &ZoneShape) -> Near {
        let (low, high) = match *zone {
            ZoneShape::Box { low, high } => (low, high),
            ZoneShape::Circle { at, radius } => {
                ((at.0 - radius, at.1 - radius), (at.0 + radius, at.1 + radius))
            }
        };
        let sizes =
            [low.0, low.1, high.0, high.1, arena.low.0, arena.low.1, arena.high.0, arena.high.1];
        let slack = SLACK * sizes.iter().fold(1.0, |most: f64, size| most.max(size.abs()));
        let (size, wraps) = (arena.size(), space::wraps(arena));
        let half = |size: f64, wraps| if wraps { size * 0.5 } else { f64::INFINITY };
        Near {
            low: (low.0 - slack, low.1 - slack),
            high: (high.0 + slack, high.1 + slack),
            over_seam: (half(size.0, wraps.0), half(size.1, wraps.1)),
        }
    }

    /// The rows whose way may meet the zone, or that were inside: a bit each, in words, with the first row of each word.
    fn rows(&self, columns: &Columns, held: HeldAt) -> SmallVec<[(usize, u64); 8]> {
        let count = columns.len();
        let (xs, ys) = (&columns.x[..count], &columns.y[..count]);
        let (old_xs, old_ys) = (&columns.old_x[..count], &columns.old_y[..count]);
        let old = columns.bits[held.word].stored();
        let mut found = SmallVec::new();
        wide(
            #[inline(always)]
            || {
                for first in (0..count).step_by(WORD) {
                    let rows = first..count.min(first + WORD);
                    let (xs, ys) = (&xs[rows.clone()], &ys[rows.clone()]);
                    let (old_xs, old_ys) = (&old_xs[rows.clone()], &old_ys[rows.clone()]);
                    let old = old.map_or(&[][..], |old| &old[rows]);
                    let ways = || xs.iter().zip(ys).zip(old_xs.iter().zip(old_ys));
                    let any = ways().fold(false, |any, way| any | self.is_near(way));
                    let any_was = old.iter().fold(0, |any, old| any | old) >> held.low & 1 == 1;
                    if any | any_was {
                        let near = ways().enumerate();
                        let near =
                            near.fold(0, |all, (at, way)| all | u64::from(self.is_near(way)) << at);
                        let was = old.iter().enumerate();
                        let was = was.fold(0, |all, (at, old)| all | (old >> held.low & 1) << at);
                        found.push((first, near | was));
                    }
                }
            },
        );
        found
    }

    #[inline(always)]
    fn is_near(&self, ((x, y), (old_x, old_y)): ((&f64, &f64), (&f64, &f64))) -> bool {
        axis((*old_x, *x), (self.low.0, self.high.0), self.over_seam.0)
            & axis((*old_y, *y), (self.low.1, self.high.1), self.over_seam.1)
    }
}

/// Whether a way along an axis may meet a stretch of it.
#[inline(always)]
fn axis((from, to): (f64, f64), (low, high): (f64, f64), over_seam: f64) -> bool {
    let (first, last) = if from < to { (from, to) } else { (to, from) };
    ((first <= high) & (last >= low)) | (last - first >= over_seam)
}

/// Whether the way of a place in this tick goes through a zone.
fn way_meets(arena: &Arena, zone: &ZoneShape, columns: &Columns, row: usize) -> bool {
    let (shape, middle) = match *zone {
        ZoneShape::Box { low, high } => {
            let half = ((high.0 - low.0) / 2.0, (high.1 - low.1) / 2.0);
            let middle = (low.0 + half.0, low.1 + half.1);
            (Shape::Box { half, heading: 0.0 }, middle)
        }
        ZoneShape::Circle { at, radius } => (Shape::Circle(radius), at),
    };
    let end = (columns.x[row], columns.y[row]);
    let way = space::offset(arena, (columns.old_x[row], columns.old_y[row]), end);
    let to = (end.0 - middle.0, end.1 - middle.1);
    let from = (to.0 - way.0, to.1 - way.1);
    // What stood inside at the start has only gone out.
    let began_inside = meet(shape, Shape::Circle(0.0), from, from).is_some();
    !began_inside && meet(shape, Shape::Circle(0.0), from, to).is_some()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::cells::tests::arena;
    use crate::state::{EntityId, Widths};
    use proptest::prelude::*;
    use tickpond_lang::program::Edge;

    /// The place one came from, the one it is at, and whether it was inside.
    type Came = ((f64, f64), (f64, f64), bool);

    fn columns(ways: &[Came], held: HeldAt) -> Columns {
        let widths = Widths { words_of_bits: held.word + 1, ..Widths::default() };
        let mut columns = Columns::new(&widths);
        columns.extend(ways.len(), (1, 1), (0, EntityId::NONE));
        for (row, (_, new, _)) in ways.iter().enumerate() {
            (columns.x[row], columns.y[row]) = *new;
        }
        columns.old_x.note(&columns.x);
        columns.old_y.note(&columns.y);
        for (row, (old, _, was_inside)) in ways.iter().enumerate() {
            columns.old_x.set(row, old.0);
            columns.old_y.set(row, old.1);
            held.set(&mut columns.bits, row, u64::from(*was_inside));
        }
        columns
    }

    fn zones() -> impl Strategy<Value = ZoneShape> {
        let at = || (-7.0..17.0f64, -12.0..12.0f64);
        prop_oneof![
            (at(), 0.0..8.0f64, 0.0..8.0f64)
                .prop_map(|(low, w, h)| ZoneShape::Box { low, high: (low.0 + w, low.1 + h) }),
            (at(), 0.001..6.0f64).prop_map(|(at, radius)| ZoneShape::Circle { at, radius }),
        ]
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(600))]

        #[test]
        fn many_at_once_cross_as_one_by_one(
            ways in prop::collection::vec(
                ((-5.0..15.0f64, -5.0..15.0f64), (-5.0..15.0f64, -5.0..15.0f64), 0u8..4, 0.0..1.0f64, any::<bool>()),
                0..200,
            ),
            zone in zones(),
            (wraps, enters) in any::<(bool, bool)>(),
            at in 0u8..70,
        ) {
            let arena = arena(if wraps { Edge::Wrap } else { Edge::Open });
            let mut held = HeldAt::default();
            (0..=at).for_each(|_| { held.take(1); });
            // Most ways are short.
            let ways: Vec<_> = ways.iter().map(|(old, new, long, share, was)| {
                let near = |a: f64, b: f64| if *long == 0 { b } else { a + (b - a) * share * 0.05 };
                (*old, (near(old.0, new.0), near(old.1, new.1)), *was && *long == 1)
            }).collect();
            let mut all = columns(&ways, held);
            let mut each = all.clone();
            each.old_x.note(&all.old_x);
            each.old_y.note(&all.old_y);
            let crossed = in_and_out(&arena, &zone, &mut all, held, enters);
            let wanted: Vec<u32> = (0..ways.len())
                .filter(|row| crosses(&arena, &zone, &mut each, held, *row, enters))
                .map(|row| row as u32)
                .collect();
            prop_assert_eq!(crossed, wanted);
            prop_assert_eq!(all.bits, each.bits);
        }
    }
}
