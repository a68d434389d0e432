//! Playing: one tick after the other, with what the player does.

use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use tickpond_sim::carry::carry;
use tickpond_sim::{Event, Guard};

use super::Run;
use crate::input::{Input, changes_at};

/// After how many ticks it is looked at anew how much memory counts have left to keyframes.
const SHARED_ANEW: u64 = 512;

impl Run {
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
        if self.now.state.tick + 1 == self.record.len as u64 {
            // A branch is played again.
            let program = new.program().clone();
            self.record.adopt(&program);
        }
    }

    pub(super) fn finish_tick(&mut self, events: Vec<Event>) {
        let tick = self.tick();
        let at = self.segment_at(tick);
        let engine = &mut self.segments[at].engine;
        self.now.judge.tick(engine, &self.now.state, &events);
        if tick as usize == self.record.len {
            let watches = engine.watches(&self.now.state);
            let program = engine.program().clone();
            self.record.add(&program, &self.now.state, &watches, events);
            self.play_beside();
            if tick.is_multiple_of(SHARED_ANEW) {
                self.share_memory();
            }
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

    /// Notes a key for the next tick. In the past this begins another future: what was played after
    /// the present tick is left behind as a branch.
    pub fn press(&mut self, input: &str, down: bool) {
        self.forget_future(&format!("the key of `{input}`"));
        let next = self.tick() + 1;
        self.keys.entry(next).or_default().push(Input::Key(input.to_string(), down));
    }

    /// Notes that a pointer is moved to a place in u for the next tick, as [`Run::press`] does a key.
    pub fn point(&mut self, input: &str, to: (f64, f64)) {
        self.forget_future(&format!("`{input}` was moved"));
        let next = self.tick() + 1;
        self.keys.entry(next).or_default().push(Input::Move(input.to_string(), to));
    }

    /// Notes that one of a kind is put at a place in u in the next tick, as [`Run::press`] does a key.
    pub fn place(&mut self, kind: &str, at: (f64, f64)) {
        self.forget_future(&format!("a {kind} was put in place"));
        let next = self.tick() + 1;
        self.keys.entry(next).or_default().push(Input::Place(kind.to_string(), at));
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
}
