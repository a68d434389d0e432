//! Running handlers: for all whose turn it is, in blocks, rounds and on threads.

use tickpond_lang::program::{Cause, Event as When, KindId};

use crate::code::op::{Code, Reg};
use crate::code::{HandlerCode, Turn};
use crate::event::{Event, Phase, What};
use crate::firing::Occasions;
use crate::luck;
use crate::state::{State, Wait};
use crate::trace::{Asked, Firings, MOST_NAMED};
use crate::vm::{self, Block, LANES, Origin, Outbox, World};

use super::{Engine, Jobs};

impl Engine {
    /// The handlers whose turn it is and whose kind has members, in the order of the roll, or shuffled.
    pub(crate) fn jobs(&self, state: &State, phase: Phase, turn: Turn) -> Jobs {
        let all = self.compiled.turns.at(turn).iter().filter(|_| !self.halted);
        let mut jobs: Jobs =
            all.filter(|(kind, _)| !state.kinds[kind.index()].is_empty()).copied().collect();
        if let Some(seed) = self.shuffle {
            jobs.sort_by_key(|(k, h)| {
                luck::hash(&[seed, state.tick, phase as u64, u64::from(k.0), *h as u64])
            });
        }
        jobs
    }

    pub(crate) fn origin(&self, kind: KindId, handler: usize) -> Origin {
        let code = &self.compiled.kinds[kind.index()].handlers[handler];
        Origin { kind, hash: code.hash, handler: handler as u32, cause: code.cause }
    }

    /// Runs a handler for these rows, each once.
    pub(crate) fn fire_rows(
        &mut self,
        state: &State,
        phase: Phase,
        (kind, handler): (KindId, usize),
        rows: &[u32],
    ) {
        let compiled = self.compiled.clone();
        let code = &compiled.kinds[kind.index()].handlers[handler];
        let rows = allowed(state, kind, code, rows);
        let rows = self.not_waiting(state, phase, (kind, handler), code, &rows);
        let index = self.index();
        let world = World { compiled: &compiled, state, phase, index: &index };
        let origin = self.origin(kind, handler);
        self.out.round = 0;
        self.out.overlay.begin(0);
        let before = self.trace.is_some().then(|| Asked::of(&self.out));
        if self.threads > 1 && rows.len() >= self.grain.max(2) {
            self.fire_on_threads(world, origin, code, &rows);
        } else {
            for rows in rows.chunks(LANES) {
                self.block.prepare(rows, &code.code);
                vm::run_handler(world, origin, code, &mut self.block, &mut self.out);
            }
        }
        if let Some(before) = before {
            self.note_firings(state, phase, (kind, handler), rows.iter().copied(), before);
        }
    }

    /// The same, a stretch of the rows on each thread. What they ask for is put together in the order
    /// of the rows, as if one thread had asked for it.
    pub(super) fn fire_on_threads(
        &mut self,
        world: World<'_>,
        origin: Origin,
        code: &HandlerCode,
        rows: &[u32],
    ) {
        let threads = self.threads;
        if self.pool.is_none() {
            self.pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().ok();
        }
        let sites = self.out.fired.len();
        self.workers.resize_with(threads, || (Block::default(), Outbox::new(sites)));
        for (_, out) in &mut self.workers {
            out.begin_tick();
            out.stop.clone_from(&self.out.stop);
        }
        let stretches = rows.chunks(rows.len().div_ceil(threads));
        let work = |(block, out): &mut (Block, Outbox), rows: &[u32]| {
            for rows in rows.chunks(LANES) {
                block.prepare(rows, &code.code);
                vm::run_handler(world, origin, code, block, out);
            }
        };
        match &self.pool {
            Some(pool) => pool.scope(|scope| {
                for (worker, rows) in self.workers.iter_mut().zip(stretches) {
                    scope.spawn(move |_| work(worker, rows));
                }
            }),
            // A machine that gives no threads still plays.
            None => self.workers.iter_mut().zip(stretches).for_each(|(w, rows)| work(w, rows)),
        }
        for (_, out) in &mut self.workers {
            self.out.append(out);
        }
        self.out.look_up(&self.compiled.program.limits);
    }

    /// The rows whose earlier firing of this handler does not wait; the others miss this one.
    pub(super) fn not_waiting<'r>(
        &mut self,
        state: &State,
        phase: Phase,
        (kind, handler): (KindId, usize),
        code: &HandlerCode,
        rows: &'r [u32],
    ) -> std::borrow::Cow<'r, [u32]> {
        if !code.waits || code.overlapping {
            return rows.into();
        }
        let waits = state.waits.iter().chain(&self.out.waits);
        let mut busy: Vec<u32> = waits
            .filter(|w| w.handler == handler as u32)
            .filter_map(|w| state.find(w.entity))
            .filter(|(k, _)| *k == kind)
            .map(|(_, row)| row as u32)
            .collect();
        if busy.is_empty() {
            return rows.into();
        }
        busy.sort_unstable();
        let is_busy = |row: &&u32| busy.binary_search(row).is_ok();
        for row in rows.iter().filter(is_busy) {
            let who = state.who_at(kind, *row as usize);
            let mut event = Event::new(state.tick, phase, What::Missed, who);
            event.site = Some(code.site);
            let asker = state.kinds[kind.index()].serial[*row as usize];
            let key = crate::state::Key { asker, handler: handler as u32, ..Default::default() };
            self.out.events.push((key, event));
        }
        rows.iter().filter(|row| !is_busy(row)).copied().collect::<Vec<_>>().into()
    }

    /// Runs a handler for these firings; those of one entity go one after another in the order given,
    /// each seeing what the one before wrote.
    pub(crate) fn fire(
        &mut self,
        state: &mut State,
        phase: Phase,
        (kind, handler): (KindId, usize),
        occasions: &(impl Occasions + ?Sized),
    ) {
        let compiled = self.compiled.clone();
        let code = &compiled.kinds[kind.index()].handlers[handler];
        // The words that are kept come first among the registers, behind what the event brings.
        let kept = code.cached.iter().map(|(reg, _)| usize::from(*reg) + 1).max().unwrap_or(0);
        self.out.overlay.begin(kept);
        let before = self.trace.is_some().then(|| Asked::of(&self.out));
        let mut rounds = std::mem::take(&mut self.rounds);
        let sorted = occasions.rounds(&mut rounds, state.kinds[kind.index()].len());
        let count = sorted.len();
        if code.alone {
            self.out.set_aside();
        }
        for (round, firings) in sorted.into_iter().enumerate() {
            self.out.round = round as u32;
            let again = round + 1 < count;
            self.fire_round(state, phase, (kind, handler), (code, again), occasions, &firings);
            rounds.give_back(firings);
            if code.alone {
                // Nobody sees it before the phase closes, but for the firings that follow.
                self.apply_writes(state);
            }
        }
        if code.alone {
            self.out.set_aside();
        }
        self.rounds = rounds;
        self.out.round = 0;
        self.out.overlay.begin(0);
        if let Some(before) = before {
            let rows = (0..occasions.len()).map(|at| occasions.row(at));
            self.note_firings(state, phase, (kind, handler), rows, before);
        }
    }

    pub(super) fn note_firings(
        &mut self,
        state: &State,
        phase: Phase,
        (kind, handler): (KindId, usize),
        rows: impl ExactSizeIterator<Item = u32>,
        before: Asked,
    ) {
        let count = rows.len();
        let asked = Asked::of(&self.out).since(before);
        let site = self.compiled.kinds[kind.index()].handlers[handler].site;
        let who = rows.take(MOST_NAMED).map(|row| state.who_at(kind, row as usize)).collect();
        if let Some(trace) = self.trace.as_mut().filter(|_| count > 0) {
            trace.push(Firings { phase, kind, handler, site, count, who, asked });
        }
    }

    /// One firing of each row, in the order of the roll; some may fire again in this phase.
    pub(super) fn fire_round(
        &mut self,
        state: &State,
        phase: Phase,
        (kind, handler): (KindId, usize),
        (code, again): (&HandlerCode, bool),
        occasions: &(impl Occasions + ?Sized),
        firings: &[u32],
    ) {
        let compiled = self.compiled.clone();
        let index = self.index();
        let world = World { compiled: &compiled, state, phase, index: &index };
        let origin = self.origin(kind, handler);
        let all: Vec<u32> = firings.iter().map(|at| occasions.row(*at as usize)).collect();
        let rows = allowed(state, kind, code, &all);
        let free = self.not_waiting(state, phase, (kind, handler), code, &rows);
        let mut left: Vec<u32> = Vec::new();
        if free.len() < firings.len() {
            // Both are in one order, and no row comes twice.
            let mut free = free.iter().peekable();
            let stays = |at: &&u32| free.next_if_eq(&&occasions.row(**at as usize)).is_some();
            left.extend(firings.iter().filter(stays));
        }
        let firings = if free.len() < firings.len() { &left[..] } else { firings };
        for (chunk, rows) in firings.chunks(LANES).zip(free.chunks(LANES)) {
            self.block.prepare(rows, &code.code);
            if occasions.brings() {
                for (lane, at) in chunk.iter().enumerate() {
                    occasions.bring(*at as usize, &mut self.block, lane);
                }
            }
            vm::run_handler(world, origin, code, &mut self.block, &mut self.out);
            if again && !code.alone && !code.cached.is_empty() {
                for (lane, row) in rows.iter().enumerate() {
                    self.block.copy_words(lane, self.out.overlay.at(*row));
                }
            }
        }
    }

    /// Goes on with handlers that waited, all of one kind and handler.
    pub(crate) fn resume(
        &mut self,
        state: &State,
        (kind, handler): (KindId, usize),
        waits: &[Wait],
    ) {
        let compiled = self.compiled.clone();
        let code = &compiled.kinds[kind.index()].handlers[handler];
        let index = self.index();
        let world = World { compiled: &compiled, state, phase: Phase::Clocks, index: &index };
        let mut origin = self.origin(kind, handler);
        if origin.cause == Cause::Script {
            origin.cause = Cause::Timer;
        }
        self.out.overlay.begin(0);
        let before = self.trace.is_some().then(|| Asked::of(&self.out));
        // Lanes of one run must begin at one place.
        for group in waits.chunk_by(|a, b| a.at == b.at) {
            for chunk in group.chunks(LANES) {
                let rows: Vec<u32> = chunk
                    .iter()
                    .map(|w| state.find(w.entity).map_or(0, |(_, row)| row as u32))
                    .collect();
                self.block.prepare(&rows, &code.code);
                for (lane, wait) in chunk.iter().enumerate() {
                    for (reg, word) in wait.words.iter().enumerate() {
                        self.block.set(reg as Reg, lane, *word);
                    }
                }
                vm::run(world, origin, &code.code, chunk[0].at, &mut self.block, &mut self.out);
            }
        }
        if let Some(before) = before {
            let rows: Vec<u32> = waits
                .iter()
                .filter_map(|w| state.find(w.entity).map(|(_, row)| row as u32))
                .collect();
            let (phase, job) = (Phase::Clocks, (kind, handler));
            self.note_firings(state, phase, job, rows.into_iter(), before);
        }
    }

    /// The value of code for each of these rows, word by word of its result.
    pub(crate) fn values(
        &mut self,
        state: &State,
        phase: Phase,
        kind: KindId,
        code: &Code,
        rows: &[u32],
        words: u8,
    ) -> Vec<[u64; 2]> {
        // What is known is the same for all: most periods and most first values are.
        if let Some(word) = code.known(&state.knobs).filter(|_| words == 1) {
            return vec![[word, 0]; rows.len()];
        }
        let compiled = self.compiled.clone();
        let index = self.index();
        let world = World { compiled: &compiled, state, phase, index: &index };
        let hash = luck::fold(compiled.kinds[kind.index()].name_hash, code.result.into());
        let origin = Origin::outside(kind, hash, Cause::Script);
        let mut values = Vec::with_capacity(rows.len());
        for rows in rows.chunks(LANES) {
            self.block.prepare(rows, code);
            vm::run(world, origin, code, 0, &mut self.block, &mut self.out);
            for lane in 0..rows.len() {
                let second = if words > 1 { self.block.word(code.result + 1, lane) } else { 0 };
                values.push([self.block.word(code.result, lane), second]);
            }
        }
        values
    }

    /// The rows of a kind that take part, as lanes want them.
    pub(crate) fn rows(state: &State, kind: KindId) -> Vec<u32> {
        let columns = &state.kinds[kind.index()];
        let rows = 0..columns.len() as u32;
        if columns.resting_count == 0 {
            return rows.collect();
        }
        rows.filter(|row| columns.is_active(*row as usize)).collect()
    }
}

/// The rows a handler may run for: active, and in its state. Births and ends come to the inactive,
/// too; what hears while inactive hears only then.
pub(crate) fn allowed<'r>(
    state: &State,
    kind: KindId,
    code: &HandlerCode,
    rows: &'r [u32],
) -> std::borrow::Cow<'r, [u32]> {
    let columns = &state.kinds[kind.index()];
    let all_active = columns.resting_count == 0 && !code.while_inactive;
    if code.state.is_none() && (for_all(code) || all_active) {
        return rows.into();
    }
    let fits = |row: &u32| allows(state, kind, code, *row as usize);
    rows.iter().copied().filter(fits).collect::<Vec<_>>().into()
}

/// Whether a handler may run for a row: see [`allowed`].
pub(crate) fn allows(state: &State, kind: KindId, code: &HandlerCode, row: usize) -> bool {
    let columns = &state.kinds[kind.index()];
    let awake = for_all(code) || columns.is_active(row) != code.while_inactive;
    let over = matches!(code.event, When::Quitting(_));
    let fits =
        |s: tickpond_lang::program::InState| columns.tracks[s.track].now[row] == s.state as u64;
    awake && code.state.filter(|_| !over).is_none_or(fits)
}

/// Whether a handler runs for the inactive, too.
fn for_all(code: &HandlerCode) -> bool {
    matches!(code.event, When::Birth | When::End(_))
}
