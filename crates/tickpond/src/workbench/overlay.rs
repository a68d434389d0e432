//! What lies over the screen: the page of keys, lists, something to read.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::Style;
use unicode_width::UnicodeWidthStr;

use super::commands::{GROUPS, TABLE};
use super::fitted::fitted;
use super::held::Preview;
use super::keys;
use super::menu::{Entry, Menu};
use super::menus::{fitting, fitting_entries};
use super::palette::{Palette, Role};
use super::preview;

/// An empty page in the middle with a title and a foot; gives the room inside.
fn page(
    (width, height): (u16, u16),
    (title, foot): (&str, &str),
    area: Rect,
    cells: &mut Cells,
    palette: &Palette,
) -> Rect {
    let (width, height) = (area.width.min(width), area.height.min(height));
    let page = Rect::new(
        area.x + (area.width - width) / 2,
        area.y + (area.height - height) / 2,
        width,
        height,
    );
    frame(page, title, foot, cells, palette)
}

fn frame(page: Rect, title: &str, foot: &str, cells: &mut Cells, palette: &Palette) -> Rect {
    let blank = " ".repeat(usize::from(page.width));
    for y in page.y..page.bottom() {
        cells.set_stringn(page.x, y, &blank, usize::from(page.width), Style::reset());
    }
    let (rule, style) = ("━".repeat(usize::from(page.width)), palette.style(Role::FocusedFrame));
    let room = usize::from(page.width).saturating_sub(4);
    cells.set_string(page.x, page.y, &rule, style);
    cells.set_stringn(page.x + 2, page.y, format!(" {title} "), room, style);
    cells.set_string(page.x, page.bottom() - 1, &rule, style);
    cells.set_stringn(page.x + 2, page.bottom() - 1, format!(" {foot} "), room, style);
    Rect {
        x: page.x + 2,
        y: page.y + 1,
        width: page.width.saturating_sub(4),
        height: page.height.saturating_sub(2),
    }
}

/// The page of keys, over everything.
pub fn help(top: usize, area: Rect, cells: &mut Cells, palette: &Palette) {
    let mut lines: Vec<(String, String)> = vec![(
        String::new(),
        "In the script plain keys type; F2 and a click lead there, Esc out".into(),
    )];
    lines.push(Default::default());
    for (nth, row) in TABLE.iter().enumerate() {
        if let Some((title, _)) = GROUPS.iter().find(|(_, first)| *first == row.action) {
            if nth > 0 {
                lines.push(Default::default());
            }
            lines.push((String::new(), title.to_uppercase()));
        }
        let place = match row.when.words() {
            "" => String::new(),
            words => format!("  ({words})"),
        };
        lines.push((keys::names(row), format!("{}{place}", row.words)));
    }
    let more = [
        ("", ""),
        ("", "ON THE SCREEN"),
        ("Click", "an entity, a line, a tab, a moment of the strip or of a chart; wheel: nearer"),
        ("Time strip", "e edit taken up, ! an expectation failed, ▾ key down, ╌ the run before"),
        ("Shift+arrows", "select in the script"),
        ("In the arena", "+ born; ended: x damage, * touch, > edge, o timer, # script, ~ zone,"),
        ("", "! impact, | line, % replaced, & with its owner, = limit"),
        ("In the script", "the number beside a line: how often it ran in this run"),
    ];
    lines.extend(more.map(|(a, b)| (a.to_string(), b.to_string())));
    let height = (lines.len() as u16 + 2).min(area.height);
    let rows = usize::from(height.saturating_sub(2));
    let top = top.min(lines.len().saturating_sub(rows));
    let more = top + rows < lines.len();
    let foot = if more { "↓ more, any other key closes" } else { "any other key closes" };
    let room = page((112, height), ("Keys", foot), area, cells, palette);
    for (row, (key, words)) in lines.iter().skip(top).take(rows).enumerate() {
        let y = room.y + row as u16;
        cells.set_stringn(room.x, y, format!("{key:>22}"), 22, palette.style(Role::Key));
        let heading = key.is_empty() && words.chars().all(|c| !c.is_lowercase());
        let style = palette.style(if heading { Role::Strong } else { Role::Plain });
        let width = usize::from(room.width.saturating_sub(24));
        cells.set_stringn(room.x + 24, y, words, width, style);
    }
}

/// Screens of so many columns have room for a look at a pond beside the list of ponds.
const BESIDE: u16 = 96;
/// Rows beneath the list of ponds for what the chosen one is about.
const IDEA: u16 = 3;

/// An open list.
pub fn menu(
    menu: &Menu,
    preview: Option<&Preview>,
    area: Rect,
    cursor: Option<(u16, u16)>,
    cells: &mut Cells,
    palette: &Palette,
) {
    match menu {
        Menu::Commands { typed, chosen } => {
            let rows: Vec<(String, String)> = fitting(typed)
                .iter()
                .map(|row| {
                    let place = row.when.words();
                    let place =
                        if place.is_empty() { String::new() } else { format!(" ({place})") };
                    (format!("{}{place}", row.words), keys::names(row))
                })
                .collect();
            let size = (84, area.height.saturating_sub(4).min(24));
            let title = ("Commands", "Enter carries it out, ↑ ↓ choose, Esc closes");
            let room = page(size, title, area, cells, palette);
            list(typed, *chosen, &rows, "no command has these words", room, cells, palette);
        }
        Menu::Ponds { typed, chosen, entries, is_start } => {
            // Where there is room, what one would see stands beside the list.
            let beside = preview.filter(|_| area.width >= BESIDE);
            let most = if beside.is_some() { 154 } else { 120 };
            let width = area.width.saturating_sub(4).clamp(20, most);
            let fits = fitting_entries(entries, typed);
            let picture = if beside.is_some() { (width * 2 / 5).min(64) } else { 0 };
            let inside = usize::from(width - picture) - 4;
            let rows: Vec<(String, String)> = fits
                .iter()
                .map(|entry| (pond_row(entry, inside.saturating_sub(1)), String::new()))
                .collect();
            // Beneath the list the whole of what the chosen one is about.
            let idea = fits.get(*chosen).map_or("", |entry| entry.idea.as_str());
            let idea = wrap(idea, inside);
            let title = if *is_start { "Tick Pond" } else { "Open a pond" };
            let foot = match is_start {
                true => "Enter opens, ↑ ↓ choose, type to narrow, Esc stays with the demo",
                false => "Enter opens, type a part of the name or a path, Esc closes",
            };
            let most = area.height.saturating_sub(2).max(10);
            let height = (rows.len() as u16 + 4 + IDEA).clamp(10, most);
            let room = page((width, height), (title, foot), area, cells, palette);
            if let Some(preview) = beside {
                let x = room.right() - picture + 1;
                let place = Rect { x, width: picture - 1, ..room };
                preview::draw(preview, place, cells, palette);
            }
            let room = Rect { width: room.width - picture, ..room };
            let (rows_room, idea_room) = match room.height > 8 {
                true => (
                    Rect { height: room.height - IDEA, ..room },
                    Rect { y: room.bottom() - IDEA + 1, height: IDEA - 1, ..room },
                ),
                false => (room, Rect::default()),
            };
            for (row, line) in idea.iter().enumerate().take(usize::from(idea_room.height)) {
                let y = idea_room.y + row as u16;
                cells.set_stringn(idea_room.x, y, line, inside, palette.style(Role::Strong));
            }
            list(
                typed,
                *chosen,
                &rows,
                "Enter opens the file with this path",
                rows_room,
                cells,
                palette,
            );
        }
        Menu::Tapes { names, chosen } => {
            let none = "none: nothing is pressed".to_string();
            let rows: Vec<(String, String)> =
                names.iter().chain([&none]).map(|name| (name.clone(), String::new())).collect();
            let title = ("Play a tape", "Enter plays it from the start, ↑ ↓ choose, Esc closes");
            let height = (rows.len() as u16 + 4).clamp(6, 24);
            let room = page((84, height), title, area, cells, palette);
            list("", *chosen, &rows, "", room, cells, palette);
        }
        Menu::Branches { rows, chosen } => {
            let title = ("Branches", "Enter goes back to it, ↑ ↓ choose, Esc closes");
            let rows: Vec<(String, String)> =
                rows.iter().map(|(_, words)| (words.clone(), String::new())).collect();
            let height = (rows.len() as u16 + 4).clamp(6, 24);
            let room = page((100, height), title, area, cells, palette);
            list("", *chosen, &rows, "", room, cells, palette);
        }
        Menu::Words { found, chosen, .. } => words(found, *chosen, area, cursor, cells, palette),
        Menu::Page { title, lines, top, .. } => {
            let width = area.width.min(96);
            let room = usize::from(width.saturating_sub(4)).max(10);
            let wrapped: Vec<String> = lines.iter().flat_map(|l| wrap(l, room)).collect();
            let height = wrapped.len() as u16 + 2;
            let rows = usize::from(area.height).saturating_sub(2);
            let top = (*top).min(wrapped.len().saturating_sub(rows));
            let behind = wrapped.len().saturating_sub(top + rows);
            let foot = match (top, behind) {
                (0, 0) => "Esc closes".to_string(),
                (top, behind) => {
                    format!("↑ ↓ turn: {top} lines above, {behind} below   Esc closes")
                }
            };
            let room = page((width, height), (title, &foot), area, cells, palette);
            for (row, line) in wrapped.iter().skip(top).enumerate().take(usize::from(room.height)) {
                let (y, width) = (room.y + row as u16, usize::from(room.width));
                cells.set_stringn(room.x, y, line, width, palette.style(Role::Plain));
            }
        }
    }
}

/// A pond's name and, beside it, what it is about; cut with a mark where it is longer than the row.
fn pond_row(entry: &Entry, width: usize) -> String {
    let row = match entry.idea.is_empty() {
        true => entry.name.clone(),
        false => format!("{:<26} {}", entry.name, entry.idea),
    };
    fitted(&row, width)
}

/// A line to type in, and the rows that fit below it.
fn list(
    typed: &str,
    chosen: usize,
    rows: &[(String, String)],
    none: &str,
    room: Rect,
    cells: &mut Cells,
    palette: &Palette,
) {
    let width = usize::from(room.width);
    let prompt = format!("› {typed}▏");
    cells.set_stringn(room.x, room.y, prompt, width, palette.style(Role::Key));
    let shown = usize::from(room.height.saturating_sub(2)).max(1);
    if rows.len() > shown {
        let place = format!("{} of {}", chosen + 1, rows.len());
        let x = room.right().saturating_sub(place.len() as u16);
        cells.set_stringn(x, room.y, place, width, palette.style(Role::Faint));
    }
    if rows.is_empty() {
        cells.set_stringn(room.x, room.y + 2, none, width, palette.style(Role::Faint));
    }
    let top = (chosen + 1).saturating_sub(shown);
    for (at, (words, key)) in rows.iter().enumerate().skip(top).take(shown) {
        let y = room.y + 2 + (at - top) as u16;
        let space = width.saturating_sub(key.width() + 1);
        let words = fitted(words, space);
        let gap = " ".repeat(space.saturating_sub(words.width()));
        let style = palette.style(if at == chosen { Role::Chosen } else { Role::Plain });
        cells.set_stringn(room.x, y, format!("{words}{gap} {key}"), width, style);
    }
}

/// What could stand at the cursor, right below it, or above where there is more room.
fn words(
    found: &[tickpond_ide::complete::Candidate],
    chosen: usize,
    area: Rect,
    cursor: Option<(u16, u16)>,
    cells: &mut Cells,
    palette: &Palette,
) {
    let (x, y) = cursor.unwrap_or((area.x + 2, area.y + 2));
    let below = area.bottom().saturating_sub(y + 2);
    let above = y.saturating_sub(area.y);
    let upward = below < 5 && above > below;
    let rows = (found.len() as u16).min(10).min(if upward { above } else { below }).max(1);
    let width = 34.min(area.width);
    let left = x.min(area.right().saturating_sub(width));
    let top = if upward { y - rows } else { y + 1 };
    let first = (chosen + 1).saturating_sub(usize::from(rows));
    for (row, candidate) in found.iter().skip(first).take(usize::from(rows)).enumerate() {
        let style = if first + row == chosen { Role::Chosen } else { Role::Selection };
        let text = format!(" {:<22} {:>9} ", candidate.text, candidate.sort);
        let y = top + row as u16;
        if y < area.bottom() {
            cells.set_stringn(left, y, text, usize::from(width), palette.style(style));
        }
    }
}

/// A text in lines of at most so many columns, broken between words.
pub fn wrap(text: &str, width: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in text.split_whitespace() {
        let line = lines.last_mut();
        match line {
            Some(line) if line.is_empty() => line.push_str(word),
            Some(line) if line.width() + word.width() < width => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(word.to_string()),
        }
    }
    lines
}
