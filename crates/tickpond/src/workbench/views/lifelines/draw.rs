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

/// Columns of the names.
const NAMES: u16 = 15;

/// The first lane shown: the selected one is in sight, else the youngest are.
pub fn top(app: &App, height: usize) -> usize {
    let rows = height.saturating_sub(1).max(1);
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
    let none = Lives::default();
    let answer = app.snapshot.answer.own::<Lives>().unwrap_or(&none);
    let rate = app.snapshot.cast.as_ref().map_or(60.0, |p| p.rate);
    let (from, to) = answer.span;
    let seconds = |tick: u64| tick as f64 / rate;
    let legend = "x hurt  m heard  s sent  ? unheard  last: its cause";
    let states = states_of(&answer.lanes);
    let left = format!("{:<15}{:.1} s", "name", seconds(from));
    let right = format!("{:.1} s", seconds(to));
    let room = width.saturating_sub(left.len() + right.len() + 2);
    let named: usize = states.iter().map(|state| state.chars().count() + 4).sum();
    let legend = if legend.len() + named < room { legend } else { "" };
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
    for (row, lane) in answer.lanes.iter().skip(top).take(usize::from(area.height) - 1).enumerate()
    {
        let line = Rect { y: area.y + 1 + row as u16, height: 1, ..area };
        draw_lane(app, lane, (from, to), line, cells, palette);
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
    let (x, width) = (line.x + NAMES, line.width - NAMES);
    let span = (to - from).max(1) as f64;
    let column = |tick: u64| {
        let at = tick.saturating_sub(from) as f64 / span * f64::from(width - 1);
        x + (at as u16).min(width - 1)
    };
    let end = lane.ended.map_or(to, |(tick, _)| tick);
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
