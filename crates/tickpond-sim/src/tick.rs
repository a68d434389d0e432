//! One tick: its phases in their order. What each does is in [`crate::phase`].

use tickpond_lang::program::POND;

use crate::engine::{Engine, InputChange};
use crate::event::Event;
use crate::state::State;

impl Engine {
    /// Tick 0: what is placed is born.
    pub fn open(&mut self, seed: u64, events: &mut Vec<Event>) -> State {
        self.open_with(seed, &[], events)
    }

    /// Tick 0 with other values of the knobs; `knobs` are in base units, in the program's order.
    pub fn open_with(&mut self, seed: u64, knobs: &[f64], events: &mut Vec<Event>) -> State {
        let widths: Vec<_> = self.compiled.kinds.iter().map(|k| k.widths.clone()).collect();
        let mut state = State::empty(&self.compiled.program, &widths, seed);
        state.peaks = self.compiled.peaks.iter().map(|kinds| (kinds.clone(), 0)).collect();
        for (value, new) in state.knobs.iter_mut().zip(knobs) {
            *value = *new;
        }
        self.begin_tick();
        self.first_values(&mut state, POND, 0..1);
        self.births_opening(&mut state, events);
        self.put_view(&mut state);
        self.record(&mut state);
        state
    }

    /// Plays one tick. What happened is added to `events`, in the order of phases and, in a phase,
    /// of the roll. If a guard was reached, [`State::stopped`] tells.
    pub fn step(&mut self, state: &mut State, keys: &[InputChange], events: &mut Vec<Event>) {
        state.tick += 1;
        state.stopped = None;
        self.begin_tick();
        let tick = state.tick;
        state.traces.retain(|trace| trace.until > tick);
        self.input(state, keys, events);
        self.clocks(state, events);
        self.births(state, events);
        self.think(state, events);
        self.motion(state, events);
        self.contact(state, events);
        self.mail(state, events);
        self.settle(state, events);
        self.ends(state, events);
        self.record(state);
    }
}
