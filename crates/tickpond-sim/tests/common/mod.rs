//! Small ponds for tests.
#![allow(dead_code, reason = "each test file uses its part")]

use tickpond_lang::program::{InputId, Program};
use tickpond_sim::{Engine, Event, InputChange, State, What};

/// A pond being played.
pub struct Play {
    pub engine: Engine,
    pub state: State,
    pub events: Vec<Event>,
}

/// An arena of 100 x 100 at 60 ticks per second, and `items`.
pub fn pond(items: &str) -> Play {
    play(&format!("pond \"test\" {{ arena 100 x 100 }}\n{items}"), 1)
}

/// A whole text, opened with a seed.
pub fn play(text: &str, seed: u64) -> Play {
    let compiled = tickpond_lang::compile(text);
    let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
    let mut engine = Engine::new(program);
    let mut events = Vec::new();
    let state = engine.open(seed, &mut events);
    Play { engine, state, events }
}

impl Play {
    pub fn program(&self) -> &Program {
        &self.engine.compiled.program
    }

    pub fn ticks(&mut self, ticks: u64) -> &mut Play {
        for _ in 0..ticks {
            self.engine.step(&mut self.state, &[], &mut self.events);
        }
        self
    }

    /// One tick with the first input going down or up.
    pub fn key(&mut self, down: bool) -> &mut Play {
        let change = InputChange::Key { input: InputId(0), down };
        self.engine.step(&mut self.state, &[change], &mut self.events);
        self
    }

    pub fn count(&self, kind: &str) -> usize {
        self.state.kinds[self.program().kind_named(kind).unwrap().index()].len()
    }

    pub fn born(&self, kind: &str) -> u64 {
        self.state.totals[self.program().kind_named(kind).unwrap().index()].born
    }

    pub fn columns(&self, kind: &str) -> &tickpond_sim::state::Columns {
        &self.state.kinds[self.program().kind_named(kind).unwrap().index()]
    }

    pub fn said(&self) -> Vec<String> {
        let said = self.events.iter().filter(|e| e.what == What::Said);
        said.map(|e| e.words.as_deref().unwrap_or("").to_string()).collect()
    }

    /// `kind tick cause words` of each end.
    pub fn ends(&self) -> Vec<String> {
        let ends = self.events.iter().filter(|e| e.what == What::Ended);
        ends.map(|e| {
            let kind = &self.program().kinds[e.who.kind.index()].name;
            let words = e.words.as_deref().unwrap_or("");
            format!("{kind} {} {} {words}", e.tick, e.cause.unwrap().name()).trim().to_string()
        })
        .collect()
    }

    pub fn happened(&self, what: What) -> usize {
        self.events.iter().filter(|e| e.what == what).count()
    }
}
