//! How many of each kind live over time, and where they ended.

use tickpond_lab::counts::Counts;
use tickpond_lab::record::Series;
use tickpond_lab::{Run, Timeline};

use crate::drawing::{Anchor, Drawing, Type};
use crate::over_time::{Words, counts, draw_over_time};
use crate::pens::{GRID, pen_of};
use crate::plot::{HEIGHT, LABEL, LEFT, NOTE, Plot, STRONG, TOP, WIDTH, fitted};
use crate::wanted::Wanted;

const ROW: f64 = 30.0;

/// The chart.
///
/// Above, a line for each kind that was ever there: how many live at the end of each tick, over
/// seconds. Below, a row for each kind that was born or ended: a bar up where it ended, as high as the share of the
/// most that ended within one bar, and how many by which cause; a bar down where it was born, likewise. Series differ by colour, dashes and
/// marker. What it is compared with is drawn beneath, in grey and with the same dashes; both have one
/// scale. The cost grows with the ticks; the size of the drawing does not.
pub fn draw_counts(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let ticks = wanted.ticks(run.record());
    let ended =
        |series: &&Series| series.ended.sum(ticks.clone()) + series.born.sum(ticks.clone()) > 0;
    let kinds = run.record().kinds.iter().filter(|s| s.ever_lived() && wanted.has(&s.name));
    let ending: Vec<&Series> = kinds.filter(ended).collect();
    let room = if ending.is_empty() { 0.0 } else { 30.0 + ending.len() as f64 * ROW };
    let words = Words {
        what: "how many are alive",
        upright: "alive (entities)",
        legend: "kind (peak)",
        empty: "nothing was born in this run",
        whole: true,
    };
    let (mut page, plot) = draw_over_time(run, wanted, &words, counts, room);
    if !ending.is_empty() {
        ends(&mut page, &plot, run, &ending, ticks);
    }
    page
}

/// A row of bars for each kind that was born or ended, and its causes in words.
fn ends(
    page: &mut Drawing,
    plot: &Plot,
    run: &Run,
    ending: &[&Series],
    ticks: std::ops::Range<usize>,
) {
    let head = TOP + HEIGHT + 66.0;
    page.text((LEFT, head), Anchor::Start, STRONG, "Ends");
    page.text(
        (LEFT + 36.0, head),
        Anchor::Start,
        NOTE,
        "bars up: ends within that time, as a share of the most in the row; bars down: births, likewise",
    );
    for (row, series) in ending.iter().enumerate() {
        let base = head + 34.0 + row as f64 * ROW;
        page.text(
            (LEFT - 8.0, base),
            Anchor::End,
            LABEL,
            &fitted(&series.name, LEFT - 12.0, LABEL),
        );
        page.line((LEFT, base), (plot.right(), base), GRID, 1.0);
        bars(page, plot, series, base, &ticks, pen_of(run.cast(), &series.name).colour);
        let words = causes(series, &ticks);
        let x = plot.right() + 16.0;
        for (line, text) in words.iter().enumerate() {
            let y = base - 10.0 * (words.len() - 1 - line) as f64;
            let small = Type { size: 10.0, ..NOTE };
            page.text((x, y), Anchor::Start, small, &fitted(text, WIDTH - 8.0 - x, small));
        }
    }
}

fn bars(
    page: &mut Drawing,
    plot: &Plot,
    series: &Series,
    base: f64,
    ticks: &std::ops::Range<usize>,
    colour: &str,
) {
    let columns = (plot.width() / 3.0) as usize;
    let per_column = ticks.len().div_ceil(columns).max(1);
    let shares = |counts: &Counts| -> Vec<(usize, f64)> {
        let starts = ticks.clone().step_by(per_column);
        let sum = |start: usize| counts.sum(start..(start + per_column).min(ticks.end));
        let sums: Vec<(usize, u64)> = starts.map(|start| (start, sum(start))).collect();
        let most = sums.iter().map(|(_, sum)| *sum).max().unwrap_or(1).max(1);
        let some = sums.into_iter().filter(|(_, sum)| *sum > 0);
        some.map(|(start, sum)| (start, sum as f64 / most as f64)).collect()
    };
    for (start, share) in shares(&series.ended) {
        let height = 4.0 + 14.0 * share;
        page.rect(plot.x(start as f64), base - height, 2.0, height, colour);
    }
    for (start, share) in shares(&series.born) {
        page.shade((plot.x(start as f64), base + 1.0), (2.0, 2.0 + 4.0 * share), colour, 0.55);
    }
}

/// How many by which cause within these ticks, most first, on up to three lines; what finds no room is counted.
fn causes(series: &Series, ticks: &std::ops::Range<usize>) -> Vec<String> {
    let mut counts = series.ends_within(ticks);
    counts.sort_by_key(|(name, count)| (std::cmp::Reverse(*count), *name));
    let words: Vec<String> = counts.iter().map(|(name, count)| format!("{count} {name}")).collect();
    let mut lines: Vec<String> = words.chunks(2).map(|pair| pair.join(", ")).collect();
    if lines.len() > 3 {
        lines.truncate(2);
        let rest: u64 = counts[4..].iter().map(|(_, count)| count).sum();
        lines.push(format!("{rest} by {} more", counts.len() - 4));
    }
    lines
}
