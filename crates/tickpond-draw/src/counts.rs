//! How many of each kind live over time, and where they ended.

use tickpond_lab::Run;
use tickpond_lab::record::Series;

use crate::axis::{plain, round_values};
use crate::drawing::{Anchor, Drawing, Step, Type};

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
    dashes: &'static [f64],
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
    Pen { colour: "#0f7c80", dashes: &[], marker: Marker::Disc },
    Pen { colour: "#2f5fb3", dashes: &[7.0, 3.0], marker: Marker::Square },
    Pen { colour: "#5b7f16", dashes: &[2.0, 2.0], marker: Marker::Triangle },
    Pen { colour: "#b0305c", dashes: &[10.0, 3.0, 2.0, 3.0], marker: Marker::Diamond },
    Pen { colour: "#a86400", dashes: &[5.0, 2.0, 5.0, 2.0, 1.0, 2.0], marker: Marker::Cross },
    Pen { colour: "#6b4ba3", dashes: &[1.0, 3.0], marker: Marker::Ring },
];

fn pen(at: usize) -> &'static Pen {
    &PENS[at % PENS.len()]
}

const TITLE: Type = Type { size: 18.0, bold: true, colour: INK };
const NOTE: Type = Type { size: 11.0, bold: false, colour: FAINT };
const LABEL: Type = Type { size: 12.0, bold: false, colour: INK };
const STRONG: Type = Type { size: 12.0, bold: true, colour: INK };

/// The chart.
///
/// Above, a line for each kind that was ever there: how many live at the end of each tick, over
/// seconds. Below, a row for each kind that ended: a bar where it did, as high as the share of the
/// most that ended within one bar, and how many by which cause. Series differ by colour, dashes and
/// marker. With `beside` the run before the last edit is drawn beneath, in grey and with the same dashes; both have one
/// scale. The cost grows with the ticks; the size of the drawing does not.
pub fn draw_counts(run: &Run, beside: bool) -> Drawing {
    let program = run.program();
    let record = run.record();
    let shown: Vec<(usize, &Series)> =
        record.kinds.iter().enumerate().filter(|(_, s)| s.born.iter().any(|n| *n > 0)).collect();
    let ending: Vec<(usize, &Series)> =
        shown.iter().filter(|(_, s)| !s.lives.is_empty()).copied().collect();
    let rows = ending.len() as f64;
    let height = TOP + PLOT_HEIGHT + 58.0 + if rows > 0.0 { 30.0 + rows * ROW } else { 0.0 } + 16.0;
    let title = format!("{}: how many are alive", program.title);
    let mut page = Drawing::new(WIDTH, height, title.as_str());
    page.rect(0.0, 0.0, WIDTH, height, "#ffffff");

    let before = run.past().filter(|_| beside).map(|past| &past.record);
    let of_before = |series: &Series| before?.kinds.iter().find(|s| s.name == series.name);
    let length = before.map_or(0, |before| before.len).max(record.len);
    let ticks = (length.max(2) - 1) as f64;
    let seconds = ticks / program.rate;
    page.text((LEFT, 32.0), Anchor::Start, TITLE, &title);
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
    page.text((LEFT, 52.0), Anchor::Start, NOTE, &note);

    let most = |series: &Series| series.live.peak(0..series.live.len());
    let peaks = shown.iter().map(|(_, s)| most(s).max(of_before(s).map_or(0, most)));
    let most = peaks.max().unwrap_or(0);
    let marks = round_values(f64::from(most), 6, true);
    let plot = Plot { ticks, top_value: marks.last().copied().unwrap_or(1.0) };
    value_axis(&mut page, &plot, &marks);
    time_axis(&mut page, &plot, program.rate, seconds);
    for (order, (_, series)) in shown.iter().enumerate() {
        if let Some(before) = of_before(series) {
            curve(&mut page, &plot, before, &Pen { colour: GREY, ..*pen(order) });
        }
    }
    for (order, (_, series)) in shown.iter().enumerate() {
        curve(&mut page, &plot, series, pen(order));
    }
    legend(&mut page, &plot, &shown);
    if shown.is_empty() {
        let middle = (LEFT + plot.width() / 2.0, TOP + PLOT_HEIGHT / 2.0);
        page.text(middle, Anchor::Middle, LABEL, "nothing was born in this run");
    }
    let pens: Vec<usize> =
        ending.iter().map(|(at, _)| shown.iter().position(|(s, _)| s == at).unwrap_or(0)).collect();
    ends(&mut page, &plot, &ending, &pens);
    page
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

fn value_axis(page: &mut Drawing, plot: &Plot, marks: &[f64]) {
    for mark in marks {
        let y = plot.y(*mark);
        page.line((LEFT, y), (LEFT + plot.width(), y), GRID, 1.0);
        page.text((LEFT - 8.0, y + 4.0), Anchor::End, LABEL, &plain(*mark));
    }
    page.text((LEFT, TOP - 8.0), Anchor::Start, NOTE, "alive (entities)");
}

fn time_axis(page: &mut Drawing, plot: &Plot, rate: f64, seconds: f64) {
    let base = TOP + PLOT_HEIGHT;
    page.line((LEFT, base), (LEFT + plot.width(), base), INK, 1.2);
    for mark in round_values(seconds, 8, false) {
        let x = plot.x(mark * rate);
        if x > LEFT + plot.width() + 0.5 {
            break;
        }
        page.line((x, base), (x, base + 5.0), INK, 1.2);
        page.text((x, base + 19.0), Anchor::Middle, LABEL, &plain(mark));
    }
    let middle = LEFT + plot.width() / 2.0;
    page.text((middle, base + 38.0), Anchor::Middle, NOTE, "time (s)");
}

/// Steps of the curve, at most two a pixel column: its lowest and highest value there.
fn curve(page: &mut Drawing, plot: &Plot, series: &Series, pen: &Pen) {
    let columns = plot.width() as usize;
    let per_column = series.live.len().div_ceil(columns).max(1);
    let mut steps = Vec::new();
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
            let (x, y) = (plot.x(start as f64), plot.y(f64::from(value)));
            // A count changes at once: sideways first, then up or down.
            match last {
                None => steps.push(Step::Move(x, y)),
                Some(_) => steps.extend([Step::Across(x), Step::Along(y)]),
            }
            last = Some(value);
        }
    }
    // A line ends where its run does.
    steps.push(Step::Across(plot.x(series.live.len().max(1) as f64 - 1.0)));
    page.path(steps, pen.colour, 1.8, pen.dashes);
    for share in [0.12, 0.37, 0.62, 0.87] {
        let tick = (plot.ticks * share) as usize;
        if let Some(value) = series.live.get(tick) {
            marker(page, (plot.x(tick as f64), plot.y(f64::from(*value))), pen);
        }
    }
}

fn marker(page: &mut Drawing, (x, y): (f64, f64), pen: &Pen) {
    let r = 3.6;
    let (left, top, right, base) = (x - r, y - r, x + r, y + r);
    match pen.marker {
        Marker::Disc => page.dot(x, y, r, pen.colour),
        Marker::Square => page.rect(left, top, 2.0 * r, 2.0 * r, pen.colour),
        Marker::Triangle => {
            let steps =
                vec![Step::Move(x, top), Step::Line(right, base), Step::Across(left), Step::Close];
            page.shape(steps, pen.colour);
        }
        Marker::Diamond => {
            let steps = vec![
                Step::Move(x, top),
                Step::Line(right, y),
                Step::Line(x, base),
                Step::Line(left, y),
                Step::Close,
            ];
            page.shape(steps, pen.colour);
        }
        Marker::Cross => {
            let steps = vec![
                Step::Move(left, top),
                Step::Line(right, base),
                Step::Move(right, top),
                Step::Line(left, base),
            ];
            page.path(steps, pen.colour, 1.6, &[]);
        }
        Marker::Ring => page.ring(x, y, r, pen.colour, 1.4),
    }
}

/// Names at the right, each beside a piece of its line, with its peak.
fn legend(page: &mut Drawing, plot: &Plot, shown: &[(usize, &Series)]) {
    let x = LEFT + plot.width() + 16.0;
    page.text((x, TOP - 8.0), Anchor::Start, NOTE, "kind (peak)");
    for (order, (_, series)) in shown.iter().enumerate() {
        let y = TOP + 12.0 + order as f64 * 20.0;
        let pen = pen(order);
        let steps = vec![Step::Move(x, y - 4.0), Step::Across(x + 30.0)];
        page.path(steps, pen.colour, 1.8, pen.dashes);
        marker(page, (x + 15.0, y - 4.0), pen);
        let peak = series.live.iter().max().copied().unwrap_or(0);
        page.text((x + 38.0, y), Anchor::Start, LABEL, &format!("{} ({peak})", series.name));
    }
}

/// A row of bars for each kind that ended, and its causes in words.
fn ends(page: &mut Drawing, plot: &Plot, ending: &[(usize, &Series)], pens: &[usize]) {
    if ending.is_empty() {
        return;
    }
    let head = TOP + PLOT_HEIGHT + 66.0;
    page.text((LEFT, head), Anchor::Start, STRONG, "Ends");
    page.text(
        (LEFT + 36.0, head),
        Anchor::Start,
        NOTE,
        "each bar: ends within that time, as a share of the most in its row",
    );
    for (row, ((_, series), order)) in ending.iter().zip(pens).enumerate() {
        let base = head + 34.0 + row as f64 * ROW;
        page.text((LEFT - 8.0, base), Anchor::End, LABEL, &series.name);
        page.line((LEFT, base), (LEFT + plot.width(), base), GRID, 1.0);
        bars(page, plot, series, base, pen(*order).colour);
        let words = causes(series);
        let x = LEFT + plot.width() + 16.0;
        for (line, text) in words.iter().enumerate() {
            let y = base - 10.0 * (words.len() - 1 - line) as f64;
            page.text((x, y), Anchor::Start, Type { size: 10.0, ..NOTE }, text);
        }
    }
}

fn bars(page: &mut Drawing, plot: &Plot, series: &Series, base: f64, colour: &str) {
    let columns = (plot.width() / 3.0) as usize;
    let per_column = series.ended.len().div_ceil(columns).max(1);
    let sums: Vec<u32> = series.ended.chunks(per_column).map(|c| c.iter().sum()).collect();
    let most = sums.iter().max().copied().unwrap_or(1).max(1);
    for (column, sum) in sums.iter().enumerate().filter(|(_, sum)| **sum > 0) {
        let x = plot.x((column * per_column) as f64);
        let height = 4.0 + 14.0 * f64::from(*sum) / f64::from(most);
        page.rect(x, base - height, 2.0, height, colour);
    }
}

/// How many by which cause, most first, on one or two lines.
fn causes(series: &Series) -> Vec<String> {
    let mut counts = series.ends();
    counts.sort_by_key(|(name, count)| (std::cmp::Reverse(*count), *name));
    let words: Vec<String> = counts.iter().map(|(name, count)| format!("{count} {name}")).collect();
    words.chunks(2).map(|pair| pair.join(", ")).take(3).collect()
}
