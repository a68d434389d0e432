//! Charts over time: counts, births and ends, causes, states, watches, lengths of life.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::Style;
use ratatui::symbols::Marker;
use ratatui::widgets::Widget;
use ratatui::widgets::canvas::{Canvas, Line, Points};
use tickpond_lang::program::Cause;

use super::answer::{Chart, Drawn, TrendSeries};
use crate::workbench::app::App;
use crate::workbench::fitted::fitted;
use crate::workbench::palette::{Palette, Role};
use crate::workbench::wish::Trend;

/// Columns left of the chart, for the scale.
const SCALE: u16 = 8;
/// Columns right of it, for the names.
const LEGEND: u16 = 27;

/// The part of the drawer's list the chart itself takes.
fn plot(area: Rect) -> Rect {
    let legend = if area.width > 70 { LEGEND } else { 0 };
    Rect {
        x: area.x + SCALE,
        y: area.y + 1,
        width: area.width.saturating_sub(SCALE + legend),
        height: area.height.saturating_sub(3),
    }
}

/// The column of the chart, from 0, in which a share of its width is drawn: of two dots a column the nearer.
fn column_of(share: f64, columns: u16) -> u16 {
    let dots = f64::from(columns) * 2.0 - 1.0;
    (share.clamp(0.0, 1.0) * dots).round() as u16 / 2
}

fn chart_of(app: &App) -> Option<&Chart> {
    app.snapshot.answer.own::<Drawn>().map(|drawn| &drawn.chart)
}

/// The share of the chart's width in the middle of a column.
fn share_of(column: u16, columns: u16) -> f64 {
    ((f64::from(column) * 2.0 + 0.5) / (f64::from(columns) * 2.0 - 1.0)).min(1.0)
}

/// The tick a column of the chart stands for; none outside, or if time is not drawn across.
pub fn tick_at(app: &App, area: Rect, x: u16) -> Option<u64> {
    let chart = chart_of(app)?;
    chart.now?;
    let plot = plot(area);
    if x < plot.x || x >= plot.right() {
        return None;
    }
    let rate = app.snapshot.cast.as_ref()?.rate;
    let (from, to) = chart.span;
    let tick = (from + share_of(x - plot.x, plot.width) * (to - from)) * rate;
    Some((tick.round() as u64).min(app.snapshot.travel.head))
}

/// How many ticks a column of the chart stands for, at least one; none if time is not drawn across.
pub fn ticks_per_column(app: &App, area: Rect) -> Option<i64> {
    let chart = chart_of(app)?;
    chart.now?;
    let ticks = (chart.span.1 - chart.span.0) * app.snapshot.cast.as_ref()?.rate;
    Some(((ticks / (f64::from(plot(area).width) - 0.5)).round() as i64).max(1))
}

/// The style and the mark of a series: told apart without colour, too.
fn style_of(app: &App, series: &TrendSeries, at: usize, palette: &Palette) -> Style {
    if let Some(number) = series.past {
        let newest = newest_past(app) == Some(number);
        // Among several each has its own colour; the run before is always drawn as elsewhere.
        let style = palette.kind(None, number as usize * 3 + 1);
        return if newest { palette.style(Role::Ghost) } else { style };
    }
    let cast = app.snapshot.cast.as_ref();
    let kind = series.kind.as_deref().and_then(|name| {
        let id = cast?.kind_named(name)?;
        let look = &cast?.kinds[id.index()].look;
        Some(palette.kind(look.colour.as_deref(), id.index()))
    });
    // A cause and a state have the same colour everywhere.
    let cause = Cause::ALL.iter().position(|cause| cause.name() == series.name);
    let state = || {
        let (_, state) = series.name.rsplit_once(' ')?;
        Some(cast?.state_place(state))
    };
    let place = match app.drawer.trend {
        Trend::Causes => cause,
        Trend::States => state(),
        _ => None,
    };
    if let Some(place) = place {
        return palette.kind(None, place + 1);
    }
    // Several lines of one kind must differ.
    let alone = matches!(app.drawer.trend, Trend::Counts | Trend::Lives);
    kind.filter(|_| alone).unwrap_or_else(|| palette.kind(None, at + 1))
}

/// The number of the run before, if it is drawn.
fn newest_past(app: &App) -> Option<u64> {
    let chart = chart_of(app)?;
    chart.series.iter().filter_map(|s| s.past).max()
}

/// Draws the chart the drawer wishes for.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let Some(chart) = chart_of(app) else { return };
    if area.height < 4 || area.width < 30 {
        return;
    }
    let free = head(app, chart, area, cells, palette);
    let width = usize::from(area.width);
    if chart.series.is_empty() {
        let words = chart.remark.as_deref().unwrap_or("");
        cells.set_stringn(area.x, area.y + 1, words, width, palette.style(Role::Faint));
        return;
    }
    let plot = plot(area);
    let (low, high) = chart.range;
    let rate = app.snapshot.cast.as_ref().map_or(60.0, |cast| cast.rate);
    let mark = app.drawer.mark.filter(|_| chart.now.is_some()).map(|mark| mark as f64 / rate);
    let faint = palette.style(Role::Faint);
    let marks = marks(app, chart, rate);
    Canvas::default()
        .marker(Marker::Braille)
        .x_bounds([chart.span.0, chart.span.1])
        .y_bounds([low, high])
        .paint(|canvas| {
            if let Some(mark) = mark {
                let colour = palette.style(Role::Caution).fg.unwrap_or_default();
                canvas.draw(&Line::new(mark, low, mark, high, colour));
            }
            for (at, _, role) in &marks {
                let colour = palette.style(*role).fg.unwrap_or_default();
                canvas.draw(&Points::new(&dotted(*at, (low, high)), colour));
            }
            if let Some(now) = chart.now {
                let line = Line::new(now, low, now, high, faint.fg.unwrap_or_default());
                canvas.draw(&line);
            }
            canvas.layer();
            for (at, series) in chart.series.iter().enumerate() {
                let colour = style_of(app, series, at, palette).fg.unwrap_or_default();
                if let [only] = series.points[..] {
                    canvas.draw(&Points::new(&[only], colour));
                }
                // From the least to the most of a column: who is away for a moment is seen to be.
                let mut lows = series.lows.iter().peekable();
                for (x, high) in &series.points {
                    if let Some((_, low)) = lows.next_if(|low| low.0 == *x) {
                        canvas.draw(&Line::new(*x, *low, *x, *high, colour));
                    }
                }
                for pair in series.points.windows(2) {
                    let ((x1, y1), (x2, y2)) = (pair[0], pair[1]);
                    canvas.draw(&Line::new(x1, y1, x2, y2, colour));
                }
            }
        })
        .render(plot, cells);
    scale(chart, plot, cells, palette);
    for (at, sign, role) in marks {
        let share = (at - chart.span.0) / (chart.span.1 - chart.span.0).max(1e-9);
        let x = plot.x + column_of(share, plot.width);
        // The line is enough where the head has words.
        let cell = cells.cell_mut((x, area.y)).filter(|cell| x > free && cell.symbol() == " ");
        if let Some(cell) = cell {
            cell.set_symbol(sign).set_style(palette.style(role));
        }
    }
    here(app, Rect { y: plot.bottom() + 1, height: 1, ..area }, cells, palette);
    names(app, chart, area, plot, cells, palette);
}

/// What happened to the run in the seconds that are drawn, as on the time strip: waves, edits, expectations that broke.
fn marks(app: &App, chart: &Chart, rate: f64) -> Vec<(f64, &'static str, Role)> {
    if chart.now.is_none() {
        return Vec::new();
    }
    let waves = chart.waves.iter().map(|at| (*at, "w", Role::Key));
    let seconds = |tick: u64| tick as f64 / rate;
    let edits = app.snapshot.strip.edits.iter().map(|tick| (seconds(*tick), "e", Role::Caution));
    let broken = app.snapshot.checks.iter().filter_map(|check| check.failed);
    let broken = broken.map(|tick| (seconds(tick), "!", Role::Trouble));
    let (from, to) = chart.span;
    // What matters most is put first: a sign that stands is not written over.
    let mut all: Vec<_> = broken.chain(edits).chain(waves).collect();
    all.retain(|(at, ..)| (from..=to).contains(at));
    all
}

/// The points of an upright line of dots, so that curves are told from it.
fn dotted(at: f64, (low, high): (f64, f64)) -> Vec<(f64, f64)> {
    (0..=12).map(|step| (at, low + (high - low) * f64::from(step) / 12.0)).collect()
}

/// What is drawn, how to get to the others, and what has changed since the run before; the column behind its words.
fn head(app: &App, chart: &Chart, area: Rect, cells: &mut Cells, palette: &Palette) -> u16 {
    let title = format!("◂ {} ▸  {}", app.drawer.trend.name(), chart.upright);
    let width = usize::from(area.width);
    let end = cells.set_stringn(area.x, area.y, &title, width, palette.style(Role::Strong)).0;
    let changes = &app.snapshot.answer.changes;
    let words = match (chart.remark.as_ref(), changes.first()) {
        (Some(remark), _) if !chart.series.is_empty() => remark.clone(),
        (_, Some(_)) => format!("since the run before: {}", changes.join("; ")),
        _ => return end,
    };
    let start = title.chars().count() + 3;
    if start >= width {
        return end;
    }
    let (x, room) = (area.x + start as u16, width - start);
    cells.set_stringn(x, area.y, fitted(&words, room), room, palette.style(Role::Caution)).0
}

fn scale(chart: &Chart, plot: Rect, cells: &mut Cells, palette: &Palette) {
    let style = palette.style(Role::Faint);
    let (low, high) = chart.range;
    for (y, value) in [(plot.y, high), (plot.bottom() - 1, low)] {
        let text = format!("{:>7}", number(value));
        cells.set_stringn(plot.x - SCALE, y, text, 7, style);
    }
    if plot.height >= 5 {
        let middle = format!("{:>7}", number((low + high) / 2.0));
        cells.set_stringn(plot.x - SCALE, plot.y + (plot.height - 1) / 2, middle, 7, style);
    }
    let y = plot.bottom();
    let (first, last) = chart.span;
    let begin = if first == 0.0 { "0".to_string() } else { format!("{first:.2}") };
    cells.set_string(plot.x, y, begin, style);
    let end = format!("{last:.1}");
    cells.set_string(plot.right().saturating_sub(end.len() as u16), y, &end, style);
    let x = plot.x + plot.width / 2;
    let across = &chart.across;
    cells.set_string(x.saturating_sub(across.len() as u16 / 2), y, across, style);
    if let Some(now) = chart.now {
        let share = ((now - first) / (last - first).max(1e-9)).clamp(0.0, 1.0);
        let x = plot.x + column_of(share, plot.width);
        // Near the right end the time that is drawn to gives way to the present one.
        let near_end = x + end.len() as u16 + 1 >= plot.right();
        let text = format!("{}▴", if near_end { format!("{now:.1} ") } else { String::new() });
        let start = (x + 1).saturating_sub(text.chars().count() as u16);
        if near_end {
            let blank = " ".repeat(end.len());
            cells.set_string(plot.right().saturating_sub(end.len() as u16), y, blank, style);
        }
        cells.set_string(start, y, &text, palette.style(Role::Cursor));
    }
}

/// What was born and ended where the cursor is, and by which lines.
fn here(app: &App, row: Rect, cells: &mut Cells, palette: &Palette) {
    let Some(Drawn { here, .. }) = app.snapshot.answer.own() else { return };
    let rate = app.snapshot.cast.as_ref().map(|p| p.rate);
    let (Some(rate), (from, until)) = (rate, here.ticks) else { return };
    if until <= from {
        return;
    }
    let seconds = |tick: u64| tick as f64 / rate;
    let when = match until - from {
        1 => format!("at {:.2} s: ", seconds(from)),
        _ => format!("from {:.2} to {:.2} s: ", seconds(from), seconds(until)),
    };
    let (mut x, end) = (row.x, row.right());
    let mut put = |words: &str, style: Style| {
        let room = usize::from(end.saturating_sub(x));
        x = cells.set_stringn(x, row.y, words, room, style).0;
    };
    put(&when, palette.style(Role::Faint));
    if here.lines.is_empty() {
        put("nothing was born, nothing ended", palette.style(Role::Faint));
    }
    for line in &here.lines {
        let (sign, what, role) = match line.cause {
            None => ('+', String::new(), Role::Birth),
            Some(cause) => ('−', format!(" by {}", cause.name()), Role::End),
        };
        put(&format!("{sign}{} {}{what}", line.count, line.kind), palette.style(role));
        let place = line.line.map_or(String::new(), |line| format!(" line {line}"));
        put(&format!("{place}   "), palette.style(Role::Plain));
    }
}

/// The lines' names with their newest values, then the earlier runs that are drawn.
fn names(app: &App, chart: &Chart, area: Rect, plot: Rect, cells: &mut Cells, palette: &Palette) {
    if plot.right() + 2 >= area.right() {
        return;
    }
    let x = plot.right() + 2;
    let room = usize::from(area.right() - x);
    let before = chart.series.iter().filter(|s| s.past.is_some()).count();
    let own = chart.series.iter().enumerate().skip(before);
    let rows = usize::from(plot.height) + 1;
    let count = chart.series.len() - before;
    for (row, (at, series)) in own.enumerate().take(rows) {
        let y = area.y + 1 + row as u16;
        if row + 1 == rows && count > rows {
            let words = format!("… {} more: ↓ shows one", count - row);
            cells.set_stringn(x, y, words, room, palette.style(Role::Faint));
            break;
        }
        let text = format!("─ {:<15} {:>6}", fitted(&series.name, 15), number(series.last));
        cells.set_stringn(x, y, text, room, style_of(app, series, at, palette));
    }
    let mut runs: Vec<&TrendSeries> = chart.series[..before].iter().rev().collect();
    // With one line chosen each run has one value to tell.
    let alone = count == 1;
    runs.dedup_by_key(|s| s.past);
    let newest = newest_past(app);
    for (row, series) in (count..rows).zip(runs) {
        let number_of = series.past.unwrap_or(0);
        let name = match series.past == newest {
            true => "run before (o)".to_string(),
            false => format!("run {number_of}"),
        };
        let value = if alone { number(series.last) } else { String::new() };
        let text = format!("╌ {name:<15} {value:>6}");
        let style = style_of(app, series, 0, palette);
        cells.set_stringn(x, area.y + 1 + row as u16, text.trim_end(), room, style);
    }
}

fn number(value: f64) -> String {
    if value.abs() >= 1000.0 || value.fract().abs() < 1e-9 {
        format!("{value:.0}")
    } else {
        format!("{value:.2}")
    }
}
