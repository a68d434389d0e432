//! What is wanted of a drawing of a run: which ticks, which kinds, beside what; and the head that says so.

use tickpond_lab::apart::PhaseApart;
use tickpond_lab::{Record, Run};
use tickpond_lang::program::KindId;

use crate::axis::plain;
use crate::drawing::{Anchor, Drawing};
use crate::plot::{LEFT, NOTE, TITLE, WIDTH, fitted, width_of};

/// What is wanted of a drawing.
#[derive(Clone, Debug, Default)]
pub struct Wanted<'r> {
    /// The first tick; 0 if it is not said.
    pub from: Option<u64>,
    /// The last tick; the last that was played if it is not said.
    pub to: Option<u64>,
    /// The kinds, by name; all if none is named.
    pub kinds: Vec<String>,
    /// What is drawn beneath, to be compared with: the first in the darkest grey.
    pub beside: Vec<Beside<'r>>,
    /// What was found out beforehand: see [`crate::prepare`].
    pub prepared: Prepared,
}

/// What only playing ticks once more can tell.
#[derive(Clone, Debug, Default)]
pub struct Prepared {
    /// The present tick taken apart.
    pub apart: Vec<PhaseApart>,
    /// Where everyone went.
    pub ways: Vec<Way>,
    /// Whether these are left out, since they are too many.
    pub too_many: bool,
}

/// Where one went: places in u, a twentieth of a second apart.
#[derive(Clone, Debug)]
pub struct Way {
    /// Its kind.
    pub kind: KindId,
    /// The places, the oldest first.
    pub places: Vec<(f64, f64)>,
}

/// Another run, in grey.
#[derive(Clone, Debug)]
pub struct Beside<'r> {
    /// Which it is: `the run before`.
    pub words: String,
    /// Its counts.
    pub record: &'r Record,
}

impl<'r> Beside<'r> {
    /// The run before the last edit or restart, if there is one.
    pub fn before(run: &'r Run) -> Option<Beside<'r>> {
        let past = run.past()?;
        Some(Beside { words: "the run before".into(), record: &past.record })
    }
}

impl Wanted<'_> {
    /// Whether a kind is to be drawn.
    pub fn has(&self, name: &str) -> bool {
        self.kinds.is_empty() || self.kinds.iter().any(|kind| kind == name)
    }

    /// Why there is nothing to draw: for this reason, or since only some kinds are wanted.
    pub(crate) fn why_empty<'w>(&self, why: &'w str) -> &'w str {
        if self.kinds.is_empty() { why } else { "nothing of these kinds in this time" }
    }

    /// The ticks of a record that are drawn: the first, and the one behind the last.
    pub fn ticks(&self, record: &Record) -> std::ops::Range<usize> {
        let to = self.to.map_or(record.len, |to| (to as usize + 1).min(record.len));
        (self.from.unwrap_or(0) as usize).min(to)..to
    }

    /// The first tick, and the one at the right edge, of the longest of these records.
    pub(crate) fn span(&self, records: &[&Record]) -> (f64, f64) {
        let longest = records.iter().map(|record| record.len).max().unwrap_or(1);
        let last = self.to.unwrap_or(u64::MAX).min(longest.max(2) as u64 - 1);
        let first = self.from.unwrap_or(0).min(last.saturating_sub(1));
        (first as f64, last as f64)
    }
}

/// A page with its head: what it shows of which pond; seed, length, knobs that were set, and what is left out.
pub(crate) fn page(
    run: &Run,
    wanted: &Wanted<'_>,
    what: &str,
    height: f64,
    more: &[String],
) -> Drawing {
    let (program, options) = (run.program(), run.options());
    let title = format!("{}: {what}", program.title);
    let mut page = Drawing::new(WIDTH, height, title.as_str());
    page.rect(0.0, 0.0, WIDTH, height, "#ffffff");
    // What it shows stays, whatever the pond is called.
    let room = WIDTH - LEFT - 8.0;
    let behind = fitted(&format!(": {what}"), room / 2.0, TITLE);
    let name = fitted(&program.title, room - width_of(&behind, TITLE), TITLE);
    page.text((LEFT, 32.0), Anchor::Start, TITLE, &format!("{name}{behind}"));
    let ticks = run.head();
    let seconds = |tick: u64| plain(tick as f64 / program.rate);
    let mut note = vec![format!(
        "seed {}, {ticks} ticks at {} per s, {} s",
        options.seed,
        plain(program.rate),
        seconds(ticks)
    )];
    note.extend(options.knobs.iter().map(|(name, value)| format!("{name} = {value}")));
    if wanted.from.is_some() || wanted.to.is_some() {
        let span = wanted.ticks(run.record());
        let last = (span.end as u64).saturating_sub(1);
        note.push(format!("shown: {} s to {} s", seconds(span.start as u64), seconds(last)));
    }
    if !wanted.kinds.is_empty() {
        note.push(format!("only {}", wanted.kinds.join(", ")));
    }
    note.extend(more.iter().cloned());
    let note = fitted(&note.join("; "), room, NOTE);
    page.text((LEFT, 52.0), Anchor::Start, NOTE, &note);
    page
}
