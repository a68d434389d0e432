//! The whole screen: heads, bands, status line, and what lies on top.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::Style;
use tickpond_lab::Cast;
use unicode_width::UnicodeWidthStr;

use super::app::App;
use super::fitted::fitted;
use super::keys::Place;
use super::layout::{SMALLEST, body};
use super::menu::Menu;
use super::palette::{Palette, Role};
use super::script::draw::LineCounts;
use super::settings::Edits;
use super::views::{self, DrawerView, Filter};
use super::{arena, overlay, script, status, strip};

/// Draws everything. Gives the cell of the text cursor, if one is to be seen.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) -> Option<(u16, u16)> {
    let Some(areas) = app.areas() else {
        too_small(area, cells);
        return None;
    };
    let mut cursor = None;
    if !areas.script.is_empty() {
        head(app, Place::Script, areas.script, &script_title(app), cells, palette);
        let (counts, muted) = line_counts(app);
        let counts = LineCounts { counts: &counts, muted: &muted };
        cursor = script::draw::draw(&app.script, &counts, body(areas.script), cells, palette);
    }
    if !areas.arena.is_empty() {
        draw_arena(app, areas.arena, cells, palette);
    }
    if !areas.strip.is_empty() {
        strip_head(app, areas.strip, cells, palette);
        let tick = app.snapshot.travel.tick;
        let stretch = app.drawer.stretch.map(|stretch| super::stretch::around(stretch, tick));
        let told = strip::Told { stretch, mark: app.drawer.mark };
        strip::draw(&app.snapshot, &told, areas.strip, cells, palette);
    }
    if !areas.drawer.is_empty() {
        draw_drawer(app, areas.drawer, cells, palette);
    }
    super::guide::draw(app, areas.guide, cells, palette);
    status::status(app, areas.status, cells, palette);
    if let Some(top) = app.over.help {
        overlay::help(top, area, cells, palette);
        return None;
    }
    if let Some(menu) = &app.over.menu {
        overlay::menu(menu, app.over.preview.as_ref(), area, cursor, cells, palette);
        return cursor.filter(|_| matches!(menu, Menu::Words { .. }));
    }
    match &app.over.prompt {
        Some(_) => None,
        None => cursor.filter(|_| app.bands.place == Place::Script),
    }
}

fn too_small(area: Rect, cells: &mut Cells) {
    let lines = [
        format!("{} x {} is too small", area.width, area.height),
        format!("needs {} x {}", SMALLEST.0, SMALLEST.1),
        "paused; text is safe".to_string(),
    ];
    for (row, words) in lines.iter().enumerate().take(usize::from(area.height)) {
        cells.set_stringn(
            area.x,
            area.y + row as u16,
            words,
            usize::from(area.width),
            Style::default(),
        );
    }
}

/// The line above a band: its name, what it is about, and a rule.
fn head(app: &App, place: Place, area: Rect, title: &str, cells: &mut Cells, palette: &Palette) {
    let focused = app.bands.place == place;
    let frame = palette.style(if focused { Role::FocusedFrame } else { Role::Frame });
    let rule = if focused { "━" } else { "─" };
    cells.set_string(area.x, area.y, rule.repeat(usize::from(area.width)), frame);
    let style = palette.style(if focused { Role::FocusedFrame } else { Role::Title });
    let room = usize::from(area.width).saturating_sub(3);
    cells.set_stringn(area.x + 2, area.y, format!(" {title} "), room, style);
}

fn script_title(app: &App) -> String {
    let unsaved = match (&app.file.path, app.script.buffer.is_saved()) {
        (_, false) => " (unsaved)",
        (None, true) => " (no file: F12 names one)",
        (Some(_), true) => "",
    };
    let plays = if app.snapshot.cast.is_some() {
        "the last good text plays on"
    } else {
        "nothing plays yet"
    };
    let errors = match app.script.errors() {
        0 => String::new(),
        1 => format!(": 1 error, {plays}"),
        n => format!(": {n} errors, {plays}"),
    };
    let (line, column) = app.script.buffer.cursor();
    format!("Script  {}{unsaved}{errors}  {}:{}", app.file.name, line + 1, column + 1)
}

/// How often each line of the text on the screen ran, as far as it is a line of the text that plays.
fn line_counts(app: &App) -> (Vec<Option<u64>>, Vec<bool>) {
    let lines = app.script.buffer.line_count();
    let (mut counts, mut muted) = (vec![None; lines], vec![false; lines]);
    for (line, fired) in &app.snapshot.script.ran {
        let line = app.line_here(*line);
        if let Some(count) = line.and_then(|line| counts.get_mut(line)) {
            *count = Some(*fired);
        }
    }
    // What is muted is so in the text on the screen; while that has errors nobody knows.
    let Some(program) = &app.known.program else { return (counts, muted) };
    for handler in program.kinds.iter().flat_map(|k| &k.handlers).filter(|h| h.muted) {
        let first = program.lines.line(handler.span.start) as usize - 1;
        let last = program.lines.line(handler.span.end.saturating_sub(1)) as usize - 1;
        for line in first..=last.min(lines - 1) {
            muted[line] = true;
            counts[line] = None;
        }
    }
    (counts, muted)
}

fn draw_arena(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let Some(cast) = &app.snapshot.cast else {
        head(app, Place::Arena, area, "Arena", cells, palette);
        let words = match app.script.errors() {
            0 => "opening…".to_string(),
            n => format!(
                "nothing plays yet: the script has {n} error{}; see F2",
                if n == 1 { "" } else { "s" }
            ),
        };
        let body = body(area);
        cells.set_stringn(
            body.x + 2,
            body.y + 1,
            words,
            usize::from(body.width - 2),
            palette.style(Role::Caution),
        );
        return;
    };
    head(app, Place::Arena, area, "Arena", cells, palette);
    legend(app, cast, area, cells, palette);
    let inner = body(area);
    arena::draw::draw(&app.snapshot, cast, &app.looks(), inner, cells, palette);
    if app.controls.on {
        controls_line(app, cast, inner, cells, palette);
    }
}

/// Kinds with their glyphs and counts, in the arena's head.
fn legend(app: &App, cast: &Cast, area: Rect, cells: &mut Cells, palette: &Palette) {
    let mut x = area.x + 10;
    let mut left = cast.entity_kinds().count();
    for (id, kind) in cast.entity_kinds() {
        let count = app.snapshot.scene.counts.get(id.index()).copied().unwrap_or(0);
        let glyph = kind.look.glyph.or(kind.name.chars().next()).unwrap_or('?');
        let text = format!(" {glyph} {} {count} ", kind.name);
        let width = text.width() as u16;
        let more = if left > 1 { 10 } else { 0 };
        if x + width + more > area.right() {
            let words = format!(" +{left} more");
            let room = usize::from(area.right().saturating_sub(x));
            cells.set_stringn(x, area.y, words, room, palette.style(Role::Faint));
            break;
        }
        left -= 1;
        cells.set_string(x, area.y, text, palette.kind(kind.look.colour.as_deref(), id.index()));
        x += width;
    }
}

fn controls_line(app: &App, cast: &Cast, inner: Rect, cells: &mut Cells, palette: &Palette) {
    let latched: Vec<&str> = app.controls.latched().collect();
    let inputs = cast.inputs.iter().map(|input| {
        let held = app.snapshot.play.held.contains(&input.name);
        let state = match (latched.contains(&input.name.as_str()), held) {
            (true, _) => "=latched",
            (false, true) => "=down",
            _ => "",
        };
        // A pointer has no key: it is moved over the arena.
        match input.pointer {
            true => format!("pointer moves {}", input.name),
            false => format!("{} {}{state}", input.key, input.name),
        }
    });
    let latch = if app.controls.reports_release { "" } else { ", Shift/Alt latch" };
    let inputs = inputs.collect::<Vec<_>>().join(", ");
    let width = usize::from(inner.width);
    let text = format!(" PLAY KEYS (Esc ends{latch}): {inputs}");
    let text = fitted(&text, width);
    cells.set_stringn(
        inner.x,
        inner.bottom() - 1,
        format!("{text:width$}"),
        width,
        palette.style(Role::Controls),
    );
}

fn strip_head(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let s = &app.snapshot;
    let rate = s.cast.as_ref().map_or(60.0, |p| p.rate);
    let frame = palette.style(Role::Frame);
    cells.set_string(area.x, area.y, "─".repeat(usize::from(area.width)), frame);
    let state = match (s.play.recording, s.play.playing) {
        _ if s.travel.goal.is_some_and(|goal| goal != s.travel.tick) => "on the way",
        (Some(_), true) => "playing, RECORDING",
        (Some(_), false) => "paused, RECORDING",
        (None, false) if s.stopped.is_some() => "STOPPED",
        (None, true) => "playing",
        (None, false) => "paused",
    };
    let behind = if s.travel.tick < s.travel.head {
        format!(" of {:.2} s", s.travel.head as f64 / rate)
    } else {
        String::new()
    };
    let goal = s.travel.goal.filter(|goal| *goal != s.travel.tick);
    let goal =
        goal.map(|goal| format!(" to {:.2} s (Esc stops)", goal as f64 / rate)).unwrap_or_default();
    let anew = match app.settings.edits {
        Edits::Restart => "  edits play anew (w)",
        Edits::Fork => "",
    };
    let plays = s.play.plays.as_ref().map(|tape| format!("  tape \"{tape}\"")).unwrap_or_default();
    let title = format!(
        " Time  {:.2} s{behind}  tick {}  {state}{goal}  {} x  seed {}{plays}{anew} ",
        s.travel.tick as f64 / rate,
        s.travel.tick,
        s.play.speed,
        s.play.seed
    );
    cells.set_stringn(
        area.x + 2,
        area.y,
        &title,
        usize::from(area.width - 3),
        palette.style(Role::Title),
    );
    let mut x = area.x + 2 + title.width() as u16 + 1;
    let between = app.between_told(palette);
    if !between.is_empty() {
        for (words, style) in between {
            // What has no room is said to be there.
            let room = usize::from(area.right().saturating_sub(x + 1));
            let fits = words.trim_end().width() <= room;
            let shown = if fits { words } else { fitted(words.trim_end(), room.max(1)) };
            x = cells.set_stringn(x, area.y, shown, room.max(1), style).0;
            if !fits {
                break;
            }
        }
        return;
    }
    let Some(cast) = &s.cast else { return };
    // What differs, in words, the largest difference first. An edit that has made no difference yet is not one that
    // makes none.
    let ghost = strip::ghost_shows(&s.strip);
    let (words, role) = match (s.answer.changes.first(), app.settings.edits) {
        (Some(words), _) if ghost => (words.as_str(), Role::Caution),
        (None, Edits::Fork) if s.travel.edited => {
            ("no difference yet; from the start: w, r", Role::Ghost)
        }
        (None, Edits::Restart) if s.travel.edited => ("no difference so far", Role::Ghost),
        _ => ("", Role::Ghost),
    };
    // The kinds have their names in the arena's head, too: where something differs it goes first.
    let wanted = if words.is_empty() { 0 } else { (words.width() + 3).min(DIFFERENCE) as u16 };
    let wanted = wanted + if ghost { BEFORE } else { 0 };
    x = kinds_of_strip(
        app,
        cast,
        (x, area.right().saturating_sub(wanted).max(x)),
        area,
        cells,
        palette,
    );
    // Where there is little room what differs says enough.
    let least = words.width().min(24) as u16;
    if ghost && x + BEFORE + 2 + least < area.right() {
        cells.set_string(x, area.y, "╌ run before", palette.style(Role::Ghost));
        x += BEFORE;
    }
    if !words.is_empty() {
        let room = usize::from(area.right().saturating_sub(x + 1));
        let words = format!(" {} ", fitted(words, room.saturating_sub(2)));
        cells.set_stringn(x, area.y, words, room, palette.style(role));
    }
}

/// Columns of the words `run before`, and of what differs from it at most where there are kinds to be named.
const BEFORE: u16 = 14;
const DIFFERENCE: usize = 40;

/// The kinds of the strip between two columns, with which of them are larger than to scale; the column behind them.
fn kinds_of_strip(
    app: &App,
    cast: &Cast,
    (from, until): (u16, u16),
    area: Rect,
    cells: &mut Cells,
    palette: &Palette,
) -> u16 {
    let (strip, mut x) = (&app.snapshot.strip, from);
    let enlarged = strip::enlarged(strip, area);
    for (at, (name, _)) in strip.kinds.iter().enumerate() {
        let thin = enlarged.get(at) == Some(&true) && palette.is_coloured();
        let swatch = if thin { '▂' } else { palette.shade(at) };
        let text = format!("{swatch} {name}  ");
        let after = match strip.kinds.len() - at - 1 {
            0 => 0,
            more => format!("+{more}  ").len(),
        };
        if usize::from(x) + text.width() + after > usize::from(until) {
            let more = format!("+{}  ", strip.kinds.len() - at);
            let room = usize::from(area.right().saturating_sub(x));
            return cells.set_stringn(x, area.y, more, room, palette.style(Role::Ghost)).0;
        }
        cells.set_string(x, area.y, &text, strip::kind_style(strip, cast, at, palette));
        x += text.width() as u16;
    }
    let larger = strip.kinds.iter().zip(enlarged).filter(|(_, enlarged)| *enlarged);
    let larger: Vec<&str> = larger.map(|((name, _), _)| name.as_str()).collect();
    let told = [
        format!("larger than to scale: {}  ", larger.join(", ")),
        format!("{} larger than to scale  ", larger.len()),
    ];
    let room = usize::from(until.saturating_sub(x));
    match told.iter().find(|told| !larger.is_empty() && told.width() <= room) {
        Some(told) => cells.set_stringn(x, area.y, told, room, palette.style(Role::Ghost)).0,
        None => x,
    }
}

/// The drawer's tabs: key, view, and how the head shows them.
fn tabs(app_view: Option<DrawerView>, width: u16) -> Vec<(DrawerView, String)> {
    // A narrow head names the others by their keys alone.
    let narrow = width < 100;
    let tab = |(at, view): (usize, DrawerView)| {
        let (key, name) = (at + 1, view.name());
        let text = match (app_view == Some(view), narrow) {
            (true, _) => format!("[{key} {name}]"),
            (false, false) => format!(" {key} {name} "),
            (false, true) => format!(" {key} {} ", &name[..name.len().min(4)]),
        };
        (view, text)
    };
    DrawerView::ALL.into_iter().enumerate().map(tab).collect()
}

/// The tab at a column of the drawer's head.
pub fn drawer_tab_at(area: Rect, x: u16) -> Option<DrawerView> {
    // The brackets are as wide as the spaces, so the chosen one does not matter.
    let mut at = area.x + 3;
    for (view, text) in tabs(None, area.width) {
        let end = at + text.width() as u16;
        if (at..end).contains(&x) {
            return Some(view);
        }
        at = end;
    }
    None
}

fn draw_drawer(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let tabs: String =
        tabs(Some(app.drawer.view), area.width).into_iter().map(|(_, t)| t).collect();
    let narrowed = match app.drawer.view.entry().filter {
        Filter::Entities => &app.drawer.filter,
        Filter::Events => &app.drawer.feed_filter,
        Filter::Nothing => "",
    };
    let narrowed = if narrowed.is_empty() { String::new() } else { format!("  shows: {narrowed}") };
    let trouble = app.snapshot.answer.trouble.as_ref().map(|t| format!("  ({t})"));
    let title = format!("{tabs}{narrowed}{}", trouble.unwrap_or_default());
    head(app, Place::Drawer, area, &title, cells, palette);
    let (list, story) = app.drawer_parts(area);
    (app.drawer.view.entry().draw)(app, list, cells, palette);
    if !story.is_empty() {
        views::roster::draw_story(app, story, cells, palette);
    }
}
