//! The charts of the drawer: counts, births and ends, causes, states, watches, lengths of life.

use tickpond_lab::Run;
use tickpond_lab::record::{Record, Series};
use tickpond_lab::survival::survival;
use tickpond_lang::program::Cause;

use super::Wish;

/// Which chart.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub enum Trend {
    #[default]
    Counts,
    Rates,
    Causes,
    States,
    Watches,
    Lives,
}

impl Trend {
    pub const ALL: [Trend; 6] =
        [Trend::Counts, Trend::Rates, Trend::Causes, Trend::States, Trend::Watches, Trend::Lives];

    pub fn name(self) -> &'static str {
        match self {
            Trend::Counts => "counts",
            Trend::Rates => "births and ends",
            Trend::Causes => "ends by cause",
            Trend::States => "states",
            Trend::Watches => "watches",
            Trend::Lives => "lengths of life",
        }
    }

    /// The one so many places on, around.
    pub fn on(self, by: isize) -> Trend {
        let at = Trend::ALL.iter().position(|t| *t == self).unwrap_or(0) as isize;
        Trend::ALL[(at + by).rem_euclid(Trend::ALL.len() as isize) as usize]
    }
}

/// One line of a chart.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct TrendSeries {
    pub name: String,
    /// The kind it is about, by name: it has that one's colour.
    pub kind: Option<String>,
    /// Of the run before.
    pub is_before: bool,
    /// Seconds, and the value.
    pub points: Vec<(f64, f64)>,
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
    /// The most seconds drawn.
    pub width: f64,
    /// The least and the most drawn upwards.
    pub range: (f64, f64),
    /// Where the present tick is, in seconds; for charts over time.
    pub now: Option<f64>,
    /// Why it is empty, or something to add.
    pub remark: Option<String>,
}

/// The chart a drawer wishes for.
pub fn chart(run: &Run, wish: &Wish) -> Chart {
    let mut chart = match wish.trend {
        Trend::Counts => over_time(run, wish, "alive", counts),
        Trend::Rates => over_time(run, wish, "a second", rates),
        Trend::Causes => over_time(run, wish, "ended so far", causes),
        Trend::States => over_time(run, wish, "in the state", states),
        Trend::Watches => over_time(run, wish, "value", watches),
        Trend::Lives => lives(run, wish),
    };
    let names: Vec<String> =
        chart.series.iter().filter(|s| !s.is_before).map(|s| s.name.clone()).collect();
    chart.names = names.len();
    if wish.series > 0 && !names.is_empty() {
        let chosen = names[(wish.series - 1) % names.len()].clone();
        chart.series.retain(|s| s.name == chosen);
    }
    if chart.series.is_empty() {
        chart.remark = Some(empty(wish.trend).to_string());
    }
    let values = chart.series.iter().flat_map(|s| s.points.iter().map(|p| p.1));
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

type Line = (String, Option<String>, Vec<f64>);

fn over_time(run: &Run, wish: &Wish, upright: &str, lines: fn(&Record, f64) -> Vec<Line>) -> Chart {
    let rate = run.program().rate;
    let past = run.past().filter(|_| wish.overlay);
    let len = run.record().len.max(past.map_or(0, |p| p.record.len));
    let columns = wish.columns.clamp(10, 400) * 2;
    let mut series: Vec<TrendSeries> = Vec::new();
    // The run before goes beneath.
    for (record, is_before) in past.iter().map(|p| (&p.record, true)).chain([(run.record(), false)])
    {
        for (name, kind, values) in lines(record, rate) {
            let points = thinned(&values, len, columns, rate);
            let last = values.get(run.tick() as usize).or(values.last()).copied().unwrap_or(0.0);
            series.push(TrendSeries { name, kind, is_before, points, last });
        }
    }
    Chart {
        upright: upright.to_string(),
        across: "time (s)".into(),
        series,
        names: 0,
        width: len as f64 / rate,
        range: (0.0, 1.0),
        now: Some(run.tick() as f64 / rate),
        remark: None,
    }
}

/// One point for each column, the largest of the values it stands for: a peak is never lost.
fn thinned(values: &[f64], len: usize, columns: usize, rate: f64) -> Vec<(f64, f64)> {
    let per = (len as f64 / columns as f64).max(1.0);
    let mut points = Vec::new();
    let mut column = 0;
    loop {
        let from = (column as f64 * per) as usize;
        let to = (((column + 1) as f64 * per) as usize).min(values.len());
        if from >= to {
            return points;
        }
        let value = values[from..to].iter().copied().filter(|v| v.is_finite()).reduce(f64::max);
        if let Some(value) = value {
            points.push((from as f64 / rate, value));
        }
        column += 1;
    }
}

fn lived(series: &&Series) -> bool {
    series.born.iter().any(|n| *n > 0)
}

fn counts(record: &Record, _: f64) -> Vec<Line> {
    let kinds = record.kinds.iter().filter(lived);
    kinds
        .map(|s| {
            let values = s.live.iter().map(|n| f64::from(*n)).collect();
            (s.name.clone(), Some(s.name.clone()), values)
        })
        .collect()
}

/// How many in the second up to each tick.
fn per_second(values: &[u32], rate: f64) -> Vec<f64> {
    let window = (rate.round() as usize).max(1);
    let mut sum = 0u64;
    values
        .iter()
        .enumerate()
        .map(|(at, n)| {
            sum += u64::from(*n);
            if at >= window {
                sum -= u64::from(values[at - window]);
            }
            sum as f64
        })
        .collect()
}

fn rates(record: &Record, rate: f64) -> Vec<Line> {
    let sum = |pick: fn(&Series) -> &Vec<u32>| {
        let mut all = vec![0u32; record.len];
        for series in &record.kinds {
            all.iter_mut().zip(pick(series)).for_each(|(sum, n)| *sum += n);
        }
        per_second(&all, rate)
    };
    if !record.kinds.iter().any(|s| lived(&s)) {
        return Vec::new();
    }
    let mut lines = vec![
        ("born".to_string(), None, sum(|s| &s.born)),
        ("ended".to_string(), None, sum(|s| &s.ended)),
    ];
    for series in record.kinds.iter().filter(lived) {
        let kind = Some(series.name.clone());
        lines.push((format!("{} born", series.name), kind.clone(), per_second(&series.born, rate)));
        lines.push((format!("{} ended", series.name), kind, per_second(&series.ended, rate)));
    }
    lines
}

fn causes(record: &Record, _: f64) -> Vec<Line> {
    let mut lines = Vec::new();
    for cause in Cause::ALL {
        let mut values = vec![0.0; record.len];
        let ends = record.kinds.iter().flat_map(|s| &s.causes).filter(|(_, c)| *c == cause);
        for (tick, _) in ends {
            if let Some(value) = values.get_mut(*tick as usize) {
                *value += 1.0;
            }
        }
        let mut sum = 0.0;
        values.iter_mut().for_each(|v| {
            sum += *v;
            *v = sum;
        });
        if sum > 0.0 {
            lines.push((cause.name().to_string(), None, values));
        }
    }
    lines
}

fn states(record: &Record, _: f64) -> Vec<Line> {
    let kinds = record.kinds.iter().filter(lived);
    let lines = kinds.flat_map(|s| {
        s.states.iter().map(|(state, counts)| {
            let values = counts.iter().map(|n| f64::from(*n)).collect();
            (format!("{} {state}", s.name), Some(s.name.clone()), values)
        })
    });
    lines.collect()
}

fn watches(record: &Record, _: f64) -> Vec<Line> {
    record.watches.iter().map(|w| (w.name.clone(), None, w.values.clone())).collect()
}

/// The share of each kind that is alive at each age.
fn lives(run: &Run, wish: &Wish) -> Chart {
    let (tick, rate) = (run.tick(), run.program().rate);
    let past = run.past().filter(|_| wish.overlay);
    let mut chart =
        Chart { upright: "share alive".into(), across: "age (s)".into(), ..Chart::default() };
    let mut medians = Vec::new();
    if let Some(past) = past {
        for series in past.record.kinds.iter().filter(lived) {
            let ended: Vec<u64> = series.lives.iter().map(|l| l.1).collect();
            chart.series.push(curve(&series.name, &ended, &[], rate, true).0);
        }
    }
    for series in run.record().kinds.iter().filter(lived) {
        let ended: Vec<u64> = series.lives.iter().filter(|l| l.0 <= tick).map(|l| l.1).collect();
        let columns = run.program().kind_named(&series.name).map(|k| &run.state().kinds[k.index()]);
        let alive: Vec<u64> =
            columns.map(|c| (0..c.len()).map(|row| c.age(row, tick)).collect()).unwrap_or_default();
        let (line, median) = curve(&series.name, &ended, &alive, rate, false);
        let half = median.map_or("over half alive".to_string(), |m| format!("median {m:.2} s"));
        medians.push(format!("{} {half}", series.name));
        chart.series.push(line);
    }
    let ends = chart.series.iter().filter_map(|s| s.points.last()).map(|p| p.0);
    chart.width = ends.fold(0.0, f64::max).max(0.1);
    chart.remark = Some(medians.join(", "));
    chart
}

fn curve(
    name: &str,
    ended: &[u64],
    alive: &[u64],
    rate: f64,
    is_before: bool,
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
    let series = TrendSeries { name: name.to_string(), kind, is_before, points, last };
    (series, found.median.map(|m| m as f64 / rate))
}
