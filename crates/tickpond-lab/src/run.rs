//! A run that is recorded and can be played, jumped in, and edited.

mod edits;

use std::collections::BTreeMap;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use tickpond_lang::program::{Program, SiteId};
use tickpond_sim::carry::carry;
use tickpond_sim::code::Compiled;
use tickpond_sim::{Engine, Event, Firings, Guard, State};

use crate::beside::Beside;
use crate::input::{Input, changes_at, taped};
use crate::judge::{Judge, Verdict};
use crate::keyframes::Keyframes;
use crate::moved::Moved;
use crate::options::{OptionsError, RunOptions, TapeChoice};
use crate::past::Past;
use crate::record::Record;

/// Bytes the keyframes of a run may take.
const KEYFRAME_BUDGET: usize = 2 << 30;

/// How many earlier runs are kept to compare with.
pub const MOST_PASTS: usize = 6;

/// How many ticks before the present one events are made again for, where they were dropped.
const RECALL: u64 = 600;

/// A stretch of a run played by one version of the text.
struct Segment {
    /// The first tick it plays.
    from: u64,
    engine: Engine,
    /// Where the lines of its text are in the newest.
    lines: Moved,
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
        let knobs = options.knob_values(&program)?;
        let keys = options.tape.of(&program)?.map(|tape| taped(&program, tape)).unwrap_or_default();
        let tape = options.tape.of(&program)?.map(|tape| tape.name.clone());
        let mut engine = options.engine(program.clone());
        let mut events = Vec::new();
        let state = engine.open_with(options.seed, &knobs, &mut events);
        let mut record = Record::default();
        record.adopt(&program);
        let mut run = Run {
            now: Moment { state, judge: Judge::on(&program, tape) },
            segments: vec![Segment { from: 0, engine, lines: Moved::default() }],
            record,
            keys,
            keyframes: Keyframes::new(KEYFRAME_BUDGET),
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

    fn segment_at(&self, tick: u64) -> usize {
        self.segments.partition_point(|s| s.from <= tick).max(1) - 1
    }

    // Playing.

    /// Plays one tick, recorded if it is new. The keys are those noted for it; see [`Run::press`].
    pub fn step(&mut self) {
        let tick = self.tick() + 1;
        let at = self.segment_at(tick);
        if self.segments[at].from == tick && tick > 0 {
            self.cross(at);
        }
        let keys = changes_at(&self.keys, tick, self.segments[at].engine.program());
        let mut events = Vec::new();
        self.segments[at].engine.step(&mut self.now.state, &keys, &mut events);
        let guard = self.now.state.stopped.as_ref().map(|stopped| stopped.guard);
        if guard == Some(Guard::Interrupted) {
            // What is left of it is no state of the run: back to the last that is.
            self.given_up = Some(tick);
            self.restore(tick - 1);
            return;
        }
        self.finish_tick(events);
    }

    /// Lets a tick that takes long be given up from outside: as soon as the flag is set. The run is then at a
    /// keyframe before it; see [`Run::given_up`].
    pub fn interrupt_by(&mut self, stop: Arc<AtomicBool>) {
        for segment in &mut self.segments {
            segment.engine.interrupt_by(stop.clone());
        }
        self.stop = Some(stop);
    }

    /// The tick that was given up since this was last asked, if one was. Until it is asked nothing is played.
    pub fn given_up(&mut self) -> Option<u64> {
        self.given_up.take()
    }

    /// Takes the state over to the version of the text that begins with the next tick.
    fn cross(&mut self, at: usize) {
        let (old, new) = (&self.segments[at - 1].engine, &self.segments[at].engine);
        // It could be carried when the edit was made, and the state is the same again.
        if let Ok(state) = carry(&self.now.state, &old.compiled, &new.compiled) {
            self.now.state = state;
        }
        self.now.judge = self.now.judge.carry(old.program(), new.program());
    }

    fn finish_tick(&mut self, events: Vec<Event>) {
        let tick = self.tick();
        let at = self.segment_at(tick);
        let engine = &mut self.segments[at].engine;
        self.now.judge.tick(engine, &self.now.state, &events);
        if tick as usize == self.record.len {
            let watches = engine.watches(&self.now.state);
            let program = engine.program().clone();
            self.record.add(&program, &self.now.state, &watches, events);
            self.play_beside();
        } else if self.recalled.ticks.end == tick {
            self.recalled.events.extend(events);
            self.recalled.ticks.end += 1;
        }
        if self.keyframes.is_due(tick) {
            let bytes = self.now.state.bytes() + self.now.judge.bytes();
            self.keyframes.keep(tick, &self.now, bytes);
        }
    }

    /// Plays the run before on, as far as this one is played, with what the player does in this one.
    fn play_beside(&mut self) {
        let (Some(beside), Some(past)) = (&mut self.beside, self.pasts.last_mut()) else { return };
        while past.record.len < self.record.len
            && let Some(tick) = beside.next()
        {
            let keys = changes_at(&self.keys, tick, beside.program());
            beside.step(&keys, past);
        }
    }

    /// Makes the events of the ticks up to the present one again, if they were dropped from the record: as
    /// many ticks as fill the views. Plays them once more; the run is where it was afterwards.
    pub fn recall(&mut self) {
        let (tick, kept_from) = (self.tick(), self.record.kept_from());
        let known = self.recalled.ticks.contains(&tick);
        if tick >= kept_from || known {
            return;
        }
        let now = self.now.clone();
        let from = tick.saturating_sub(RECALL).max(1);
        self.restore(from - 1);
        while self.tick() + 1 < from && self.given_up.is_none() {
            self.step();
        }
        // Every tick that follows the last of them adds its own.
        self.recalled = Recalled { ticks: from..from, events: Vec::new() };
        while self.tick() < tick && self.given_up.is_none() {
            self.step();
        }
        self.now = now;
    }

    /// The events up to the present tick, in their order: all that are kept; in the far past those that
    /// were made again by [`Run::recall`].
    pub fn events(&self) -> &[Event] {
        let tick = self.tick();
        if tick >= self.record.kept_from() {
            return self.record.events_until(tick);
        }
        let known = &self.recalled.events;
        if !self.recalled.ticks.contains(&tick) {
            return &[];
        }
        &known[..known.partition_point(|e| e.tick <= tick)]
    }

    /// Notes a key for the next tick. In the past this begins another future: what was played after
    /// the present tick is forgotten.
    pub fn press(&mut self, input: &str, down: bool) {
        self.forget_future();
        let next = self.tick() + 1;
        self.keys.entry(next).or_default().push(Input::Key(input.to_string(), down));
    }

    /// Notes that a pointer is moved to a place in u for the next tick, as [`Run::press`] does a key.
    pub fn point(&mut self, input: &str, to: (f64, f64)) {
        self.forget_future();
        let next = self.tick() + 1;
        self.keys.entry(next).or_default().push(Input::Move(input.to_string(), to));
    }

    /// Notes that one of a kind is put at a place in u in the next tick, as [`Run::press`] does a key.
    pub fn place(&mut self, kind: &str, at: (f64, f64)) {
        self.forget_future();
        let next = self.tick() + 1;
        self.keys.entry(next).or_default().push(Input::Place(kind.to_string(), at));
    }

    /// Sets how many bytes the keyframes may take.
    pub fn set_memory(&mut self, bytes: usize) {
        self.keyframes.set_budget(bytes);
    }

    /// Sets how many events are kept in detail. Those dropped can be made again; see [`Run::recall`].
    pub fn set_most_events(&mut self, most: usize) {
        self.record.keep_events(most);
    }

    /// The input of the run so far, by the tick before which it came.
    pub fn input(&self) -> &BTreeMap<u64, Vec<Input>> {
        &self.keys
    }

    /// Forgets everything after the present tick. The newest text plays on from here: where the state cannot be
    /// carried over to it, the run is made again up to this tick; see [`Run::made_again`].
    pub fn forget_future(&mut self) {
        if self.tick() == self.head() {
            return;
        }
        let newest = self.newest();
        self.cut();
        if Arc::ptr_eq(&newest, self.program()) {
            return;
        }
        let engine = self.engine(newest.clone());
        if edits::same_meaning(&newest.text, &self.program().text) {
            // The places in the text may be others.
            return self.take_places_of(engine);
        }
        let present = &self.segments[self.segment_at(self.tick())].engine;
        let reason = match carry(&self.now.state, &present.compiled, &engine.compiled) {
            Ok(_) if self.tick() > 0 => return self.begin_segment(engine),
            Ok(_) => "the run is at its start".to_string(),
            Err(reason) => reason.words(),
        };
        // It was accepted before, so it is again.
        if self.remake(newest).is_ok() {
            self.made_again = Some(reason);
        }
    }

    /// Why the run was made again since this was last asked, though nobody edited it.
    pub fn made_again(&mut self) -> Option<String> {
        self.made_again.take()
    }

    /// Forgets what was played after the present tick, and the texts that played or would have played it.
    fn cut(&mut self) {
        let tick = self.tick();
        self.segments.retain(|s| s.from <= tick);
        if tick < self.head() {
            self.record.truncate(tick);
            self.recalled = Recalled::default();
            self.keyframes.truncate(tick);
            self.keys.split_off(&(tick + 1));
            let program = self.program().clone();
            self.record.adopt(&program);
        }
    }

    /// Another text is the newest: the lines of those before are where they are in that.
    fn move_lines(&mut self, moved: &Moved) {
        for segment in &mut self.segments {
            segment.lines = segment.lines.then(moved);
        }
    }

    fn begin_segment(&mut self, engine: Engine) {
        self.record.adopt(engine.program());
        self.segments.push(Segment { from: self.tick() + 1, engine, lines: Moved::default() });
    }

    fn engine(&self, program: Arc<Program>) -> Engine {
        let mut engine = self.options.engine(program);
        if let Some(stop) = &self.stop {
            engine.interrupt_by(stop.clone());
        }
        engine
    }

    /// Goes to a tick: backwards from the nearest keyframe before it, forwards by playing. Exact.
    /// Costs the ticks from the keyframe on.
    pub fn seek(&mut self, tick: u64) {
        self.draw_near(tick);
        while self.tick() < tick && self.given_up.is_none() {
            self.step();
        }
    }

    /// Goes to a place from which a tick is reached by playing on: the nearest keyframe before it, if that is nearer
    /// than where the run is. The rest of the way is [`Run::step`].
    pub fn draw_near(&mut self, tick: u64) {
        let nearer = |at: u64| at > self.tick() || tick < self.tick();
        if self.keyframes.before(tick).is_some_and(|(at, _)| nearer(at)) {
            self.restore(tick);
        }
    }

    fn restore(&mut self, tick: u64) {
        if let Some((_, moment)) = self.keyframes.before(tick) {
            self.now.clone_from(&moment);
        }
    }

    /// The present tick taken apart: which handlers ran in which phase, for whom, and what they asked for.
    /// The tick is played once more from the one before; the run is where it was afterwards. Tick 0 has
    /// no handlers of the tick. Costs the ticks from the keyframe on.
    pub fn anatomy(&mut self) -> Vec<Firings> {
        let tick = self.tick();
        if tick == 0 {
            return Vec::new();
        }
        let now = self.now.clone();
        self.restore(tick - 1);
        while self.tick() < tick - 1 && self.given_up.is_none() {
            self.step();
        }
        let at = self.segment_at(tick);
        self.segments[at].engine.trace = Some(Vec::new());
        self.step();
        let trace = self.segments[at].engine.trace.take().unwrap_or_default();
        debug_assert!(
            self.given_up.is_some() || self.now.state.digest() == now.state.digest(),
            "a tick played again is the same"
        );
        self.now = now;
        trace
    }

    /// Plays up to a tick, or until a guard stops it.
    pub fn play_to(&mut self, tick: u64) {
        while self.tick() < tick && self.state().stopped.is_none() && self.given_up.is_none() {
            self.step();
        }
    }

    /// Closes the books on expectations about the end.
    pub fn close(&mut self) {
        let at = self.segment_at(self.tick());
        self.now.judge.close(&mut self.segments[at].engine, &self.now.state);
    }

    // Beginning again.

    /// Begins again at tick 0 with the newest text and another seed, if one is given.
    ///
    /// # Errors
    /// [`OptionsError`] if a knob set from outside does not fit; nothing has changed.
    pub fn restart(&mut self, seed: Option<u64>) -> Result<(), OptionsError> {
        let program = self.newest();
        let mut options = self.options.clone();
        options.seed = seed.unwrap_or(options.seed);
        self.begin_again(program, options)
    }

    /// Begins again at tick 0 with the newest text and what the player does on a tape.
    ///
    /// # Errors
    /// [`OptionsError`] if there is no such tape; nothing has changed.
    pub fn play_tape(&mut self, tape: TapeChoice) -> Result<(), OptionsError> {
        let program = self.newest();
        self.begin_again(program, RunOptions { tape, ..self.options.clone() })
    }

    /// The text that is played from now on.
    pub fn newest(&self) -> Arc<Program> {
        match self.segments.last() {
            Some(segment) => segment.engine.program().clone(),
            None => self.program().clone(),
        }
    }

    fn begin_again(
        &mut self,
        program: Arc<Program>,
        options: RunOptions,
    ) -> Result<(), OptionsError> {
        let mut run = Run::new(program, options)?;
        self.keep_as_past(0);
        self.edited = None;
        self.succeed(&mut run);
        *self = run;
        Ok(())
    }
}
