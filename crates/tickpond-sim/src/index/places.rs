//! Members by cells of a uniform grid, so that a question about what is near looks at few of them.

use tickpond_lang::program::Arena;

use crate::cells::Grid;

/// The places of the members of a kind, by cells.
pub(crate) struct Places {
    grid: Grid,
    /// Where the places of each cell begin, and the end of the last.
    starts: Vec<u32>,
    /// Rows, cell by cell; ascending in each.
    rows: Vec<u32>,
    /// Their places.
    at: Vec<(f64, f64)>,
}

/// A little more of a length, for what rounding takes away.
fn a_little_more(length: f64) -> f64 {
    length * (1.0 + 1e-9) + 1e-9
}

impl Places {
    /// Puts places in cells. Costs a few steps for each place.
    pub fn of(arena: &Arena, (xs, ys): (&[f64], &[f64])) -> Places {
        let count = xs.len();
        let grid = Grid::for_places(arena, count);
        let mut numbers = vec![0u32; count];
        grid.numbers((xs, ys), &mut numbers);
        let mut starts = vec![0u32; grid.cells() + 1];
        for number in &numbers {
            starts[*number as usize + 1] += 1;
        }
        for cell in 1..starts.len() {
            starts[cell] += starts[cell - 1];
        }
        let mut next = starts.clone();
        let mut rows = vec![0u32; count];
        let mut at = vec![(0.0, 0.0); count];
        for (row, number) in numbers.iter().enumerate() {
            let place = &mut next[*number as usize];
            rows[*place as usize] = row as u32;
            at[*place as usize] = (xs[row], ys[row]);
            *place += 1;
        }
        Places { grid, starts, rows, at }
    }

    /// How wide a cell is, in u.
    pub fn cell(&self) -> f64 {
        self.grid.cell()
    }

    /// Calls `see` with the row and place of all that may be within a distance of a place: none that is is left out.
    /// Says whether these are all there are.
    #[inline]
    pub fn around(
        &self,
        at: (f64, f64),
        reach: f64,
        mut see: impl FnMut(usize, (f64, f64)),
    ) -> bool {
        self.grid.each_around(at, a_little_more(reach), |cell| self.each_in(cell, &mut see))
    }

    /// Calls `see` with all, in rings about a place that grow twice as wide each time, until what it gives, the square of
    /// the distance of the nearest so far, lies within the ring.
    #[inline]
    pub fn nearest(
        &self,
        at: (f64, f64),
        least: f64,
        mut see: impl FnMut(usize, (f64, f64)) -> f64,
    ) {
        let mut reach = (self.grid.cell() * 0.5).min(least.sqrt());
        let mut nearest = least;
        loop {
            let all = self.around(at, reach, |row, place| nearest = see(row, place));
            if all || nearest <= reach * reach || !reach.is_finite() {
                return;
            }
            // The ring that holds the nearest so far is wide enough.
            reach = (reach * 2.0).min(nearest.sqrt()).max(reach * 1.0001);
        }
    }

    /// Calls `see` with the row and place of all that may be within a distance of a way: none that is is left out. False, and
    /// nothing is called, if the way goes around the arena more than once.
    #[inline]
    pub fn along(
        &self,
        (from, way): ((f64, f64), (f64, f64)),
        reach: f64,
        mut see: impl FnMut(usize, (f64, f64)),
    ) -> bool {
        if !self.grid.is_short(way, reach) {
            return false;
        }
        let to = (from.0 + way.0, from.1 + way.1);
        self.grid.each_of((from, to), a_little_more(reach), |cell| self.each_in(cell, &mut see));
        true
    }

    #[inline(always)]
    fn each_in(&self, cell: u32, see: &mut impl FnMut(usize, (f64, f64))) {
        let (from, to) =
            (self.starts[cell as usize] as usize, self.starts[cell as usize + 1] as usize);
        for (row, at) in self.rows[from..to].iter().zip(&self.at[from..to]) {
            see(*row as usize, *at);
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use tickpond_lang::program::Edge;

    use super::*;
    use crate::cells::tests::arena;
    use crate::space::Ways;

    proptest! {
        #[test]
        fn no_place_within_reach_is_left_out(
            places in prop::collection::vec((-30.0..40.0f64, -30.0..40.0f64), 1..200),
            at in (-30.0..40.0f64, -30.0..40.0f64),
            way in (-17.0..17.0f64, -17.0..17.0f64),
            reach in 0.0..12.0f64,
            wraps in any::<bool>(),
        ) {
            let arena = arena(if wraps { Edge::Wrap } else { Edge::Open });
            let inside = |at: f64| if wraps { crate::space::wrapped(at, -5.0, 15.0) } else { at };
            let places: Vec<(f64, f64)> = places.iter().map(|(x, y)| (inside(*x), inside(*y))).collect();
            let (xs, ys): (Vec<f64>, Vec<f64>) = places.iter().copied().unzip();
            let index = Places::of(&arena, (&xs, &ys));
            let ways = Ways::from(&arena, at);
            let distance = |row: usize| ways.square(xs[row], ys[row]).sqrt();
            let mut seen = Vec::new();
            index.around(at, reach, |row, _| seen.push(row));
            for row in 0..places.len() {
                prop_assert!(distance(row) > reach || seen.contains(&row));
                prop_assert!(seen.iter().filter(|other| **other == row).count() <= 1);
            }
            let (mut nearest, mut best) = (f64::INFINITY, usize::MAX);
            index.nearest(at, f64::INFINITY, |row, _| {
                let square = ways.square(xs[row], ys[row]);
                if square < nearest {
                    (nearest, best) = (square, row);
                }
                nearest
            });
            let wanted = (0..places.len()).map(distance).fold(f64::INFINITY, f64::min);
            prop_assert_eq!(distance(best), wanted);
            // A way, looked at from many places on it.
            let mut beside = Vec::new();
            let start = (inside(at.0), inside(at.1));
            if !index.along((start, way), reach, |row, _| beside.push(row)) {
                prop_assert!(wraps && beside.is_empty());
                return Ok(());
            }
            for share in 0..=40 {
                let share = f64::from(share) / 40.0;
                let on = (inside(start.0 + way.0 * share), inside(start.1 + way.1 * share));
                let ways = Ways::from(&arena, on);
                for row in 0..places.len() {
                    let near = ways.square(xs[row], ys[row]).sqrt() <= reach;
                    prop_assert!(!near || beside.contains(&row));
                }
            }
        }
    }
}
