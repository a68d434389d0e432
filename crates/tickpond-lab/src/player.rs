//! Plays a run forward into sinks, and keeps nothing else.
//!
//! What a run without a screen needs: its totals, its verdicts, and files that grow as it plays. Whoever wants to
//! go back in time, or to edit, takes a [`Run`](crate::Run).

use std::collections::BTreeMap;
use std::io;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use tickpond_lang::program::{KindId, Program};
use tickpond_sim::{Engine, Event, Guard, State, What};

use crate::case::{Case, Opened};
use crate::input::{Input, changes_at};
use crate::judge::{Judge, Verdict};
use crate::lives::Lives;
use crate::options::{OptionsError, RunOptions};
use crate::played::Played;
use crate::sink::{Sink, Tick};
use crate::watching::{NotFinite, Watching};

/// A run that goes forward. Its memory grows with what lives, not with what was played.
pub struct Player {
    engine: Engine,
    state: State,
    judge: Judge,
    keys: BTreeMap<u64, Vec<Input>>,
    tape: Option<String>,
    watching: Watching,
    lives: Vec<Lives>,
    /// The events of tick 0, until it is handed on.
    opening: Option<Vec<Event>>,
    interrupted: bool,
}

impl Player {
    /// Opens a pond at tick 0.
    ///
    /// # Errors
    /// [`OptionsError`] if a knob or the tape named in the options is not there, or a value does not fit.
    pub fn new(program: Arc<Program>, options: &RunOptions) -> Result<Player, OptionsError> {
        let Opened { engine, state, events, judge, keys, tape } =
            Case { program, options: options.clone() }.open()?;
        let program = engine.program();
        Ok(Player {
            watching: Watching::new(program),
            lives: vec![Lives::default(); program.kinds.len()],
            judge,
            engine,
            state,
            keys,
            tape,
            opening: Some(events),
            interrupted: false,
        })
    }

    /// Lets a tick that takes long be given up from outside: see [`Engine::interrupt_by`].
    pub fn interrupt_by(&mut self, stop: Arc<AtomicBool>) {
        self.engine.interrupt_by(stop);
    }

    /// The tape that is played, if one is.
    pub fn tape(&self) -> Option<&str> {
        self.tape.as_deref()
    }

    /// Plays up to a tick, or until a guard stops the run, handing on each tick. False if it was interrupted: then
    /// the last tick was given up and is handed on to nobody.
    ///
    /// # Errors
    /// The first that a sink reports.
    pub fn play_to(&mut self, tick: u64, sinks: &mut [&mut dyn Sink]) -> io::Result<bool> {
        if let Some(events) = self.opening.take() {
            self.finish(&events, sinks)?;
        }
        let mut events = Vec::new();
        while self.state.tick < tick && self.state.stopped.is_none() {
            let next = self.state.tick + 1;
            let keys = changes_at(&self.keys, next, self.engine.program());
            events.clear();
            self.engine.step(&mut self.state, &keys, &mut events);
            let guard = self.state.stopped.as_ref().map(|stopped| stopped.guard);
            if guard == Some(Guard::Interrupted) {
                self.interrupted = true;
                return Ok(false);
            }
            self.finish(&events, sinks)?;
        }
        Ok(true)
    }

    fn finish(&mut self, events: &[Event], sinks: &mut [&mut dyn Sink]) -> io::Result<()> {
        self.judge.tick(&mut self.engine, &self.state, events);
        let watches = self.engine.watches(&self.state);
        self.watching.tick(self.state.tick, &watches);
        for event in events.iter().filter(|event| event.what == What::Ended) {
            self.lives[event.who.kind.index()].add(event.value.unwrap_or(0.0) as u64);
        }
        let program = self.engine.program().clone();
        let tick = Tick { program: &program, state: &self.state, watches: &watches, events };
        sinks.iter_mut().try_for_each(|sink| sink.take(&tick))
    }

    /// Closes the books on expectations about the end.
    pub fn close(&mut self) {
        self.judge.close(&mut self.engine, &self.state);
    }
}

impl Played for Player {
    fn program(&self) -> &Arc<Program> {
        self.engine.program()
    }

    fn state(&self) -> &State {
        &self.state
    }

    fn verdicts(&self) -> &[Verdict] {
        &self.judge.verdicts
    }

    fn watches(&self) -> Vec<(String, f64)> {
        self.watching.last(self.engine.program())
    }

    fn not_finite(&self) -> Vec<(String, NotFinite)> {
        self.watching.not_finite(self.engine.program())
    }

    fn lifetimes(&self, kind: KindId) -> Option<[f64; 3]> {
        self.lives[kind.index()].spread()
    }
}
