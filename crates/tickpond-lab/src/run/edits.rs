//! Edits of a run: which text plays from the next tick on, and what stays of the run before.

use std::sync::Arc;

use tickpond_lang::program::Program;
use tickpond_sim::Engine;
use tickpond_sim::carry::carry;

use super::{Edited, MOST_PASTS, Run};
use crate::beside::Beside;
use crate::moved::Moved;
use crate::options::{OptionsError, TapeChoice};
use crate::past::Past;

impl Run {
    /// Takes up an edited text: at the present tick if the state can be carried over, else from
    /// tick 0 with the same seed, knobs and keys. What was played after the present tick is
    /// forgotten, and stays as the ghost. A text that means the same as the newest only moves the lines.
    ///
    /// What plays from the next tick on is always the text that was taken up last: an edit that is taken back
    /// before another tick has played leaves nothing behind.
    ///
    /// # Errors
    /// [`OptionsError`] if a knob set from outside does not fit the new text; nothing has changed.
    pub fn edit(&mut self, program: Arc<Program>) -> Result<Edited, OptionsError> {
        self.edit_as(program, true)
    }

    /// The same; without `forks` the run is made again from tick 0 up to the present tick.
    ///
    /// # Errors
    /// As [`Run::edit`].
    pub fn edit_as(&mut self, program: Arc<Program>, forks: bool) -> Result<Edited, OptionsError> {
        self.options.knob_values(&program)?;
        if self.options.tape.of(&program).is_err() {
            // The tape is gone from the text; what was played from it stays in the input.
            self.options.tape = TapeChoice::Nothing;
        }
        let engine = self.engine(program.clone());
        let moved = Moved::between(&self.newest().text, &program.text);
        if same_meaning(&self.newest().text, &program.text) {
            // The same words give the same code and numbering: only the places in the text differ.
            self.move_lines(&moved);
            self.take_places_of(engine);
            return Ok(Edited::Same);
        }
        if !forks {
            return self.again(program).map(|()| Edited::Remade("as you chose".into()));
        }
        let old = &self.segments[self.segment_at(self.tick())].engine;
        let is_back = same_meaning(&old.program().text, &program.text);
        let carried = carry(&self.now.state, &old.compiled, &engine.compiled);
        let was_played = self.tick() < self.head();
        self.keep_past();
        self.cut();
        self.move_lines(&moved);
        if is_back {
            self.record.adopt(engine.program());
            self.take_places_of(engine);
            return Ok(if was_played { Edited::Forked } else { Edited::TakenBack });
        }
        let reason = match carried {
            Ok(_) if self.tick() > 0 => {
                self.begin_segment(engine);
                return Ok(Edited::Forked);
            }
            Ok(_) => "the run is at its start".to_string(),
            Err(reason) => reason.words(),
        };
        self.remake(program)?;
        Ok(Edited::Remade(reason))
    }

    /// The newest stretch is played by a text that means the same as its own: the places are that one's.
    pub(super) fn take_places_of(&mut self, engine: Engine) {
        if let Some(newest) = self.segments.last_mut() {
            (newest.engine, newest.lines) = (engine, Moved::default());
        }
    }

    /// Keeps this run as the one to compare with, and what it takes to play it on; or, while a person is
    /// still typing the same edit, the one before it.
    fn keep_past(&mut self) {
        let typing = 2.0 * self.program().rate;
        let last = self.edited.filter(|last| (*last..*last + typing as u64).contains(&self.tick()));
        if last.is_none() {
            self.keep_as_past(self.tick());
            self.edited = Some(self.tick());
        }
    }

    pub(super) fn keep_as_past(&mut self, parted: u64) {
        let beside = |run: &mut Run| Beside::new(run.program().clone(), run.now.state.clone());
        let beside = match self.tick() < self.head() {
            true => self.aside(self.head(), beside),
            false => beside(self),
        };
        self.beside = Some(beside);
        self.numbered += 1;
        self.pasts.push(Past::of(self.numbered, parted, &self.record));
        if self.pasts.len() > MOST_PASTS {
            self.pasts.remove(0);
        }
    }

    fn again(&mut self, program: Arc<Program>) -> Result<(), OptionsError> {
        // Each is a whole run, and the one before it is what it is compared with.
        self.keep_as_past(self.tick());
        self.edited = Some(self.tick());
        self.cut();
        self.remake(program)
    }

    /// Hands over to the run that takes its place what is kept of those before it.
    pub(super) fn succeed(&mut self, run: &mut Run) {
        run.pasts = std::mem::take(&mut self.pasts);
        run.beside = self.beside.take();
        run.numbered = self.numbered;
        run.edited = self.edited;
        run.begun = self.begun + 1;
        run.keyframes.set_budget(self.keyframes.budget());
        if let Some(stop) = &self.stop {
            run.interrupt_by(stop.clone());
        }
    }

    pub(super) fn remake(&mut self, program: Arc<Program>) -> Result<(), OptionsError> {
        let tick = self.tick();
        let mut run = Run::new(program, self.options.clone())?;
        run.keys = std::mem::take(&mut self.keys);
        self.succeed(&mut run);
        run.play_to(tick);
        *self = run;
        Ok(())
    }
}

/// Whether two texts differ in comments and spaces alone.
pub(super) fn same_meaning(a: &str, b: &str) -> bool {
    fn words(text: &str) -> impl Iterator<Item = String> {
        let (tokens, _) = tickpond_lang::lex::lex(text);
        let significant = tokens.into_iter().filter(|t| !t.kind.is_trivia());
        significant.map(move |t| text[t.span.range()].to_string())
    }
    words(a).eq(words(b))
}
