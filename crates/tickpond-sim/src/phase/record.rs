//! Counts at the end of the tick.

use crate::engine::Engine;
use crate::state::State;

impl Engine {
    pub(crate) fn record(&mut self, state: &mut State) {
        in_roll_order(state);
        for (columns, totals) in state.kinds.iter().zip(&mut state.totals) {
            let live = columns.len() as u64;
            if live > totals.peak {
                totals.peak = live;
                totals.peak_tick = state.tick;
            }
        }
        for (kinds, peak) in &mut state.peaks {
            let live: usize = kinds.iter().map(|kind| state.kinds[kind.index()].len()).sum();
            *peak = (*peak).max(live as u64);
        }
    }
}

/// Brings what is left for later into the order of the roll, so that the state does not tell in which
/// order handlers happened to run.
fn in_roll_order(state: &mut State) {
    state.health.sort_by_key(|r| r.key);
    state.ends.sort_by_key(|r| r.key);
    state.pushes.sort_by_key(|r| r.key);
    state.activations.sort_by_key(|r| r.key);
    state.attaching.sort_by_key(|r| r.key);
    let place = |w: &crate::state::Wait| (w.due, w.serial, w.handler, w.at);
    if !state.waits.is_sorted_by_key(place) {
        state.waits.sort_by_key(place);
    }
}
