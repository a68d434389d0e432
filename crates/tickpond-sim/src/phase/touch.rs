//! Handlers of touch: its beginning, while it lasts, its end, and impacts.

use std::collections::HashMap;

use smallvec::SmallVec;
use tickpond_lang::program::{Event as When, KindId, Other};

use super::search::Meeting;
use crate::code::HandlerCode;
use crate::code::Turn;
use crate::code::op::FilterCode;
use crate::engine::{Engine, Firing};
use crate::event::Phase;
use crate::state::{Contact, EntityId, State, Touching};
use crate::vm::{self, Origin, World};

/// A handler's row and the other party.
#[derive(Clone, Copy)]
struct Pair {
    row: u32,
    other: (KindId, u32),
    serial: u64,
    time: f64,
}

impl Engine {
    /// `on touch`, `on first touch`, `on impact`.
    pub(super) fn run_touch(&mut self, state: &mut State, begun: &[Meeting]) {
        if begun.is_empty() {
            return;
        }
        let jobs = self.jobs(state, Phase::Contact, Turn::Touch);
        let begun = by_kind(begun.iter());
        for job in jobs {
            let Some(begun) = begun.get(&job.0) else { continue };
            let compiled = self.compiled.clone();
            let handler = &compiled.kinds[job.0.index()].handlers[job.1];
            let (first, other) = match &handler.event {
                When::Touch { first, other } => (*first, other),
                When::Impact(other, _) => (false, other),
                _ => continue,
            };
            let mut pairs = pairs(state, job.0, other, begun);
            if let When::Impact(..) = handler.event {
                pairs = self.fast_enough(state, job.0, handler, pairs);
            }
            let mut pairs = self.filtered(state, job.0, handler, pairs);
            if first {
                pairs.sort_by(|a, b| {
                    let place = |p: &Pair| (p.row, p.serial);
                    a.row.cmp(&b.row).then(a.time.total_cmp(&b.time)).then(place(a).cmp(&place(b)))
                });
                pairs.dedup_by_key(|p| p.row);
            }
            self.fire_pairs(state, job, handler, other, pairs);
        }
    }

    /// `while touching X every T`: as it begins, and every period of its going on.
    pub(super) fn run_touching(&mut self, state: &mut State, meetings: &[Meeting]) {
        let jobs = self.jobs(state, Phase::Contact, Turn::Touching);
        let before = std::mem::take(&mut state.touching);
        if jobs.is_empty() {
            return;
        }
        let touching = by_kind(meetings.iter().filter(|m| !m.contact.born_so));
        for job in jobs {
            let Some(touching) = touching.get(&job.0) else { continue };
            let compiled = self.compiled.clone();
            let handler = &compiled.kinds[job.0.index()].handlers[job.1];
            let (When::WhileTouching(other, _), Some(period)) = (&handler.event, &handler.period)
            else {
                continue;
            };
            let found = pairs(state, job.0, other, touching);
            let key = |pair: &Pair| Touching {
                kind: job.0,
                handler: job.1 as u32,
                me: state.kinds[job.0.index()].serial[pair.row as usize],
                other: pair.serial,
            };
            // As it begins, and then as often as the period says that is read each time.
            let (mut due, mut kept) = (Vec::new(), Vec::new());
            for pair in found {
                let key = key(&pair);
                match before.get(&key).filter(|next| **next > state.tick) {
                    Some(next) => kept.push((key, *next)),
                    None => due.push((key, pair)),
                }
            }
            let rows: Vec<u32> = due.iter().map(|(_, pair)| pair.row).collect();
            let periods = self.values(state, Phase::Contact, job.0, period, &rows, 1);
            let mut now = Vec::new();
            for ((key, pair), period) in due.into_iter().zip(periods) {
                let period = f64::from_bits(period[0]);
                if period.is_finite() {
                    let ticks = compiled.program.ticks(period);
                    kept.push((key, state.tick.saturating_add(ticks)));
                    now.push(pair);
                }
            }
            state.touching.extend(kept);
            let due = now;
            let due = self.filtered(state, job.0, handler, due);
            self.fire_pairs(state, job, handler, other, due);
        }
    }

    /// `on part`: the other may be gone.
    pub(super) fn run_part(&mut self, state: &mut State, parted: &[Contact]) {
        if parted.is_empty() {
            return;
        }
        let jobs = self.jobs(state, Phase::Contact, Turn::Part);
        let mut of_kind: HashMap<KindId, Vec<&Contact>> = HashMap::new();
        for contact in parted {
            of_kind.entry(contact.elder_kind).or_default().push(contact);
            if contact.elder_kind != contact.younger_kind {
                of_kind.entry(contact.younger_kind).or_default().push(contact);
            }
        }
        for job in jobs {
            let Some(parted) = of_kind.get(&job.0) else { continue };
            let compiled = self.compiled.clone();
            let handler = &compiled.kinds[job.0.index()].handlers[job.1];
            let When::Part(other) = &handler.event else { continue };
            let mut alive = Vec::new();
            let mut firings = Vec::new();
            for contact in parted {
                let sides = [
                    (contact.elder, contact.younger, contact.younger_kind, contact.younger_serial),
                    (contact.younger, contact.elder, contact.elder_kind, contact.elder_serial),
                ];
                for (me, you, kind, serial) in sides {
                    let Some((my_kind, row)) = state.find(me) else { continue };
                    if my_kind != job.0 || !other.kinds.contains(&kind) {
                        continue;
                    }
                    match state.find(you) {
                        Some((kind, other_row)) => alive.push(Pair {
                            row: row as u32,
                            other: (kind, other_row as u32),
                            serial,
                            time: 0.0,
                        }),
                        // Nothing can be asked of one that is gone, so no condition keeps it out.
                        None => firings.push(Firing {
                            row: row as u32,
                            other: serial,
                            words: bound(handler, other, you),
                            ..Firing::default()
                        }),
                    }
                }
            }
            let alive = self.filtered(state, job.0, handler, alive);
            firings.extend(alive.into_iter().map(|p| firing(self, state, handler, other, p)));
            firings.sort_by_key(|f| (f.row, f.other));
            if !firings.is_empty() {
                self.fire(state, Phase::Contact, job, &firings[..]);
            }
        }
    }

    fn fire_pairs(
        &mut self,
        state: &mut State,
        job: (KindId, usize),
        handler: &HandlerCode,
        other: &Other,
        mut pairs: Vec<Pair>,
    ) {
        // Whom one meets first on its way comes first; of two met at once, the older.
        pairs.sort_by(|a, b| {
            a.row.cmp(&b.row).then(a.time.total_cmp(&b.time)).then(a.serial.cmp(&b.serial))
        });
        let mut firings: Vec<Firing> =
            pairs.into_iter().map(|pair| firing(self, state, handler, other, pair)).collect();
        // What they ask for goes in that order, too.
        for of_one in firings.chunk_by_mut(|a, b| a.row == b.row) {
            for (nth, firing) in of_one.iter_mut().enumerate() {
                firing.other = nth as u64 + 1;
            }
        }
        if !firings.is_empty() {
            self.fire(state, Phase::Contact, job, &firings[..]);
        }
    }

    /// Those that met faster than the handler's speed.
    fn fast_enough(
        &mut self,
        state: &State,
        kind: KindId,
        handler: &HandlerCode,
        pairs: Vec<Pair>,
    ) -> Vec<Pair> {
        let Some(over) = &handler.period else { return pairs };
        let rows: Vec<u32> = pairs.iter().map(|p| p.row).collect();
        let values = self.values(state, Phase::Contact, kind, over, &rows, 1);
        let fast = pairs.into_iter().zip(values).filter(|(pair, over)| {
            let (vx, vy) = self.closing(state, (kind, pair.row), pair.other);
            libm::hypot(vx, vy) > f64::from_bits(over[0])
        });
        fast.map(|(pair, _)| pair).collect()
    }

    /// The velocity of the other relative to one, before the solver parted them.
    fn closing(&self, state: &State, me: (KindId, u32), other: (KindId, u32)) -> (f64, f64) {
        let (ax, ay) = self.velocity_before(state, me);
        let (bx, by) = self.velocity_before(state, other);
        (bx - ax, by - ay)
    }

    fn velocity_before(&self, state: &State, (kind, row): (KindId, u32)) -> (f64, f64) {
        let (columns, row) = (&state.kinds[kind.index()], row as usize);
        let before = self.before_impact.get(&columns.id[row]).copied();
        before.unwrap_or((columns.vx[row], columns.vy[row]))
    }

    /// Those whose other party meets the handler's condition.
    fn filtered(
        &mut self,
        state: &State,
        kind: KindId,
        handler: &HandlerCode,
        pairs: Vec<Pair>,
    ) -> Vec<Pair> {
        let Some(filter) = &handler.filter else { return pairs };
        pairs.into_iter().filter(|pair| self.passes(state, kind, filter, *pair)).collect()
    }

    fn passes(&mut self, state: &State, kind: KindId, filter: &FilterCode, pair: Pair) -> bool {
        let compiled = self.compiled.clone();
        let index = self.index();
        let world = World { compiled: &compiled, state, phase: Phase::Contact, index: &index };
        let cause = tickpond_lang::program::Cause::Script;
        let origin = Origin::outside(kind, 0, cause);
        let mut outer = self.out.spare_blocks.pop().unwrap_or_default();
        outer.prepare(&[pair.row], &filter.outer);
        vm::run(world, origin, &filter.outer, 0, &mut outer, &mut self.out);
        let mut inner = self.out.spare_blocks.pop().unwrap_or_default();
        inner.prepare(&[pair.other.1], &filter.inner);
        for (from, to) in &filter.captures {
            inner.set(*to, 0, outer.word(*from, 0));
        }
        let origin = Origin { kind: pair.other.0, ..origin };
        vm::run(world, origin, &filter.inner, 0, &mut inner, &mut self.out);
        let passes = inner.word(filter.inner.result, 0) != 0;
        self.out.spare_blocks.extend([outer, inner]);
        passes
    }
}

/// The meetings of each kind, in their order; those of two kinds are there for both.
fn by_kind<'m>(meetings: impl Iterator<Item = &'m Meeting>) -> HashMap<KindId, Vec<Meeting>> {
    let mut found: HashMap<KindId, Vec<Meeting>> = HashMap::new();
    for meeting in meetings {
        let (elder, younger) = (meeting.elder.0, meeting.younger.0);
        found.entry(elder).or_default().push(*meeting);
        if elder != younger {
            found.entry(younger).or_default().push(*meeting);
        }
    }
    found
}

/// The sides of these meetings that a handler of `kind` waits for.
fn pairs(state: &State, kind: KindId, other: &Other, meetings: &[Meeting]) -> Vec<Pair> {
    let mut found = Vec::new();
    for meeting in meetings {
        let sides = [(meeting.elder, meeting.younger), (meeting.younger, meeting.elder)];
        for (me, you) in sides {
            if me.0 != kind || !other.kinds.contains(&you.0) {
                continue;
            }
            let (mine, yours) = (&state.kinds[me.0.index()], &state.kinds[you.0.index()]);
            let (row, other_row) = (me.1 as usize, you.1 as usize);
            let made =
                mine.maker[row] == yours.id[other_row] || yours.maker[other_row] == mine.id[row];
            if !(other.but_maker && made) {
                let serial = yours.serial[other_row];
                found.push(Pair { row: me.1, other: you, serial, time: meeting.time });
            }
        }
    }
    found
}

fn bound(handler: &HandlerCode, other: &Other, id: EntityId) -> SmallVec<[(u16, u64); 1]> {
    other.bind.iter().map(|local| (handler.register(*local), id.to_word())).collect()
}

fn firing(
    engine: &Engine,
    state: &State,
    handler: &HandlerCode,
    other: &Other,
    pair: Pair,
) -> Firing {
    let columns = &state.kinds[pair.other.0.index()];
    let other_row = pair.other.1 as usize;
    let mut words = bound(handler, other, columns.id[other_row]);
    let mut kept_velocity = None;
    if let (When::Impact(..), Some((kind, _))) =
        (&handler.event, owner_of(engine, state, handler, pair.row))
    {
        let (vx, vy) = engine.closing(state, (kind, pair.row), pair.other);
        if let Some((reg, _)) = words.first().copied() {
            words.push((reg + 1, vx.to_bits()));
            words.push((reg + 2, vy.to_bits()));
        }
        kept_velocity = Some(engine.velocity_before(state, (kind, pair.row)));
    }
    Firing {
        row: pair.row,
        other: pair.serial,
        other_luck: columns.luck[other_row],
        words,
        kept_velocity,
    }
}

/// The kind a handler's site belongs to, with the row.
fn owner_of(
    engine: &Engine,
    state: &State,
    handler: &HandlerCode,
    row: u32,
) -> Option<(KindId, u32)> {
    let kind = engine.compiled.program.sites[handler.site.index()].kind;
    ((row as usize) < state.kinds[kind.index()].len()).then_some((kind, row))
}
