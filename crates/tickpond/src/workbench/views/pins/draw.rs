//! The list of pins: name, value, least and most, and the line over the stretch.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;

use crate::workbench::app::App;
use crate::workbench::keys::Place;
use crate::workbench::palette::{Palette, Role};
use crate::workbench::pins::PinAt;

/// Columns left of the line: name, value, least and most.
pub const COLUMNS: usize = 26 + 12 + 22;
/// Dots of braille from the top, left and right.
const DOTS: [[u32; 2]; 4] = [[0x01, 0x08], [0x02, 0x10], [0x04, 0x20], [0x40, 0x80]];

/// The first row shown.
pub fn top(app: &App, height: usize) -> usize {
    (app.drawer.pin_at + 2).saturating_sub(height.max(2))
}

/// Draws the list: a head line, then a line for each.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    if area.height == 0 {
        return;
    }
    let faint = palette.style(Role::Faint);
    if app.snapshot.pins.is_empty() {
        let words = [
            "nothing is pinned: P pins a value, and it stays here with its line over time",
            "a field of one (frog#1.health), a watch by its name, or any expression (count(midge) / 2)",
        ];
        for (row, words) in words.iter().enumerate().take(usize::from(area.height)) {
            cells.set_stringn(area.x, area.y + row as u16, words, width, faint);
        }
        return;
    }
    let (from, to) = span(app);
    let line = format!("{from:.1} to {to:.1} s: from the least to the most of each column");
    let head = format!("{:<26}{:>11} {:<22}{line}", "value", "now", "least … most");
    cells.set_stringn(area.x, area.y, head, width, faint);
    let top = top(app, usize::from(area.height));
    let shown = app.snapshot.pins.iter().enumerate().skip(top).take(usize::from(area.height) - 1);
    for (at, pin) in shown {
        let y = area.y + 1 + (at - top) as u16;
        let chosen = at == app.drawer.pin_at && app.bands.place == Place::Drawer;
        row(pin, chosen, Rect { y, height: 1, ..area }, cells, palette);
    }
}

/// The seconds the lines go over.
fn span(app: &App) -> (f64, f64) {
    let rate = app.snapshot.cast.as_ref().map_or(60.0, |cast| cast.rate);
    let (from, to) =
        super::super::lifelines::span_of(rate, app.snapshot.travel.tick, &app.present_wish());
    (from as f64 / rate, to as f64 / rate)
}

fn row(pin: &PinAt, chosen: bool, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    let name = crate::workbench::fitted::fitted(&pin.typed, 25);
    let style = palette.style(if chosen { Role::Chosen } else { Role::Plain });
    cells.set_stringn(area.x, area.y, format!("{name:<26}"), width, style);
    let x = area.x + 26.min(area.width);
    let room = usize::from(area.right().saturating_sub(x));
    if let Some(trouble) = &pin.trouble {
        cells.set_stringn(x, area.y, format!(" {trouble}"), room, palette.style(Role::Trouble));
        return;
    }
    let now = match &pin.now {
        Some(now) => (format!("{now:>11}"), Role::Strong),
        None => (format!("{:>11}", "not there"), Role::Faint),
    };
    cells.set_stringn(x, area.y, now.0, room, palette.style(now.1));
    let range = pin.range.as_ref().map_or(String::new(), |(low, high)| format!("{low} … {high}"));
    let range = crate::workbench::fitted::fitted(&range, 21);
    let x = x + 12;
    if x < area.right() {
        let room = usize::from(area.right() - x);
        cells.set_stringn(x, area.y, range, room, palette.style(Role::Faint));
    }
    let x = area.x + COLUMNS as u16;
    for (column, pair) in pin.columns.chunks(2).enumerate() {
        let at = x + column as u16;
        if at >= area.right() {
            return;
        }
        let mut dots = 0;
        for (side, part) in pair.iter().enumerate() {
            let Some((low, high)) = part else { continue };
            // Four dots above each other, the uppermost first.
            let row = |share: f64| 3 - (share * 3.0).round() as usize;
            for dot in &DOTS[row(*high)..=row(*low)] {
                dots |= dot[side];
            }
        }
        if let Some(sign) = char::from_u32(0x2800 + dots).filter(|_| dots > 0) {
            cells.set_string(at, area.y, sign.to_string(), palette.style(Role::Word));
        }
    }
}
