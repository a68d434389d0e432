//! What stopped the run, what must hold, what the checker found, and where the play pauses.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_lab::Outcome;
use tickpond_lang::Severity;

use super::update::CheckRow;
use crate::workbench::app::App;
use crate::workbench::palette::{Palette, Role};

/// The first row shown.
pub fn top(app: &App, height: usize) -> usize {
    (app.drawer.check_at + 1).saturating_sub(height.max(1))
}

/// Draws the list.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    let rows = app.check_list();
    if rows.is_empty() {
        let words = [
            "nothing is expected here, and the checker has nothing to say",
            "a line `expect \"few drops\": always count(drop) <= 40` is ticked off here while it plays",
            "c pauses the play when a condition becomes true",
        ];
        for (row, words) in words.iter().enumerate().take(usize::from(area.height)) {
            let y = area.y + row as u16;
            cells.set_stringn(area.x, y, words, width, palette.style(Role::Faint));
        }
        return;
    }
    let top = top(app, usize::from(area.height));
    for (at, row) in rows.iter().enumerate().skip(top).take(usize::from(area.height)) {
        let y = area.y + (at - top) as u16;
        let (mark, words, tail, role) = told(app, row);
        let room = width.saturating_sub(tail.chars().count() + 12);
        let words = crate::workbench::fitted::fitted(&words, room);
        let text = format!("{mark:<10} {words:<room$} {tail}");
        let chosen =
            at == app.drawer.check_at && app.bands.place == crate::workbench::keys::Place::Drawer;
        let style = palette.style(if chosen { Role::Chosen } else { role });
        cells.set_stringn(area.x, y, format!("{text:<width$}"), width, style);
    }
}

fn told(app: &App, row: &CheckRow) -> (&'static str, String, String, Role) {
    let rate = app.snapshot.cast.as_ref().map_or(60.0, |p| p.rate);
    let at = |tick: u64| format!("{:.2} s, tick {tick}", tick as f64 / rate);
    match row {
        CheckRow::Guard => {
            let stopped = app.snapshot.stopped.as_ref();
            let words = stopped.map(|stopped| stopped.told()).unwrap_or_default();
            let tail = stopped.map(|stopped| at(stopped.tick)).unwrap_or_default();
            ("! stopped", words, tail, Role::Trouble)
        }
        CheckRow::Expect(index) => {
            let check = &app.snapshot.checks[*index];
            let (mark, role) = match check.outcome {
                Outcome::Held => ("✓ holds", Role::Fine),
                Outcome::Failed => ("✗ failed", Role::Trouble),
                _ => ("· open", Role::Faint),
            };
            let failed = check.failed.map(|t| format!("first at {}  ", at(t))).unwrap_or_default();
            let saw = check.saw.iter().map(|saw| format!(": {saw}"));
            (
                mark,
                std::iter::once(check.words.clone()).chain(saw).collect(),
                format!(
                    "{failed}{}",
                    check.line.map_or(String::new(), |line| format!("line {line}"))
                ),
                role,
            )
        }
        CheckRow::Remark(index) => {
            let remark = &app.script.remarks[*index];
            let (mark, role) = match remark.severity {
                Severity::Error => ("error", Role::Trouble),
                Severity::Finding => ("finding", Role::Caution),
                Severity::Hint => ("hint", Role::Faint),
            };
            let mend = if remark.mend.is_some() { "a mends  " } else { "" };
            let help = remark.help.as_ref().map(|h| format!("; {h}")).unwrap_or_default();
            let words = format!("{}{help}", remark.words);
            (mark, words, format!("{mend}line {}", remark.line + 1), role)
        }
        CheckRow::Stop(index) => {
            let stop = &app.snapshot.stops[*index];
            let (mark, role) = match (stop.on, &stop.trouble) {
                (_, Some(_)) => ("! pause", Role::Trouble),
                (true, None) => ("‖ pause", Role::Key),
                (false, None) => ("  off", Role::Faint),
            };
            let trouble = stop.trouble.as_ref().map(|t| format!(": {t}")).unwrap_or_default();
            let met = stop.met.map(|t| format!("last at {}  ", at(t))).unwrap_or_default();
            let words = format!("when {}{trouble}", stop.typed);
            (mark, words, format!("{met}Enter switches"), role)
        }
    }
}
