//! A grid of where everyone stands while births are placed, for conditions on their places. Rows are only added meanwhile, and each is
//! entered before the next question.

use tickpond_lang::program::{Arena, KindId};

use crate::cells::{Cells, Grid};
use crate::state::Columns;

/// With fewer members a kind is walked through.
const FEW: usize = 64;

/// Where the members of kinds stand that conditions were about.
#[derive(Default)]
pub(crate) struct Standing {
    kinds: Vec<Option<Crowd>>,
}

/// The members of a kind, by cells.
pub(super) struct Crowd {
    grid: Grid,
    cells: Cells,
    /// How many rows are entered.
    entered: usize,
    /// How many the grid was made for.
    meant_for: usize,
}

impl Standing {
    /// Forgets where everybody stands.
    pub fn forget(&mut self) {
        self.kinds.clear();
    }

    /// Enters all of a kind, if they are many; there may be so many births to come.
    pub fn enter(&mut self, kind: KindId, columns: &Columns, arena: &Arena, to_come: usize) {
        let count = columns.len();
        if self.kinds.len() <= kind.index() {
            self.kinds.resize_with(kind.index() + 1, || None);
        }
        let crowd = &mut self.kinds[kind.index()];
        if count < FEW {
            return;
        }
        if crowd.as_ref().is_none_or(|crowd| count > crowd.meant_for * 4) {
            let meant_for = count + to_come.min(count * 16);
            let grid = Grid::for_places(arena, meant_for);
            let mut cells = Cells::default();
            cells.clear(&grid);
            *crowd = Some(Crowd { grid, cells, entered: 0, meant_for });
        }
        let Some(crowd) = crowd else { return };
        for row in crowd.entered..count {
            let at = (columns.x[row], columns.y[row]);
            crowd.cells.enter(&crowd.grid, ((at, at), 0.0), row as u32);
        }
        crowd.entered = count;
    }

    /// Whether something holds of all of a kind that may be within a distance of a place; of all there are, if they are
    /// not entered.
    pub fn all_near(
        &self,
        kind: KindId,
        columns: &Columns,
        (at, distance): ((f64, f64), f64),
        mut holds: impl FnMut(usize) -> bool,
    ) -> bool {
        let crowd = self.kinds.get(kind.index()).and_then(Option::as_ref);
        let Some(crowd) =
            crowd.filter(|crowd| crowd.entered == columns.len() && distance.is_finite())
        else {
            return (0..columns.len()).all(holds);
        };
        let mut all = true;
        // A little more, for what rounding takes away.
        let reach = distance.max(0.0) * (1.0 + 1e-9) + 1e-9;
        crowd.grid.each_around(at, reach, |number| {
            if all {
                crowd.cells.meet(number, |row| all = all && holds(row as usize));
            }
        });
        all
    }
}
