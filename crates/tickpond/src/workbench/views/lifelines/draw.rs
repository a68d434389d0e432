//! Lives side by side: a lane for each, with what befell it and how it ended.

use std::collections::BTreeSet;

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use tickpond_lab::lifelines::Lane;
use tickpond_sim::What;

use super::answer::{Lives, lanes};
use crate::workbench::app::App;
use crate::workbench::arena::draw::end_glyph;
use crate::workbench::palette::{Palette, Role};
use crate::workbench::stretch::Stretch;

/// Columns of the names.
const NAMES: u16 = 15;

/// How many ticks a column stands for, at least one.
pub fn ticks_per_column((from, to): Stretch, area: Rect) -> i64 {
    ((to - from) as i64 / i64::from(area.width.saturating_sub(NAMES + 1).max(1))).max(1)
}

/// The column of a tick.
fn column_of(tick: u64, (from, to): Stretch, area: Rect) -> u16 {
    let (x, width) = (area.x + NAMES, area.width - NAMES);
    let at = tick.saturating_sub(from) as f64 / (to - from).max(1) as f64 * f64::from(width - 1);
    x + (at.round() as u16).min(width - 1)
}

/// The tick of a column; none left of the lanes, or where nothing has been played yet.
pub fn tick_at(app: &App, area: Rect, x: u16) -> Option<u64> {
    let (from, to) = app.snapshot.answer.own::<Lives>()?.span;
    if area.width <= NAMES + 8 || x < area.x + NAMES || x >= area.right() {
        return None;
    }
    let share = f64::from(x - area.x - NAMES) / f64::from(area.width - NAMES - 1);
    let tick = from + (share * (to - from) as f64).round() as u64;
    Some(tick.min(app.snapshot.travel.head))
}

/// How many lanes there is room for: the first row names, the last tells what is under the cursor.
fn rows(height: usize) -> usize {
    height.saturating_sub(2).max(1)
}

/// The first lane shown: the selected one is in sight, else the youngest are.
pub fn top(app: &App, height: usize) -> usize {
    let rows = rows(height);
    let lanes = lanes(&app.snapshot.answer);
    let last = lanes.len().saturating_sub(rows);
    match lanes.iter().position(|lane| app.is_focus(lane.who)) {
        Some(at) if at < last => at.saturating_sub(rows / 2).min(last),
        _ => last,
    }
}

/// The mark of an event on a lane.
fn mark(what: What) -> Option<(&'static str, Role)> {
    Some(match what {
        What::Hurt => ("x", Role::End),
        What::Healed => ("h", Role::Birth),
        What::Heard => ("m", Role::Key),
        What::Sent => ("s", Role::Key),
        What::Unheard | What::Stale => ("?", Role::Caution),
        What::Said => ("\"", Role::Plain),
        What::Wave => ("w", Role::Birth),
        What::Activated => ("a", Role::Plain),
        What::Deactivated => ("z", Role::Plain),
        What::Downed => ("d", Role::Trouble),
        What::Refused | What::NoPlace | What::Crowded | What::Missed => ("!", Role::Caution),
        _ => return None,
    })
}

/// The names of the states that are drawn, each once, in the order of the alphabet.
fn states_of(lanes: &[Lane]) -> Vec<&str> {
    let names = lanes.iter().flat_map(|lane| &lane.states).map(|(_, name)| name.as_str());
    names.collect::<BTreeSet<&str>>().into_iter().collect()
}

fn state_style(app: &App, state: &str, palette: &Palette) -> Style {
    let place = app.snapshot.cast.as_ref().map_or(0, |cast| cast.state_place(state));
    if !palette.is_coloured() {
        return Style::default();
    }
    Style::default().fg(palette.paint(palette.place_rgb(place)))
}

/// Names the states in their colours, over the lanes' beginning.
fn name_states(app: &App, states: &[&str], row: Rect, cells: &mut Cells, palette: &Palette) {
    let mut x = row.x;
    for state in states {
        let room = usize::from(row.right().saturating_sub(x));
        if room < state.len() + 12 {
            return;
        }
        let style = state_style(app, state, palette);
        x = cells.set_stringn(x, row.y, format!("━ {state}  "), room, style).0;
    }
}

/// Draws the lanes, the eldest first, over the ticks before the present one.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    if area.height < 2 || area.width <= NAMES + 8 {
        return;
    }
    if area.height < 3 {
        return;
    }
    let none = Lives::default();
    let answer = app.snapshot.answer.own::<Lives>().unwrap_or(&none);
    let rate = app.snapshot.cast.as_ref().map_or(60.0, |p| p.rate);
    let (from, to) = answer.span;
    let seconds = |tick: u64| tick as f64 / rate;
    let shown = answer.lanes.len().min(rows(usize::from(area.height)));
    let lanes = match answer.all.saturating_sub(shown) {
        0 => format!("{} lanes", answer.all),
        _ => format!("{shown} of {} lanes", answer.all),
    };
    let marks = "x hurt  m heard  s sent  ? unheard  last: its cause";
    let legend = format!("{marks}  {lanes}");
    let states = states_of(&answer.lanes);
    let left = format!("{:<15}{:.1} s  ", "name", seconds(from));
    let right = format!("{:.1} s", seconds(to));
    let room = width.saturating_sub(left.len() + right.len() + 2);
    let named: usize = states.iter().map(|state| state.chars().count() + 4).sum();
    let legend = if legend.len() + named < room { legend } else { lanes };
    let head = match named {
        0 => format!("{left}{legend:^room$}  {right}"),
        _ => format!("{left}{legend:>room$}  {right}"),
    };
    cells.set_stringn(area.x, area.y, head, width, palette.style(Role::Faint));
    name_states(app, &states, Rect { x: area.x + left.len() as u16 + 1, ..area }, cells, palette);
    if answer.lanes.is_empty() {
        let words = match app.drawer.filter.as_str() {
            "" => "nobody has lived yet: `place` something, and play".to_string(),
            filter => format!("nobody fits \"{filter}\"; / then Esc shows all"),
        };
        cells.set_stringn(area.x, area.y + 1, words, width, palette.style(Role::Faint));
        return;
    }
    let top = top(app, usize::from(area.height));
    let shown = answer.lanes.iter().skip(top).take(rows(usize::from(area.height)));
    for (row, lane) in shown.enumerate() {
        let line = Rect { y: area.y + 1 + row as u16, height: 1, ..area };
        draw_lane(app, lane, (from, to), line, cells, palette);
    }
    cursors(app, (from, to), area, cells, palette);
    under(answer, rate, Rect { y: area.bottom() - 1, height: 1, ..area }, cells, palette);
}

/// Where the present moment is, and the one that was marked.
fn cursors(app: &App, span: Stretch, area: Rect, cells: &mut Cells, palette: &Palette) {
    let tick = app.snapshot.travel.tick;
    let present = (tick < span.1).then_some((tick, Role::Cursor));
    let mark = app.drawer.mark.filter(|mark| (span.0..=span.1).contains(mark));
    for (tick, role) in mark.map(|mark| (mark, Role::Caution)).into_iter().chain(present) {
        let x = column_of(tick, span, area);
        for y in area.y + 1..area.bottom() - 1 {
            if cells.cell((x, y)).is_some_and(|cell| cell.symbol() == " ") {
                cells.set_string(x, y, "│", palette.style(role));
            }
        }
    }
}

/// What befell those that are shown under the cursor, with lines.
fn under(answer: &Lives, rate: f64, row: Rect, cells: &mut Cells, palette: &Palette) {
    let faint = palette.style(Role::Faint);
    let (mut x, end) = (row.x, row.right());
    let mut put = |words: &str, style: Style| {
        let room = usize::from(end.saturating_sub(x));
        x = cells.set_stringn(x, row.y, words, room, style).0;
    };
    put(&format!("from {:.2} s: ", answer.since as f64 / rate), faint);
    if answer.under.is_empty() {
        put("nothing befell them", faint);
    }
    for (words, line) in &answer.under {
        put(words, palette.style(Role::Plain));
        if let Some(line) = line {
            put(&format!(" :{line}"), palette.style(Role::Number));
        }
        put("   ", faint);
    }
    if answer.more > 0 {
        put(&format!("and {} more", answer.more), faint);
    }
}

fn draw_lane(
    app: &App,
    lane: &Lane,
    (from, to): (u64, u64),
    line: Rect,
    cells: &mut Cells,
    palette: &Palette,
) {
    let Some(cast) = &app.snapshot.cast else { return };
    let colour = cast.kinds.get(lane.who.kind.index()).map_or(palette.style(Role::Plain), |kind| {
        palette.kind(kind.look.colour.as_deref(), lane.who.kind.index())
    });
    let chosen = app.is_focus(lane.who);
    let name = if chosen { palette.style(Role::Chosen) } else { colour };
    cells.set_stringn(line.x, line.y, format!("{:<14}", lane.name), usize::from(NAMES) - 1, name);
    let column = |tick: u64| column_of(tick, (from, to), line);
    let now = app.snapshot.travel.tick.min(to);
    let end = lane.ended.map_or(now, |(tick, _)| tick);
    let (first, last) = (column(lane.born.max(from)), column(end));
    for at in first..=last {
        cells.set_string(at, line.y, "─", colour);
    }
    if lane.born >= from {
        cells.set_string(first, line.y, "├", colour);
    }
    for (at, (tick, state)) in lane.states.iter().enumerate() {
        // A state has its own colour; its first letter stands where it began, and its stretch is drawn
        // stronger every other time: told apart without colour, too.
        let until = lane.states.get(at + 1).map_or(end, |next| next.0);
        let style = state_style(app, state, palette);
        let stroke = if at % 2 == 0 { "━" } else { "─" };
        for column in column(*tick)..=column(until) {
            cells.set_string(column, line.y, stroke, style);
        }
        let letter: String = state.chars().take(1).collect();
        cells.set_string(column(*tick), line.y, letter, style.add_modifier(Modifier::BOLD));
    }
    for (tick, what) in &lane.marks {
        if let Some((glyph, role)) = mark(*what) {
            cells.set_string(column(*tick), line.y, glyph, palette.style(role));
        }
    }
    if let Some((_, cause)) = lane.ended {
        let glyph = cause.map_or("•", end_glyph);
        cells.set_string(last, line.y, glyph, palette.style(Role::End));
    }
}
