//! `every tick`, conditions that turn true, states that begin and end.

use tickpond_lang::program::{Event as When, InState};

use crate::code::Turn;
use crate::engine::Engine;
use crate::engine::fire::allowed;
use crate::event::{Event, Phase};
use crate::state::{Clock, Columns, State};
use crate::vm::LANES;

impl Engine {
    pub(crate) fn think(&mut self, state: &mut State, events: &mut Vec<Event>) {
        let jobs = self.jobs(state, Phase::Think, Turn::Think);
        // What is written at once in this phase is asked for by nobody.
        self.hold_index(true);
        for job in jobs {
            let compiled = self.compiled.clone();
            let handler = &compiled.kinds[job.0.index()].handlers[job.1];
            let rows = match &handler.event {
                When::Becoming(entered) => changed(&state.kinds[job.0.index()], *entered, true),
                When::Quitting(left) => changed(&state.kinds[job.0.index()], *left, false),
                When::When(_) => self.turned_true(state, job),
                _ => Engine::rows(state, job.0),
            };
            // Who wants to know about firings is told of each handler once.
            if handler.alone && self.threads == 1 && self.trace.is_none() {
                self.out.set_aside();
                for rows in rows.chunks(LANES) {
                    self.fire_rows(state, Phase::Think, job, rows);
                    self.apply_writes(state);
                }
                self.out.set_aside();
            } else {
                self.fire_rows(state, Phase::Think, job, &rows);
            }
        }
        self.hold_index(false);
        // Before the close: what is entered by this phase's handlers begins with the next.
        let kinds = state.kinds.iter_mut().zip(&self.compiled.kinds);
        for (columns, _) in kinds.filter(|(_, code)| code.tells_states) {
            let rests = &columns.rests_since;
            for track in &mut columns.tracks {
                match rests.stored() {
                    None => track.seen.copy_from_slice(&track.now),
                    Some(rests) => {
                        let rows = track.seen.iter_mut().zip(&track.now).zip(rests);
                        for ((seen, now), _) in rows.filter(|(_, since)| **since == Clock::NEVER) {
                            *seen = *now;
                        }
                    }
                }
            }
        }
        self.close(state, Phase::Think, events);
    }

    /// The rows for which the condition of a `when` holds now and did not before.
    fn turned_true(
        &mut self,
        state: &mut State,
        job: (tickpond_lang::program::KindId, usize),
    ) -> Vec<u32> {
        let compiled = self.compiled.clone();
        let handler = &compiled.kinds[job.0.index()].handlers[job.1];
        let (Some(condition), Some(at)) = (&handler.period, handler.held) else {
            return Vec::new();
        };
        let rows = Engine::rows(state, job.0);
        let rows = allowed(state, job.0, handler, &rows).into_owned();
        let values = self.values(state, Phase::Think, job.0, condition, &rows, 1);
        let bits = &mut state.kinds[job.0.index()].bits;
        let mut turned = Vec::new();
        for (row, value) in rows.into_iter().zip(values) {
            let row = row as usize;
            let (held, holds) = (at.of(bits, row) == 1, value[0] != 0);
            at.set(bits, row, u64::from(holds));
            if holds && !held {
                turned.push(row as u32);
            }
        }
        turned
    }
}

/// The rows that have entered a state, or left it, since this was last looked at.
fn changed(columns: &Columns, state: InState, entered: bool) -> Vec<u32> {
    let Some(track) = columns.tracks.get(state.track) else { return Vec::new() };
    let wanted = state.state as u64;
    let rows = (0..columns.len() as u32).filter(|row| {
        let row = *row as usize;
        let (now, seen) = (track.now[row], track.seen[row]);
        let moved = now != seen && (if entered { now } else { seen }) == wanted;
        moved && columns.is_active(row)
    });
    rows.collect()
}
