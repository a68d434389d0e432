//! One tick taken apart: phase by phase, handler by handler, and what came of it.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;

use super::answer::{AnatomyLine, lines};
use crate::workbench::app::App;
use crate::workbench::fitted::fitted;
use crate::workbench::keys::Place;
use crate::workbench::palette::{Palette, Role};
use crate::workbench::views::feed::role_of;

/// The first line shown.
pub fn top(app: &App, height: usize) -> usize {
    (app.drawer.top + 1).saturating_sub(height.max(1))
}

/// Draws the lines.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    let lines = lines(&app.snapshot.answer);
    if lines.is_empty() {
        let words = if app.is_playing() {
            "pause (Space), and the tick is taken apart here"
        } else if app.snapshot.travel.tick == 0 {
            "in the opening tick what is placed is born; one tick on (.) there are handlers to show"
        } else {
            "nothing ran and nothing happened in this tick"
        };
        cells.set_stringn(area.x, area.y, words, width, palette.style(Role::Faint));
        return;
    }
    let top = top(app, usize::from(area.height));
    for (at, line) in lines.iter().enumerate().skip(top).take(usize::from(area.height)) {
        let y = area.y + (at - top) as u16;
        let (text, tail, role) = told(line);
        let room = width.saturating_sub(tail.len() + 1);
        let text = fitted(&text, room);
        let chosen = at == app.drawer.top && app.bands.place == Place::Drawer;
        let style = palette.style(if chosen { Role::Chosen } else { role });
        cells.set_stringn(area.x, y, format!("{text:<room$} {tail}"), width, style);
    }
}

fn told(line: &AnatomyLine) -> (String, String, Role) {
    match line {
        AnatomyLine::Phase(phase, words) => {
            (format!("{:<8} {words}", phase.name()), String::new(), Role::Strong)
        }
        AnatomyLine::Handler { head, who, reads, asks, line } => {
            let reads = if reads.is_empty() { String::new() } else { format!("  reads {reads}") };
            let asks = if asks.is_empty() {
                "  asks for nothing".into()
            } else {
                format!("  asks for {asks}")
            };
            (
                format!("  {head}  for {who}{asks}{reads}"),
                line.map(|line| format!("line {line}")).unwrap_or_default(),
                Role::Plain,
            )
        }
        AnatomyLine::Outcome(event) => {
            let line = event.line.map(|l| format!("line {l}")).unwrap_or_default();
            (format!("    {} {}", event.what.name(), event.words), line, role_of(event.what))
        }
        AnatomyLine::More(count) => {
            (format!("    … and {count} more alike"), String::new(), Role::Faint)
        }
    }
}
