//! Counts at the end of the tick.

use crate::engine::Engine;
use crate::state::State;

impl Engine {
    pub(crate) fn record(&mut self, state: &mut State) {
        for (columns, totals) in state.kinds.iter().zip(&mut state.totals) {
            let live = columns.len() as u64;
            if live > totals.peak {
                totals.peak = live;
                totals.peak_tick = state.tick;
            }
        }
    }
}
