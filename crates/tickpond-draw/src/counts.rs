//! How many of each kind live over time, and where they ended.

use std::fmt::Write;

use tickpond_lab::Run;
use tickpond_lab::record::Series;

use crate::axis::{plain, round_values};
use crate::svg::{Anchor, Svg, Type, at};

const WIDTH: f64 = 900.0;
const LEFT: f64 = 64.0;
const RIGHT: f64 = 150.0;
const TOP: f64 = 86.0;
const PLOT_HEIGHT: f64 = 300.0;
const ROW: f64 = 30.0;

const INK: &str = "#1c2526";
const FAINT: &str = "#5d6b6c";
const GRID: &str = "#dfe5e5";
const GREY: &str = "#a3adad";

/// Colour, dashes and marker of a series: each alone tells them apart.
struct Pen {
    colour: &'static str,
    dashes: &'static str,
    marker: Marker,
}

#[derive(Clone, Copy)]
enum Marker {
    Disc,
    Square,
    Triangle,
    Diamond,
    Cross,
    Ring,
}

const PENS: &[Pen] = &[
    Pen { colour: "#0f7c80", dashes: "", marker: Marker::Disc },
    Pen { colour: "#2f5fb3", dashes: "7 3", marker: Marker::Square },
    Pen { colour: "#5b7f16", dashes: "2 2", marker: Marker::Triangle },
    Pen { colour: "#b0305c", dashes: "10 3 2 3", marker: Marker::Diamond },
    Pen { colour: "#a86400", dashes: "5 2 5 2 1 2", marker: Marker::Cross },
    Pen { colour: "#6b4ba3", dashes: "1 3", marker: Marker::Ring },
];

fn pen(at: usize) -> &'static Pen {
    &PENS[at % PENS.len()]
}

const TITLE: Type = Type { size: 18.0, bold: true, colour: INK };
const NOTE: Type = Type { size: 11.0, bold: false, colour: FAINT };
const LABEL: Type = Type { size: 12.0, bold: false, colour: INK };
const STRONG: Type = Type { size: 12.0, bold: true, colour: INK };

/// The chart as an SVG document.
///
/// Above, a line for each kind that was ever there: how many live at the end of each tick, over
/// seconds. Below, a row for each kind that ended: a bar where it did, as high as the share of the
/// most that ended within one bar, and how many by which cause. Series differ by colour, dashes and
/// marker. With `beside` the run before the last edit is drawn beneath, in grey and with the same dashes; both have one
/// scale. The cost grows with the ticks; the size of the drawing does not.
pub fn draw_counts(run: &Run, beside: bool) -> String {
    let program = run.program();
    let record = run.record();
    let shown: Vec<(usize, &Series)> =
        record.kinds.iter().enumerate().filter(|(_, s)| s.born.iter().any(|n| *n > 0)).collect();
    let ending: Vec<(usize, &Series)> =
        shown.iter().filter(|(_, s)| !s.lives.is_empty()).copied().collect();
    let rows = ending.len() as f64;
    let height = TOP + PLOT_HEIGHT + 58.0 + if rows > 0.0 { 30.0 + rows * ROW } else { 0.0 } + 16.0;
    let mut svg = Svg::new(WIDTH, height);
    svg.rect(0.0, 0.0, WIDTH, height, "#ffffff");

    let before = run.past().filter(|_| beside).map(|past| &past.record);
    let of_before = |series: &Series| before?.kinds.iter().find(|s| s.name == series.name);
    let length = before.map_or(0, |before| before.len).max(record.len);
    let ticks = (length.max(2) - 1) as f64;
    let seconds = ticks / program.rate;
    let title = format!("{}: how many are alive", program.title);
    svg.text((LEFT, 32.0), Anchor::Start, TITLE, &title);
    let note = format!(
        "seed {}, {} ticks at {} per s, {} s",
        run.state().seed,
        record.len - 1,
        plain(program.rate),
        plain((record.len.max(1) - 1) as f64 / program.rate)
    );
    let note = match before {
        Some(before) => {
            let seconds = plain((before.len.max(1) - 1) as f64 / program.rate);
            format!("{note}; grey: the run before, {seconds} s")
        }
        None => note,
    };
    svg.text((LEFT, 52.0), Anchor::Start, NOTE, &note);

    let most = |series: &Series| series.live.peak(0..series.live.len());
    let peaks = shown.iter().map(|(_, s)| most(s).max(of_before(s).map_or(0, most)));
    let most = peaks.max().unwrap_or(0);
    let marks = round_values(f64::from(most), 6, true);
    let plot = Plot { ticks, top_value: marks.last().copied().unwrap_or(1.0) };
    value_axis(&mut svg, &plot, &marks);
    time_axis(&mut svg, &plot, program.rate, seconds);
    for (order, (_, series)) in shown.iter().enumerate() {
        if let Some(before) = of_before(series) {
            curve(&mut svg, &plot, before, &Pen { colour: GREY, ..*pen(order) });
        }
    }
    for (order, (_, series)) in shown.iter().enumerate() {
        curve(&mut svg, &plot, series, pen(order));
    }
    legend(&mut svg, &plot, &shown);
    if shown.is_empty() {
        let middle = (LEFT + plot.width() / 2.0, TOP + PLOT_HEIGHT / 2.0);
        svg.text(middle, Anchor::Middle, LABEL, "nothing was born in this run");
    }
    let pens: Vec<usize> =
        ending.iter().map(|(at, _)| shown.iter().position(|(s, _)| s == at).unwrap_or(0)).collect();
    ends(&mut svg, &plot, &ending, &pens);
    svg.finish(&title)
}

/// Where the curves are drawn.
struct Plot {
    ticks: f64,
    top_value: f64,
}

impl Plot {
    fn width(&self) -> f64 {
        WIDTH - LEFT - RIGHT
    }

    fn x(&self, tick: f64) -> f64 {
        LEFT + tick / self.ticks * self.width()
    }

    fn y(&self, value: f64) -> f64 {
        TOP + PLOT_HEIGHT * (1.0 - value / self.top_value)
    }
}

fn value_axis(svg: &mut Svg, plot: &Plot, marks: &[f64]) {
    for mark in marks {
        let y = plot.y(*mark);
        svg.line((LEFT, y), (LEFT + plot.width(), y), GRID, 1.0);
        svg.text((LEFT - 8.0, y + 4.0), Anchor::End, LABEL, &plain(*mark));
    }
    svg.text((LEFT, TOP - 8.0), Anchor::Start, NOTE, "alive (entities)");
}

fn time_axis(svg: &mut Svg, plot: &Plot, rate: f64, seconds: f64) {
    let base = TOP + PLOT_HEIGHT;
    svg.line((LEFT, base), (LEFT + plot.width(), base), INK, 1.2);
    for mark in round_values(seconds, 8, false) {
        let x = plot.x(mark * rate);
        if x > LEFT + plot.width() + 0.5 {
            break;
        }
        svg.line((x, base), (x, base + 5.0), INK, 1.2);
        svg.text((x, base + 19.0), Anchor::Middle, LABEL, &plain(mark));
    }
    let middle = LEFT + plot.width() / 2.0;
    svg.text((middle, base + 38.0), Anchor::Middle, NOTE, "time (s)");
}

/// Steps of the curve, at most two a pixel column: its lowest and highest value there.
fn curve(svg: &mut Svg, plot: &Plot, series: &Series, pen: &Pen) {
    let columns = plot.width() as usize;
    let per_column = series.live.len().div_ceil(columns).max(1);
    let mut data = String::new();
    let mut last = None;
    for (column, values) in series.live.chunks(per_column).enumerate() {
        let start = column * per_column;
        let (low, high) = (values.iter().min().copied(), values.iter().max().copied());
        let (Some(low), Some(high)) = (low, high) else { continue };
        let first_low = last.is_none_or(|last| last <= low);
        let pair = if first_low { [low, high] } else { [high, low] };
        for value in pair {
            if last == Some(value) {
                continue;
            }
            let (x, y) = (at(plot.x(start as f64)), at(plot.y(f64::from(value))));
            // A count changes at once: sideways first, then up or down.
            let _ = match last {
                None => write!(data, "M{x} {y}"),
                Some(_) => write!(data, "H{x}V{y}"),
            };
            last = Some(value);
        }
    }
    // A line ends where its run does.
    let _ = write!(data, "H{}", at(plot.x(series.live.len().max(1) as f64 - 1.0)));
    svg.path(&data, pen.colour, 1.8, pen.dashes);
    for share in [0.12, 0.37, 0.62, 0.87] {
        let tick = (plot.ticks * share) as usize;
        if let Some(value) = series.live.get(tick) {
            marker(svg, (plot.x(tick as f64), plot.y(f64::from(*value))), pen);
        }
    }
}

fn marker(svg: &mut Svg, (x, y): (f64, f64), pen: &Pen) {
    let r = 3.6;
    let [l, t, right, b] = [x - r, y - r, x + r, y + r].map(at);
    let (cx, cy) = (at(x), at(y));
    let round = |r: f64| {
        let (l, d) = (at(x - r), at(2.0 * r));
        let r = at(r);
        format!("M{l} {cy}a{r} {r} 0 1 0 {d} 0a{r} {r} 0 1 0 -{d} 0Z")
    };
    match pen.marker {
        Marker::Disc => svg.shape(&round(r), pen.colour),
        Marker::Square => svg.shape(&format!("M{l} {t}H{right}V{b}H{l}Z"), pen.colour),
        Marker::Triangle => svg.shape(&format!("M{cx} {t}L{right} {b}H{l}Z"), pen.colour),
        Marker::Diamond => {
            svg.shape(&format!("M{cx} {t}L{right} {cy}L{cx} {b}L{l} {cy}Z"), pen.colour);
        }
        Marker::Cross => {
            svg.path(&format!("M{l} {t}L{right} {b}M{right} {t}L{l} {b}"), pen.colour, 1.6, "");
        }
        Marker::Ring => svg.path(&round(r), pen.colour, 1.4, ""),
    }
}

/// Names at the right, each beside a piece of its line, with its peak.
fn legend(svg: &mut Svg, plot: &Plot, shown: &[(usize, &Series)]) {
    let x = LEFT + plot.width() + 16.0;
    svg.text((x, TOP - 8.0), Anchor::Start, NOTE, "kind (peak)");
    for (order, (_, series)) in shown.iter().enumerate() {
        let y = TOP + 12.0 + order as f64 * 20.0;
        let pen = pen(order);
        svg.path(
            &format!("M{} {}H{}", at(x), at(y - 4.0), at(x + 30.0)),
            pen.colour,
            1.8,
            pen.dashes,
        );
        marker(svg, (x + 15.0, y - 4.0), pen);
        let peak = series.live.iter().max().copied().unwrap_or(0);
        svg.text((x + 38.0, y), Anchor::Start, LABEL, &format!("{} ({peak})", series.name));
    }
}

/// A row of bars for each kind that ended, and its causes in words.
fn ends(svg: &mut Svg, plot: &Plot, ending: &[(usize, &Series)], pens: &[usize]) {
    if ending.is_empty() {
        return;
    }
    let head = TOP + PLOT_HEIGHT + 66.0;
    svg.text((LEFT, head), Anchor::Start, STRONG, "Ends");
    svg.text(
        (LEFT + 36.0, head),
        Anchor::Start,
        NOTE,
        "each bar: ends within that time, as a share of the most in its row",
    );
    for (row, ((_, series), order)) in ending.iter().zip(pens).enumerate() {
        let base = head + 34.0 + row as f64 * ROW;
        svg.text((LEFT - 8.0, base), Anchor::End, LABEL, &series.name);
        svg.line((LEFT, base), (LEFT + plot.width(), base), GRID, 1.0);
        bars(svg, plot, series, base, pen(*order).colour);
        let words = causes(series);
        let x = LEFT + plot.width() + 16.0;
        for (line, text) in words.iter().enumerate() {
            let y = base - 10.0 * (words.len() - 1 - line) as f64;
            svg.text((x, y), Anchor::Start, Type { size: 10.0, ..NOTE }, text);
        }
    }
}

fn bars(svg: &mut Svg, plot: &Plot, series: &Series, base: f64, colour: &str) {
    let columns = (plot.width() / 3.0) as usize;
    let per_column = series.ended.len().div_ceil(columns).max(1);
    let sums: Vec<u32> = series.ended.chunks(per_column).map(|c| c.iter().sum()).collect();
    let most = sums.iter().max().copied().unwrap_or(1).max(1);
    for (column, sum) in sums.iter().enumerate().filter(|(_, sum)| **sum > 0) {
        let x = plot.x((column * per_column) as f64);
        let height = 4.0 + 14.0 * f64::from(*sum) / f64::from(most);
        svg.rect(x, base - height, 2.0, height, colour);
    }
}

/// How many by which cause, most first, on one or two lines.
fn causes(series: &Series) -> Vec<String> {
    let mut counts = series.ends();
    counts.sort_by_key(|(name, count)| (std::cmp::Reverse(*count), *name));
    let words: Vec<String> = counts.iter().map(|(name, count)| format!("{count} {name}")).collect();
    words.chunks(2).map(|pair| pair.join(", ")).take(3).collect()
}
