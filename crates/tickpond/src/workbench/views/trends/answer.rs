//! The charts of the drawer: counts, births and ends, causes, states, watches, lengths of life.

use tickpond_lab::counts::Counts;
use tickpond_lab::record::{Record, Series};
use tickpond_lab::survival::survival;
use tickpond_lab::{Past, Timeline};
use tickpond_lang::program::Cause;

use super::here::{Here, here};
use crate::workbench::answer::Answer;
use crate::workbench::stretch::around;
use crate::workbench::views::Asking;
use crate::workbench::wish::{Trend, Wish};

/// One line of a chart.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct TrendSeries {
    pub name: String,
    /// The kind it is about, by name: it has that one's colour.
    pub kind: Option<String>,
    /// The number of the earlier run it is of; `None` for this run.
    pub past: Option<u64>,
    /// Seconds, and the most in the stretch of ticks from there on.
    pub points: Vec<(f64, f64)>,
    /// The least in each of these stretches, where that is another.
    pub lows: Vec<(f64, f64)>,
    /// The newest value.
    pub last: f64,
}

/// A chart as data.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Chart {
    /// What is drawn upwards, with its unit.
    pub upright: String,
    /// What is drawn to the right, with its unit.
    pub across: String,
    pub series: Vec<TrendSeries>,
    /// How many series of this run there are to choose from.
    pub names: usize,
    /// The first and the last second, or age, that is drawn.
    pub span: (f64, f64),
    /// The least and the most drawn upwards.
    pub range: (f64, f64),
    /// Where the present tick is, in seconds; for charts over time.
    pub now: Option<f64>,
    /// How many ticks a column stands for; for charts over time.
    pub per: Option<f64>,
    /// The seconds in which waves began, as many at most as there are points; for charts over time.
    pub waves: Vec<f64>,
    /// Why it is empty, or something to add.
    pub remark: Option<String>,
}

/// A chart, and what was born and ended where its cursor is.
pub struct Drawn {
    pub chart: Chart,
    pub here: Here,
}

/// Answers for the charts.
pub fn answer(asking: &mut Asking<'_>, answer: &mut Answer) {
    let chart = chart(asking.run, asking.wish);
    let from = (chart.span.0 * asking.run.cast().rate).round() as u64;
    let here = here(asking.run, from, chart.per.filter(|_| asking.stands));
    answer.give(Drawn { chart, here });
}

/// The chart a drawer wishes for.
fn chart(run: &dyn Timeline, wish: &Wish) -> Chart {
    let mut chart = match wish.trend {
        Trend::Counts => over_time(run, wish, "alive", counts),
        Trend::Rates => over_time(run, wish, "a second", rates),
        Trend::Causes => over_time(run, wish, "ended so far", causes),
        Trend::States => over_time(run, wish, "in the state", states),
        Trend::Watches => over_time(run, wish, "value", watches),
        Trend::Lives => lives(run, wish),
    };
    let names: Vec<String> =
        chart.series.iter().filter(|s| s.past.is_none()).map(|s| s.name.clone()).collect();
    chart.names = names.len();
    if wish.series > 0 && !names.is_empty() {
        let chosen = names[(wish.series - 1) % names.len()].clone();
        chart.series.retain(|s| s.name == chosen);
    }
    if chart.series.is_empty() {
        chart.remark = Some(empty(wish.trend).to_string());
    }
    let values = chart.series.iter().flat_map(|s| s.points.iter().chain(&s.lows).map(|p| p.1));
    let values = values.filter(|v| v.is_finite());
    let (low, high) = values.fold((0.0f64, 0.0f64), |(l, h), v| (l.min(v), h.max(v)));
    chart.range = (low, if high > low { high } else { low + 1.0 });
    chart
}

fn empty(trend: Trend) -> &'static str {
    match trend {
        Trend::States => "no kind here has states: `states { calm, scared }` in a kind",
        Trend::Watches => "nothing is watched: add a line `watch crowd = count(midge)`",
        Trend::Causes | Trend::Lives => "nobody has ended yet: play on",
        _ => "nobody was born yet: `place` something, and play",
    }
}

/// Numbers over time, and where they are kept.
enum Values<'a> {
    /// So many at the end of each tick.
    Counts(&'a Counts),
    /// How many in a second, of several series together; how many ticks a second has.
    Rate(Vec<&'a Counts>, usize),
    /// How many ends by a cause so far, of all kinds.
    Ends(&'a [Series], Cause),
    /// A watch.
    Watch(&'a [f64]),
}

impl Values<'_> {
    /// How many ticks are known.
    fn len(&self) -> usize {
        match self {
            Values::Counts(counts) => counts.len(),
            Values::Rate(counts, _) => counts.first().map_or(0, |c| c.len()),
            Values::Ends(kinds, _) => kinds.first().map_or(0, |s| s.live.len()),
            Values::Watch(values) => values.len(),
        }
    }

    /// The smallest value in a stretch of ticks, of what goes up and down in it.
    fn low(&self, from: usize, to: usize) -> Option<f64> {
        match self {
            Values::Counts(counts) => Some(f64::from(counts.low(from..to))),
            Values::Watch(values) => {
                values[from..to].iter().copied().filter(|v| v.is_finite()).reduce(f64::min)
            }
            Values::Rate(..) | Values::Ends(..) => None,
        }
    }

    /// The largest value in a stretch of ticks: a peak is never lost. A rate is that of the second up to
    /// the end of the stretch; of a longer stretch the mean.
    fn top(&self, from: usize, to: usize) -> Option<f64> {
        match self {
            Values::Counts(counts) => Some(f64::from(counts.peak(from..to))),
            Values::Rate(counts, second) => {
                let first = from.min(to.saturating_sub(*second));
                let sum: u64 = counts.iter().map(|c| c.sum(first..to)).sum();
                let seconds = ((to - first) as f64 / *second as f64).max(1.0);
                Some(sum as f64 / seconds)
            }
            Values::Ends(kinds, cause) => {
                Some(kinds.iter().map(|s| s.ended_by(*cause, to)).sum::<u64>() as f64)
            }
            Values::Watch(values) => {
                values[from..to].iter().copied().filter(|v| v.is_finite()).reduce(f64::max)
            }
        }
    }
}

/// A line of a chart: its name, the kind it is about, its numbers.
type Line<'a> = (String, Option<String>, Values<'a>);

/// The earlier runs that are drawn, the newest last.
fn pasts<'a>(run: &'a dyn Timeline, wish: &Wish) -> &'a [Past] {
    let pasts = run.pasts();
    &pasts[pasts.len().saturating_sub(wish.overlay)..]
}

fn over_time(
    run: &dyn Timeline,
    wish: &Wish,
    upright: &str,
    lines: for<'a> fn(&'a Record, f64) -> Vec<Line<'a>>,
) -> Chart {
    let rate = run.cast().rate;
    let pasts = pasts(run, wish);
    let all = pasts.iter().map(|p| p.record.len).fold(run.record().len, usize::max);
    let columns = wish.columns.clamp(10, 400) * 2;
    let (first, len) = match wish.stretch.map(|stretch| around(stretch, run.tick())) {
        Some((from, to)) => ((from as usize).min(all), (to as usize + 1).min(all)),
        None => (0, all),
    };
    let per = ((len - first.min(len)) as f64 / columns as f64).max(1.0);
    let mut series: Vec<TrendSeries> = Vec::new();
    // The runs before go beneath.
    let records = pasts.iter().map(|past| (&past.record, Some(past.number)));
    for (record, past) in records.chain([(run.record(), None)]) {
        for (name, kind, values) in lines(record, rate) {
            let (points, lows) = thinned(&values, (first, len), per, rate);
            let now = (run.tick() as usize).min(values.len().saturating_sub(1));
            let last = values.top(now, (now + 1).min(values.len())).unwrap_or(0.0);
            series.push(TrendSeries { name, kind, past, points, lows, last });
        }
    }
    // One for each point of the chart in which any began.
    let begun = &run.record().waves;
    let points = (0..columns).map(|at| {
        let begin = |at: usize| first + (at as f64 * per) as usize;
        begin(at).min(len)..begin(at + 1).min(len)
    });
    let waves = points.filter(|ticks| begun.sum(ticks.clone()) > 0);
    let first_of = |ticks: std::ops::Range<usize>| {
        let tick = ticks.clone().find(|tick| begun.sum(*tick..tick + 1) > 0);
        tick.unwrap_or(ticks.start) as f64 / rate
    };
    let waves = waves.map(first_of).collect();
    Chart {
        waves,
        upright: upright.to_string(),
        across: "time (s)".into(),
        series,
        names: 0,
        span: (first as f64 / rate, len as f64 / rate),
        range: (0.0, 1.0),
        now: Some(run.tick() as f64 / rate),
        per: Some(per),
        remark: None,
    }
}

/// A point.
type Point = (f64, f64);

/// One point for each column of so many ticks of a stretch, the most in it; and the least where that is another.
fn thinned(
    values: &Values<'_>,
    (first, end): (usize, usize),
    per: f64,
    rate: f64,
) -> (Vec<Point>, Vec<Point>) {
    let (mut points, mut lows) = (Vec::new(), Vec::new());
    let mut column = 0;
    loop {
        let from = first + (column as f64 * per) as usize;
        let to = (first + ((column + 1) as f64 * per) as usize).min(values.len()).min(end);
        if from >= to {
            return (points, lows);
        }
        if let Some(value) = values.top(from, to) {
            points.push((from as f64 / rate, value));
            if let Some(low) = values.low(from, to).filter(|low| *low < value) {
                lows.push((from as f64 / rate, low));
            }
        }
        column += 1;
    }
}

fn lived(series: &&Series) -> bool {
    series.ever_lived()
}

fn counts(record: &Record, _: f64) -> Vec<Line<'_>> {
    let kinds = record.kinds.iter().filter(lived);
    kinds.map(|s| (s.name.clone(), Some(s.name.clone()), Values::Counts(&s.live))).collect()
}

fn rates(record: &Record, rate: f64) -> Vec<Line<'_>> {
    let second = (rate.round() as usize).max(1);
    if !record.kinds.iter().any(|s| lived(&s)) {
        return Vec::new();
    }
    let born = record.kinds.iter().map(|s| &s.born).collect();
    let ended = record.kinds.iter().map(|s| &s.ended).collect();
    let mut lines = vec![
        ("born".to_string(), None, Values::Rate(born, second)),
        ("ended".to_string(), None, Values::Rate(ended, second)),
    ];
    for series in record.kinds.iter().filter(lived) {
        let kind = Some(series.name.clone());
        let (born, ended) = (vec![&series.born], vec![&series.ended]);
        let name = &series.name;
        lines.push((format!("{name} born"), kind.clone(), Values::Rate(born, second)));
        lines.push((format!("{name} ended"), kind, Values::Rate(ended, second)));
    }
    lines
}

fn causes(record: &Record, _: f64) -> Vec<Line<'_>> {
    let known = Cause::ALL
        .into_iter()
        .filter(|cause| record.kinds.iter().any(|s| s.ended_by(*cause, record.len) > 0));
    known.map(|c| (c.name().to_string(), None, Values::Ends(&record.kinds, c))).collect()
}

fn states(record: &Record, _: f64) -> Vec<Line<'_>> {
    let kinds = record.kinds.iter().filter(lived);
    let lines = kinds.flat_map(|s| {
        s.states.iter().map(|(state, counts)| {
            (format!("{} {state}", s.name), Some(s.name.clone()), Values::Counts(counts))
        })
    });
    lines.collect()
}

fn watches(record: &Record, _: f64) -> Vec<Line<'_>> {
    record.watches.iter().map(|w| (w.name.clone(), None, Values::Watch(&w.values))).collect()
}

/// The share of each kind that is alive at each age.
fn lives(run: &dyn Timeline, wish: &Wish) -> Chart {
    let (tick, rate) = (run.tick(), run.cast().rate);
    let mut chart =
        Chart { upright: "share alive".into(), across: "age (s)".into(), ..Chart::default() };
    let mut ages = vec![Vec::new(); run.cast().kinds.len()];
    for alive in run.alive() {
        ages[alive.who.kind.index()].push(alive.age);
    }
    let mut medians = Vec::new();
    for past in pasts(run, wish) {
        for series in past.record.kinds.iter().filter(lived) {
            let ended: Vec<u64> = series.lives.iter().map(|life| life.ticks).collect();
            chart.series.push(curve(&series.name, &ended, &[], rate, Some(past.number)).0);
        }
    }
    for series in run.record().kinds.iter().filter(lived) {
        let until = series.lives.partition_point(|life| life.end <= tick);
        let ended: Vec<u64> = series.lives[..until].iter().map(|life| life.ticks).collect();
        let kind = run.cast().kind_named(&series.name);
        let alive = kind.map_or(&[][..], |kind| &ages[kind.index()]);
        let (line, median) = curve(&series.name, &ended, alive, rate, None);
        let half = median.map_or("over half alive".to_string(), |m| format!("median {m:.2} s"));
        medians.push(format!("{} {half}", series.name));
        chart.series.push(line);
    }
    let ends = chart.series.iter().filter_map(|s| s.points.last()).map(|p| p.0);
    chart.span = (0.0, ends.fold(0.0, f64::max).max(0.1));
    chart.remark = Some(medians.join(", "));
    chart
}

fn curve(
    name: &str,
    ended: &[u64],
    alive: &[u64],
    rate: f64,
    past: Option<u64>,
) -> (TrendSeries, Option<f64>) {
    let found = survival(ended, alive);
    let mut points: Vec<(f64, f64)> = Vec::new();
    for (age, share) in &found.steps {
        let x = *age as f64 / rate;
        // Stairs: the share stays until the next end.
        if let Some((_, before)) = points.last().copied() {
            points.push((x, before));
        }
        points.push((x, *share));
    }
    let last = points.last().map_or(1.0, |p| p.1);
    let kind = Some(name.to_string());
    let lows = Vec::new();
    let series = TrendSeries { name: name.to_string(), kind, past, points, lows, last };
    (series, found.median.map(|m| m as f64 / rate))
}
