//! Where those that only look for others may meet one at all.

use tickpond_lang::program::Arena;

use super::cells::{Grid, Way};
use crate::state::Columns;

/// A bit for each cell of a fine grid, from which one that only looks, and does not go far in this tick,
/// may meet something that was entered. Most look in vain: they cost the look at one bit.
#[derive(Default)]
pub(super) struct Near {
    grid: Option<Grid>,
    bits: Vec<u64>,
    /// How far those that look reach from their places, in u.
    reach: f64,
    /// How far they may go in this tick, in u; those that go further always look.
    step: f64,
}

impl Near {
    /// For kinds that only look, each with its reach in u; `entering` bodies are entered, of which none
    /// reaches further than `widest`.
    pub(super) fn new(
        arena: &Arena,
        looking: &[(&Columns, f64)],
        widest: f64,
        entering: usize,
    ) -> Near {
        if looking.is_empty() {
            return Near::default();
        }
        let reach = looking.iter().map(|(_, reach)| *reach).fold(0.0, f64::max);
        // Twice the usual way leaves out those that came over a seam or were put elsewhere.
        let step = looking.iter().map(|(columns, _)| usual_way(columns)).fold(0.0, f64::max) * 2.0;
        let size = (widest + reach) / 2.0;
        let grid = Grid::of_size(arena, size, entering);
        Near { grid: Some(grid), bits: Vec::new(), reach, step: step.min(size) }
    }

    /// Takes the place of the one before, whose memory is used again.
    pub(super) fn begin(&mut self, next: Near) {
        let mut bits = std::mem::take(&mut self.bits);
        bits.clear();
        bits.resize(next.grid.as_ref().map_or(0, Grid::cells).div_ceil(64), 0);
        *self = Near { bits, ..next };
    }

    /// Marks the cells from which a body on its way may be met.
    pub(super) fn mark(&mut self, way: Way, reach: f64) {
        let Some(grid) = &self.grid else { return };
        let (across, up) = grid.span(way, reach + self.reach + self.step);
        for cy in up.0..=up.1 {
            for cx in across.0..=across.1 {
                let number = grid.number(grid.wrapped(cx, cy));
                self.bits[number / 64] |= 1 << (number % 64);
            }
        }
    }

    /// The rows that may meet something that was entered, in their order.
    pub(super) fn rows(&self, columns: &Columns, rows: &mut Vec<u32>) {
        let Some(grid) = &self.grid else { return };
        let (xs, ys) = (
            columns.x.iter().zip(columns.old_x.iter()),
            columns.y.iter().zip(columns.old_y.iter()),
        );
        for (row, ((x, old_x), (y, old_y))) in xs.zip(ys).enumerate() {
            let number = grid.number_at((*x, *y));
            let marked = self.bits[number / 64] >> (number % 64) & 1 == 1;
            if marked | grid.is_far((*old_x, *old_y), (*x, *y), self.step) {
                rows.push(row as u32);
            }
        }
    }
}

/// How far one of a kind goes along an axis in this tick, on average, in u.
fn usual_way(columns: &Columns) -> f64 {
    let way = |new: &[f64], old: &[f64]| -> f64 {
        new.iter().zip(old).map(|(new, old)| (new - old).abs()).sum()
    };
    let sum = way(&columns.x, &columns.old_x).max(way(&columns.y, &columns.old_y));
    sum / columns.len().max(1) as f64
}

#[cfg(test)]
mod tests {
    use super::super::cells::tests::arena;
    use super::*;
    use crate::state::{EntityId, Widths};
    use rstest::rstest;
    use tickpond_lang::program::Edge;

    /// Rows at these places, which came from those.
    fn columns(ways: &[Way]) -> Columns {
        let mut columns = Columns::new(&Widths::default());
        for (row, (_, new)) in ways.iter().enumerate() {
            columns.push(EntityId::NONE, row as u64, row as u32 + 1, 0, 0, EntityId::NONE);
            (columns.x[row], columns.y[row]) = *new;
        }
        columns.old_x.note(&columns.x);
        columns.old_y.note(&columns.y);
        for (row, (old, _)) in ways.iter().enumerate() {
            columns.old_x.set(row, old.0);
            columns.old_y.set(row, old.1);
        }
        columns
    }

    #[rstest]
    fn those_near_and_those_from_afar_look_also_across_the_seam() {
        let still = |at: (f64, f64)| (at, at);
        let ways = [
            still((14.8, 0.0)),
            // Over the seam is a short way.
            ((14.95, 0.0), (-4.95, 0.0)),
            still((5.0, 8.0)),
            // One that came from afar must look for itself.
            ((5.0, 0.0), (5.0, 8.0)),
            still((-4.0, 1.0)),
        ];
        let columns = columns(&ways);
        let mut near = Near::default();
        near.begin(Near::new(&arena(Edge::Wrap), &[(&columns, 0.5)], 0.5, 1));
        near.mark(still((-4.9, 0.0)), 0.5);
        let mut rows = Vec::new();
        near.rows(&columns, &mut rows);
        for row in [0, 1, 3, 4] {
            assert!(rows.contains(&row), "{row} in {rows:?}");
        }
        assert!(!rows.contains(&2), "{rows:?}");
    }

    #[rstest]
    fn outside_the_arena_they_are_found_too() {
        let columns = columns(&[((40.0, 3.0), (40.0, 3.0)), ((0.0, 3.0), (0.0, 3.0))]);
        let mut near = Near::default();
        near.begin(Near::new(&arena(Edge::Open), &[(&columns, 0.5)], 0.5, 1));
        near.mark(((40.5, 3.0), (40.5, 3.0)), 0.5);
        let mut rows = Vec::new();
        near.rows(&columns, &mut rows);
        assert_eq!(rows, [0]);
    }
}
