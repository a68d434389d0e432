//! The roster: who is alive, and the story of the selected one.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_lab::Cast;
use tickpond_sim::{What, Who};

use super::answer::Rows;
use crate::workbench::app::App;
use crate::workbench::fitted::fitted;
use crate::workbench::overlay::wrap;
use crate::workbench::palette::{Palette, Role};
use crate::workbench::snapshot::{Seen, Snapshot, Story};

/// Narrower lists leave out speed and maker.
const WIDE: usize = 66;

/// The rows in their order; before anything was asked, all who live.
pub fn rows(snapshot: &Snapshot) -> impl Iterator<Item = &Seen> {
    let answer = &snapshot.answer;
    let listed = answer.own::<Rows>().map_or(&[][..], |rows| &rows.0);
    let all = if answer.wish.is_none() { &snapshot.scene.entities[..] } else { &[] };
    all.iter().chain(listed.iter().filter_map(|at| snapshot.scene.entities.get(*at)))
}

/// The first row shown, so that the selected one is in sight.
pub fn top(app: &App, height: usize) -> usize {
    let shown = height.saturating_sub(1).max(1);
    let chosen = rows(&app.snapshot).position(|s| app.is_focus(s.who));
    match chosen {
        Some(at) if at >= shown => at + 1 - shown,
        _ => 0,
    }
}

/// Draws the list: a head line, then a line for each entity.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let Some(cast) = &app.snapshot.cast else { return };
    if area.height == 0 {
        return;
    }
    let width = usize::from(area.width);
    let head = if width < WIDE {
        format!("{:<13} {:>6} {:>8}  {}", "name", "health", "age (s)", "place (u)")
    } else {
        format!(
            "{:<16} {:>7} {:>9}  {:<15} {:>10}  {}",
            "name", "health", "age", "place (u)", "speed", "maker"
        )
    };
    cells.set_stringn(area.x, area.y, &head, width, palette.style(Role::Faint));
    underline_sorted(app, &head, area, cells, palette);
    if app.snapshot.scene.entities.is_empty() {
        let words = "nobody is alive: `place` something, or play on until a spawner makes it";
        cells.set_stringn(
            area.x,
            area.y + 1.min(area.height - 1),
            words,
            width,
            palette.style(Role::Faint),
        );
        return;
    }
    if rows(&app.snapshot).next().is_none() {
        let words = format!("nobody fits \"{}\"; / then Esc shows all", app.drawer.filter);
        let y = area.y + 1.min(area.height - 1);
        cells.set_stringn(area.x, y, words, width, palette.style(Role::Faint));
        return;
    }
    let top = top(app, usize::from(area.height));
    let shown = usize::from(area.height) - 1;
    for (row, seen) in rows(&app.snapshot).skip(top).take(shown).enumerate() {
        let chosen = app.is_focus(seen.who);
        let style = if chosen { palette.style(Role::Chosen) } else { palette.style(Role::Plain) };
        let y = area.y + 1 + row as u16;
        let text = if width < WIDE { short_line(seen, cast) } else { line(seen, cast) };
        cells.set_stringn(area.x, y, format!("{text:width$}"), width, style);
        if !chosen {
            let kind = &cast.kinds[seen.who.kind.index()];
            let colour = palette.kind(kind.look.colour.as_deref(), seen.who.kind.index());
            let room = if width < WIDE { 13 } else { 16 };
            cells.set_stringn(area.x, y, name(cast, seen.who), room, colour);
        }
    }
}

/// Marks the column the rows are sorted by, with the way they go.
fn underline_sorted(app: &App, head: &str, area: Rect, cells: &mut Cells, palette: &Palette) {
    let column = app.drawer.sort.name();
    let Some(at) = head.find(column) else { return };
    let way = if app.drawer.reversed { "▾" } else { "▴" };
    let (x, width) = (area.x + at as u16, usize::from(area.width).saturating_sub(at));
    cells.set_stringn(x, area.y, format!("{column}{way}"), width, palette.style(Role::Key));
}

fn name(cast: &Cast, who: Who) -> String {
    cast.name_of(who)
}

fn line(seen: &Seen, cast: &Cast) -> String {
    let health = seen.health.map_or("-".to_string(), |h| format!("{h:.1}"));
    let place = format!("{:>6.1}, {:>6.1}", seen.at.0, seen.at.1);
    let maker = seen.maker.map_or("gone".to_string(), |m| name(cast, m));
    format!(
        "{:<16} {health:>7} {:>7.2} s  {place:<15} {:>6.1} u/s  {maker}",
        name(cast, seen.who),
        seen.age,
        seen.speed
    )
}

fn short_line(seen: &Seen, cast: &Cast) -> String {
    let health = seen.health.map_or("-".to_string(), |h| format!("{h:.1}"));
    let name = name(cast, seen.who);
    format!("{name:<13} {health:>6} {:>8.2}  {:>6.1}, {:>6.1}", seen.age, seen.at.0, seen.at.1)
}

/// Draws the story of the selected entity: values left, history right of them or beneath.
pub fn draw_story(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    if area.width < 10 || area.height == 0 {
        return;
    }
    for y in area.y..area.bottom() {
        cells.set_string(area.x - 1, y, "│", palette.style(Role::Frame));
    }
    let area = Rect { x: area.x + 1, width: area.width - 1, ..area };
    let width = usize::from(area.width);
    if let Some(one) = &app.focus
        && app.story().is_none()
    {
        // It is on its way; or there is no such kind in the text any more.
        let known = app.snapshot.selected.focus != app.focus;
        let words = if known { "" } else { ": no kind of this name in the text" };
        let words = format!("{}{words}", one.name());
        cells.set_stringn(area.x, area.y, words, width, palette.style(Role::Title));
        return;
    }
    let Some(story) = app.story() else {
        let lines = [
            "no one is selected",
            "choose with the arrows, or click in the arena:",
            "its values, its history and its lines stand here",
        ];
        let rows = lines.iter().flat_map(|words| wrap(words, width.saturating_sub(1)));
        for (row, words) in rows.enumerate().take(usize::from(area.height)) {
            cells.set_stringn(
                area.x,
                area.y + row as u16,
                words,
                width,
                palette.style(Role::Faint),
            );
        }
        return;
    };
    head(story, area, cells, palette);
    let body = Rect { y: area.y + 1, height: area.height - 1, ..area };
    if body.width < 50 {
        // Too narrow for two columns: history beneath the values.
        draw_values(story, body, cells, palette);
        let used = (story.values.len().max(1) as u16 + 1).min(body.height);
        let history = Rect { y: body.y + used, height: body.height - used, ..body };
        draw_history(app, story, history, cells, palette);
        return;
    }
    let values = values_width(story, body.width);
    draw_values(story, Rect { width: values, ..body }, cells, palette);
    let history = Rect { x: body.x + values, width: body.width - values, ..body };
    draw_history(app, story, history, cells, palette);
}

fn head(story: &Story, area: Rect, cells: &mut Cells, palette: &Palette) {
    let born = story.born_line.map(|l| format!("  made by line {l} (b)")).unwrap_or_default();
    let ended = match (story.alive, story.end_line) {
        (true, _) => String::new(),
        (false, Some(line)) => format!("  ended by line {line} (e)"),
        (false, None) => "  not alive at this tick".into(),
    };
    let text = format!("{}{born}{ended}", story.name);
    let text = fitted(&text, usize::from(area.width));
    cells.set_stringn(area.x, area.y, text, usize::from(area.width), palette.style(Role::Title));
}

fn draw_values(story: &Story, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    if story.values.is_empty() {
        let words = if story.born_tick.is_some() { "gone" } else { "not born so far" };
        cells.set_stringn(area.x, area.y, words, width, palette.style(Role::Faint));
    }
    let names = names_width(story);
    let rows = usize::from(area.height);
    for (row, (name, value)) in story.values.iter().enumerate().take(rows) {
        let y = area.y + row as u16;
        let more = story.values.len() - row;
        if row + 1 == rows && more > 1 {
            let words = fitted(&format!("… {more} more values"), width);
            cells.set_stringn(area.x, y, words, width, palette.style(Role::Faint));
            return;
        }
        cells.set_string(area.x, y, fitted(name, names - 1), palette.style(Role::Faint));
        let room = width.saturating_sub(names + 1);
        let value = fitted(value, room);
        cells.set_stringn(area.x + names as u16, y, value, room, palette.style(Role::Plain));
    }
}

/// Columns of the names of values, the gap behind them among them.
fn names_width(story: &Story) -> usize {
    let longest = story.values.iter().map(|(name, _)| name.chars().count()).max();
    (longest.unwrap_or(0) + 1).clamp(9, 16)
}

/// Columns of names and values: as many as they need, from two fifths to three of what there is.
fn values_width(story: &Story, width: u16) -> u16 {
    let longest = story.values.iter().map(|(_, value)| value.chars().count()).max();
    let wanted = (names_width(story) + longest.unwrap_or(0) + 2) as u16;
    wanted.clamp(width * 2 / 5, width * 3 / 5)
}

/// The newest of its events, the last at the bottom.
fn draw_history(app: &App, story: &Story, area: Rect, cells: &mut Cells, palette: &Palette) {
    let rows = usize::from(area.height);
    let rate = app.snapshot.cast.as_ref().map_or(60.0, |p| p.rate);
    let from = story.events.len().saturating_sub(rows);
    for (row, event) in story.events[from..].iter().enumerate() {
        let role = match event.what {
            What::Born => Role::Birth,
            What::Ended => Role::End,
            What::Hurt | What::Unheard | What::Stale => Role::Caution,
            _ => Role::Plain,
        };
        let line = event.line.map(|l| format!(" :{l}")).unwrap_or_default();
        let words = event.words.strip_prefix(&story.name).unwrap_or(&event.words);
        let text = format!("{:>7.2} s {}{words}", event.tick as f64 / rate, event.what.name());
        // Which line it was is what people look for.
        let text = fitted(&text, usize::from(area.width).saturating_sub(line.len())) + &line;
        cells.set_stringn(
            area.x,
            area.y + row as u16,
            text,
            usize::from(area.width),
            palette.style(role),
        );
    }
}
