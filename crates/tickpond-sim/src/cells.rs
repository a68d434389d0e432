//! A uniform grid over the arena, and what lies in its cells.

use tickpond_lang::program::Arena;

use crate::space;
use crate::wide::wide;

/// Where something was at the beginning of a tick, and where it is at its end, in u.
pub(crate) type Way = ((f64, f64), (f64, f64));

/// Cells from where to where across, and from where to where up.
pub(crate) type Span = ((i32, i32), (i32, i32));

/// How many cells a way may be spread over before it is followed row by row.
const FEW_CELLS: i64 = 16;

/// The cells of an arena.
pub(crate) struct Grid {
    x: Axis,
    y: Axis,
}

/// The cells along one axis.
struct Axis {
    low: f64,
    length: f64,
    /// Cells in a u.
    per_unit: f64,
    /// How many the arena is long.
    count: i32,
    wraps: bool,
}

impl Axis {
    fn new(low: f64, length: f64, size: f64, wraps: bool) -> Axis {
        let fitting = length / size;
        // On a wrapped axis a whole number of cells goes around.
        let count = if wraps { (fitting as i32).max(1) } else { (fitting.ceil() as i32).max(1) };
        let per_unit = if wraps { f64::from(count) / length } else { 1.0 / size };
        Axis { low, length, per_unit, count, wraps }
    }

    /// The cells a way along the axis lies in, its body's reach added.
    #[inline(always)]
    fn span(&self, old: f64, new: f64, reach: f64) -> (i32, i32) {
        let cell_of = |place: f64| floor((place - self.low) * self.per_unit);
        let (first, last) = (cell_of(old.min(new) - reach), cell_of(old.max(new) + reach));
        if self.wraps {
            // Never around twice.
            return (first, last.min(first.saturating_add(self.count - 1)));
        }
        // What lies outside lies in the cells at the rim, once.
        (first.clamp(0, self.count - 1), last.clamp(0, self.count - 1))
    }

    /// From where to where a row of cells reaches; on an open axis those at the rim reach on without end.
    fn bounds(&self, cell: i32) -> (f64, f64) {
        let low = self.low + f64::from(cell) / self.per_unit;
        let high = self.low + f64::from(cell + 1) / self.per_unit;
        let at_rim = |rim: i32| !self.wraps && cell == rim;
        (
            if at_rim(0) { f64::NEG_INFINITY } else { low },
            if at_rim(self.count - 1) { f64::INFINITY } else { high },
        )
    }

    /// How long a way is in u, be it the short way over the seam.
    #[inline(always)]
    fn short(&self, old: f64, new: f64) -> f64 {
        let way = (new - old).abs();
        if self.wraps { way.min((self.length - way).abs()) } else { way }
    }

    #[inline]
    fn wrapped(&self, at: i32) -> i32 {
        match self.wraps {
            true if at >= 0 && at < self.count => at,
            true => at.rem_euclid(self.count),
            false => at,
        }
    }

    /// The cell of a place; of one outside the nearest inside. Places on a wrapped axis are inside.
    #[inline(always)]
    fn cell_of(&self, place: f64) -> u32 {
        ((place - self.low) * self.per_unit).max(0.0).min(f64::from(self.count - 1)) as u32
    }

    /// The nearest cell that is inside the arena.
    #[inline]
    fn inside(&self, at: i32) -> usize {
        at.clamp(0, self.count - 1) as usize
    }
}

/// The whole number at or below; quicker than the library's where the processor has no instruction for it.
#[inline]
fn floor(value: f64) -> i32 {
    let whole = value as i32;
    whole.saturating_sub(i32::from(f64::from(whole) > value))
}

impl Grid {
    /// A grid for `entering` bodies that reach no further than `widest` u from their places and usually go
    /// `usual` u. A cell is twice as wide as the largest body, so that most lie in one or two; never are
    /// there many more cells than bodies, nor do usual ways go through many of them.
    pub(crate) fn new(arena: &Arena, (widest, usual): (f64, f64), entering: usize) -> Grid {
        let (width, height) = arena.size();
        let most = (entering * 64 + 4096) as f64;
        let least = (width * height / most).sqrt().max(width.max(height) / 4096.0);
        let size = (widest * 4.0).max(least).max(usual.min(width.max(height)) / 16.0);
        Grid::of_cells(arena, size)
    }

    /// A grid for so many places, of which a cell has two where they lie evenly.
    pub(crate) fn for_places(arena: &Arena, places: usize) -> Grid {
        let (width, height) = arena.size();
        let size = (width * height * 2.0 / places.max(1) as f64).sqrt();
        Grid::of_cells(arena, size.max(width.max(height) / 4096.0))
    }

    /// A grid of cells about so wide.
    fn of_cells(arena: &Arena, size: f64) -> Grid {
        let ((width, height), (wrap_x, wrap_y)) = (arena.size(), space::wraps(arena));
        Grid {
            x: Axis::new(arena.low.0, width, size, wrap_x),
            y: Axis::new(arena.low.1, height, size, wrap_y),
        }
    }

    /// How wide a cell is, in u.
    pub(crate) fn cell(&self) -> f64 {
        1.0 / self.x.per_unit.max(self.y.per_unit)
    }

    /// The cells the way of a body lies in.
    #[inline]
    fn span(&self, (old, new): Way, reach: f64) -> Span {
        (self.x.span(old.0, new.0, reach), self.y.span(old.1, new.1, reach))
    }

    /// The numbers of the cells a body's way goes through, its reach added. A long way is followed row by
    /// row: it goes through no more cells than the arena is wide and high, however fast.
    #[inline]
    pub(crate) fn each_of(&self, way: Way, reach: f64, mut see: impl FnMut(u32)) {
        let (across, up) = self.span(way, reach);
        let cells = i64::from(across.1 - across.0 + 1) * i64::from(up.1 - up.0 + 1);
        if cells <= FEW_CELLS {
            self.each((across, up), see);
            return;
        }
        let ((old_x, old_y), (new_x, new_y)) = way;
        let (dx, dy) = (new_x - old_x, new_y - old_y);
        // A little more, for what rounding takes away.
        let reach = reach * (1.0 + 1e-9) + (dx.abs() + dy.abs()) * 1e-12;
        for row in up.0..=up.1 {
            let (low, high) = self.y.bounds(row);
            let (low, high) = (low - reach, high + reach);
            // The share of the way that lies in the row.
            let (mut from, mut to) = (0.0f64, 1.0f64);
            if dy != 0.0 {
                let (a, b) = ((low - old_y) / dy, (high - old_y) / dy);
                (from, to) = (from.max(a.min(b)), to.min(a.max(b)));
            }
            if from > to {
                continue;
            }
            let part = self.x.span(old_x + dx * from, old_x + dx * to, reach);
            self.each((part, (row, row)), &mut see);
        }
    }

    /// Calls `see` with the numbers of the cells that lie within a square around a place, half as wide as `reach`, and
    /// says whether these are all there are.
    pub(crate) fn each_around(&self, at: (f64, f64), reach: f64, see: impl FnMut(u32)) -> bool {
        let span = self.span((at, at), reach);
        self.each(span, see);
        let ((left, right), (low, high)) = span;
        right - left + 1 >= self.x.count && high - low + 1 >= self.y.count
    }

    /// Whether a way, with what is within reach of it, goes around no wrapped axis to cells where it has been.
    pub(crate) fn is_short(&self, way: (f64, f64), reach: f64) -> bool {
        let fits = |axis: &Axis, way: f64| {
            !axis.wraps || way.abs() + 2.0 * (reach + 1.0 / axis.per_unit) < axis.length
        };
        fits(&self.x, way.0) && fits(&self.y, way.1)
    }

    /// The numbers of cells; those outside the arena have that of one at the rim.
    #[inline]
    fn each(&self, (across, up): Span, mut see: impl FnMut(u32)) {
        for cy in up.0..=up.1 {
            let first = self.y.inside(self.y.wrapped(cy)) * self.x.count as usize;
            for cx in across.0..=across.1 {
                see((first + self.x.inside(self.x.wrapped(cx))) as u32);
            }
        }
    }

    /// How many cells lie inside the arena.
    pub(crate) fn cells(&self) -> usize {
        self.x.count as usize * self.y.count as usize
    }

    /// For places, many side by side: the number of the cell of each.
    pub(crate) fn numbers(&self, (xs, ys): (&[f64], &[f64]), numbers: &mut [u32]) {
        let across = self.x.count as u32;
        wide(
            #[inline(always)]
            move || {
                let count = xs.len();
                let (ys, numbers) = (&ys[..count], &mut numbers[..count]);
                for at in 0..count {
                    numbers[at] = self.y.cell_of(ys[at]) * across + self.x.cell_of(xs[at]);
                }
            },
        );
    }

    /// For places, many side by side, and where they were: whether each has gone further than so many u along
    /// an axis.
    pub(crate) fn far(
        &self,
        (xs, ys): (&[f64], &[f64]),
        (old_xs, old_ys): (&[f64], &[f64]),
        step: f64,
        far: &mut [u32],
    ) {
        wide(
            #[inline(always)]
            move || {
                let count = xs.len();
                let (ys, old_xs, old_ys) = (&ys[..count], &old_xs[..count], &old_ys[..count]);
                let far = &mut far[..count];
                for at in 0..count {
                    let way_x = self.x.short(old_xs[at], xs[at]);
                    let way_y = self.y.short(old_ys[at], ys[at]);
                    far[at] = u32::from((way_x > step) | (way_y > step));
                }
            },
        );
    }
}

/// The bodies seen so far by the cells their ways lie in: a chain for each cell. Those outside the arena
/// lie in the cells at its rim. Most cells are empty: they cost the look at one bit.
#[derive(Default)]
pub(crate) struct Cells {
    /// A bit for each cell that holds something.
    used: Vec<u64>,
    /// The newest entry of each cell that holds something.
    heads: Vec<u32>,
    entries: Vec<Entry>,
}

/// One body in one cell, and the entry before it there.
#[derive(Clone, Copy)]
struct Entry {
    body: u32,
    before: u32,
}

const NO_ENTRY: u32 = u32::MAX;

impl Cells {
    /// Empties them. What heads an empty cell is not looked at, and stays what it was.
    pub(crate) fn clear(&mut self, grid: &Grid) {
        self.used.clear();
        self.used.resize(grid.cells().div_ceil(64), 0);
        if self.heads.len() < grid.cells() {
            self.heads.resize(grid.cells(), NO_ENTRY);
        }
        self.entries.clear();
    }

    /// Puts a body in the cells of its way.
    #[inline]
    pub(crate) fn enter(&mut self, grid: &Grid, (way, reach): (Way, f64), body: u32) {
        grid.each_of(way, reach, |number| {
            let before = if self.holds(number) { self.heads[number as usize] } else { NO_ENTRY };
            self.used[number as usize / 64] |= 1 << (number % 64);
            self.heads[number as usize] = self.entries.len() as u32;
            self.entries.push(Entry { body, before });
        });
    }

    /// Whether something lies in the cell of this number.
    #[inline(always)]
    pub(crate) fn holds(&self, number: u32) -> bool {
        self.used[number as usize / 64] >> (number % 64) & 1 == 1
    }

    /// Calls `see` for what lies in the cell of this number, or outside the arena beside it.
    #[inline]
    pub(crate) fn meet(&self, number: u32, see: impl FnMut(u32)) {
        if self.holds(number) {
            self.follow(self.heads[number as usize], see);
        }
    }

    /// The newest entry of a cell; what it is of an empty one means nothing.
    #[inline(always)]
    pub(crate) fn head(&self, number: u32) -> u32 {
        self.heads[number as usize]
    }

    /// Calls `see` for what lies in the cell with this newest entry.
    #[inline]
    pub(crate) fn follow(&self, head: u32, mut see: impl FnMut(u32)) {
        let mut at = head;
        while at != NO_ENTRY {
            let entry = self.entries[at as usize];
            see(entry.body);
            at = entry.before;
        }
    }
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;
    use tickpond_lang::program::{Edge, Edges};

    pub(crate) fn arena(edge: Edge) -> Arena {
        let edges = Edges { left: edge, right: edge, low: edge, high: edge };
        Arena {
            low: (-5.0, -5.0),
            high: (15.0, 15.0),
            y_up: true,
            edges,
            margin: 0.0,
            bounce: 0.0,
            friction: 0.5,
        }
    }

    #[rstest]
    #[case(2.0, 2)]
    #[case(2.9, 2)]
    #[case(0.0, 0)]
    #[case(-0.1, -1)]
    #[case(-2.0, -2)]
    #[case(-1e300, i32::MIN)]
    #[case(1e300, i32::MAX)]
    fn floors_like_the_library(#[case] value: f64, #[case] whole: i32) {
        assert_eq!(floor(value), whole);
        assert_eq!(floor(value), value.floor() as i32);
    }

    #[rstest]
    fn what_lies_near_is_met_also_across_the_seam() {
        let grid = Grid::new(&arena(Edge::Wrap), (0.5, 0.0), 1);
        let mut cells = Cells::default();
        cells.clear(&grid);
        let way = ((-4.9, 0.0), (-4.9, 0.0));
        cells.enter(&grid, (way, 0.5), 7);
        let mut met = Vec::new();
        let beyond = ((14.8, 0.0), (14.8, 0.0));
        grid.each_of(beyond, 0.5, |number| cells.meet(number, |body| met.push(body)));
        assert!(met.contains(&7));
    }

    #[rstest]
    fn far_outside_nothing_costs_more_than_a_bounded_number_of_cells() {
        let grid = Grid::new(&arena(Edge::Open), (0.5, 0.0), 1);
        for way in
            [((0.0, 0.0), (1e12, 1e12)), ((0.0, 3.0), (-1e300, 3.0)), ((1e12, 3.0), (1e12, 3.0))]
        {
            let mut cells = Vec::new();
            grid.each_of(way, 0.5, |number| cells.push(number));
            let count = cells.len();
            cells.sort_unstable();
            cells.dedup();
            assert_eq!(cells.len(), count, "each cell once: {way:?}");
            assert!(
                !cells.is_empty() && count as i32 <= 4 * (grid.x.count + grid.y.count),
                "{count}"
            );
        }
    }

    proptest! {
        #[test]
        fn a_long_way_goes_through_the_cells_of_all_that_lie_on_it(
            wraps in any::<bool>(),
            old in (-30.0..40.0f64, -30.0..40.0f64),
            way in (-20.0..20.0f64, -20.0..20.0f64),
            share in 0.0..1.0f64,
            off in (-0.4..0.4f64, -0.4..0.4f64),
        ) {
            let edge = if wraps { Edge::Wrap } else { Edge::Open };
            // On a wrapped axis a way is no longer than half the arena.
            let way = if wraps { (way.0 / 2.0, way.1 / 2.0) } else { way };
            let inside = |at: f64| if wraps { space::wrapped(at, -5.0, 15.0) } else { at };
            let new = (inside(old.0), inside(old.1));
            let old = (new.0 - way.0, new.1 - way.1);
            let grid = Grid::new(&arena(edge), (0.1, 0.0), 1);
            let at = (old.0 + way.0 * share + off.0, old.1 + way.1 * share + off.1);
            let at = (inside(at.0), inside(at.1));
            let mut numbers = [0];
            grid.numbers((&[at.0], &[at.1]), &mut numbers);
            let mut found = false;
            grid.each_of((old, new), 0.6, |number| found |= number == numbers[0]);
            prop_assert!(found, "{:?} on {:?} to {:?}", at, old, new);
        }
    }
}
