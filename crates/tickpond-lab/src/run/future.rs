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
    /// Leaves everything after the present tick behind as a branch, named by what is done here. The newest text plays on from here: where the state cannot be
    /// carried over to it, the run is made again up to this tick; see [`Run::made_again`].
    pub fn forget_future(&mut self, because: &str) {
        if self.tick() == self.head() {
            return;
        }
        let seconds = self.tick() as f64 / self.program().rate;
        self.keep_as_past(self.tick(), format!("{because} at {seconds:.2} s"));
        self.edited = Some(self.tick());
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

    /// The same where nothing has been played behind the present tick, but texts and keys are laid out for it.
    pub(super) fn cut_all(&mut self) {
        self.cut();
        self.keys.split_off(&(self.tick() + 1));
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
        let before = format!("starting again with seed {}", options.seed);
        self.begin_again(program, options, before)
    }

    /// Begins again at tick 0 with the newest text and what the player does on a tape.
    ///
    /// # Errors
    /// [`OptionsError`] if there is no such tape; nothing has changed.
    pub fn play_tape(&mut self, tape: TapeChoice) -> Result<(), OptionsError> {
        let program = self.newest();
        let before = match &tape {
            TapeChoice::Named(name) => format!("playing the tape \"{name}\""),
            TapeChoice::Nothing => "playing without a tape".to_string(),
            TapeChoice::Played => "playing the pond's tape".to_string(),
        };
        self.begin_again(program, RunOptions { tape, ..self.options.clone() }, before)
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
        before: String,
    ) -> Result<(), OptionsError> {
        let mut run = Run::new(program, options)?;
        self.keep_as_past(0, before);
        self.edited = None;
        self.succeed(&mut run);
        *self = run;
        Ok(())
    }
}
