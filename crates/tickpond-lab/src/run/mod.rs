//! A run that is recorded and can be played, jumped in, and edited.

mod asked;
mod branches;
mod edits;
mod future;
mod heard;
mod play;
mod travel;

use std::collections::BTreeMap;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use tickpond_lang::program::{KindId, Program, SiteId};
use tickpond_sim::code::Compiled;
use tickpond_sim::{Engine, Event, State};

use crate::beside::Beside;
use crate::case::{Case, Opened};
use crate::cast::Cast;
use crate::input::Input;
use crate::judge::{Judge, Verdict};
use crate::keyframes::Keyframes;
use crate::moved::Moved;
use crate::options::{OptionsError, RunOptions};
use crate::past::Past;
use crate::played::Played;
use crate::record::Record;
use crate::watching::NotFinite;

/// Bytes a run may take, if nothing else is said.
const BUDGET: usize = 2 << 30;

/// Where the memory of a run goes, in bytes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Takes {
    /// Saved states.
    pub keyframes: usize,
    /// Events kept in detail.
    pub events: usize,
    /// What was left behind.
    pub branches: usize,
    /// Counts and watches of each tick, lives and ends: they are packed, and not thinned.
    pub counts: usize,
}

/// How many branches are kept, to go back to and to compare with.
pub const MOST_PASTS: usize = 12;

/// How many ticks before the present one events are made again for, where they were dropped.
const RECALL: u64 = 600;

/// A stretch of a run played by one version of the text.
struct Segment {
    /// The first tick it plays.
    from: u64,
    engine: Engine,
    cast: Arc<Cast>,
    /// Where the lines of its text are in the newest.
    lines: Moved,
}

impl Segment {
    fn new(from: u64, engine: Engine) -> Segment {
        let cast = Cast::shared(engine.program());
        Segment { from, engine, cast, lines: Moved::default() }
    }
}

/// A state and the verdicts at the end of its tick.
struct Moment {
    state: State,
    judge: Judge,
}

impl Clone for Moment {
    fn clone(&self) -> Moment {
        Moment { state: self.state.clone(), judge: self.judge.clone() }
    }

    fn clone_from(&mut self, other: &Moment) {
        self.state.clone_from(&other.state);
        self.judge.clone_from(&other.judge);
    }
}

/// What became of an edit.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Edited {
    /// The run goes on where it is, by the new text.
    Forked,
    /// The run was made again from tick 0, for the reason given.
    Remade(String),
    /// The text means the same as the one that plays next: comments and spaces alone have changed.
    Same,
    /// The text of the present tick is back, before another has played: the run goes on as if it had not been
    /// edited.
    TakenBack,
}

/// A recorded run, and a place in it.
pub struct Run {
    segments: Vec<Segment>,
    now: Moment,
    record: Record,
    /// Input by the tick before which it changed.
    keys: BTreeMap<u64, Vec<Input>>,
    keyframes: Keyframes<Moment>,
    options: RunOptions,
    /// The runs before edits and restarts, the newest last.
    pasts: Vec<Past>,
    /// Plays the newest of them on.
    beside: Option<Beside>,
    /// How many runs there were before this.
    numbered: u64,
    /// The tick at which an edit parted this run from the newest of them; none if it was begun again since.
    edited: Option<u64>,
    /// How often it was begun again.
    begun: u64,
    /// Events of the far past, made again.
    recalled: Recalled,
    /// Somebody's wish to give up a tick that takes long.
    stop: Option<Arc<AtomicBool>>,
    /// The tick that was given up.
    given_up: Option<u64>,
    /// Why it was made again, though nobody edited it.
    made_again: Option<String>,
    /// Bytes the run may take.
    budget: usize,
    /// The branch that was let go of last.
    let_go: Option<String>,
}

/// Events that were dropped from the record and have been made again.
#[derive(Default)]
struct Recalled {
    /// The ticks they are of.
    ticks: std::ops::Range<u64>,
    events: Vec<Event>,
}

impl Run {
    /// Opens a pond at tick 0.
    ///
    /// # Errors
    /// [`OptionsError`] if a knob named in the options is not there or its value does not fit.
    pub fn new(program: Arc<Program>, options: RunOptions) -> Result<Run, OptionsError> {
        let case = Case { program, options: options.clone() };
        let Opened { engine, state, events, judge, keys, .. } = case.open()?;
        let mut record = Record::default();
        record.keep_event_bytes(BUDGET / 4);
        record.adopt(engine.program());
        let mut run = Run {
            now: Moment { state, judge },
            segments: vec![Segment::new(0, engine)],
            record,
            keys,
            keyframes: Keyframes::new(BUDGET / 2),
            options,
            pasts: Vec::new(),
            beside: None,
            numbered: 0,
            edited: None,
            begun: 0,
            recalled: Recalled::default(),
            stop: None,
            given_up: None,
            made_again: None,
            budget: BUDGET,
            let_go: None,
        };
        run.finish_tick(events);
        Ok(run)
    }

    // Looking.

    /// The state at the present place.
    pub fn state(&self) -> &State {
        &self.now.state
    }

    /// The present tick.
    pub fn tick(&self) -> u64 {
        self.now.state.tick
    }

    /// The last tick that was played.
    pub fn head(&self) -> u64 {
        self.record.len as u64 - 1
    }

    /// The program at the present place.
    pub fn program(&self) -> &Arc<Program> {
        self.program_at(self.tick())
    }

    /// The code that runs at the present place.
    pub fn compiled(&self) -> &Compiled {
        &self.segments[self.segment_at(self.tick())].engine.compiled
    }

    /// The program that played a tick: events of that tick speak of its kinds and sites.
    pub fn program_at(&self, tick: u64) -> &Arc<Program> {
        self.segments[self.segment_at(tick)].engine.program()
    }

    /// The line of a site of the program that played a tick, in the newest text, from 1; `None` if that has it no
    /// more.
    pub fn line_of(&self, tick: u64, site: SiteId) -> Option<u32> {
        self.line_at(tick, self.program_at(tick).line_of(site))
    }

    /// A line of the text that played a tick, in the newest text; both are counted from 1.
    pub fn line_at(&self, tick: u64, line: u32) -> Option<u32> {
        self.segments[self.segment_at(tick)].lines.line(line)
    }

    /// The versions of the text, with the first tick each played.
    pub fn versions(&self) -> Vec<(u64, Arc<Program>)> {
        self.segments.iter().map(|s| (s.from, s.engine.program().clone())).collect()
    }

    /// The first ticks played by an edited text that means something else than before.
    pub fn edits(&self) -> Vec<u64> {
        self.segments.iter().skip(1).map(|s| s.from).collect()
    }

    /// The record of everything played.
    pub fn record(&self) -> &Record {
        &self.record
    }

    /// The verdicts at the present place, in the order of the program's expectations.
    pub fn verdicts(&self) -> &[Verdict] {
        &self.now.judge.verdicts
    }

    /// What is kept of the run before the last edit or restart.
    pub fn past(&self) -> Option<&Past> {
        self.pasts.last()
    }

    /// Whether an edit parted this run from the one before; else it was begun again.
    pub fn is_edited(&self) -> bool {
        self.edited.is_some()
    }

    /// What is kept of the runs before, the oldest first: [`MOST_PASTS`] at most.
    pub fn pasts(&self) -> &[Past] {
        &self.pasts
    }

    /// The name of the tape that is played, if one is.
    pub fn tape_played(&self) -> Option<String> {
        self.options.tape.of(&self.newest()).ok().flatten().map(|tape| tape.name.clone())
    }

    /// Tells apart what may still hold from what holds no more: as long as it stays, events are only added
    /// to the record.
    pub fn edition(&self) -> (u64, u64) {
        (self.begun, self.record.forgotten())
    }

    /// The options it was opened with.
    pub fn options(&self) -> &RunOptions {
        &self.options
    }

    /// How many keyframes there are, and how many bytes they take.
    pub fn memory(&self) -> (usize, usize) {
        self.keyframes.size()
    }

    /// Where the memory of the run goes, in bytes.
    pub fn takes(&self) -> Takes {
        Takes {
            keyframes: self.keyframes.size().1,
            events: self.record.event_bytes(),
            branches: self.pasts.iter().map(Past::bytes).sum(),
            counts: self.record.bytes(),
        }
    }

    fn segment_at(&self, tick: u64) -> usize {
        self.segments.partition_point(|s| s.from <= tick).max(1) - 1
    }

    /// Sets how many bytes the run may take: half of them counts and keyframes, a quarter each events and branches. What does
    /// not fit is thinned: keyframes lie further apart, events are made again when they are looked at, the oldest branches go.
    /// Counts are kept; keyframes have what they leave of their half, and a sixteenth of all at least.
    pub fn set_memory(&mut self, bytes: usize) {
        self.budget = bytes;
        self.share_memory();
        self.record.keep_event_bytes(bytes / 4);
        self.let_go_of_oldest();
    }

    /// Gives keyframes what counts leave them.
    fn share_memory(&mut self) {
        let left = (self.budget / 2).saturating_sub(self.record.bytes()).max(self.budget / 16);
        // Small steps are not worth a walk over all of them.
        if left.abs_diff(self.keyframes.budget()) > self.budget / 256 {
            self.keyframes.set_budget(left);
        }
    }

    /// Sets how many events are kept in detail. Those dropped can be made again; see [`Run::recall`].
    pub fn set_most_events(&mut self, most: usize) {
        self.record.keep_events(most);
    }

    /// The input of the run so far, by the tick before which it came.
    pub fn input(&self) -> &BTreeMap<u64, Vec<Input>> {
        &self.keys
    }
}

impl Played for Run {
    fn program(&self) -> &Arc<Program> {
        Run::program(self)
    }

    fn state(&self) -> &State {
        Run::state(self)
    }

    fn verdicts(&self) -> &[Verdict] {
        Run::verdicts(self)
    }

    fn watches(&self) -> Vec<(String, f64)> {
        let watches = self.record().watches.iter();
        let known = watches.filter(|w| self.program().watches.iter().any(|p| p.name == w.name));
        let at = self.tick() as usize;
        known.map(|w| (w.name.clone(), w.values.get(at).copied().unwrap_or(f64::NAN))).collect()
    }

    fn not_finite(&self) -> Vec<(String, NotFinite)> {
        self.record().not_finite(self.tick(), self.program())
    }

    fn lifetimes(&self, kind: KindId) -> Option<[f64; 3]> {
        self.record().lifetimes(self.program(), kind)
    }
}
