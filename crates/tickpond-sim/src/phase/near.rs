//! Candidates of kinds that look for others but do not move far in a tick.

use crate::cells::{Cells, Grid};
use crate::state::{Columns, STRETCH};

/// How far those reach that only look and do not go far. What they look for is entered so much more widely
/// that each of them finds it in the cell it stands in: most look in vain, and cost the look at one cell.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Near {
    /// How far they reach from their places, in u.
    reach: f64,
    /// How far they may go along an axis in this tick, in u; those that go further look at all cells of
    /// their way.
    step: f64,
}

/// One that may meet something.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Looker {
    /// Its row.
    pub row: u32,
    /// The newest entry of the only cell it must look at; `None` if it went far.
    pub only: Option<u32>,
}

impl Near {
    /// For kinds that only look, each with its reach in u, in cells of about this size.
    pub(super) fn new(looking: &[(&Columns, f64)], size: f64) -> Near {
        let reach = looking.iter().map(|(_, reach)| *reach).fold(0.0, f64::max);
        // Twice the usual way leaves out those that came over a seam or were put elsewhere.
        let step = looking.iter().map(|(columns, _)| usual_way(columns)).fold(0.0, f64::max) * 2.0;
        Near { reach, step: step.min(size / 2.0) }
    }

    /// How much more widely others are entered, in u.
    pub(super) fn room(self) -> f64 {
        self.reach + self.step
    }

    /// Those that may meet something that was entered, in the order of their rows.
    pub(super) fn lookers(
        self,
        grid: &Grid,
        cells: &Cells,
        columns: &Columns,
        lookers: &mut Vec<Looker>,
    ) {
        let (mut numbers, mut far) = ([0; STRETCH], [0; STRETCH]);
        let mut near = [0; STRETCH];
        for first in (0..columns.len()).step_by(STRETCH) {
            let here = first..columns.len().min(first + STRETCH);
            let (xs, ys) = (&columns.x[here.clone()], &columns.y[here.clone()]);
            let old = (&columns.old_x[here.clone()], &columns.old_y[here]);
            grid.numbers((xs, ys), &mut numbers);
            let farthest = columns.farthest.get(first / STRETCH);
            // A little more, for what rounding adds.
            if farthest.is_some_and(|far| far * (1.0 + 1e-9) <= self.step) {
                far.fill(0);
            } else {
                grid.far((xs, ys), old, self.step, &mut far);
            }
            // Each is written down, and the next one over it unless it may meet something.
            let mut count = 0;
            for (at, (number, far)) in numbers.iter().zip(&far).take(xs.len()).enumerate() {
                near[count % STRETCH] = at;
                count += usize::from(cells.holds(*number) | (*far != 0));
            }
            lookers.extend(near[..count].iter().map(|at| Looker {
                row: (first + at) as u32,
                only: (far[*at] == 0).then_some(cells.head(numbers[*at])),
            }));
        }
    }
}

/// Of how many the usual way is taken: the columns of many are too long to be read once more for it.
const SAMPLE: usize = 256;

/// How far one of a kind goes along an axis in this tick, on average, in u.
pub(super) fn usual_way(columns: &Columns) -> f64 {
    if columns.old_x.len() < columns.len() {
        return 0.0;
    }
    let step = columns.len().div_ceil(SAMPLE).max(1);
    let way = |new: &[f64], old: &[f64]| -> f64 {
        let ways = new.iter().zip(old).step_by(step).map(|(new, old)| (new - old).abs());
        ways.sum()
    };
    let sum = way(&columns.x, &columns.old_x).max(way(&columns.y, &columns.old_y));
    sum / columns.len().div_ceil(step).max(1) as f64
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::cells::Way;
    use crate::cells::tests::arena;
    use crate::state::{EntityId, Widths};
    use rstest::rstest;
    use tickpond_lang::program::Edge;

    /// Rows at these places, which came from those.
    fn columns(ways: &[Way]) -> Columns {
        let mut columns = Columns::new(&Widths::default());
        for (row, (_, new)) in ways.iter().enumerate() {
            columns.extend(1, (row as u64, row as u32 + 1), (0, EntityId::NONE));
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

    /// The rows that look when one body lies somewhere, which reaches half a u.
    fn looking(edge: Edge, columns: &Columns, at: (f64, f64)) -> Vec<Looker> {
        let grid = Grid::new(&arena(edge), (0.5, 0.0), 1);
        let near = Near::new(&[(columns, 0.5)], 2.0);
        let mut cells = Cells::default();
        cells.clear(&grid);
        cells.enter(&grid, ((at, at), 0.5 + near.room()), 7);
        let mut lookers = Vec::new();
        near.lookers(&grid, &cells, columns, &mut lookers);
        lookers
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
        let lookers = looking(Edge::Wrap, &columns(&ways), (-4.9, 0.0));
        let rows: Vec<u32> = lookers.iter().map(|looker| looker.row).collect();
        assert_eq!(rows, [0, 1, 3, 4]);
        let far: Vec<u32> = lookers
            .iter()
            .filter(|looker| looker.only.is_none())
            .map(|looker| looker.row)
            .collect();
        assert_eq!(far, [3]);
    }

    #[rstest]
    fn outside_the_arena_they_are_found_too() {
        let columns = columns(&[((40.0, 3.0), (40.0, 3.0)), ((0.0, 3.0), (0.0, 3.0))]);
        let rows: Vec<u32> =
            looking(Edge::Open, &columns, (40.5, 3.0)).iter().map(|looker| looker.row).collect();
        assert_eq!(rows, [0]);
    }
}
