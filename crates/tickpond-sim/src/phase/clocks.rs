//! `after`, `every`, waits and routines that are due; then spawners.

use std::borrow::Cow;

use tickpond_lang::program::{Event as When, InState, KindId, SiteId};

use crate::code::{Job, Turn};
use crate::engine::Engine;
use crate::engine::fire::allowed;
use crate::event::{Event, Phase};
use crate::state::{Clock, Columns, State, Wait};
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
