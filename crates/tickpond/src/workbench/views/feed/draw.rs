//! The feed: what happened, newest at the bottom.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_sim::What;

use crate::workbench::app::App;
use crate::workbench::fitted::fitted;
use crate::workbench::palette::{Palette, Role};

/// Fewest columns in which the phases of events are told.
const PHASES: usize = 64;

/// The first line shown.
pub fn top(app: &App, height: usize) -> usize {
    let count = app.snapshot.feed.len();
    let newest = count.saturating_sub(height);
    match app.feed_choice() {
        Some(at) if at < newest => at.saturating_sub(height / 2),
        _ => newest,
    }
}

/// Draws the list: time, phase, event, words, line.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    if area.height == 0 {
        return;
    }
    if app.snapshot.feed.is_empty() {
        let words = match app.drawer.feed_filter.as_str() {
            "" => "nothing has happened yet: press Space to play".to_string(),
            filter => format!("nothing fits \"{filter}\" so far; / then Esc shows all"),
        };
        cells.set_stringn(area.x, area.y, words, width, palette.style(Role::Faint));
        return;
    }
    let rate = app.snapshot.cast.as_ref().map_or(60.0, |p| p.rate);
    let top = top(app, usize::from(area.height));
    let shown = app.snapshot.feed.iter().enumerate().skip(top).take(usize::from(area.height));
    for (at, event) in shown {
        let y = area.y + (at - top) as u16;
        let line = event.line.map(|l| format!("line {l}")).unwrap_or_default();
        // Where there is little room it is for who and why.
        let phase = if width < PHASES { "" } else { event.phase.name() };
        let gap = if width < PHASES { 0 } else { 8 };
        let left = format!(
            "{:>8.2} s {phase:<gap$}{:<9}{}",
            event.tick as f64 / rate,
            event.what.name(),
            event.words
        );
        let room = width.saturating_sub(line.len() + 1);
        let chosen = app.feed_choice() == Some(at);
        let style = palette.style(if chosen { Role::Chosen } else { role_of(event.what) });
        let left = fitted(&left, room);
        cells.set_stringn(area.x, y, format!("{left:<room$} {line}"), width, style);
    }
}

pub fn role_of(what: What) -> Role {
    match what {
        What::Born | What::Wave => Role::Birth,
        What::Ended => Role::End,
        What::Hurt | What::Damaged | What::Healed | What::Said | What::Downed => Role::Plain,
        // What went nowhere stands out: it is what people look for when nothing happens.
        What::Unheard | What::Stale | What::Missed | What::Refused => Role::Caution,
        What::NoPlace | What::Crowded => Role::Caution,
        What::Outvoted | What::Touched | What::Sent | What::Heard => Role::Faint,
        What::Parted | What::Became | What::Attached => Role::Faint,
        What::Activated | What::Deactivated => Role::Faint,
    }
}
