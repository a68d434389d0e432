//! What the arena is painted on: per cell a ground, filled quarters and dots.
//!
//! A cell of a terminal has two colours. Quarters (two by two) fill bodies; dots of braille (two by four) draw lines,
//! trails and crowds. What is painted first lies on top.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::{Color, Style};

use crate::workbench::palette::{Palette, Rgb};
use tickpond_draw::colours::blend;

/// The block for each set of quarters: top left 1, top right 2, bottom left 4, bottom right 8.
const QUARTERS: [char; 16] =
    [' ', '▘', '▝', '▀', '▖', '▌', '▞', '▛', '▗', '▚', '▐', '▜', '▄', '▙', '▟', '█'];
/// Dots 1 2 3 7 in the left column, 4 5 6 8 in the right one, from the top.
const BITS: [[u8; 2]; 4] = [[0x01, 0x08], [0x02, 0x10], [0x04, 0x20], [0x40, 0x80]];
/// A cell wholly inside a body where there are no colours.
const FILLED: char = '▒';

/// Ground, quarters and dots of the cells of an area.
pub struct Canvas {
    area: Rect,
    ground: Vec<Option<Rgb>>,
    quarters: Vec<Option<Rgb>>,
    /// For each quarter the next one to the right in its row that is not filled; one more than there are at the end.
    free: Vec<u32>,
    dots: Vec<(u8, Option<Rgb>)>,
    /// Dots that lie over bodies, too.
    over: Vec<(u8, Option<Rgb>)>,
}

impl Canvas {
    /// An empty one.
    pub fn new(area: Rect) -> Canvas {
        let cells = area.area() as usize;
        let (width, height) = (u32::from(area.width) * 2, u32::from(area.height) * 2);
        Canvas {
            area,
            ground: vec![None; cells],
            quarters: vec![None; cells * 4],
            free: (0..height).flat_map(|_| 0..=width).collect(),
            dots: vec![(0, None); cells],
            over: vec![(0, None); cells],
        }
    }

    /// The area it covers.
    pub fn area(&self) -> Rect {
        self.area
    }

    /// The place of a cell of the area among its cells.
    pub fn at(&self, x: u16, y: u16) -> usize {
        usize::from(y - self.area.y) * usize::from(self.area.width) + usize::from(x - self.area.x)
    }

    /// The ground of a cell, by its place.
    pub fn ground(&mut self, at: usize) -> &mut Option<Rgb> {
        &mut self.ground[at]
    }

    /// Sets a dot, in cells of the screen; where two meet in a cell, the later one's colour is seen. Bodies hide it.
    pub fn dot(&mut self, x: f64, y: f64, colour: Option<Rgb>) {
        if let Some((at, bit)) = self.bit(x, y) {
            self.dots[at].0 |= bit;
            self.dots[at].1 = colour;
        }
    }

    /// Sets a dot that lies over bodies.
    pub fn dot_over(&mut self, x: f64, y: f64, colour: Option<Rgb>) {
        if let Some((at, bit)) = self.bit(x, y) {
            self.over[at].0 |= bit;
            self.over[at].1 = colour;
        }
    }

    /// The cell and the bit in it of a place on the screen.
    fn bit(&self, x: f64, y: f64) -> Option<(usize, u8)> {
        let x = (x - f64::from(self.area.x)) * 2.0;
        let y = (y - f64::from(self.area.y)) * 4.0;
        let (width, height) = (f64::from(self.area.width) * 2.0, f64::from(self.area.height) * 4.0);
        if !(x >= 0.0 && y >= 0.0 && x < width && y < height) {
            return None;
        }
        let (x, y) = (x as usize, y as usize);
        Some((y / 4 * usize::from(self.area.width) + x / 2, BITS[y % 4][x % 2]))
    }

    /// Sets dots of a cell, in one colour.
    pub fn dots_in(&mut self, at: usize, bits: u8, colour: Option<Rgb>) {
        let cell = &mut self.dots[at];
        cell.0 |= bits;
        cell.1 = colour;
    }

    /// How many rows of quarters there are.
    pub fn rows(&self) -> usize {
        usize::from(self.area.height) * 2
    }

    /// Fills the quarters of a row whose middles lie between two places, in cells of the screen, where nothing
    /// lies yet. Costs those that are filled, and hardly more.
    pub fn fill(&mut self, row: usize, from: f64, to: f64, colour: Option<Rgb>) {
        let width = usize::from(self.area.width) * 2;
        let left = f64::from(self.area.x);
        let edge = |x: f64| ((x - left) * 2.0 - 0.5).ceil().clamp(0.0, width as f64) as usize;
        let (first, end) = (edge(from), edge(to));
        let base = row * (width + 1);
        let mut at = self.next_free(base, first);
        while at < end {
            let cell = row / 2 * usize::from(self.area.width) + at / 2;
            self.quarters[cell * 4 + row % 2 * 2 + at % 2] = Some(colour.unwrap_or_default());
            self.free[base + at] = at as u32 + 1;
            at = self.next_free(base, at + 1);
        }
    }

    /// The first free quarter of a row from one on, with the way to it made shorter.
    fn next_free(&mut self, base: usize, from: usize) -> usize {
        let mut end = from;
        while self.free[base + end] as usize != end {
            end = self.free[base + end] as usize;
        }
        let mut at = from;
        while at != end {
            at = std::mem::replace(&mut self.free[base + at], end as u32) as usize;
        }
        end
    }

    /// The colour a body fills most of a cell with, if one does.
    pub fn filling(&self, x: u16, y: u16) -> Option<Rgb> {
        let quarters = self.quarters.get(self.at(x, y) * 4..)?.get(..4)?;
        let filled = quarters.iter().flatten();
        (filled.clone().count() >= 2).then(|| filled.last().copied()).flatten()
    }

    /// Puts it on the screen.
    pub fn draw(&self, cells: &mut Cells, palette: &Palette) {
        for y in self.area.y..self.area.bottom() {
            for x in self.area.x..self.area.right() {
                let at = self.at(x, y);
                let Some(cell) = cells.cell_mut((x, y)) else { continue };
                let ground = self.ground[at];
                if let Some(ground) = ground {
                    cell.bg = palette.paint(ground);
                }
                let (symbol, front, behind) = self.seen(at, palette);
                if let Some(symbol) = symbol {
                    cell.set_char(symbol);
                    cell.set_style(Style::default().fg(colour(front, palette)));
                }
                if let Some(behind) = behind {
                    cell.bg = colour(Some(behind), palette);
                }
            }
        }
    }

    /// Sign, its colour, and the colour behind it where that is not the ground.
    fn seen(&self, at: usize, palette: &Palette) -> (Option<char>, Option<Rgb>, Option<Rgb>) {
        let quarters = &self.quarters[at * 4..at * 4 + 4];
        let filled = quarters.iter().flatten().count();
        let (over, below) = (self.over[at], self.dots[at]);
        let (bits, dot) = match filled {
            0 if over.0 != 0 => (over.0 | below.0, over.1),
            0 => below,
            _ => over,
        };
        let dots = (bits != 0).then(|| char::from_u32(0x2800 + u32::from(bits))).flatten();
        if filled == 0 {
            return (dots, dot, None);
        }
        let front = two_most(quarters);
        let mask = |of: Option<Rgb>| {
            (0..4).filter(|q| quarters[*q] == of).fold(0usize, |mask, q| mask | 1 << q)
        };
        match front {
            // One body fills it: what is a line over it shows.
            (Some(colour), None) if filled == 4 => match dots {
                Some(dots) if palette.is_coloured() => (Some(dots), dot, Some(colour)),
                _ if palette.is_coloured() => (Some(' '), None, Some(colour)),
                _ => (Some(FILLED), None, None),
            },
            (first, None) => (Some(QUARTERS[mask(first)]), first, None),
            // Two bodies: what belongs to neither, if anything, goes with the second.
            (first, second) => (Some(QUARTERS[mask(first)]), first, second),
        }
    }
}

/// The two colours that fill most of a cell; with an empty quarter the second is the ground.
fn two_most(quarters: &[Option<Rgb>]) -> (Option<Rgb>, Option<Rgb>) {
    let count = |of: Rgb| quarters.iter().filter(|q| **q == Some(of)).count();
    let mut colours: Vec<Rgb> = Vec::new();
    for colour in quarters.iter().flatten() {
        if !colours.contains(colour) {
            colours.push(*colour);
        }
    }
    colours.sort_by_key(|colour| std::cmp::Reverse(count(*colour)));
    let second = colours.get(1).copied().filter(|_| !quarters.contains(&None));
    (colours.first().copied(), second)
}

fn colour(colour: Option<Rgb>, palette: &Palette) -> Color {
    colour.map_or(Color::Reset, |colour| palette.paint(colour))
}

/// The bit of a dot of braille by its number: row by row, two in each.
#[inline]
pub fn bits_of(dot: u8) -> u8 {
    BITS[usize::from(dot / 2) % 4][usize::from(dot % 2)]
}

/// A colour made fainter: `share` of it, the rest what lies beneath.
pub fn faded(palette: &Palette, colour: Rgb, share: f64) -> Option<Rgb> {
    palette.is_coloured().then(|| blend(palette.base(), colour, share))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_was_filled_first_stays(spans in prop::collection::vec((0usize..6, -3.0f64..14.0, 0.0f64..9.0), 1..20)) {
            let mut canvas = Canvas::new(Rect::new(2, 1, 8, 3));
            let mut wanted = vec![None; 8 * 3 * 4];
            for (number, (row, from, length)) in spans.iter().enumerate() {
                let colour = (number as u8, 1, 1);
                canvas.fill(*row, *from, from + length, Some(colour));
                for x in 0..16 {
                    let middle = 2.0 + (x as f64 + 0.5) / 2.0;
                    let at = (row / 2 * 8 + x / 2) * 4 + row % 2 * 2 + x % 2;
                    if middle >= *from && middle < from + length && wanted[at].is_none() {
                        wanted[at] = Some(colour);
                    }
                }
            }
            prop_assert_eq!(&canvas.quarters, &wanted);
        }
    }

    #[test]
    fn two_bodies_share_a_cell() {
        let mut canvas = Canvas::new(Rect::new(0, 0, 1, 1));
        canvas.fill(0, 0.0, 0.5, Some((1, 1, 1)));
        canvas.fill(0, 0.0, 1.0, Some((2, 2, 2)));
        canvas.fill(1, 0.0, 1.0, Some((2, 2, 2)));
        let palette = Palette::new(true);
        assert_eq!(canvas.seen(0, &palette), (Some('▟'), Some((2, 2, 2)), Some((1, 1, 1))));
    }
}
