//! The status line: what is going on, and the keys that matter here.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_lab::Outcome;
use unicode_width::UnicodeWidthStr;

use super::app::App;
use super::commands::TABLE;
use super::fitted::fitted;
use super::keys::{self, Place};
use super::overlay::wrap;
use super::palette::{Palette, Role};
use super::prompt::{After, Prompt};

/// What is going on, and the keys that matter here.
pub fn status(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let width = usize::from(area.width);
    if let Some(prompt) = &app.over.prompt {
        let chosen = app.over.asked.chosen.filter(|_| prompt.is_choice());
        let words = match prompt {
            Prompt::Over(..) if chosen.is_some() => {
                "Write over it, what is there is lost:  Enter does it   Esc stay".into()
            }
            Prompt::Unsaved(_) if chosen.is_some() => {
                "Discard what is not saved:  Enter does it   Esc stay".into()
            }
            Prompt::LoseRun(lost, _) if chosen.is_some() => {
                format!("{lost}, and is lost:  Enter does it   Esc stay")
            }
            Prompt::Unsaved(After::Open(_)) => {
                "The text is not saved:  s save and open   d let go of it and open   Esc stay"
                    .into()
            }
            Prompt::Unsaved(_) => {
                "The text is not saved:  s save and quit   d discard and quit   Esc stay".into()
            }
            Prompt::LoseRun(lost, After::Quit) => {
                format!("{lost}:  d quit all the same   Esc stay")
            }
            Prompt::LoseRun(lost, _) => format!("{lost}:  d let go of it   Esc stay"),
            Prompt::Over(path, _) => {
                let keys = "is there already:  o write over it   n another name   Esc stay";
                let room = width.saturating_sub(keys.len() + 2);
                let name = path.display().to_string();
                // The end of a path tells more than its beginning.
                let cut = name.chars().count().saturating_sub(room.max(8));
                let shown: String = name.chars().skip(cut).collect();
                format!("{}{shown} {keys}", if cut > 0 { "…" } else { "" })
            }
            Prompt::SaveAs(name, _) => format!("Save as: {name}▏  Enter saves, Esc does not"),
            Prompt::Line(ask, typed) => format!("{}: {typed}▏  Enter, Esc", ask.words()),
            Prompt::Layers => format!("{}   Esc ends", app.arena.layers.words()),
        };
        let unheard = app.over.asked.unheard && prompt.is_choice();
        let words = if unheard { format!("No answer to this: {words}") } else { words };
        let style = palette.style(Role::Controls);
        // A question that is longer than the line begins above it.
        let mut rows = if words.width() > width { wrap(&words, width) } else { vec![words] };
        rows.truncate(MOST_ROWS + 1);
        let top = area.bottom().saturating_sub(rows.len() as u16);
        for (y, row) in (top..area.bottom()).zip(rows) {
            cells.set_stringn(area.x, y, format!("{row:width$}"), width, style);
        }
        return;
    }
    if let Some(offer) = app.offer() {
        let words = format!("{:width$}", offer.words());
        cells.set_stringn(area.x, area.y, words, width, palette.style(Role::Controls));
        // What was said stands above it.
        if let Some((words, trouble)) = app.said.message.as_ref().filter(|_| area.y > 0) {
            let style = palette.style(if *trouble { Role::Trouble } else { Role::Fine });
            cells.set_stringn(area.x, area.y - 1, format!(" {words:width$}"), width, style);
        }
        return;
    }
    let mut x = area.x + told(app, area, cells, palette);
    // The way to all other keys is always shown; the rest as far as there is room.
    let is_help = |row: &&keys::Row| row.action == keys::Action::Help;
    let shown = || TABLE.iter().filter(|row| !row.short.is_empty());
    for row in shown().filter(is_help).chain(shown().filter(|row| !is_help(row))) {
        let key = match app.controls.on {
            true => keys::key_in_play(row),
            false => keys::key_in(row, app.bands.place, app.drawer.view),
        };
        let Some(key) = key else { continue };
        let short = match row.action {
            keys::Action::PlayPause if app.is_playing() => "pause",
            keys::Action::Controls if app.controls.on => "give the keys back",
            _ => row.short,
        };
        let needed = (key.width() + short.width() + 3) as u16;
        if x + needed > area.right() {
            continue;
        }
        cells.set_string(x, area.y, &key, palette.style(Role::Key));
        cells.set_string(x + key.width() as u16 + 1, area.y, short, palette.style(Role::Status));
        x += needed;
    }
}

/// Room that stays free for the way to the keys: `? keys`.
const KEYS: usize = 8;
/// Most rows above the status line that a long message may cover.
const MOST_ROWS: usize = 3;

/// What was said, or how the expectations stand; gives how much of the line it takes. What is longer than the line,
/// without the way to the keys, stands above it as long as it is shown: no message takes the keys away.
fn told(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) -> u16 {
    let remark = app.script.remark_here().filter(|_| app.bands.place == Place::Script);
    let (words, role) = match (&app.said.message, remark) {
        // The band may be too narrow for all of it.
        (None, Some(remark)) => (remark.told(), Role::Trouble),
        (Some((words, trouble)), _) => {
            (words.clone(), if *trouble { Role::Trouble } else { Role::Fine })
        }
        (None, None) => verdict(app),
    };
    let style = palette.style(role);
    let room = usize::from(area.width).saturating_sub(KEYS + 1);
    if words.width() < room {
        cells.set_string(area.x, area.y, format!(" {words}"), style);
        return words.width() as u16 + 3;
    }
    let width = usize::from(area.width);
    let mut rows = wrap(&words, width.saturating_sub(2).max(10));
    if rows.len() > MOST_ROWS {
        rows.truncate(MOST_ROWS);
        if let Some(last) = rows.last_mut() {
            *last = fitted(&format!("{last} …"), width.saturating_sub(2));
        }
    }
    let top = area.y.saturating_sub(rows.len() as u16);
    for (y, row) in (top..area.y).zip(&rows) {
        cells.set_string(area.x, y, " ".repeat(width), palette.style(Role::Plain));
        cells.set_stringn(area.x, y, format!(" {row}"), width, style);
    }
    1
}

fn verdict(app: &App) -> (String, Role) {
    let checks = &app.snapshot.checks;
    if let Some(failed) = checks.iter().find(|c| c.outcome == Outcome::Failed) {
        let rate = app.snapshot.cast.as_ref().map_or(60.0, |p| p.rate);
        let at = failed.failed.unwrap_or(0) as f64 / rate;
        return (
            format!("FAILED at {at:.2} s: {}{}", failed.words, in_line(failed.line)),
            Role::Trouble,
        );
    }
    let held = checks.iter().filter(|c| c.outcome == Outcome::Held).count();
    // What was not tried yet is open: it has not failed.
    match (held, checks.len() - held) {
        (0, 0) => ("no expectations".into(), Role::Faint),
        (held, 0) => (format!("{held} hold"), Role::Fine),
        (held, open) => (format!("{held} hold, {open} open"), Role::Fine),
    }
}

fn in_line(line: Option<u32>) -> String {
    line.map(|line| format!(" (line {line})")).unwrap_or_default()
}
