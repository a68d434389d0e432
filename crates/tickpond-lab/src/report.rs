//! The object `run --json` prints: the contract for scripts. See `docs/formats.md`.

use std::collections::BTreeMap;

use serde::Serialize;
use tickpond_lang::program::Cause;

use crate::judge::Outcome;
use crate::run::Run;

/// A run, summed up.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct Report {
    pub pond: String,
    pub seed: u64,
    pub ticks: u64,
    pub rate: f64,
    pub digest: String,
    pub stopped: Option<StoppedReport>,
    pub knobs: BTreeMap<String, KnobReport>,
    pub kinds: BTreeMap<String, KindReport>,
    pub messages: BTreeMap<String, MessageReport>,
    pub watches: BTreeMap<String, f64>,
    pub expectations: Vec<ExpectationReport>,
}

/// The guard that stopped a run.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct StoppedReport {
    pub guard: &'static str,
    pub tick: u64,
    pub line: u32,
    pub entity: Option<String>,
    pub lines: Vec<LineReport>,
}

/// A line that ran into a guard.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct LineReport {
    pub line: u32,
    pub times: u64,
}

/// A knob's value in the unit of the text.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct KnobReport {
    pub value: f64,
    pub unit: String,
}

/// A kind's totals.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct KindReport {
    pub born: u64,
    pub live: u64,
    pub peak: u64,
    pub peak_tick: u64,
    pub ended: BTreeMap<&'static str, u64>,
    pub states: BTreeMap<String, u64>,
    pub lifetime_s: Option<LifetimeReport>,
}

/// Lengths of the lives that ended, in seconds.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct LifetimeReport {
    pub min: f64,
    pub median: f64,
    pub max: f64,
}

/// A message's totals.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct MessageReport {
    pub sent: u64,
    pub heard: u64,
    pub unheard: u64,
}

/// How an expectation stands.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct ExpectationReport {
    pub text: String,
    pub line: u32,
    pub held: Option<bool>,
    pub tick: Option<u64>,
}

impl Report {
    /// Sums up a run at its present place. Call [`Run::close`] first if it is over.
    pub fn of(run: &Run) -> Report {
        let (program, state) = (run.program(), run.state());
        Report {
            pond: program.title.clone(),
            seed: state.seed,
            ticks: state.tick,
            rate: program.rate,
            digest: format!("{:016x}", state.digest()),
            stopped: state.stopped.as_ref().map(|s| StoppedReport {
                guard: s.guard.name(),
                tick: s.tick,
                line: s.site.map_or(0, |site| program.line_of(site)),
                entity: s.who.map(|who| crate::files::name_of(program, who)),
                lines: s
                    .lines()
                    .map(|(site, times)| LineReport { line: program.line_of(site), times })
                    .collect(),
            }),
            knobs: knobs(run),
            kinds: kinds(run),
            messages: messages(run),
            watches: watches(run),
            expectations: expectations(run),
        }
    }

    /// Whether an expectation failed.
    pub fn any_failed(&self) -> bool {
        self.expectations.iter().any(|e| e.held == Some(false))
    }
}

fn knobs(run: &Run) -> BTreeMap<String, KnobReport> {
    let knobs = run.program().knobs.iter().zip(&run.state().knobs);
    knobs
        .map(|(knob, value)| {
            // Rounding away what the conversion of the unit added.
            let value = (knob.in_unit(*value) * 1e9).round() / 1e9;
            (knob.name.clone(), KnobReport { value, unit: knob.unit.clone() })
        })
        .collect()
}

fn kinds(run: &Run) -> BTreeMap<String, KindReport> {
    let (program, state) = (run.program(), run.state());
    let report = |(id, kind): (tickpond_lang::program::KindId, &tickpond_lang::program::Kind)| {
        let totals = &state.totals[id.index()];
        let ended = Cause::ALL.iter().map(|c| (c.name(), totals.ended[*c as usize]));
        let lifetime = run.record().lifetimes(program, id);
        let report = KindReport {
            born: totals.born,
            live: state.kinds[id.index()].len() as u64,
            peak: totals.peak,
            peak_tick: totals.peak_tick,
            ended: ended.filter(|(_, count)| *count > 0).collect(),
            states: states(run, &kind.name),
            lifetime_s: lifetime.map(|[min, median, max]| LifetimeReport { min, median, max }),
        };
        (kind.name.clone(), report)
    };
    program.entity_kinds().map(report).collect()
}

/// How many are in each state at the present place.
fn states(run: &Run, kind: &str) -> BTreeMap<String, u64> {
    let at = run.tick() as usize;
    let series = run.record().kinds.iter().find(|s| s.name == kind);
    let states = series.iter().flat_map(|s| &s.states);
    states.filter_map(|(name, counts)| Some((name.clone(), u64::from(*counts.get(at)?)))).collect()
}

fn messages(run: &Run) -> BTreeMap<String, MessageReport> {
    let messages = run.program().messages.iter().zip(&run.state().mail_totals);
    messages
        .map(|(message, totals)| {
            let report =
                MessageReport { sent: totals.sent, heard: totals.heard, unheard: totals.unheard };
            (message.name.clone(), report)
        })
        .collect()
}

fn watches(run: &Run) -> BTreeMap<String, f64> {
    let last = |values: &[f64]| values.get(run.tick() as usize).copied();
    let watches = run.record().watches.iter();
    watches
        .filter_map(|w| Some((w.name.clone(), last(&w.values).filter(|v| v.is_finite())?)))
        .collect()
}

fn expectations(run: &Run) -> Vec<ExpectationReport> {
    let program = run.program();
    let expects = program.expects.iter().zip(run.verdicts());
    expects
        .filter(|(_, verdict)| verdict.is_judged())
        .map(|(expect, verdict)| ExpectationReport {
            text: expect.words.clone(),
            line: program.lines.line(expect.span.start),
            held: match verdict.outcome() {
                Outcome::Untried => None,
                Outcome::Held => Some(true),
                Outcome::Failed => Some(false),
            },
            tick: verdict.failed.or(verdict.met),
        })
        .collect()
}
