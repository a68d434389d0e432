//! Branches: the runs that edits, keys in the past and new beginnings left behind, kept with what it takes to play them again.

use std::sync::Arc;

use tickpond_lang::compile;

use super::{Run, Segment};
use crate::branch::{BranchError, Recipe};
use crate::moved::Moved;
use crate::options::RunOptions;
use crate::past::Past;

impl Run {
    /// How this run was played so far.
    pub fn recipe(&self, before: impl Into<String>) -> Recipe {
        let text = |segment: &Segment| segment.engine.program().text.clone();
        Recipe {
            before: before.into(),
            seed: self.options.seed,
            knobs: self.options.knobs.clone(),
            tape: self.options.tape.clone(),
            texts: self.segments.iter().map(|s| (s.from, text(s))).collect(),
            keys: self.keys.clone(),
            head: self.head(),
        }
    }

    /// Takes in branches of an earlier session, in their order before all there are: they have no counts before they are
    /// played.
    pub fn adopt_branches(&mut self, recipes: Vec<Recipe>) {
        let first = self.numbered + 1;
        self.numbered += recipes.len() as u64;
        let adopted = (first..).zip(recipes).map(|(number, recipe)| Past {
            number,
            recipe: Arc::new(recipe),
            ..Past::default()
        });
        self.pasts.splice(0..0, adopted);
        self.let_go_of_oldest();
    }

    /// Goes back to a branch: this run becomes one itself, and the branch is played again from where both part up to where
    /// it had come. Exact. Costs the ticks it is played again. The text that plays is that of the branch.
    ///
    /// # Errors
    /// [`BranchError`]; but for one that was given up nothing has changed.
    pub fn go_back(&mut self, number: u64) -> Result<(), BranchError> {
        let at = self.pasts.iter().position(|past| past.number == number);
        let at = at.ok_or(BranchError::Unknown(number))?;
        let recipe = self.pasts[at].recipe.clone();
        let parted = self.prepare(&recipe, number)?;
        self.keep_as_past(parted.common.unwrap_or(0), format!("going back to branch {number}"));
        self.pasts.retain(|past| past.number != number);
        self.become_of(recipe, parted)
    }

    /// As it was before the newest branch was left: the edit that left it was taken back before another tick was played.
    pub(super) fn take_back(&mut self) -> Result<(), BranchError> {
        let Some(past) = self.pasts.last() else { return Err(BranchError::Unknown(0)) };
        let (recipe, number) = (past.recipe.clone(), past.number);
        let parted = self.prepare(&recipe, number)?;
        let tick = self.tick();
        self.pasts.pop();
        (self.beside, self.edited) = (None, None);
        self.become_of(recipe, parted)?;
        self.seek(tick);
        Ok(())
    }

    /// Compiles what plays behind the last tick both have in common.
    fn prepare(&self, recipe: &Recipe, number: u64) -> Result<Parted, BranchError> {
        let common = recipe.parts_from(&self.recipe(""));
        let options = RunOptions {
            seed: recipe.seed,
            knobs: recipe.knobs.clone(),
            tape: recipe.tape.clone(),
            ..self.options.clone()
        };
        let from = common.map_or(0, |tick| tick + 1);
        let mut segments = Vec::new();
        for (first, text) in recipe.texts.iter().filter(|(first, _)| *first >= from) {
            let program = compile(text).program.ok_or(BranchError::Text(number))?;
            options.knob_values(&program)?;
            segments.push(Segment::new(*first, self.engine(program)));
        }
        let begun = match (common, segments.first()) {
            (Some(_), _) => None,
            (None, Some(first)) => Some(Run::new(first.engine.program().clone(), options)?),
            (None, None) => return Err(BranchError::Text(number)),
        };
        Ok(Parted { common, begun, segments })
    }

    /// Plays a branch in place of this run, from where both part.
    fn become_of(&mut self, recipe: Arc<Recipe>, parted: Parted) -> Result<(), BranchError> {
        match parted.begun {
            None => {
                self.seek(parted.common.unwrap_or(0));
                self.cut();
                self.segments.extend(parted.segments);
            }
            Some(mut run) => {
                run.segments.extend(parted.segments.into_iter().skip(1));
                self.succeed(&mut run);
                *self = run;
            }
        }
        self.keys = recipe.keys.clone();
        let newest = self.newest();
        for segment in &mut self.segments {
            segment.lines = Moved::between(&segment.engine.program().text, &newest.text);
        }
        self.play_to(recipe.head);
        if self.given_up.take().is_some() {
            // What was not played again is still a branch.
            let seconds = self.tick() as f64 / self.program().rate;
            self.numbered += 1;
            let (number, parted) = (self.numbered, self.tick());
            self.cut_all();
            self.pasts.push(Past { number, parted, recipe, ..Past::default() });
            return Err(BranchError::GivenUp(seconds));
        }
        Ok(())
    }

    /// Lets go of the oldest branches, where there are too many or they take too much.
    pub(super) fn let_go_of_oldest(&mut self) {
        let most = self.budget / BRANCH_SHARE;
        loop {
            let bytes: usize = self.pasts.iter().map(Past::bytes).sum();
            if self.pasts.len() <= super::MOST_PASTS && (bytes <= most || self.pasts.len() <= 1) {
                return;
            }
            let gone = self.pasts.remove(0);
            self.let_go = Some(gone.words());
        }
    }

    /// Which branch was let go of since this was last asked, in words.
    pub fn let_go(&mut self) -> Option<String> {
        self.let_go.take()
    }
}

/// Which share of its memory a run gives to its branches.
const BRANCH_SHARE: usize = 4;

/// What two runs have in common, and what plays behind it.
struct Parted {
    /// The last tick they have in common.
    common: Option<u64>,
    /// The other run at its beginning, if they have none.
    begun: Option<Run>,
    /// The texts behind.
    segments: Vec<Segment>,
}
