//! `every tick`.

use tickpond_lang::program::Event as When;

use crate::engine::Engine;
use crate::event::{Event, Phase};
use crate::state::State;

impl Engine {
    pub(crate) fn think(&mut self, state: &mut State, events: &mut Vec<Event>) {
        for job in self.jobs(state, Phase::Think, |handler| handler.event == When::EveryTick) {
            let rows = Engine::rows(state, job.0);
            self.fire_rows(state, Phase::Think, job, &rows);
        }
        self.close(state, Phase::Think, events);
    }
}
