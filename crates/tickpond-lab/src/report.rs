//! The object `run --json` prints: the contract for scripts. See `docs/formats.md`.

use std::collections::BTreeMap;

use serde::Serialize;
use tickpond_lang::program::{Cause, Kind, KindId, Program};
use tickpond_sim::State;

use crate::judge::Outcome;
use crate::naming::name_of;
use crate::played::Played;
use crate::record::state_names;

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
    pub watches: BTreeMap<String, Option<f64>>,
    pub not_finite: BTreeMap<String, NotFiniteReport>,
    pub expectations: Vec<ExpectationReport>,
}

/// The guard that stopped a run.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct StoppedReport {
    pub guard: &'static str,
    pub tick: u64,
    pub words: &'static str,
    pub limit: Option<String>,
    pub line: u32,
    pub entity: Option<String>,
    pub lines: Vec<LineReport>,
}

/// When a watch was no finite number: the first tick, and in how many.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/formats.md tells each field")]
pub struct NotFiniteReport {
    pub tick: u64,
    pub ticks: u64,
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
    pub saw: Option<String>,
}

impl Report {
    /// Sums up a run at its present place. Its books must be closed first if it is over.
    pub fn of(run: &impl Played) -> Report {
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
                words: s.guard.words(),
                limit: s.guard.limit(&program.limits),
                line: match (s.site, s.span) {
                    (Some(site), _) => program.line_of(site),
                    (None, Some(span)) => program.lines.line(span.start),
                    (None, None) => 0,
                },
                entity: s.who.map(|who| name_of(program, who)),
                lines: s
                    .lines()
                    .map(|(site, times)| LineReport { line: program.line_of(site), times })
                    .collect(),
            }),
            knobs: knobs(run),
            kinds: kinds(run),
            messages: messages(run),
            watches: watches(run),
            not_finite: not_finite(run),
            expectations: expectations(run),
        }
    }

    /// Whether an expectation failed.
    pub fn any_failed(&self) -> bool {
        self.expectations.iter().any(|e| e.held == Some(false))
    }
}

fn knobs(run: &impl Played) -> BTreeMap<String, KnobReport> {
    let knobs = run.program().knobs.iter().zip(&run.state().knobs);
    knobs
        .map(|(knob, value)| {
            // Rounding away what the conversion of the unit added.
            let value = (knob.in_unit(*value) * 1e9).round() / 1e9;
            (knob.name.clone(), KnobReport { value, unit: knob.unit.clone() })
        })
        .collect()
}

fn kinds(run: &impl Played) -> BTreeMap<String, KindReport> {
    let (program, state) = (run.program(), run.state());
    let report = |(id, kind): (tickpond_lang::program::KindId, &tickpond_lang::program::Kind)| {
        let totals = &state.totals[id.index()];
        let ended = Cause::ALL.iter().map(|c| (c.name(), totals.ended[*c as usize]));
        let lifetime = run.lifetimes(id).map(|l| l.map(|ticks| ticks / program.rate));
        let report = KindReport {
            born: totals.born,
            live: state.kinds[id.index()].len() as u64,
            peak: totals.peak,
            peak_tick: totals.peak_tick,
            ended: ended.filter(|(_, count)| *count > 0).collect(),
            states: states(program, state, (id, kind)),
            lifetime_s: lifetime.map(|[min, median, max]| LifetimeReport { min, median, max }),
        };
        (kind.name.clone(), report)
    };
    program.entity_kinds().map(report).collect()
}

/// How many are in each state.
fn states(program: &Program, state: &State, (id, kind): (KindId, &Kind)) -> BTreeMap<String, u64> {
    let places = kind.tracks.iter().enumerate();
    let places = places.flat_map(|(t, track)| (0..track.states.len()).map(move |s| (t, s)));
    let counts = places.map(|(track, at)| state.in_state(id, track, at as u64) as u64);
    state_names(program, kind).into_iter().zip(counts).collect()
}

fn messages(run: &impl Played) -> BTreeMap<String, MessageReport> {
    let messages = run.program().messages.iter().zip(&run.state().mail_totals);
    messages
        .map(|(message, totals)| {
            let report =
                MessageReport { sent: totals.sent, heard: totals.heard, unheard: totals.unheard };
            (message.name.clone(), report)
        })
        .collect()
}

/// The last values; what is no finite number is there, and empty.
fn watches(run: &impl Played) -> BTreeMap<String, Option<f64>> {
    let watches = run.watches().into_iter();
    watches.map(|(name, value)| (name, Some(value).filter(|v| v.is_finite()))).collect()
}

fn not_finite(run: &impl Played) -> BTreeMap<String, NotFiniteReport> {
    let known = run.not_finite().into_iter();
    known.map(|(name, n)| (name, NotFiniteReport { tick: n.tick, ticks: n.ticks })).collect()
}

fn expectations(run: &impl Played) -> Vec<ExpectationReport> {
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
            saw: verdict.saw.as_deref().map(str::to_string),
        })
        .collect()
}
