//! A screen of characters as a drawing: every cell in its place, dots, blocks and lines as shapes, so that
//! any font shows the same picture.

use crate::drawing::{Anchor, Drawing, Type};

/// One cell.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct GridCell {
    /// What stands in it; empty for nothing.
    pub symbol: String,
    /// Its colour; the usual one if none.
    pub colour: Option<(u8, u8, u8)>,
    /// What is behind it.
    pub ground: Option<(u8, u8, u8)>,
    /// Whether it is bold.
    pub bold: bool,
    /// Whether it is faint.
    pub faint: bool,
    /// Whether it is struck through.
    pub struck: bool,
    /// Whether it is underlined.
    pub underlined: bool,
}

/// Width and height of a cell, in points.
const CELL: (f64, f64) = (7.2, 14.4);
/// White around the screen, in points.
const MARGIN: f64 = 12.0;
/// Size of the letters, in points.
const LETTERS: f64 = 11.0;

/// The drawing of a screen so many cells wide, its cells row by row.
pub fn draw_grid(title: &str, width: usize, cells: &[GridCell]) -> Drawing {
    let rows = cells.len().div_ceil(width.max(1));
    let (page_width, page_height) =
        (width as f64 * CELL.0 + MARGIN * 2.0, rows as f64 * CELL.1 + MARGIN * 2.0);
    let mut page = Drawing::new(page_width, page_height, title);
    for (at, cell) in cells.iter().enumerate() {
        let x = MARGIN + (at % width) as f64 * CELL.0;
        let y = MARGIN + (at / width) as f64 * CELL.1;
        one(&mut page, cell, x, y);
    }
    page
}

fn one(page: &mut Drawing, cell: &GridCell, x: f64, y: f64) {
    let (w, h) = CELL;
    if let Some(ground) = cell.ground {
        page.rect(x, y, w, h, &hex(ground));
    }
    let colour = match (cell.colour, cell.faint) {
        (Some(colour), _) => hex(colour),
        (None, true) => "#777777".into(),
        (None, false) => "#1b1f24".to_string(),
    };
    let mut symbols = cell.symbol.chars();
    let symbol = symbols.next().unwrap_or(' ');
    match symbol {
        ' ' => {}
        '\u{2800}'..='\u{28ff}' => dots(page, symbol as u32 - 0x2800, x, y, &colour),
        '▁'..='█' => {
            let filled = h * f64::from(symbol as u32 - '▁' as u32 + 1) / 8.0;
            page.rect(x, y + h - filled, w, filled, &colour);
        }
        '░' | '▒' | '▓' => {
            let share = f64::from(symbol as u32 - '░' as u32 + 1) / 4.0;
            page.shade((x, y), (w, h), &colour, share);
        }
        '─' | '━' | '╌' | '┈' | '╶' | '╴' => {
            let thick = if symbol == '━' { 1.8 } else { 0.9 };
            let gap = matches!(symbol, '╌' | '┈');
            let length = if gap { w * 0.6 } else { w };
            page.rect(x, y + h / 2.0 - thick / 2.0, length, thick, &colour);
        }
        '│' | '┊' | '╵' | '╷' | '╹' | '╻' => {
            let thick = if matches!(symbol, '╹' | '╻') { 1.8 } else { 0.9 };
            let (from, length) = match symbol {
                '╵' | '╹' => (0.0, h / 2.0),
                '╷' | '╻' => (h / 2.0, h / 2.0),
                '┊' => (h * 0.2, h * 0.6),
                _ => (0.0, h),
            };
            page.rect(x + w / 2.0 - thick / 2.0, y + from, thick, length, &colour);
        }
        _ => {
            let style = Type { size: LETTERS, bold: cell.bold, colour: &colour };
            page.text((x + w / 2.0, y + h * 0.77), Anchor::Middle, style, &cell.symbol);
        }
    }
    if cell.underlined {
        page.rect(x, y + h - 1.4, w, 0.8, &colour);
    }
    if cell.struck {
        page.rect(x, y + h / 2.0, w, 0.8, &colour);
    }
}

/// Braille: two columns of four dots.
fn dots(page: &mut Drawing, bits: u32, x: f64, y: f64, colour: &str) {
    const PLACES: [(f64, f64); 8] =
        [(0., 0.), (0., 1.), (0., 2.), (1., 0.), (1., 1.), (1., 2.), (0., 3.), (1., 3.)];
    for (bit, (column, row)) in PLACES.iter().enumerate() {
        if bits >> bit & 1 == 1 {
            let cx = x + CELL.0 * (0.25 + column * 0.5);
            let cy = y + CELL.1 * (0.125 + row * 0.25);
            page.dot(cx, cy, 1.1, colour);
        }
    }
}

fn hex((r, g, b): (u8, u8, u8)) -> String {
    format!("#{r:02x}{g:02x}{b:02x}")
}

/// The colour with this number among the 256 a terminal has: sixteen basic ones, a cube of 6 x 6 x 6, and
/// 24 greys.
pub fn indexed(number: u8) -> (u8, u8, u8) {
    const BASIC: [(u8, u8, u8); 16] = [
        (0, 0, 0),
        (170, 0, 0),
        (0, 140, 0),
        (170, 110, 0),
        (0, 0, 170),
        (150, 0, 150),
        (0, 140, 140),
        (170, 170, 170),
        (85, 85, 85),
        (220, 60, 60),
        (60, 180, 60),
        (200, 170, 40),
        (80, 80, 220),
        (200, 80, 200),
        (60, 180, 180),
        (255, 255, 255),
    ];
    match number {
        0..=15 => BASIC[usize::from(number)],
        16..=231 => {
            let at = number - 16;
            let level = |step: u8| if step == 0 { 0 } else { 55 + 40 * step };
            (level(at / 36), level(at / 6 % 6), level(at % 6))
        }
        232..=255 => {
            let grey = 8 + 10 * (number - 232);
            (grey, grey, grey)
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(16, (0, 0, 0))]
    #[case(231, (255, 255, 255))]
    #[case(196, (255, 0, 0))]
    #[case(232, (8, 8, 8))]
    #[case(255, (238, 238, 238))]
    fn numbers_are_colours_of_the_cube(#[case] number: u8, #[case] wanted: (u8, u8, u8)) {
        assert_eq!(indexed(number), wanted);
    }

    #[rstest]
    #[case("⣿", 8)]
    #[case("⠁", 1)]
    #[case("⠀", 0)]
    fn braille_is_drawn_dot_by_dot(#[case] symbol: &str, #[case] dots: usize) {
        let cell = GridCell { symbol: symbol.into(), ..GridCell::default() };
        let svg = crate::to_svg(&draw_grid("t", 1, &[cell]));
        assert_eq!(svg.matches("<circle").count(), dots);
    }

    #[rstest]
    fn text_is_escaped_and_becomes_a_page() {
        let cells: Vec<GridCell> = "a<b&\"█─│▒"
            .chars()
            .map(|c| GridCell { symbol: c.to_string(), ..GridCell::default() })
            .collect();
        let drawing = draw_grid("t", 3, &cells);
        let svg = crate::to_svg(&drawing);
        assert!(svg.contains("&lt;") && svg.contains("&amp;"));
        assert!(crate::to_pdf(&drawing).unwrap().starts_with(b"%PDF"));
    }
}
