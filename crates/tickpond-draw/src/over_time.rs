//! Values over time as curves: counts of kinds and states, and watches.

use tickpond_lab::record::WatchSeries;
use tickpond_lab::{Record, Run, Timeline};

use crate::axis::{plain, round_between};
use crate::drawing::Drawing;
use crate::happened::happened;
use crate::pens::{Pen, pen, pen_of};
use crate::plot::{HEIGHT, Plot, TOP};
use crate::wanted::{Wanted, page};

/// The lowest and the highest value in a range of ticks, if one is known.
pub(crate) type Span<'a> = Box<dyn Fn(std::ops::Range<usize>) -> Option<(f64, f64)> + 'a>;

/// One curve.
pub(crate) struct Curve<'a> {
    pub name: String,
    pub pen: Pen,
    pub span: Span<'a>,
}

/// What is drawn of a record.
pub(crate) type Curves = for<'a> fn(&Run, &'a Record, &Wanted<'_>) -> Vec<Curve<'a>>;

/// The words of a drawing over time.
pub(crate) struct Words {
    /// Behind the pond's title.
    pub what: &'static str,
    /// What is drawn upwards, with its unit.
    pub upright: &'static str,
    /// Above the legend.
    pub legend: &'static str,
    /// What is said where there is nothing to draw.
    pub empty: &'static str,
    /// Whether values are whole.
    pub whole: bool,
}

/// Draws curves, with room beneath for more.
pub(crate) fn draw_over_time(
    run: &Run,
    wanted: &Wanted<'_>,
    words: &Words,
    curves: Curves,
    room: f64,
) -> (Drawing, Plot) {
    let rate = run.cast().rate;
    let told = wanted.beside.iter().map(|beside| {
        let seconds = plain((beside.record.len.max(1) - 1) as f64 / rate);
        format!("{}, {seconds} s", beside.words)
    });
    let told: Vec<String> = told.collect();
    let mut more = match told.as_slice() {
        [] => Vec::new(),
        [one] => vec![format!("grey: {one}")],
        several => vec![format!("grey, from dark to light: {}", several.join("; "))],
    };
    let happened = happened(run, wanted);
    more.extend(happened.told());
    let mut page = page(run, wanted, words.what, TOP + HEIGHT + 58.0 + room + 16.0, &more);
    let now = curves(run, run.record(), wanted);
    // What is drawn beneath is what is drawn above: a kind that is gone has no curve to be compared with.
    let beneath: Vec<(Vec<Curve<'_>>, std::ops::Range<usize>)> = wanted
        .beside
        .iter()
        .map(|beside| {
            let mut past = curves(run, beside.record, wanted);
            past.retain(|curve| now.iter().any(|own| own.name == curve.name));
            (past, wanted.ticks(beside.record))
        })
        .collect();
    let ticks = wanted.ticks(run.record());
    let mut range = (0.0f64, 0.0f64);
    let spans = now.iter().filter_map(|curve| (curve.span)(ticks.clone()));
    let past_spans = beneath
        .iter()
        .flat_map(|(past, ticks)| past.iter().filter_map(|curve| (curve.span)(ticks.clone())));
    for (low, high) in spans.chain(past_spans) {
        range = (range.0.min(low), range.1.max(high));
    }
    let marks = round_between(range.0, range.1, 6, words.whole);
    let records = wanted.beside.iter().map(|beside| beside.record);
    let records: Vec<&Record> = records.chain([run.record()]).collect();
    let values = (marks[0], marks.last().copied().unwrap_or(1.0));
    let plot = Plot { ticks: wanted.span(&records), values };
    plot.value_axis(&mut page, &marks, words.upright);
    plot.time_axis(&mut page, rate, "time (s)");
    // The lightest lies lowest.
    for (place, (past, ticks)) in beneath.iter().enumerate().rev() {
        for curve in past {
            plot.curve(&mut page, ticks.clone(), &curve.pen.greyed(place), &curve.span);
        }
    }
    happened.draw(&mut page, &plot);
    for curve in &now {
        plot.curve(&mut page, ticks.clone(), &curve.pen, &curve.span);
    }
    let names: Vec<(String, Pen)> = now
        .iter()
        .map(|curve| {
            let peak = (curve.span)(ticks.clone()).map_or(0.0, |(_, high)| high);
            (format!("{} ({})", curve.name, plain(peak)), curve.pen)
        })
        .collect();
    plot.legend(&mut page, words.legend, &names);
    if now.is_empty() {
        plot.empty(&mut page, wanted.why_empty(words.empty));
    }
    (page, plot)
}

/// How many of each kind are alive.
pub(crate) fn counts<'a>(run: &Run, record: &'a Record, wanted: &Wanted<'_>) -> Vec<Curve<'a>> {
    let kinds = record.kinds.iter().filter(|s| s.ever_lived() && wanted.has(&s.name));
    let curves = kinds.map(|series| Curve {
        name: series.name.clone(),
        pen: pen_of(run.cast(), &series.name),
        span: Box::new(|ticks| {
            let (low, high) = (series.live.low(ticks.clone()), series.live.peak(ticks));
            Some((f64::from(low), f64::from(high)))
        }),
    });
    curves.collect()
}

/// How many are in each state.
fn states_of<'a>(run: &Run, record: &'a Record, wanted: &Wanted<'_>) -> Vec<Curve<'a>> {
    let kinds = record.kinds.iter().filter(|s| s.ever_lived() && wanted.has(&s.name));
    let states =
        kinds.flat_map(|s| s.states.iter().map(|(state, counts)| (&s.name, state, counts)));
    let curves = states.enumerate().map(|(place, (kind, state, counts))| Curve {
        name: format!("{kind} {state}"),
        // A state has its colour everywhere; what tells two kinds apart in it are dashes and marks.
        pen: pen(place).in_colour_of(run.cast().state_place(state)),
        span: Box::new(|ticks| {
            Some((f64::from(counts.low(ticks.clone())), f64::from(counts.peak(ticks))))
        }),
    });
    curves.collect()
}

/// The watches.
fn watches_of<'a>(_: &Run, record: &'a Record, _: &Wanted<'_>) -> Vec<Curve<'a>> {
    let curves = record.watches.iter().enumerate().map(|(place, watch)| Curve {
        name: watch.name.clone(),
        pen: pen(place),
        span: Box::new(|ticks| between(watch, ticks)),
    });
    curves.collect()
}

/// The lowest and highest finite value of a watch.
fn between(watch: &WatchSeries, ticks: std::ops::Range<usize>) -> Option<(f64, f64)> {
    let values = watch.values.get(ticks)?.iter().copied().filter(|value| value.is_finite());
    values.fold(None, |known, value| {
        let (low, high) = known.unwrap_or((value, value));
        Some((low.min(value), high.max(value)))
    })
}

/// How many of each kind are in each of its states, over time.
pub fn states(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let words = Words {
        what: "how many are in each state",
        upright: "in the state (entities)",
        legend: "state (peak)",
        empty: "no kind here has states",
        whole: true,
    };
    draw_over_time(run, wanted, &words, states_of, 0.0).0
}

/// The watches over time. Where a watch has no finite value its curve has a gap.
pub fn watches(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let words = Words {
        what: "what is watched",
        upright: "value",
        legend: "watch (highest)",
        empty: "nothing is watched in this pond",
        whole: false,
    };
    draw_over_time(run, wanted, &words, watches_of, 0.0).0
}
