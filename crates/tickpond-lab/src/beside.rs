//! The run before an edit, played on beside the one that took its place.

use std::sync::Arc;

use tickpond_lang::program::Program;
use tickpond_sim::{Engine, InputChange, State};

use crate::past::Past;

/// How many seconds the run before is played on after its end.
const SECONDS: f64 = 120.0;

/// What is needed to play on what an edit took the place of. An edit of the newest tick would else have
/// nothing to be compared with.
pub(crate) struct Beside {
    engine: Engine,
    state: State,
    /// The last tick that is played.
    until: u64,
}

impl Beside {
    /// The run as it stood at its newest tick.
    pub(crate) fn new(program: Arc<Program>, state: State) -> Beside {
        let until = state.tick + (program.rate * SECONDS) as u64;
        Beside { engine: Engine::new(program), state, until }
    }

    /// The program it is played by.
    pub(crate) fn program(&self) -> &Arc<Program> {
        self.engine.program()
    }

    /// The tick that would be played next; `None` if it goes on no more.
    pub(crate) fn next(&self) -> Option<u64> {
        (self.state.tick < self.until && self.state.stopped.is_none())
            .then_some(self.state.tick + 1)
    }

    /// Plays a tick with what the player does before it, and adds it to what is kept of the run.
    pub(crate) fn step(&mut self, input: &[InputChange], past: &mut Past) {
        let mut events = Vec::new();
        self.engine.step(&mut self.state, input, &mut events);
        let watches = self.engine.watches(&self.state);
        past.record.add_counts(self.engine.program(), &self.state, &watches, &events);
    }
}
