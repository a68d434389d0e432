//! `after`, `every`, spawners, waits and routines that are due.

use std::borrow::Cow;

use tickpond_lang::program::{Cause, Event as When, InState, KindId, Rhythm, SiteId};

use crate::code::{Job, SpawnerCode, Turn};
use crate::engine::fire::allowed;
use crate::engine::{Engine, Firing};
use crate::event::{Event, Phase};
use crate::state::{Clock, Columns, EndRequest, Key, State, Wait};
use crate::vm::Become;
use crate::wide::wide;

impl Engine {
    pub(crate) fn clocks(&mut self, state: &mut State, events: &mut Vec<Event>) {
        self.timed_states(state, events);
        let waits = self.due_waits(state);
        let jobs = self.jobs(state, Phase::Clocks, Turn::Clocks);
        let mut rows = std::mem::take(&mut self.due_rows);
        for job in jobs {
            self.due_now(state, job, &mut rows);
            if rows.is_empty() {
                continue;
            }
            self.fire_rows(state, Phase::Clocks, job, &rows);
            let handler = &self.compiled.kinds[job.0.index()].handlers[job.1];
            if matches!(handler.event, When::Every(_)) {
                self.rewind(state, Phase::Clocks, job, &rows, state.tick);
            } else {
                self.set_all(state, job, &rows, Clock::NEVER);
            }
        }
        self.due_rows = rows;
        for waits in waits.chunk_by(|a, b| (a.0, a.1.handler) == (b.0, b.1.handler)) {
            let (kind, handler) = (waits[0].0, waits[0].1.handler as usize);
            let waits: Vec<Wait> = waits.iter().map(|(_, wait)| wait.clone()).collect();
            self.resume(state, (kind, handler), &waits);
        }
        for kind in 0..self.compiled.kinds.len() {
            self.spawners(state, KindId(kind as u32));
        }
        let halted = self.halted;
        self.close(state, Phase::Clocks, events);
        if self.halted && !halted {
            // What they asked for was given up, so they go on from where they were.
            state.waits.extend(waits.into_iter().map(|(_, wait)| wait));
        }
    }

    /// Timed states that are over go back to the last that was not timed.
    fn timed_states(&mut self, state: &mut State, events: &mut Vec<Event>) {
        let tick = state.tick;
        let mut over: Vec<Become> = Vec::new();
        let mut due = std::mem::take(&mut self.due_rows);
        for (k, columns) in state.kinds.iter().enumerate() {
            for (track, values) in columns.tracks.iter().enumerate() {
                rows_where(
                    &values.until,
                    #[inline(always)]
                    |until: Clock| until.is_due(tick),
                    &mut due,
                );
                for row in due.iter().map(|row| *row as usize) {
                    if columns.is_active(row) {
                        let back = values.back[row] as usize;
                        over.push(Become {
                            kind: KindId(k as u32),
                            row: row as u32,
                            handler: 0,
                            nth: (0, 0),
                            state: InState { track, state: back },
                            until: Clock::NEVER,
                            site: SiteId(0),
                        });
                    }
                }
            }
        }
        self.due_rows = due;
        over.sort_by_key(|b| (state.kinds[b.kind.index()].serial[b.row as usize], b.state.track));
        for change in over {
            let event = self.enter_state(state, &change, Phase::Clocks);
            events.extend(event);
        }
    }

    // Waits.

    /// Takes out what is due, by kind, handler, place in the code and age of the entity.
    fn due_waits(&mut self, state: &mut State) -> Vec<(KindId, Wait)> {
        let tick = state.tick;
        if self.halted {
            // They go on in the next tick.
            return Vec::new();
        }
        let all = std::mem::take(&mut state.waits);
        let mut due = Vec::new();
        for wait in all {
            match state.find(wait.entity) {
                None => {}
                Some((kind, row))
                    if wait.due <= tick && state.kinds[kind.index()].is_active(row) =>
                {
                    due.push((kind, wait));
                }
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

    /// The rows whose clock is due, after those who have just begun to count have set theirs.
    fn due_now(&mut self, state: &mut State, job: Job, rows: &mut Vec<u32>) {
        let clock = self.clock(job);
        let tick = state.tick;
        // A clock that is not set is due as it were, so both are found in one go.
        rows_where(
            &state.kinds[job.0.index()].clocks[clock],
            #[inline(always)]
            |due: Clock| due.is_due(tick),
            rows,
        );
        let due = &state.kinds[job.0.index()].clocks[clock];
        let mut fresh = std::mem::take(&mut self.fresh);
        fresh.clear();
        fresh.extend(rows.iter().copied().filter(|row| due[*row as usize] == Clock::UNSET));
        if !fresh.is_empty() {
            self.set_clocks(state, job, &fresh);
            let due = &state.kinds[job.0.index()].clocks[clock];
            rows.retain(|row| due[*row as usize].is_due(tick));
        }
        self.fresh = fresh;
        let handler = &self.compiled.kinds[job.0.index()].handlers[job.1];
        if let Cow::Owned(fit) = allowed(state, job.0, handler, rows) {
            *rows = fit;
        }
    }

    /// Sets the clocks of those who have just begun to count.
    fn set_clocks(&mut self, state: &mut State, job: Job, fresh: &[u32]) {
        let compiled = self.compiled.clone();
        let handler = &compiled.kinds[job.0.index()].handlers[job.1];
        let fresh = allowed(state, job.0, handler, fresh).into_owned();
        let is_routine = matches!(handler.event, When::Routine(_));
        if is_routine {
            let tick = state.tick;
            self.set_all(state, job, &fresh, Clock::at(tick));
        } else {
            // Clocks of a state count from its beginning, the others from the birth.
            let from = |columns: &Columns, row: usize| match handler.state {
                Some(own) => columns.tracks[own.track].since[row],
                None => columns.born[row] + columns.slept[row],
            };
            self.rewind_from(state, Phase::Clocks, job, &fresh, from);
        }
    }

    /// The rows whose clock is due.
    pub(crate) fn due_rows(&self, state: &State, job: Job) -> Vec<u32> {
        let handler = &self.compiled.kinds[job.0.index()].handlers[job.1];
        let Some(clock) = handler.clock else { return Engine::rows(state, job.0) };
        let due = &state.kinds[job.0.index()].clocks[usize::from(clock)];
        let (tick, mut rows) = (state.tick, Vec::new());
        rows_where(
            due,
            #[inline(always)]
            |due: Clock| due.is_due(tick),
            &mut rows,
        );
        allowed(state, job.0, handler, &rows).into_owned()
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
        self.rewind_from(state, phase, job, rows, |_, _| from);
    }

    fn rewind_from(
        &mut self,
        state: &mut State,
        phase: Phase,
        job: Job,
        rows: &[u32],
        from: impl Fn(&Columns, usize) -> u64,
    ) {
        let compiled = self.compiled.clone();
        let handler = &compiled.kinds[job.0.index()].handlers[job.1];
        let (Some(clock), Some(period)) = (handler.clock, &handler.period) else { return };
        let set = |state: &mut State, row: u32, ticks: u64| {
            let columns = &mut state.kinds[job.0.index()];
            let due = Clock::at(from(columns, row as usize).saturating_add(ticks));
            columns.clocks[usize::from(clock)][row as usize] = due;
        };
        // What is no number never comes; the run stops for it.
        let ticks = |word: u64| match f64::from_bits(word) {
            period if period.is_finite() => compiled.program.ticks(period),
            _ => u64::MAX,
        };
        // What is known is the same for all.
        if let Some(word) = period.known(&state.knobs) {
            let ticks = ticks(word);
            rows.iter().for_each(|row| set(state, *row, ticks));
            return;
        }
        let values = self.values(state, phase, job.0, period, rows, 1);
        // Most have the period of the one before.
        let mut last = (0, ticks(0));
        for (row, value) in rows.iter().zip(values) {
            if value[0] != last.0 {
                last = (value[0], ticks(value[0]));
            }
            set(state, *row, last.1);
        }
    }

    fn set_all(&self, state: &mut State, job: Job, rows: &[u32], due: Clock) {
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

/// Finds the rows of a column whose value meets a test. Most stretches have none: they are passed over,
/// many rows at a time.
fn rows_where(column: &[Clock], test: impl Fn(Clock) -> bool, rows: &mut Vec<u32>) {
    const STRETCH: usize = 64;
    rows.clear();
    wide(
        #[inline(always)]
        || {
            for (nth, stretch) in column.chunks(STRETCH).enumerate() {
                if stretch.iter().fold(false, |any, word| any | test(*word)) {
                    let first = nth * STRETCH;
                    let at = (0..stretch.len()).filter(|at| test(stretch[*at]));
                    rows.extend(at.map(|at| (first + at) as u32));
                }
            }
        },
    );
}
