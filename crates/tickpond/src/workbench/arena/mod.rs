//! The arena band: the pond itself, drawn small.

mod bodies;
mod canvas;
mod crowd;
pub mod draw;
#[cfg(test)]
mod drawn_tests;
mod ground;
mod groups;
mod key;
mod lines;
pub mod looks;
mod moves;
mod put;
pub mod raster;

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
    /// The place in the middle.
    centre: (f64, f64),
}

/// Where the arena is looked at, and from how near.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Camera {
    /// The place in the middle; that of the arena if none.
    pub centre: Option<(f64, f64)>,
    /// How many times larger than when the whole arena fits.
    pub nearer: f64,
    /// Whether the selected one stays in the middle.
    pub follows: bool,
}

impl Default for Camera {
    fn default() -> Camera {
        Camera { centre: None, nearer: 1.0, follows: false }
    }
}

impl Camera {
    /// Goes nearer by a factor, from a quarter to 64 times.
    pub fn zoom(&mut self, factor: f64) {
        self.nearer = (self.nearer * factor).clamp(0.25, 64.0);
        // Back at the start the whole arena is in the middle again.
        if (self.nearer - 1.0).abs() < 1e-6 {
            self.nearer = 1.0;
        }
    }

    /// The whole arena again.
    pub fn fit(&mut self) {
        *self = Camera::default();
    }
}

/// What is drawn in the arena.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Layers {
    pub bodies: bool,
    pub glyphs: bool,
    pub marks: bool,
    pub headings: bool,
    pub spots: bool,
    pub zones: bool,
    pub mounts: bool,
    pub sight: bool,
    pub rays: bool,
    pub trails: bool,
    pub names: bool,
    pub water: bool,
}

impl Default for Layers {
    fn default() -> Layers {
        Layers {
            bodies: true,
            glyphs: true,
            marks: true,
            headings: false,
            spots: true,
            zones: true,
            mounts: false,
            sight: true,
            rays: true,
            trails: true,
            names: true,
            water: true,
        }
    }
}

impl Layers {
    /// Letter, name and state of each.
    pub fn all(&mut self) -> [(char, &'static str, &mut bool); 12] {
        [
            ('b', "bodies", &mut self.bodies),
            ('g', "glyphs", &mut self.glyphs),
            ('e', "births and ends", &mut self.marks),
            ('h', "headings", &mut self.headings),
            ('s', "spots", &mut self.spots),
            ('z', "zones", &mut self.zones),
            ('m', "mounts", &mut self.mounts),
            ('v', "view", &mut self.sight),
            ('r', "rays and blasts", &mut self.rays),
            ('t', "trails", &mut self.trails),
            ('n', "names", &mut self.names),
            ('w', "water", &mut self.water),
        ]
    }

    /// Switches the one with this letter.
    pub fn switch(&mut self, letter: char) {
        for (own, _, on) in self.all() {
            if own == letter {
                *on = !*on;
            }
        }
    }

    /// The list for the status line: `+` before those that are drawn.
    pub fn words(mut self) -> String {
        let told = self
            .all()
            .map(|(letter, name, on)| format!("{}{letter} {name}", if *on { '+' } else { '-' }));
        told.join("  ")
    }
}

/// The rows of a band's body that show the arena, and the one below them for its key, where there is room for it.
pub fn parts(body: Rect) -> (Rect, Rect) {
    let row = u16::from(body.height >= 6);
    let pond = Rect { height: body.height - row, ..body };
    (pond, Rect { y: pond.bottom(), height: row, ..body })
}

impl View {
    /// The view through a camera.
    pub fn through(camera: &Camera, arena: &Arena, area: Rect) -> View {
        let (width, height) = arena.size();
        let sideways = f64::from(area.width) / width;
        let upright = f64::from(area.height) * 2.0 / height;
        let (arena_low, arena_high) = (arena.low, arena.high);
        let middle = ((arena_low.0 + arena_high.0) / 2.0, (arena_low.1 + arena_high.1) / 2.0);
        View {
            area,
            arena_low,
            arena_high,
            y_up: arena.y_up,
            scale: sideways.min(upright) * camera.nearer,
            centre: camera.centre.unwrap_or(middle),
        }
    }

    /// Where a place is on the screen, in cells, fractions kept.
    #[inline]
    pub fn place(&self, (x, y): (f64, f64)) -> (f64, f64) {
        let left = f64::from(self.area.x) + f64::from(self.area.width) / 2.0;
        let top = f64::from(self.area.y) + f64::from(self.area.height) / 2.0;
        let down = if self.y_up { self.centre.1 - y } else { y - self.centre.1 };
        (left + (x - self.centre.0) * self.scale, top + down * self.scale / 2.0)
    }

    /// The arena's corner that is first on the screen, in cells.
    pub fn corner(&self) -> (f64, f64) {
        let y = if self.y_up { self.arena_high.1 } else { self.arena_low.1 };
        self.place((self.arena_low.0, y))
    }

    /// Width and height of what is in sight, in u.
    pub fn sight(&self) -> (f64, f64) {
        (f64::from(self.area.width) / self.scale, f64::from(self.area.height) * 2.0 / self.scale)
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

    /// The cell of a place among those of the area, and the dot of braille in it, row by row, two in each.
    #[inline]
    pub fn dot(&self, place: (f64, f64)) -> Option<(usize, u8)> {
        let (x, y) = self.place(place);
        let (x, y) = (x - f64::from(self.area.x), y - f64::from(self.area.y));
        let (width, height) = (f64::from(self.area.width), f64::from(self.area.height));
        if !(x >= 0.0 && y >= 0.0 && x < width && y < height) {
            return None;
        }
        let (column, row) = (x as usize, y as usize);
        let (right, below) = ((x * 2.0) as usize % 2, (y * 4.0) as usize % 4);
        let at = row * usize::from(self.area.width) + column;
        Some((at, (below * 2 + right) as u8))
    }

    /// Whether something of this reach around a place can be in sight.
    pub fn is_near(&self, place: (f64, f64), reach: f64) -> bool {
        let (x, y) = self.place(place);
        let (wide, high) = (reach * self.scale, reach * self.scale / 2.0);
        x + wide >= f64::from(self.area.x)
            && x - wide < f64::from(self.area.right())
            && y + high >= f64::from(self.area.y)
            && y - high < f64::from(self.area.bottom())
    }

    /// The place in the middle of a cell.
    pub fn unplace(&self, column: u16, row: u16) -> (f64, f64) {
        self.unplace_at(f64::from(column) + 0.5, f64::from(row) + 0.5)
    }

    /// The place that is there on the screen, in cells: the other way around of [`View::place`].
    pub fn unplace_at(&self, x: f64, y: f64) -> (f64, f64) {
        let (x0, y0) = self.place(self.arena_low);
        let up = if self.y_up { y0 - y } else { y - y0 };
        (self.arena_low.0 + (x - x0) / self.scale, self.arena_low.1 + up * 2.0 / self.scale)
    }

    /// Whether the whole arena is in sight.
    pub fn shows_all(&self) -> bool {
        let ((left, top), (width, height)) = (self.corner(), self.size());
        let slack = 1e-6;
        left >= f64::from(self.area.x) - slack
            && left + width <= f64::from(self.area.right()) + slack
            && top >= f64::from(self.area.y) - slack
            && top + height <= f64::from(self.area.bottom()) + slack
    }

    /// The place in the middle.
    pub fn centre(&self) -> (f64, f64) {
        self.centre
    }

    /// The cells it is drawn in.
    pub fn area(&self) -> Rect {
        self.area
    }

    /// Dots of braille a u is wide.
    pub fn dots_per_u(&self) -> f64 {
        self.scale * 2.0
    }

    /// Cells a u is wide.
    pub fn cells_per_u(&self) -> f64 {
        self.scale
    }

    /// Whether y grows upwards.
    pub fn is_y_up(&self) -> bool {
        self.y_up
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
        let view = View::through(&Camera::default(), &arena(y), Rect::new(0, 0, 100, 20));
        assert_eq!(view.cell(at), Some(cell));
    }

    #[rstest]
    fn the_arena_keeps_its_shape_in_any_area() {
        let view = View::through(&Camera::default(), &arena("up"), Rect::new(3, 2, 60, 30));
        let (width, height) = view.size();
        assert!((width / (height * 2.0) - 2.5).abs() < 1e-9);
        let (x, y) = view.unplace(20, 10);
        assert_eq!(view.cell((x, y)), Some((20, 10)));
    }
}
