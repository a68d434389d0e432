//! The time strip: the silhouette of what is alive, births above, ends below, and the cursor.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::{Color, Modifier, Style};
use tickpond_lab::Cast;

use super::layout::strip_columns;
use super::palette::{Palette, Role};
use super::silhouette::{Keys, Strip};
use super::snapshot::Snapshot;
use super::stack::{self, Layer};
use super::stretch::Stretch;

/// Eighths of a cell, from the bottom.
const EIGHTHS: [char; 8] = ['▁', '▂', '▃', '▄', '▅', '▆', '▇', '█'];

/// The tick a column of the screen stands for.
pub fn tick_at(strip: &Strip, area: Rect, column: u16) -> u64 {
    let columns = strip_columns(area);
    let at = column.saturating_sub(columns.x);
    ((f64::from(at) + 1.0) * strip.ticks_per_column - 1.0).max(0.0) as u64
}

/// The column of a tick, counted from the first column of the strip.
fn column_of(strip: &Strip, tick: u64) -> u16 {
    super::silhouette::column_of(strip.ticks_per_column, tick).min(usize::from(u16::MAX)) as u16
}

/// Draws the strip's body: a row of births, the silhouette, a row of ends, a row of times.
pub fn draw(snapshot: &Snapshot, told: &Told, area: Rect, cells: &mut Cells, palette: &Palette) {
    let columns = strip_columns(area);
    let Some(cast) = &snapshot.cast else { return };
    if columns.width < 10 || columns.height < 4 {
        return;
    }
    let strip = &snapshot.strip;
    let (plot, own_row) = plot(strip, columns);
    let births = Rect { height: 1, ..columns };
    let ends = Rect { y: plot.bottom(), height: 1, ..columns };
    let keys = Rect { y: ends.y + own_row, height: 1, ..columns };
    let times = Rect { y: keys.bottom(), height: 1, ..columns };
    marks(&strip.born, births, '╵', Role::Birth, cells, palette);
    silhouette(strip, cast, plot, cells, palette);
    ghost(strip, plot, cells, palette);
    played(&strip.keys, keys, cells, palette);
    marks(&strip.ended, ends, '╷', Role::End, cells, palette);
    scale(strip, area, plot, cells, palette);
    if own_row == 1 {
        cells.set_string(area.x + 1, keys.y, "keys", palette.style(Role::Faint));
    }
    axis(snapshot, cast, times, cells, palette);
    for wave in strip.waves.iter().filter(|wave| **wave < columns.width) {
        cells.set_string(columns.x + wave, births.y, "w", palette.style(Role::Key));
    }
    for edit in &strip.edits {
        let x = columns.x + column_of(strip, *edit);
        if x < columns.right() {
            cells.set_string(x, births.y, "e", palette.style(Role::Caution));
        }
    }
    for check in snapshot.checks.iter().filter_map(|c| c.failed) {
        let x = columns.x + column_of(strip, check);
        if x < columns.right() {
            cells.set_string(x, births.y, "!", palette.style(Role::Trouble));
        }
    }
    if let Some((from, to)) = told.stretch {
        // The part of the time that charts and lifelines show.
        let last = columns.width - 1;
        for x in column_of(strip, from).min(last)..=column_of(strip, to).min(last) {
            if let Some(cell) = cells.cell_mut((columns.x + x, times.y)) {
                match palette.is_coloured() {
                    true => cell.bg = palette.paint(palette.band()),
                    false => cell.modifier |= Modifier::REVERSED,
                }
            }
        }
    }
    if let Some(mark) = told.mark {
        let x = columns.x + column_of(strip, mark).min(columns.width - 1);
        for y in columns.y..plot.bottom() {
            cells.set_string(x, y, "┊", palette.style(Role::Caution));
        }
        cells.set_string(x, times.y, "◆", palette.style(Role::Caution));
    }
    cursor(snapshot, columns, cells, palette);
}

/// The rows of the silhouette, and how many there are for what the player did: a row of its own where there is room, else
/// it stands in the ends' row.
fn plot(strip: &Strip, columns: Rect) -> (Rect, u16) {
    let own_row = u16::from(!strip.keys.is_empty() && columns.height >= 6);
    let height = columns.height.saturating_sub(3 + own_row);
    (Rect { y: columns.y + 1, height, ..columns }, own_row)
}

/// Which kinds are drawn larger than they are in some column, because they would not be seen.
pub fn enlarged(strip: &Strip, area: Rect) -> Vec<bool> {
    let (plot, _) = plot(strip, strip_columns(area));
    let mut all = vec![false; strip.kinds.len()];
    for counts in strip.live.iter().take(usize::from(plot.width)) {
        let drawn = stack::heights(counts, strip.top, u64::from(plot.height) * 8);
        all.iter_mut().zip(drawn.enlarged).for_each(|(all, enlarged)| *all |= enlarged);
    }
    all
}

/// What a person has chosen on it.
#[derive(Clone, Copy, Debug, Default)]
pub struct Told {
    /// The stretch that charts and lifelines show.
    pub stretch: Option<Stretch>,
    /// The tick that was marked.
    pub mark: Option<u64>,
}

/// What the player did: a mark where a key went down, a line as long as one is.
fn played(keys: &[Keys], row: Rect, cells: &mut Cells, palette: &Palette) {
    for (column, key) in keys.iter().enumerate().take(usize::from(row.width)) {
        let mark = match key {
            Keys::None => continue,
            Keys::Held => "─",
            Keys::Pressed => "▾",
        };
        cells.set_string(row.x + column as u16, row.y, mark, palette.style(Role::Key));
    }
}

/// A mark in each column in which something happened, stronger for more.
fn marks(counts: &[u32], row: Rect, mark: char, role: Role, cells: &mut Cells, palette: &Palette) {
    let most = counts.iter().max().copied().unwrap_or(0).max(1);
    for (column, count) in counts.iter().enumerate().take(usize::from(row.width)) {
        if *count == 0 {
            continue;
        }
        let strong = *count * 2 > most && most > 1;
        let glyph = match (mark, strong) {
            ('╵', true) => '╹',
            ('╷', true) => '╻',
            (mark, _) => mark,
        };
        cells.set_string(row.x + column as u16, row.y, glyph.to_string(), palette.style(role));
    }
}

/// Columns of stacked kinds, to an eighth of a cell.
fn silhouette(strip: &Strip, cast: &Cast, plot: Rect, cells: &mut Cells, palette: &Palette) {
    let style_of = |layer: Layer| match layer {
        Layer::Kind(kind) => kind_style(strip, cast, kind, palette),
        _ => palette.style(Role::Frame),
    };
    let columns = strip.live.iter().zip(&strip.most).enumerate();
    for (column, (counts, most)) in columns.take(usize::from(plot.width)) {
        let x = plot.x + column as u16;
        for (row, cell) in
            stack::cells(column, counts, *most, strip.top, plot.height).iter().enumerate()
        {
            let y = plot.bottom() - 1 - row as u16;
            // A cell filled by one layer, or by two of which there is no colour to tell them apart.
            let whole = match (cell.low == cell.high, cell.eighths >= 4) {
                (true, _) => Some(cell.low),
                (false, most) if !palette.is_coloured() && cell.high != Layer::Empty => {
                    Some(if most { cell.low } else { cell.high })
                }
                _ => None,
            };
            let (symbol, style) = match (whole, cell.high) {
                (Some(Layer::Empty), _) => continue,
                (Some(Layer::Span), _) => ('░', style_of(Layer::Span)),
                (Some(Layer::Kind(kind)), _) => (palette.shade(kind), style_of(Layer::Kind(kind))),
                (None, Layer::Empty) => (EIGHTHS[cell.eighths as usize - 1], style_of(cell.low)),
                (None, high) => {
                    let style = style_of(cell.low).bg(style_of(high).fg.unwrap_or_default());
                    (EIGHTHS[cell.eighths as usize - 1], style)
                }
            };
            cells.set_string(x, y, symbol.to_string(), style);
        }
    }
}

/// The style of a stacked kind, by its look.
pub fn kind_style(strip: &Strip, cast: &Cast, at: usize, palette: &Palette) -> Style {
    let name = strip.kinds.get(at).map_or("", |(name, _)| name);
    let place = cast.kinds.iter().position(|k| k.name == name).unwrap_or(at);
    let colour = cast.kinds.get(place).and_then(|k| k.look.colour.as_deref());
    palette.kind(colour, place)
}

fn ghost(strip: &Strip, plot: Rect, cells: &mut Cells, palette: &Palette) {
    let top = f64::from(strip.top.max(1));
    for (column, count) in strip.ghost.iter().enumerate().take(usize::from(plot.width)) {
        if !differs(strip, column) {
            continue;
        }
        let from_bottom = (f64::from(*count) / top * f64::from(plot.height)).ceil() as u16;
        let row = from_bottom.clamp(1, plot.height) - 1;
        let (x, y) = (plot.x + column as u16, plot.bottom() - 1 - row);
        // What lives here now shows behind the line.
        let behind = cells.cell((x, y)).map(|cell| match cell.symbol() {
            " " => Color::Reset,
            "▁" | "▂" | "▃" => cell.bg,
            _ => cell.fg,
        });
        let style = palette.style(Role::Ghost);
        let style = match behind.filter(|colour| *colour != Color::Reset) {
            Some(colour) => Style::default().fg(Color::Black).bg(colour),
            None => style,
        };
        cells.set_string(x, y, "╌", style);
    }
}

/// Whether the run before differs from this one in a column: else there is nothing to compare.
fn differs(strip: &Strip, column: usize) -> bool {
    let now = strip.most.get(column).copied();
    strip.ghost.get(column).is_some_and(|ghost| now != Some(*ghost))
}

/// Whether the run before is to be seen.
pub fn ghost_shows(strip: &Strip) -> bool {
    (0..strip.ghost.len()).any(|column| differs(strip, column))
}

fn scale(strip: &Strip, area: Rect, plot: Rect, cells: &mut Cells, palette: &Palette) {
    let style = palette.style(Role::Faint);
    cells.set_string(area.x + 1, plot.y - 1, "born", style);
    cells.set_string(area.x + 1, plot.y, format!("{:>5} ┤", strip.top), style);
    if plot.height > 2 {
        cells.set_string(area.x + 1, plot.y + 1, "alive", style);
    }
    cells.set_string(area.x + 1, plot.bottom() - 1, format!("{:>5} ┤", 0), style);
    cells.set_string(area.x + 1, plot.bottom(), "ended", style);
}

/// Times at round places.
fn axis(snapshot: &Snapshot, cast: &Cast, row: Rect, cells: &mut Cells, palette: &Palette) {
    let style = palette.style(Role::Faint);
    let per_second = cast.rate / snapshot.strip.ticks_per_column.max(1e-9);
    let steps = [
        0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 30.0, 60.0, 120.0, 300.0, 600.0, 1800.0, 3600.0,
        36000.0,
    ];
    let step = steps.into_iter().find(|s| s * per_second >= 9.0).unwrap_or(36000.0);
    let mut at: f64 = 0.0;
    loop {
        let x = row.x + (at * per_second) as u16;
        let label = format!("{} s", (at * 10.0).round() / 10.0);
        if x + label.len() as u16 > row.right() {
            break;
        }
        cells.set_string(x, row.y, label, style);
        at += step;
    }
}

fn cursor(snapshot: &Snapshot, columns: Rect, cells: &mut Cells, palette: &Palette) {
    let x = columns.x + column_of(&snapshot.strip, snapshot.travel.tick).min(columns.width - 1);
    for y in columns.y..columns.bottom() - 1 {
        if let Some(cell) = cells.cell_mut((x, y)) {
            cell.set_symbol("┃");
            cell.set_style(palette.style(Role::Cursor));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn a_column_and_its_tick_belong_together() {
        let strip = Strip { ticks_per_column: 7.5, ..Strip::default() };
        let area = Rect::new(0, 10, 120, 7);
        for column in 8..110 {
            let tick = tick_at(&strip, area, column);
            assert_eq!(column_of(&strip, tick) + 8, column, "tick {tick}");
        }
    }
}
