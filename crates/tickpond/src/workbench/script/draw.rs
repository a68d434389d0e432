//! The script band on the screen.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::Style;
use tickpond_lang::Severity;
use unicode_width::UnicodeWidthChar;

use super::{Ink, Script};
use crate::showable::{picture, steers};
use crate::workbench::palette::{Palette, Role};

/// Width of the gutter of a text of so many lines: line number, count, a bar.
pub fn gutter_width(lines: usize) -> u16 {
    number_width(lines) as u16 + 7
}

fn number_width(lines: usize) -> usize {
    lines.to_string().len().max(4)
}

/// How often the lines ran: `None` for a line nothing on it can run.
pub struct LineCounts<'a> {
    /// By line from 0.
    pub counts: &'a [Option<u64>],
    /// Lines of muted handlers.
    pub muted: &'a [bool],
}

/// Draws the text. Gives the cell of the cursor if it is in sight.
pub fn draw(
    script: &Script,
    counts: &LineCounts<'_>,
    area: Rect,
    cells: &mut Cells,
    palette: &Palette,
) -> Option<(u16, u16)> {
    let lines = script.buffer.line_count();
    let width = gutter_width(lines);
    if area.width <= width || area.height == 0 {
        return None;
    }
    let mut cursor = None;
    let (cursor_line, cursor_column) = script.buffer.cursor();
    let pair = script.bracket_pair();
    let mut row = 0;
    let mut line = script.top;
    while row < area.height && line < script.buffer.line_count() {
        if script.folds.hides(line) {
            line += 1;
            continue;
        }
        let y = area.y + row;
        gutter(
            counts,
            (line, number_width(lines)),
            line == cursor_line,
            (area.x, y),
            cells,
            palette,
        );
        let text_area = Rect::new(area.x + width, y, area.width - width, 1);
        let place = (line == cursor_line).then_some(cursor_column);
        let found = text_line(script, counts, line, place, text_area, cells, palette);
        if found.is_some() {
            cursor = found;
        }
        for (_, column) in pair.iter().flatten().filter(|(at, _)| *at == line) {
            let x = column.checked_sub(script.left).and_then(|c| u16::try_from(c).ok());
            if let Some(x) = x.filter(|x| *x < text_area.width)
                && let Some(cell) = cells.cell_mut((text_area.x + x, y))
            {
                let style = palette.style(Role::Cursor);
                cell.set_style(style.add_modifier(ratatui::style::Modifier::UNDERLINED));
            }
        }
        let folded = script.folds.below(line);
        if folded > 0 {
            let words = format!(" … {folded} lines folded ");
            let start = area.right().saturating_sub(words.len() as u16);
            cells.set_stringn(start, y, &words, words.len(), palette.style(Role::Caution));
        }
        row += 1;
        if row < area.height
            && let Some(remark) = script.remark_of(line)
        {
            remark_line(
                script,
                remark,
                Rect::new(area.x, area.y + row, area.width, 1),
                cells,
                palette,
            );
            row += 1;
        }
        line += 1;
    }
    cursor
}

fn gutter(
    counts: &LineCounts<'_>,
    (line, room): (usize, usize),
    is_cursor: bool,
    (x, y): (u16, u16),
    cells: &mut Cells,
    palette: &Palette,
) {
    let count = counts.counts.get(line).copied().flatten();
    let number = palette.style(if is_cursor { Role::Strong } else { Role::Faint });
    cells.set_string(x, y, format!("{:>room$}", line + 1), number);
    let (text, role) = match count {
        None => (String::new(), Role::Faint),
        Some(0) => ("never".to_string(), Role::Faint),
        Some(count) => (short(count), Role::Count),
    };
    let x = x + room as u16;
    cells.set_string(x, y, format!("{text:>6}"), palette.style(role));
    let mark = if is_cursor { "▸" } else { " " };
    cells.set_string(x + 6, y, mark, palette.style(Role::Cursor));
}

/// A count in at most five characters.
pub fn short(count: u64) -> String {
    match count {
        0..=99_999 => count.to_string(),
        100_000..=9_999_999 => format!("{}k", count / 1000),
        _ => format!("{}M", count / 1_000_000),
    }
}

fn text_line(
    script: &Script,
    counts: &LineCounts<'_>,
    line: usize,
    cursor_column: Option<usize>,
    area: Rect,
    cells: &mut Cells,
    palette: &Palette,
) -> Option<(u16, u16)> {
    let text = script.buffer.line(line);
    let never = counts.counts.get(line) == Some(&Some(0));
    let muted = counts.muted.get(line) == Some(&true);
    let selected = script.buffer.selected_columns(line);
    let mut cursor = None;
    let mut x = 0u16;
    let mut columns = 0;
    for (column, c) in text.chars().enumerate() {
        if column < script.left {
            continue;
        }
        if cursor_column == Some(column) {
            cursor = (x < area.width).then_some((area.x + x, area.y));
        }
        let width = match c {
            '\t' => 4,
            c if steers(c) => 1,
            c => c.width().unwrap_or(0) as u16,
        };
        if x + width > area.width {
            break;
        }
        let ink = script.inks_of(line).iter().find(|(from, to, _)| (*from..*to).contains(&column));
        let mut style = palette.style(ink_role(ink.map_or(Ink::Plain, |i| i.2)));
        if never {
            style = palette.style(Role::Faint);
        }
        if muted {
            style = style.add_modifier(ratatui::style::Modifier::CROSSED_OUT);
        }
        let remark = script
            .remarks
            .iter()
            .find(|r| r.line == line && (r.columns.0..r.columns.1).contains(&column));
        if let Some(remark) = remark {
            style = palette
                .style(remark_role(remark.severity))
                .add_modifier(ratatui::style::Modifier::UNDERLINED);
        }
        if selected.is_some_and(|(from, to)| (from..to).contains(&column)) {
            style = palette.style(Role::Selection);
        }
        put(cells, (area.x + x, area.y), c, style);
        x += width;
        columns = column + 1;
    }
    if text.chars().count() > columns.max(script.left) && area.width > 0 {
        let style = palette.style(Role::Caution);
        cells.set_string(area.right() - 1, area.y, "›", style);
    }
    if let Some(column) = cursor_column
        && column >= columns.max(script.left)
        && x < area.width
    {
        cursor = Some((area.x + x, area.y));
    }
    cursor
}

fn put(cells: &mut Cells, (x, y): (u16, u16), c: char, style: Style) {
    match c {
        '\t' => {
            cells.set_string(x, y, "    ", style);
        }
        c if steers(c) => {
            cells.set_string(x, y, picture(c).to_string(), style);
        }
        c if c.width().unwrap_or(0) == 0 => {
            // A mark joins the character before it.
            if let Some(cell) = x.checked_sub(1).and_then(|x| cells.cell_mut((x, y))) {
                let joined = format!("{}{c}", cell.symbol());
                cell.set_symbol(&joined);
            }
        }
        c => {
            cells.set_string(x, y, c.to_string(), style);
        }
    }
}

fn ink_role(ink: Ink) -> Role {
    match ink {
        Ink::Plain => Role::Plain,
        Ink::Word => Role::Word,
        Ink::Number => Role::Number,
        Ink::Text => Role::Text,
        Ink::Comment => Role::Comment,
    }
}

fn remark_role(severity: Severity) -> Role {
    match severity {
        Severity::Error => Role::Trouble,
        Severity::Finding => Role::Caution,
        Severity::Hint => Role::Faint,
    }
}

fn remark_line(
    script: &Script,
    remark: &super::Remark,
    area: Rect,
    cells: &mut Cells,
    palette: &Palette,
) {
    let style = palette.style(remark_role(remark.severity));
    let mark = match remark.severity {
        Severity::Error => "error",
        Severity::Finding => "note",
        Severity::Hint => "hint",
    };
    let gutter = gutter_width(script.buffer.line_count());
    let room = usize::from(gutter) - 2;
    cells.set_string(area.x, area.y, format!("{mark:>room$}  "), style);
    let column = remark.columns.0.saturating_sub(script.left) as u16;
    let room = area.width - gutter;
    let words = format!("^ {}", remark.told());
    // The words begin under the place they are about, or as far right as they fit.
    let length = words.chars().count() as u16;
    let start = column.min(room.saturating_sub(length));
    let room = usize::from(room - start);
    let words = super::super::fitted::fitted(&words, room);
    cells.set_stringn(area.x + gutter + start, area.y, words, room, style);
}
