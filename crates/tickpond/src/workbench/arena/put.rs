//! Signs on the ground that is there already.

use ratatui::buffer::Buffer as Cells;
use ratatui::style::{Color, Style};
use unicode_width::UnicodeWidthChar;

/// Puts a text on the screen, on the ground that is there already if it has none of its own.
pub fn put(cells: &mut Cells, (mut x, y): (u16, u16), text: &str, style: Style) {
    for sign in text.chars() {
        let Some(cell) = cells.cell((x, y)) else { return };
        let ground = style.bg.filter(|ground| *ground != Color::Reset).unwrap_or(cell.bg);
        cells.set_string(x, y, sign.encode_utf8(&mut [0; 4]), style.bg(ground));
        x += sign.width().unwrap_or(1) as u16;
    }
}
