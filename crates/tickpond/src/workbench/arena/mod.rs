//! The arena band: the pond itself, drawn small.

pub mod draw;

use ratatui::layout::Rect;
use tickpond_lang::program::Arena;

/// From arena units to cells: the whole arena fits, and one u is as wide as it is high.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct View {
    area: Rect,
    arena_low: (f64, f64),
    arena_high: (f64, f64),
    y_up: bool,
    /// Cells per u sideways; a cell is twice as high as it is wide.
    scale: f64,
}

impl View {
    /// The view of an arena in an area of cells.
    pub fn new(arena: &Arena, area: Rect) -> View {
        let (width, height) = arena.size();
        let sideways = f64::from(area.width) / width;
        let upright = f64::from(area.height) * 2.0 / height;
        let (arena_low, arena_high) = (arena.low, arena.high);
        View { area, arena_low, arena_high, y_up: arena.y_up, scale: sideways.min(upright) }
    }

    /// Where a place is on the screen, in cells, fractions kept.
    pub fn place(&self, (x, y): (f64, f64)) -> (f64, f64) {
        let (width, height) = self.size();
        let left = f64::from(self.area.x) + (f64::from(self.area.width) - width) / 2.0;
        let top = f64::from(self.area.y) + (f64::from(self.area.height) - height) / 2.0;
        let down = if self.y_up { self.arena_high.1 - y } else { y - self.arena_low.1 };
        (left + (x - self.arena_low.0) * self.scale, top + down * self.scale / 2.0)
    }

    /// The arena's size in cells.
    pub fn size(&self) -> (f64, f64) {
        let width = (self.arena_high.0 - self.arena_low.0) * self.scale;
        let height = (self.arena_high.1 - self.arena_low.1) * self.scale / 2.0;
        (width, height)
    }

    /// The cell of a place, if it is in the area.
    pub fn cell(&self, place: (f64, f64)) -> Option<(u16, u16)> {
        let (x, y) = self.place(place);
        let inside = x >= f64::from(self.area.x)
            && x < f64::from(self.area.right())
            && y >= f64::from(self.area.y)
            && y < f64::from(self.area.bottom());
        inside.then_some((x as u16, y as u16))
    }

    /// The place in the middle of a cell.
    pub fn unplace(&self, column: u16, row: u16) -> (f64, f64) {
        let (x0, y0) = self.place(self.arena_low);
        let (x, y) = (f64::from(column) + 0.5 - x0, f64::from(row) + 0.5 - y0);
        let up = if self.y_up { -y } else { y };
        (self.arena_low.0 + x / self.scale, self.arena_low.1 + up * 2.0 / self.scale)
    }

    /// Dots of braille a u is wide.
    pub fn dots_per_u(&self) -> f64 {
        self.scale * 2.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn arena(y: &str) -> Arena {
        let text = format!("pond \"t\" {{ arena 100 x 40, y {y} }}");
        tickpond_lang::compile(&text).program.unwrap().arena.clone()
    }

    #[rstest]
    #[case("up", (10.0, 30.0), (10, 5))]
    #[case("down", (10.0, 30.0), (10, 15))]
    fn y_grows_as_the_pond_says(#[case] y: &str, #[case] at: (f64, f64), #[case] cell: (u16, u16)) {
        let view = View::new(&arena(y), Rect::new(0, 0, 100, 20));
        assert_eq!(view.cell(at), Some(cell));
    }

    #[rstest]
    fn the_arena_keeps_its_shape_in_any_area() {
        let view = View::new(&arena("up"), Rect::new(3, 2, 60, 30));
        let (width, height) = view.size();
        assert!((width / (height * 2.0) - 2.5).abs() < 1e-9);
        let (x, y) = view.unplace(20, 10);
        assert_eq!(view.cell((x, y)), Some((20, 10)));
    }
}
