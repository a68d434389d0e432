//! What plays next: forgetting what was played after the present tick, and beginning again.

use std::sync::Arc;

use tickpond_lang::program::Program;
use tickpond_sim::Engine;
use tickpond_sim::carry::carry;

use super::edits::same_meaning;
use super::{Recalled, Run, Segment};
use crate::moved::Moved;
use crate::options::{OptionsError, RunOptions, TapeChoice};

impl Run {
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
        if same_meaning(&newest.text, &self.program().text) {
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
    pub(super) fn cut(&mut self) {
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
    pub(super) fn move_lines(&mut self, moved: &Moved) {
        for segment in &mut self.segments {
            segment.lines = segment.lines.then(moved);
        }
    }

    pub(super) fn begin_segment(&mut self, engine: Engine) {
        self.record.adopt(engine.program());
        self.segments.push(Segment::new(self.tick() + 1, engine));
    }

    pub(super) fn engine(&self, program: Arc<Program>) -> Engine {
        let mut engine = self.options.engine(program);
        if let Some(stop) = &self.stop {
            engine.interrupt_by(stop.clone());
        }
        engine
    }

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
