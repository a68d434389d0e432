//! `after`, `every`, spawners, waits and routines that are due.

use tickpond_lang::program::{Event as When, KindId, Rhythm};

use crate::code::SpawnerCode;
use crate::engine::{Engine, Firing};
use crate::event::{Event, Phase};
use crate::state::{NEVER, State, UNSET, Wait};

type Job = (KindId, usize);

impl Engine {
    pub(crate) fn clocks(&mut self, state: &mut State, events: &mut Vec<Event>) {
        let waits = self.due_waits(state);
        let jobs = self.jobs(state, Phase::Clocks, |handler| {
            matches!(handler.event, When::After(_) | When::Every(_) | When::Routine(_))
        });
        for job in jobs {
            self.set_clocks(state, job);
            let rows = self.due_rows(state, job);
            if rows.is_empty() {
                continue;
            }
            self.fire_rows(state, Phase::Clocks, job, &rows);
            let handler = &self.compiled.kinds[job.0.index()].handlers[job.1];
            if matches!(handler.event, When::Every(_)) {
                self.rewind(state, Phase::Clocks, job, &rows, state.tick);
            } else {
                self.set_all(state, job, &rows, NEVER);
            }
        }
        for waits in waits.chunk_by(|a, b| (a.0, a.1.handler) == (b.0, b.1.handler)) {
            let (kind, handler) = (waits[0].0, waits[0].1.handler as usize);
            let waits: Vec<Wait> = waits.iter().map(|(_, wait)| wait.clone()).collect();
            self.resume(state, (kind, handler), &waits);
        }
        for kind in 0..self.compiled.kinds.len() {
            self.spawners(state, KindId(kind as u32));
        }
        self.close(state, Phase::Clocks, events);
    }

    // Waits.

    /// Takes out what is due, by kind, handler, place in the code and age of the entity.
    fn due_waits(&mut self, state: &mut State) -> Vec<(KindId, Wait)> {
        let tick = state.tick;
        let all = std::mem::take(&mut state.waits);
        let mut due = Vec::new();
        for wait in all {
            match state.find(wait.entity) {
                None => {}
                Some((kind, _)) if wait.due <= tick => due.push((kind, wait)),
                Some(_) => state.waits.push(wait),
            }
        }
        due.sort_by_key(|(kind, wait)| (*kind, wait.handler, wait.at, wait.serial));
        due
    }

    // Clocks of handlers.

    fn clock(&self, job: Job) -> usize {
        let handler = &self.compiled.kinds[job.0.index()].handlers[job.1];
        handler.clock.map_or(0, usize::from)
    }

    /// Sets the clocks of those who have just begun to count.
    fn set_clocks(&mut self, state: &mut State, job: Job) {
        let clock = self.clock(job);
        let columns = &state.kinds[job.0.index()];
        let fresh: Vec<u32> = (0..columns.len() as u32)
            .filter(|row| columns.clocks[clock][*row as usize] == UNSET)
            .collect();
        if fresh.is_empty() {
            return;
        }
        let is_routine = {
            let handler = &self.compiled.kinds[job.0.index()].handlers[job.1];
            matches!(handler.event, When::Routine(_))
        };
        if is_routine {
            let tick = state.tick;
            self.set_all(state, job, &fresh, tick);
        } else {
            let born = state.kinds[job.0.index()].born.clone();
            for row in fresh {
                self.rewind(state, Phase::Clocks, job, &[row], born[row as usize]);
            }
        }
    }

    /// The rows whose clock is due.
    pub(crate) fn due_rows(&self, state: &State, job: Job) -> Vec<u32> {
        let handler = &self.compiled.kinds[job.0.index()].handlers[job.1];
        let Some(clock) = handler.clock else { return Engine::rows(state, job.0) };
        let due = &state.kinds[job.0.index()].clocks[usize::from(clock)];
        (0..due.len() as u32).filter(|row| due[*row as usize] <= state.tick).collect()
    }

    /// Sets the clocks of these rows one period after `from`; the period is read anew.
    pub(crate) fn rewind(
        &mut self,
        state: &mut State,
        phase: Phase,
        job: Job,
        rows: &[u32],
        from: u64,
    ) {
        let compiled = self.compiled.clone();
        let handler = &compiled.kinds[job.0.index()].handlers[job.1];
        let (Some(clock), Some(period)) = (handler.clock, &handler.period) else { return };
        let values = self.values(state, phase, job.0, period, rows, 1);
        for (row, value) in rows.iter().zip(values) {
            let ticks = compiled.program.ticks(f64::from_bits(value[0]));
            let due = from.saturating_add(ticks);
            state.kinds[job.0.index()].clocks[usize::from(clock)][*row as usize] = due;
        }
    }

    fn set_all(&self, state: &mut State, job: Job, rows: &[u32], due: u64) {
        let clock = self.clock(job);
        for row in rows {
            state.kinds[job.0.index()].clocks[clock][*row as usize] = due;
        }
    }

    // Spawners.

    fn spawners(&mut self, state: &mut State, kind: KindId) {
        let compiled = self.compiled.clone();
        let Some(spawner) = &compiled.kinds[kind.index()].spawner else { return };
        let rows = Engine::rows(state, kind);
        if rows.is_empty() {
            return;
        }
        let due = self.due_spawners(state, kind, spawner, &rows);
        let mut firings = Vec::new();
        for row in due {
            let room = self.room(state, kind, spawner, row);
            if room > 0.0 {
                let words = vec![(spawner.make.locals[0], room.to_bits())];
                firings.push(Firing { row, words, ..Firing::default() });
            }
        }
        self.make(state, kind, spawner, &firings);
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
        let mut due = Vec::new();
        for (row, period) in rows.iter().zip(periods) {
            let columns = &mut state.kinds[kind.index()];
            let at = *row as usize;
            let ticks = self.compiled.program.ticks(f64::from_bits(period[0]));
            let born = columns.born[at];
            let cell = &mut columns.clocks[clock][at];
            let is_due = match &spawner.rhythm {
                Rhythm::Once => std::mem::replace(cell, NEVER) == UNSET,
                Rhythm::Every { at_once, .. } => {
                    if *cell == UNSET {
                        *cell = if *at_once { tick } else { born.saturating_add(ticks) };
                    }
                    let is_due = *cell <= tick;
                    if is_due {
                        *cell = tick.saturating_add(ticks);
                    }
                    is_due
                }
                Rhythm::AgainAfterEnd(_) => {
                    let first = columns.made_in_all[at] == 0;
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
        for (cap, used) in [(&spawner.keep_at_most, made_open), (&spawner.at_most, made_in_all)] {
            if let Some(code) = cap {
                let cap = self.values(state, Phase::Clocks, kind, code, &[row], 1)[0][0];
                room = room.min(f64::from_bits(cap).floor() - used);
            }
        }
        room
    }

    fn make(&mut self, state: &State, kind: KindId, spawner: &SpawnerCode, firings: &[Firing]) {
        use crate::vm::{self, LANES, Origin, World};
        let compiled = self.compiled.clone();
        let world = World { compiled: &compiled, state, phase: Phase::Clocks };
        let code = &spawner.make;
        let origin = Origin { kind, hash: code.hash, handler: u32::MAX, cause: code.cause };
        self.out.overlay.clear();
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
