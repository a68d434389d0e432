//! Edits of a run: which text plays from the next tick on, and what stays of the run before.

use std::sync::Arc;

use tickpond_lang::program::Program;
use tickpond_sim::Engine;
use tickpond_sim::carry::carry;

use super::{Edited, Run};
use crate::beside::Beside;
use crate::branch::what_changed;
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
        if self.left_here(&program) && self.take_back().is_ok() {
            // The places in the text may be others.
            let engine = self.engine(program.clone());
            let moved = Moved::between(&self.newest().text, &program.text);
            self.move_lines(&moved);
            self.take_places_of(engine);
            return Ok(Edited::TakenBack);
        }
        let old = &self.segments[self.segment_at(self.tick())].engine;
        let is_back = same_meaning(&old.program().text, &program.text);
        let carried = carry(&self.now.state, &old.compiled, &engine.compiled);
        let was_played = self.tick() < self.head();
        self.keep_past(&program);
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
    fn keep_past(&mut self, program: &Program) {
        let typing = 2.0 * self.program().rate;
        let last = self.edited.filter(|last| (*last..*last + typing as u64).contains(&self.tick()));
        if last.is_none() || self.tick() < self.head() {
            let before = self.told_edit(program);
            self.keep_as_past(self.tick(), before);
            self.edited = Some(self.tick());
        }
    }

    /// What an edit changes, and when.
    fn told_edit(&self, program: &Program) -> String {
        let seconds = self.tick() as f64 / self.program().rate;
        format!("{} at {seconds:.2} s", what_changed(&self.newest().text, &program.text))
    }

    /// Whether the newest branch was left by an edit of the present tick, nothing has been played since, and this text is
    /// the branch's.
    fn left_here(&self, program: &Program) -> bool {
        let Some(past) = self.pasts.last() else { return false };
        let tick = self.tick();
        let was_left = past.parted == tick && past.recipe.head > tick && self.edited == Some(tick);
        was_left
            && tick == self.head()
            && same_meaning(&past.recipe.newest(), &program.text)
            && past.recipe.keys.range(..=tick).eq(self.keys.iter())
    }

    pub(super) fn keep_as_past(&mut self, parted: u64, before: String) {
        let beside = |run: &mut Run| Beside::new(run.program().clone(), run.now.state.clone());
        let beside = match self.tick() < self.head() {
            true => self.aside(self.head(), beside),
            false => beside(self),
        };
        self.beside = Some(beside);
        self.numbered += 1;
        let recipe = self.recipe(before);
        self.pasts.push(Past::of(self.numbered, parted, &self.record, recipe));
        self.let_go_of_oldest();
    }

    fn again(&mut self, program: Arc<Program>) -> Result<(), OptionsError> {
        // Each is a whole run, and the one before it is what it is compared with.
        let before = self.told_edit(&program);
        self.keep_as_past(self.tick(), before);
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
        run.set_memory(self.budget);
        run.let_go = self.let_go.take();
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
