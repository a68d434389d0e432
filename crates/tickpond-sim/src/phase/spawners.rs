//! Spawners: which are going on, which are due, how much room each has, and what they ask for.

use tickpond_lang::program::{Cause, KindId, Rhythm};

use crate::code::SpawnerCode;
use crate::engine::{Engine, Firing};
use crate::event::Phase;
use crate::state::{Clock, EndRequest, Key, State};

impl Engine {
    /// Has the spawners of a kind ask for what is due.
    pub(super) fn spawners(&mut self, state: &mut State, kind: KindId) {
        let compiled = self.compiled.clone();
        let Some(spawner) = &compiled.kinds[kind.index()].spawner else { return };
        let rows = Engine::rows(state, kind);
        if rows.is_empty() || self.halted {
            return;
        }
        let rows = self.going_on(state, kind, spawner, rows);
        let due = self.due_spawners(state, kind, spawner, &rows);
        let mut firings = Vec::new();
        for row in due {
            let room = self.room(state, kind, spawner, row);
            if room > 0.0 {
                let words = smallvec::smallvec![(spawner.make.locals[0], room.to_bits())];
                firings.push(Firing { row, words, ..Firing::default() });
            }
        }
        self.make(state, kind, spawner, &firings);
        if spawner.keep.is_some() {
            self.thin_out(state, kind, spawner, &rows);
        }
    }

    /// The spawners that have begun and are not stopped. What `until` says stops one for good.
    fn going_on(
        &mut self,
        state: &mut State,
        kind: KindId,
        spawner: &SpawnerCode,
        mut rows: Vec<u32>,
    ) -> Vec<u32> {
        let clock = usize::from(spawner.clock);
        if let Some(until) = &spawner.until {
            let values = self.values(state, Phase::Clocks, kind, until, &rows, 1);
            for (row, value) in rows.iter().zip(values) {
                if value[0] != 0 {
                    state.kinds[kind.index()].clocks[clock][*row as usize] = Clock::STOPPED;
                }
            }
            let clocks = &state.kinds[kind.index()].clocks[clock];
            rows.retain(|row| clocks[*row as usize] != Clock::STOPPED);
        }
        if let Some(from) = &spawner.from {
            let values = self.values(state, Phase::Clocks, kind, from, &rows, 1);
            let (columns, tick) = (&state.kinds[kind.index()], state.tick);
            let begun = rows.iter().zip(values).filter(|(row, from)| {
                let from = f64::from_bits(from[0]);
                let ticks = self.compiled.program.ticks(from);
                from.is_finite() && columns.age(**row as usize, tick) >= ticks
            });
            rows = begun.map(|(row, _)| *row).collect();
        }
        rows
    }

    /// Of those a spawner made, more than it keeps are asked to end: the oldest first.
    fn thin_out(&mut self, state: &State, kind: KindId, spawner: &SpawnerCode, rows: &[u32]) {
        let Some((keep, site)) = &spawner.keep else { return };
        let values = self.values(state, Phase::Clocks, kind, keep, rows, 1);
        for (row, value) in rows.iter().zip(values) {
            let columns = &state.kinds[kind.index()];
            let row = *row as usize;
            let over = f64::from(columns.made_open[row]) - f64::from_bits(value[0]).floor();
            if over < 1.0 {
                continue;
            }
            let id = columns.id[row];
            let mut own: Vec<_> = state
                .kinds
                .iter()
                .flat_map(|c| {
                    (0..c.len()).filter(|r| c.maker[*r] == id).map(|r| (c.serial[r], c.id[r]))
                })
                .collect();
            own.sort_unstable();
            for (nth, (_, target)) in own.into_iter().take(over as usize).enumerate() {
                let key = Key { asker: columns.serial[row], nth: nth as u32, ..Key::default() };
                self.out.ends.push(EndRequest {
                    key,
                    target,
                    phase: Phase::Clocks,
                    cause: Cause::Limit,
                    words: None,
                    by: state.who_at(kind, row),
                    site: *site,
                    births: Vec::new(),
                    kept_velocity: None,
                });
            }
        }
    }

    fn due_spawners(
        &mut self,
        state: &mut State,
        kind: KindId,
        spawner: &SpawnerCode,
        rows: &[u32],
    ) -> Vec<u32> {
        let tick = state.tick;
        let clock = usize::from(spawner.clock);
        let periods = match &spawner.period {
            Some(code) => self.values(state, Phase::Clocks, kind, code, rows, 1),
            None => vec![[0, 0]; rows.len()],
        };
        let begins = match &spawner.from {
            Some(code) => self.values(state, Phase::Clocks, kind, code, rows, 1),
            None => vec![[0, 0]; rows.len()],
        };
        let mut due = Vec::new();
        for ((row, period), begin) in rows.iter().zip(periods).zip(begins) {
            if !f64::from_bits(period[0]).is_finite() || !f64::from_bits(begin[0]).is_finite() {
                continue;
            }
            let columns = &mut state.kinds[kind.index()];
            let at = *row as usize;
            let ticks = self.compiled.program.ticks(f64::from_bits(period[0]));
            let begin = match spawner.from {
                Some(_) => self.compiled.program.ticks(f64::from_bits(begin[0])),
                None => 0,
            };
            let born = columns.born[at] + columns.slept[at] + begin;
            let cell = &mut columns.clocks[clock][at];
            let is_due = match &spawner.rhythm {
                // One that keeps a number alive looks on every tick.
                Rhythm::Once if spawner.keep.is_some() => true,
                Rhythm::Once => std::mem::replace(cell, Clock::NEVER) == Clock::UNSET,
                Rhythm::Every { at_once, .. } => {
                    if *cell == Clock::UNSET {
                        let first = if *at_once { tick } else { born.saturating_add(ticks) };
                        *cell = Clock::at(first);
                    }
                    let is_due = cell.is_due(tick);
                    if is_due {
                        *cell = Clock::at(tick.saturating_add(ticks));
                    }
                    is_due
                }
                Rhythm::AgainAfterEnd(_) => {
                    // One that found no place is tried again after the delay, as if it had ended.
                    let first = columns.made_in_all[at] == 0 && columns.made_ended[at] == 0;
                    let over = columns.made_open[at] == 0
                        && tick >= columns.made_ended[at].saturating_add(ticks);
                    first || over
                }
            };
            if is_due {
                due.push(*row);
            }
        }
        due
    }

    /// How many more a spawner may make now.
    fn room(&mut self, state: &State, kind: KindId, spawner: &SpawnerCode, row: u32) -> f64 {
        let columns = &state.kinds[kind.index()];
        let made_open = f64::from(columns.made_open[row as usize]);
        let made_in_all = f64::from(columns.made_in_all[row as usize]);
        let mut room = f64::MAX;
        let keep = spawner.keep.as_ref().map(|(code, _)| code);
        let caps = [
            (spawner.keep_at_most.as_ref(), made_open),
            (spawner.at_most.as_ref(), made_in_all),
            (keep, made_open),
        ];
        for (cap, used) in caps {
            if let Some(code) = cap {
                let cap = self.values(state, Phase::Clocks, kind, code, &[row], 1)[0][0];
                let cap = f64::from_bits(cap);
                room = if cap.is_finite() { room.min(cap.floor() - used) } else { 0.0 };
            }
        }
        room
    }

    fn make(&mut self, state: &State, kind: KindId, spawner: &SpawnerCode, firings: &[Firing]) {
        use crate::vm::{self, LANES, Origin, World};
        let compiled = self.compiled.clone();
        let index = self.index();
        let world = World { compiled: &compiled, state, phase: Phase::Clocks, index: &index };
        let code = &spawner.make;
        let origin = Origin::outside(kind, code.hash, code.cause);
        self.out.overlay.begin(0);
        for chunk in firings.chunks(LANES) {
            let rows: Vec<u32> = chunk.iter().map(|f| f.row).collect();
            self.block.prepare(&rows, &code.code);
            for (lane, firing) in chunk.iter().enumerate() {
                for (reg, word) in &firing.words {
                    self.block.set(*reg, lane, *word);
                }
            }
            // The statement counts its own firing: the rule has no head of its own.
            vm::run(world, origin, &code.code, 0, &mut self.block, &mut self.out);
        }
    }
}
