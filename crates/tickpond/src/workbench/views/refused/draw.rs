//! A line for each refusal: in which phase, what, whose, why, and the line that asked.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_sim::What;

use super::answer::Refused;
use crate::workbench::app::App;
use crate::workbench::fitted::fitted;
use crate::workbench::keys::Place;
use crate::workbench::palette::{Palette, Role};
use crate::workbench::snapshot::FeedLine;
use crate::workbench::views::feed::role_of;

/// The first row shown.
pub fn top(app: &App, height: usize) -> usize {
    (app.drawer.top + 1).saturating_sub(height.max(1))
}

/// Why such a thing comes to nothing, where its own words do not end with a reason.
fn why(row: &FeedLine) -> &'static str {
    match row.what {
        What::Unheard if row.words.ends_with('"') => "",
        What::Unheard => "it has no handler for that, or is at rest",
        What::Stale => "whom it asked something of is gone",
        What::NoPlace => "no place met its conditions",
        What::Refused => "a limit or a rule of the pond forbids it",
        What::Outvoted => "another cause ended it first",
        What::Missed => "it still waited, and could not begin again",
        What::Crowded => "it still lies over its maker",
        _ => "",
    }
}

/// Draws the list, or says where the nearest refusals are.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    let none = Refused::default();
    let refused = app.snapshot.answer.own::<Refused>().unwrap_or(&none);
    let rate = app.snapshot.cast.as_ref().map_or(60.0, |program| program.rate);
    if refused.rows.is_empty() {
        let faint = palette.style(Role::Faint);
        for (row, words) in empty(refused, rate).iter().enumerate().take(usize::from(area.height)) {
            cells.set_stringn(area.x, area.y + row as u16, words, width, faint);
        }
        return;
    }
    let height = usize::from(area.height);
    let top = top(app, height);
    let shown = refused.rows.iter().enumerate().skip(top).take(height);
    for (at, row) in shown {
        let y = area.y + (at - top) as u16;
        let line = row.line.map(|line| format!("line {line}")).unwrap_or_default();
        let why = why(row);
        let colon = if why.is_empty() { "" } else { ": " };
        let (phase, what) = (row.phase.name(), row.what.name());
        let text = format!("{phase:<8} {what:<9} {}{colon}{why}", row.words);
        let room = width.saturating_sub(line.len() + 1);
        let text = fitted(&text, room);
        let chosen = at == app.drawer.top && app.bands.place == Place::Drawer;
        let style = palette.style(if chosen { Role::Chosen } else { role_of(row.what) });
        cells.set_stringn(area.x, y, format!("{text:<room$} {line}"), width, style);
    }
    let last = refused.rows.len() - top;
    if refused.more > 0 && last < height {
        let words = format!("and {} more in this tick", refused.more);
        let faint = palette.style(Role::Faint);
        cells.set_stringn(area.x, area.y + last as u16, words, width, faint);
    }
}

/// What an empty list says.
fn empty(refused: &Refused, rate: f64) -> Vec<String> {
    let seconds = |tick: u64| tick as f64 / rate;
    let mut words = vec!["nothing that was asked for in this tick was refused".to_string()];
    words.extend(refused.before.map(|tick| format!("←  the last before: {:.2} s", seconds(tick))));
    words.extend(refused.after.map(|tick| format!("→  the next: {:.2} s", seconds(tick))));
    if refused.before.is_none() && refused.after.is_none() {
        words.push(
            "messages nobody hears, births without a place, requests to the dead and what a".into(),
        );
        words.push(
            "guard refuses stand here, each with its line: nothing of that is on record".into(),
        );
    }
    words
}
