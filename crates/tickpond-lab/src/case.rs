//! What is to be played, as a value.

use std::collections::BTreeMap;
use std::sync::Arc;

use tickpond_lang::program::Program;
use tickpond_sim::{Engine, Event, State};

use crate::input::{Input, taped};
use crate::judge::Judge;
use crate::options::{OptionsError, RunOptions};

/// A program and how it is to be played: seed, knobs, tape. Two equal cases play the same ticks.
#[derive(Clone, Debug)]
pub struct Case {
    /// The checked program.
    pub program: Arc<Program>,
    /// Seed, knobs, tape and the rest.
    pub options: RunOptions,
}

/// A case at tick 0, with all that is needed to play it.
pub(crate) struct Opened {
    pub engine: Engine,
    pub state: State,
    /// What happened at tick 0.
    pub events: Vec<Event>,
    /// Knows the expectations; tick 0 has not been judged yet.
    pub judge: Judge,
    /// What the player does, by the tick before which it comes.
    pub keys: BTreeMap<u64, Vec<Input>>,
    /// The name of the tape that is played.
    pub tape: Option<String>,
}

impl Case {
    /// Opens it at tick 0.
    ///
    /// # Errors
    /// [`OptionsError`] if a knob or the tape named in the options is not there, or a value does not fit.
    pub(crate) fn open(self) -> Result<Opened, OptionsError> {
        let Case { program, options } = self;
        let knobs = options.knob_values(&program)?;
        let tape = options.tape.of(&program)?;
        let keys = tape.map(|tape| taped(&program, tape)).unwrap_or_default();
        let tape = tape.map(|tape| tape.name.clone());
        let judge = Judge::on(&program, tape.clone());
        let mut engine = options.engine(program);
        let mut events = Vec::new();
        let state = engine.open_with(options.seed, &knobs, &mut events);
        Ok(Opened { engine, state, events, judge, keys, tape })
    }
}
