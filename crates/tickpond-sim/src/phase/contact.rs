//! Who began to touch whom, and who left the arena.
//!
//! Bodies of the kinds that notice touch go into a uniform grid by the box around their way; only
//! those that share a cell are looked at closely. Cost grows with the bodies and with the pairs
//! that are near each other.

use tickpond_lang::program::{Body, Edge, Event as When, KindId, Program};

use super::sweep::{Shape, meet};
use crate::engine::{Engine, Firing};
use crate::event::{Event, Phase, What};
use crate::space;
use crate::state::{Columns, Contact, State};

/// Memory for the search, used again in each tick.
#[derive(Default)]
pub(crate) struct TouchScratch {
    bodies: Vec<Placed>,
    cells: Cells,
}

/// The bodies seen so far by the cells their ways lie in: a table of chains, about two buckets a
/// body, so that neither the size of the arena nor empty cells cost anything.
#[derive(Default)]
struct Cells {
    heads: Vec<u32>,
    entries: Vec<Entry>,
}

/// One body in one cell, and the entry before it in the same bucket.
#[derive(Clone, Copy)]
struct Entry {
    cell: (i32, i32),
    body: u32,
    before: u32,
}

const NO_ENTRY: u32 = u32::MAX;

impl Cells {
    fn clear(&mut self, bodies: usize) {
        self.heads.clear();
        self.heads.resize((bodies * 2).next_power_of_two().max(16), NO_ENTRY);
        self.entries.clear();
    }

    fn bucket(&self, cell: (i32, i32)) -> usize {
        let key = u64::from(cell.0 as u32) << 32 | u64::from(cell.1 as u32);
        crate::luck::mix(key) as usize & (self.heads.len() - 1)
    }

    /// Calls `see` for the bodies already in a cell, then puts this one in.
    fn meet_and_enter(&mut self, cell: (i32, i32), body: u32, mut see: impl FnMut(u32)) {
        let bucket = self.bucket(cell);
        let mut at = self.heads[bucket];
        while at != NO_ENTRY {
            let entry = self.entries[at as usize];
            if entry.cell == cell {
                see(entry.body);
            }
            at = entry.before;
        }
        self.entries.push(Entry { cell, body, before: self.heads[bucket] });
        self.heads[bucket] = self.entries.len() as u32 - 1;
    }
}

/// A body and its way in this tick.
#[derive(Clone, Copy)]
struct Placed {
    kind: KindId,
    row: u32,
    shape: Shape,
    old: (f64, f64),
    new: (f64, f64),
    reach: f64,
}

/// Two that meet in this tick, and when.
#[derive(Clone, Copy)]
struct Meeting {
    contact: Contact,
    elder: (KindId, u32),
    younger: (KindId, u32),
    time: f64,
}

impl Engine {
    pub(crate) fn contact(&mut self, state: &mut State, events: &mut Vec<Event>) {
        let meetings = self.meetings(state);
        let begun = begun(state, &meetings);
        for meeting in &begun {
            let mut event = Event::new(
                state.tick,
                Phase::Contact,
                What::Touched,
                state.who_at(meeting.elder.0, meeting.elder.1 as usize),
            );
            event.other = Some(state.who_at(meeting.younger.0, meeting.younger.1 as usize));
            events.push(event);
        }
        state.contacts = meetings.iter().map(|m| m.contact).collect();
        let left = self.leavers(state);
        self.run_touch(state, &begun);
        for (job, rows) in left {
            self.fire_rows(state, Phase::Contact, job, &rows);
        }
        self.close(state, Phase::Contact, events);
    }

    // Touch.

    fn meetings(&mut self, state: &State) -> Vec<Meeting> {
        let compiled = self.compiled.clone();
        if !compiled.touches.contains(&true) {
            return Vec::new();
        }
        let mut scratch = std::mem::take(&mut self.touch);
        scratch.fill(state, &compiled.program, &compiled.touches);
        let mut meetings = scratch.search(state, &compiled);
        self.touch = scratch;
        meetings.sort_by_key(|m| m.contact);
        meetings.dedup_by_key(|m| (m.contact.elder_serial, m.contact.younger_serial));
        meetings
    }

    fn run_touch(&mut self, state: &State, begun: &[Meeting]) {
        if begun.is_empty() {
            return;
        }
        let jobs = self.jobs(state, Phase::Contact, |h| matches!(h.event, When::Touch { .. }));
        for job in jobs {
            let firings = self.touch_firings(state, job, begun);
            if !firings.is_empty() {
                self.fire(state, Phase::Contact, job, &firings);
            }
        }
    }

    fn touch_firings(&self, state: &State, job: (KindId, usize), begun: &[Meeting]) -> Vec<Firing> {
        let handler = &self.compiled.kinds[job.0.index()].handlers[job.1];
        let When::Touch { first, kinds, but_maker, other } = &handler.event else {
            return Vec::new();
        };
        // Row, age of the other, time, and who the other is.
        let mut found: Vec<(u32, u64, f64, (KindId, u32))> = Vec::new();
        for meeting in begun {
            let sides = [(meeting.elder, meeting.younger), (meeting.younger, meeting.elder)];
            for (me, you) in sides {
                if me.0 != job.0 || !kinds.contains(&you.0) {
                    continue;
                }
                let (mine, yours) = (&state.kinds[me.0.index()], &state.kinds[you.0.index()]);
                let (row, other_row) = (me.1 as usize, you.1 as usize);
                let made = mine.maker[row] == yours.id[other_row]
                    || yours.maker[other_row] == mine.id[row];
                if !(*but_maker && made) {
                    found.push((me.1, yours.serial[other_row], meeting.time, you));
                }
            }
        }
        if *first {
            found.sort_by(|a, b| a.0.cmp(&b.0).then(a.2.total_cmp(&b.2)).then(a.1.cmp(&b.1)));
            found.dedup_by_key(|f| f.0);
        }
        found.sort_by_key(|f| (f.0, f.1));
        found
            .into_iter()
            .map(|(row, serial, _, (kind, other_row))| {
                let columns = &state.kinds[kind.index()];
                let id = columns.id[other_row as usize].to_word();
                Firing {
                    row,
                    other: serial,
                    other_luck: columns.luck[other_row as usize],
                    words: other.iter().map(|local| (handler.register(*local), id)).collect(),
                }
            })
            .collect()
    }

    // Leaving the arena.

    /// Those who are wholly past the margin now and were not before, by handler.
    fn leavers(&mut self, state: &mut State) -> Vec<((KindId, usize), Vec<u32>)> {
        let jobs = self.jobs(state, Phase::Contact, |h| h.event == When::LeaveArena);
        let mut left: Vec<((KindId, usize), Vec<u32>)> = Vec::new();
        for job in jobs {
            let body = self.compiled.program.kinds[job.0.index()].body;
            let program = self.compiled.program.clone();
            let columns = &mut state.kinds[job.0.index()];
            let mut rows = Vec::new();
            for row in 0..columns.len() {
                let outside = is_outside(&program, body.reach(), columns.x[row], columns.y[row]);
                if outside && !columns.outside[row] {
                    rows.push(row as u32);
                }
                columns.outside[row] = outside;
            }
            if !rows.is_empty() {
                left.push((job, rows));
            }
        }
        left
    }
}

fn is_outside(program: &Program, reach: f64, x: f64, y: f64) -> bool {
    let arena = &program.arena;
    let past = arena.margin + reach;
    let e = arena.edges;
    (e.left == Edge::Open && x < arena.low.0 - past)
        || (e.right == Edge::Open && x > arena.high.0 + past)
        || (e.low == Edge::Open && y < arena.low.1 - past)
        || (e.high == Edge::Open && y > arena.high.1 + past)
}

/// The meetings that are new in this tick and not just the overlap of a birth.
fn begun(state: &State, meetings: &[Meeting]) -> Vec<Meeting> {
    let known = |c: &Contact| {
        state
            .contacts
            .binary_search_by_key(&(c.elder_serial, c.younger_serial), |k| {
                (k.elder_serial, k.younger_serial)
            })
            .is_ok()
    };
    meetings.iter().filter(|m| !m.contact.born_so && !known(&m.contact)).copied().collect()
}

impl TouchScratch {
    fn fill(&mut self, state: &State, program: &Program, noticed: &[bool]) {
        self.bodies.clear();
        for (k, columns) in state.kinds.iter().enumerate().filter(|(k, _)| noticed[*k]) {
            let body = program.kinds[k].body;
            if body == Body::None {
                continue;
            }
            for row in 0..columns.len() {
                self.bodies.push(placed(KindId(k as u32), row, &body, columns, program));
            }
        }
    }

    fn search(&mut self, state: &State, compiled: &crate::code::Compiled) -> Vec<Meeting> {
        let arena = &compiled.program.arena;
        let (wrap_x, wrap_y) = space::wraps(arena);
        let size = cell_size(&self.bodies, arena.size());
        // On a wrapped axis a whole number of cells goes around.
        let around = |length: f64| ((length / size).floor() as i32).max(1);
        let (columns, rows) = (around(arena.size().0), around(arena.size().1));
        let width = if wrap_x { arena.size().0 / f64::from(columns) } else { size };
        let height = if wrap_y { arena.size().1 / f64::from(rows) } else { size };
        self.cells.clear(self.bodies.len());
        let count = compiled.kinds.len();
        let mut meetings = Vec::new();
        for at in 0..self.bodies.len() {
            let body = self.bodies[at];
            let span = |old: f64, new: f64, low: f64, cell: f64| {
                let cell_of = |place: f64| ((place - low) / cell).floor() as i32;
                (cell_of(old.min(new) - body.reach), cell_of(old.max(new) + body.reach))
            };
            let (left, right) = span(body.old.0, body.new.0, arena.low.0, width);
            let (low, high) = span(body.old.1, body.new.1, arena.low.1, height);
            // Never around twice.
            let right = if wrap_x { right.min(left + columns - 1) } else { right };
            let high = if wrap_y { high.min(low + rows - 1) } else { high };
            for cx in left..=right {
                for cy in low..=high {
                    let cx = if wrap_x { cx.rem_euclid(columns) } else { cx };
                    let cy = if wrap_y { cy.rem_euclid(rows) } else { cy };
                    let bodies = &self.bodies;
                    self.cells.meet_and_enter((cx, cy), at as u32, |other| {
                        let other = bodies[other as usize];
                        if compiled.notices[body.kind.index() * count + other.kind.index()]
                            && let Some(time) = time_of(arena, &other, &body)
                        {
                            meetings.push(meeting(state, &other, &body, time));
                        }
                    });
                }
            }
        }
        meetings
    }
}

fn placed(kind: KindId, row: usize, body: &Body, columns: &Columns, program: &Program) -> Placed {
    let shape = match *body {
        Body::Circle { radius } => Shape::Circle(radius),
        Body::Box { half, upright } => {
            let heading = if upright { 0.0 } else { columns.heading[row] };
            Shape::Box { half, heading }
        }
        Body::None => Shape::Circle(0.0),
    };
    let new = (columns.x[row], columns.y[row]);
    // The way may have crossed the seam: take the short one, and end where it ends.
    let way = space::offset(&program.arena, (columns.old_x[row], columns.old_y[row]), new);
    let old = (new.0 - way.0, new.1 - way.1);
    Placed { kind, row: row as u32, shape, old, new, reach: body.reach() }
}

/// A cell is twice as wide as the largest body, so that most bodies lie in one or two.
fn cell_size(bodies: &[Placed], arena: (f64, f64)) -> f64 {
    let reach = bodies.iter().map(|b| b.reach).fold(0.0, f64::max);
    let least = arena.0.max(arena.1) / 1024.0;
    (reach * 4.0).max(least)
}

fn time_of(arena: &tickpond_lang::program::Arena, a: &Placed, b: &Placed) -> Option<f64> {
    let end = space::offset(arena, a.new, b.new);
    let way_a = (a.new.0 - a.old.0, a.new.1 - a.old.1);
    let way_b = (b.new.0 - b.old.0, b.new.1 - b.old.1);
    let start = (end.0 - way_b.0 + way_a.0, end.1 - way_b.1 + way_a.1);
    meet(a.shape, b.shape, start, end)
}

fn meeting(state: &State, a: &Placed, b: &Placed, time: f64) -> Meeting {
    let serial = |p: &Placed| state.kinds[p.kind.index()].serial[p.row as usize];
    let (elder, younger) = if serial(a) < serial(b) { (a, b) } else { (b, a) };
    let (old, young) = (&state.kinds[elder.kind.index()], &state.kinds[younger.kind.index()]);
    let (o, y) = (elder.row as usize, younger.row as usize);
    let related =
        young.maker[y] == old.id[o] || (young.batch[y] != 0 && young.batch[y] == old.batch[o]);
    let (elder_serial, younger_serial) = (old.serial[o], young.serial[y]);
    let before = state.contacts.binary_search_by_key(&(elder_serial, younger_serial), |k| {
        (k.elder_serial, k.younger_serial)
    });
    let born_so = match before {
        Ok(at) => state.contacts[at].born_so,
        Err(_) => related && young.born[y] == state.tick,
    };
    let contact =
        Contact { elder_serial, younger_serial, elder: old.id[o], younger: young.id[y], born_so };
    Meeting { contact, elder: (elder.kind, elder.row), younger: (younger.kind, younger.row), time }
}
