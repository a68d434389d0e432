//! The numbers that can be turned, each with its range as a bar.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;

use tickpond_lab::Outcome;

use crate::workbench::app::App;
use crate::workbench::fitted::fitted;
use crate::workbench::keys::Place;
use crate::workbench::palette::{Palette, Role};
use crate::workbench::snapshot::CheckLine;
use tickpond_ide::tunables::Tunable;

/// Columns of the bar.
const BAR: usize = 20;

/// The first row shown.
pub fn top(app: &App, height: usize) -> usize {
    (app.drawer.knob_at + 2).saturating_sub(height.max(2))
}

/// Columns of the numbers, where the checks stand beside them.
const NUMBERS: u16 = 104;

/// The numbers, and the checks they move: beside them where there is room, else below.
fn parts(app: &App, area: Rect) -> (Rect, Rect) {
    if app.snapshot.checks.is_empty() {
        return (area, Rect { height: 0, ..area });
    }
    if area.width >= NUMBERS + 30 {
        let numbers = Rect { width: NUMBERS, ..area };
        return (numbers, Rect { x: numbers.right() + 1, width: area.width - NUMBERS - 1, ..area });
    }
    let needed = app.known.tunables.len() as u16 + 1;
    let room = area.height.saturating_sub(needed).min(app.snapshot.checks.len() as u16 + 1);
    // Fewer than two rows could name no check.
    let room = if room < 2 { 0 } else { room };
    let numbers = Rect { height: area.height - room, ..area };
    (numbers, Rect { y: numbers.bottom(), height: room, ..area })
}

/// How the expectations stand, while numbers are turned.
fn checks(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    let count = app.snapshot.checks.len();
    let rows = usize::from(area.height).saturating_sub(1);
    let more = count.saturating_sub(rows);
    let head = match more {
        0 => "what must hold (5)".to_string(),
        _ => format!("what must hold: {rows} of {count} (5)"),
    };
    if area.height > 0 {
        cells.set_stringn(area.x, area.y, head, width, palette.style(Role::Faint));
    }
    // What failed comes first: it is what one turns for.
    let mut shown: Vec<&CheckLine> = app.snapshot.checks.iter().collect();
    shown.sort_by_key(|check| check.outcome != Outcome::Failed);
    for (row, check) in shown.into_iter().enumerate().take(rows) {
        let (mark, role) = match check.outcome {
            Outcome::Held => ("✓", Role::Fine),
            Outcome::Failed => ("✗", Role::Trouble),
            _ => ("·", Role::Faint),
        };
        let saw = check.saw.as_ref().map_or(String::new(), |saw| format!(": {saw}"));
        let words = fitted(&format!("{mark} {}{saw}", check.words), width);
        cells.set_stringn(area.x, area.y + 1 + row as u16, words, width, palette.style(role));
    }
}

/// Draws the list: a head line, then a line for each; and how the checks stand.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let (area, beside) = parts(app, area);
    checks(app, beside, cells, palette);
    let width = usize::from(area.width);
    if area.height == 0 {
        return;
    }
    if app.known.tunables.is_empty() {
        let words = "no number to turn: `knob drift = 6 u/s in 1..20 \"how fast\"` puts one here";
        cells.set_stringn(area.x, area.y, words, width, palette.style(Role::Faint));
        return;
    }
    let head =
        format!("{:<26} {:>10} {:<6} {:<26} {}", "number", "value", "", "range", "what it is for");
    cells.set_stringn(area.x, area.y, head, width, palette.style(Role::Faint));
    let top = top(app, usize::from(area.height));
    let shown = app.known.tunables.iter().enumerate().skip(top).take(usize::from(area.height) - 1);
    for (at, tunable) in shown {
        let y = area.y + 1 + (at - top) as u16;
        let chosen = at == app.drawer.knob_at && app.bands.place == Place::Drawer;
        let style = palette.style(if chosen { Role::Chosen } else { Role::Plain });
        cells.set_stringn(area.x, y, format!("{:<width$}", line(tunable)), width, style);
    }
}

fn line(tunable: &Tunable) -> String {
    let name = match tunable.of.as_str() {
        "" => tunable.name.clone(),
        of => format!("{} of {of}", tunable.name),
    };
    let name = fitted(&name, 26);
    let about = match tunable.of.as_str() {
        "" => tunable.help.clone(),
        _ => format!("line {}", tunable.line),
    };
    format!("{name:<26} {:>10} {:<6} {:<26} {about}", tunable.value, tunable.unit, range(tunable))
}

/// The range with a mark where the value is, or the step where there is no range.
fn range(tunable: &Tunable) -> String {
    let Some((low, high)) = tunable.range else {
        return format!("step {}", tunable.step());
    };
    let (low_text, high_text) = (format!("{low}"), format!("{high}"));
    let bar = BAR.saturating_sub(low_text.len() + high_text.len()).max(4);
    let share = if high > low { (tunable.value - low) / (high - low) } else { 0.0 };
    let at = (share.clamp(0.0, 1.0) * (bar - 1) as f64).round() as usize;
    let bar: String = (0..bar).map(|column| if column == at { '◆' } else { '─' }).collect();
    format!("{low_text} {bar} {high_text}")
}
