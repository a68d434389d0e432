//! Who touches whom.
//!
//! Bodies of the kinds that notice touch go into a uniform grid by the box around their way; only
//! those that share a cell are looked at closely. Cost grows with the bodies and with the pairs
//! that are near each other.

use tickpond_lang::program::{Arena, Body, Kind, KindId, Program};

use super::sweep::{Shape, meet};
use crate::code::Compiled;
use crate::engine::Engine;
use crate::event::{Event, Phase, What};
use crate::space;
use crate::state::{Columns, Contact, State};
use crate::vm::related;

/// Memory for the search, used again in each tick.
#[derive(Default)]
pub(crate) struct TouchScratch {
    /// The bodies that were put into cells.
    bodies: Vec<Placed>,
    cells: Cells,
}

/// A kind whose bodies take part: those that are put into cells, those that look there for others, and
/// those that do both.
struct Role {
    kind: KindId,
    enters: bool,
    looks: bool,
}

/// The bodies seen so far by the cells their ways lie in: a table of chains, about two buckets a
/// body, so that neither the size of the arena nor empty cells cost anything.
#[derive(Default)]
struct Cells {
    heads: Vec<u32>,
    /// A bit for each bucket that holds something: small enough to stay near while many look in vain.
    used: Vec<u64>,
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
        self.heads.resize((bodies * 2).next_power_of_two().max(64), NO_ENTRY);
        self.used.clear();
        self.used.resize(self.heads.len() / 64, 0);
        self.entries.clear();
    }

    fn bucket(&self, cell: (i32, i32)) -> usize {
        let key = u64::from(cell.0 as u32) << 32 | u64::from(cell.1 as u32);
        crate::luck::mix(key) as usize & (self.heads.len() - 1)
    }

    /// Puts a body in a cell.
    fn enter(&mut self, cell: (i32, i32), body: u32) {
        let bucket = self.bucket(cell);
        self.entries.push(Entry { cell, body, before: self.heads[bucket] });
        self.heads[bucket] = self.entries.len() as u32 - 1;
        self.used[bucket / 64] |= 1 << (bucket % 64);
    }

    /// Calls `see` for the bodies already in a cell.
    fn meet(&self, cell: (i32, i32), mut see: impl FnMut(u32)) {
        let bucket = self.bucket(cell);
        if self.used[bucket / 64] >> (bucket % 64) & 1 == 0 {
            return;
        }
        let mut at = self.heads[bucket];
        while at != NO_ENTRY {
            let entry = self.entries[at as usize];
            if entry.cell == cell {
                see(entry.body);
            }
            at = entry.before;
        }
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
    solid: bool,
}

/// Solids touch when they come as near as this, in u: the solver keeps a little room between them.
const SKIN_MEET: f64 = 0.02;
/// And part when they are further than this.
const SKIN_LEAVE: f64 = 0.06;

/// Two that meet in this tick, and when.
#[derive(Clone, Copy)]
pub(super) struct Meeting {
    pub contact: Contact,
    pub elder: (KindId, u32),
    pub younger: (KindId, u32),
    pub time: f64,
}

impl Engine {
    pub(crate) fn contact(&mut self, state: &mut State, events: &mut Vec<Event>) {
        let meetings = self.meetings(state);
        let begun = begun(state, &meetings);
        for meeting in &begun {
            note(state, What::Touched, meeting.elder, meeting.younger, events);
        }
        let before = std::mem::take(&mut state.contacts);
        state.contacts = meetings.iter().map(|m| m.contact).collect();
        let parted = self.parted(state, &before, events);
        self.note_crowded(state, &meetings, events);
        let crossed = self.crossed(state);
        self.run_touch(state, &begun);
        self.run_touching(state, &meetings);
        self.run_part(state, &parted);
        for (job, rows) in crossed {
            self.fire_rows(state, Phase::Contact, job, &rows);
        }
        self.close(state, Phase::Contact, events);
    }

    fn meetings(&mut self, state: &State) -> Vec<Meeting> {
        let compiled = self.compiled.clone();
        if compiled.notices.is_empty() {
            return Vec::new();
        }
        let mut scratch = std::mem::take(&mut self.touch);
        let mut meetings = scratch.search(state, &compiled);
        self.touch = scratch;
        meetings.sort_by_key(|m| m.contact);
        meetings.dedup_by_key(|m| (m.contact.elder_serial, m.contact.younger_serial));
        meetings
    }

    /// Those that touched before and do not now. One of them may be gone.
    fn parted(&self, state: &State, before: &[Contact], events: &mut Vec<Event>) -> Vec<Contact> {
        let still = |c: &Contact| {
            let key = (c.elder_serial, c.younger_serial);
            state
                .contacts
                .binary_search_by_key(&key, |k| (k.elder_serial, k.younger_serial))
                .is_ok()
        };
        let parted: Vec<Contact> =
            before.iter().filter(|c| !c.born_so && !still(c)).copied().collect();
        for contact in &parted {
            if let (Some((a, i)), Some((b, j))) =
                (state.find(contact.elder), state.find(contact.younger))
            {
                note(state, What::Parted, (a, i as u32), (b, j as u32), events);
            }
        }
        parted
    }

    /// Notes those that are not clear of their makers a second after their birth.
    fn note_crowded(&self, state: &State, meetings: &[Meeting], events: &mut Vec<Event>) {
        let second = self.compiled.program.rate.round() as u64;
        for meeting in meetings.iter().filter(|m| m.contact.born_so) {
            let (kind, row) = meeting.younger;
            let columns = &state.kinds[kind.index()];
            let made = columns.maker[row as usize] == meeting.contact.elder;
            if made && state.tick == columns.born[row as usize] + second {
                note(state, What::Crowded, meeting.younger, meeting.elder, events);
            }
        }
    }
}

fn note(
    state: &State,
    what: What,
    who: (KindId, u32),
    other: (KindId, u32),
    events: &mut Vec<Event>,
) {
    let who = state.who_at(who.0, who.1 as usize);
    let mut event = Event::new(state.tick, Phase::Contact, what, who);
    event.other = Some(state.who_at(other.0, other.1 as usize));
    events.push(event);
}

/// The meetings that are new in this tick and not just the overlap of a birth.
fn begun(state: &State, meetings: &[Meeting]) -> Vec<Meeting> {
    // One that lay over another since its birth touches it for the first time after they were apart.
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

/// The kinds that take part. The rarest go first: only they are put into cells, where the many look
/// for them.
fn roles(state: &State, compiled: &Compiled) -> Vec<Role> {
    let program = &compiled.program;
    let mut order: Vec<usize> = (0..state.kinds.len())
        .filter(|k| !state.kinds[*k].is_empty() && program.kinds[*k].body != Body::None)
        .filter(|k| compiled.notices.kind(KindId(*k as u32)))
        .collect();
    order.sort_by_key(|k| (state.kinds[*k].len(), *k));
    let solid = |k: usize| program.kinds[k].matter.solid;
    let watched = |a: usize, b: usize| {
        compiled.notices.pair(KindId(a as u32), KindId(b as u32)) || solid(a) && solid(b)
    };
    let role = |(at, k): (usize, &usize)| Role {
        kind: KindId(*k as u32),
        enters: order[at..].iter().any(|later| watched(*k, *later)),
        looks: order[..=at].iter().any(|earlier| watched(*earlier, *k)),
    };
    order.iter().enumerate().map(role).collect()
}

impl TouchScratch {
    fn search(&mut self, state: &State, compiled: &Compiled) -> Vec<Meeting> {
        let program = &compiled.program;
        let roles = roles(state, compiled);
        let count = |role: &Role| state.kinds[role.kind.index()].len();
        let entering: usize = roles.iter().filter(|r| r.enters).map(count).sum();
        self.bodies.clear();
        self.cells.clear(entering);
        let grid = Grid::new(program, &roles);
        let mut meetings = Vec::new();
        for role in &roles {
            let (columns, kind) =
                (&state.kinds[role.kind.index()], &program.kinds[role.kind.index()]);
            for row in 0..columns.len() {
                if columns.is_active(row) {
                    let body = placed(role.kind, row, kind, columns, program);
                    self.one(state, compiled, &grid, (role, body), &mut meetings);
                }
            }
        }
        meetings
    }

    /// Looks for those a body meets, and puts it where others will look.
    #[inline]
    fn one(
        &mut self,
        state: &State,
        compiled: &Compiled,
        grid: &Grid,
        (role, body): (&Role, Placed),
        meetings: &mut Vec<Meeting>,
    ) {
        let arena = &compiled.program.arena;
        let (across, up) = grid.span(&body);
        let (bodies, cells) = (&self.bodies, &mut self.cells);
        for cx in across.0..=across.1 {
            for cy in up.0..=up.1 {
                let cell = grid.wrapped(cx, cy);
                if role.looks {
                    cells.meet(cell, |other| {
                        let other = &bodies[other as usize];
                        // Solids that were born of each other are followed until they are apart.
                        let watched = compiled.notices.pair(body.kind, other.kind)
                            || body.solid && other.solid && kin(state, &body, other);
                        if watched && let Some(time) = time_of(state, arena, other, &body) {
                            meetings.push(meeting(state, other, &body, time));
                        }
                    });
                }
                if role.enters {
                    cells.enter(cell, bodies.len() as u32);
                }
            }
        }
        if role.enters {
            self.bodies.push(body);
        }
    }
}

/// The cells of an arena.
struct Grid {
    low: (f64, f64),
    /// Width and height of a cell in u.
    cell: (f64, f64),
    /// How many go around, on an axis that wraps.
    around: (Option<i32>, Option<i32>),
}

impl Grid {
    fn new(program: &Program, roles: &[Role]) -> Grid {
        let arena = &program.arena;
        let reach = roles.iter().map(|r| reach(&program.kinds[r.kind.index()]));
        let size = cell_size(reach.fold(0.0, f64::max), arena.size());
        let (wrap_x, wrap_y) = space::wraps(arena);
        // On a wrapped axis a whole number of cells goes around.
        let around = |wraps: bool, length: f64| wraps.then(|| ((length / size) as i32).max(1));
        let around = (around(wrap_x, arena.size().0), around(wrap_y, arena.size().1));
        let length =
            |around: Option<i32>, length: f64| around.map_or(size, |n| length / f64::from(n));
        let cell = (length(around.0, arena.size().0), length(around.1, arena.size().1));
        Grid { low: arena.low, cell, around }
    }

    /// The cells the way of a body lies in: from where to where across, and up.
    fn span(&self, body: &Placed) -> ((i32, i32), (i32, i32)) {
        let span = |old: f64, new: f64, low: f64, cell: f64, around: Option<i32>| {
            let cell_of = |place: f64| ((place - low) / cell).floor() as i32;
            let first = cell_of(old.min(new) - body.reach);
            let last = cell_of(old.max(new) + body.reach);
            // Never around twice.
            (first, around.map_or(last, |n| last.min(first + n - 1)))
        };
        (
            span(body.old.0, body.new.0, self.low.0, self.cell.0, self.around.0),
            span(body.old.1, body.new.1, self.low.1, self.cell.1, self.around.1),
        )
    }

    fn wrapped(&self, x: i32, y: i32) -> (i32, i32) {
        let wrapped = |at: i32, around: Option<i32>| around.map_or(at, |n| at.rem_euclid(n));
        (wrapped(x, self.around.0), wrapped(y, self.around.1))
    }
}

/// How far from its place a body can touch another, in u.
fn reach(kind: &Kind) -> f64 {
    kind.body.reach() + if kind.matter.solid { SKIN_LEAVE } else { 0.0 }
}

fn placed(kind: KindId, row: usize, what: &Kind, columns: &Columns, program: &Program) -> Placed {
    let shape = Shape::of(&what.body, columns.heading[row]);
    let solid = what.matter.solid;
    let new = (columns.x[row], columns.y[row]);
    // The way may have crossed the seam: take the short one, and end where it ends.
    let way = space::offset(&program.arena, (columns.old_x[row], columns.old_y[row]), new);
    let old = (new.0 - way.0, new.1 - way.1);
    Placed { kind, row: row as u32, shape, old, new, reach: reach(what), solid }
}

/// A cell is twice as wide as the largest body, so that most bodies lie in one or two.
fn cell_size(reach: f64, arena: (f64, f64)) -> f64 {
    let least = arena.0.max(arena.1) / 1024.0;
    (reach * 4.0).max(least)
}

/// Whether one is the other's maker, or both are of one request.
fn kin(state: &State, a: &Placed, b: &Placed) -> bool {
    let (ca, cb) = (&state.kinds[a.kind.index()], &state.kinds[b.kind.index()]);
    let (i, j) = (a.row as usize, b.row as usize);
    ca.maker[i] == cb.id[j]
        || cb.maker[j] == ca.id[i]
        || ca.batch[i] != 0 && ca.batch[i] == cb.batch[j]
}

/// Whether the circles around two bodies and their ways stay apart: the quick way out.
fn far_apart(arena: &Arena, a: &Placed, b: &Placed) -> bool {
    let (x, y) = space::offset(arena, a.new, b.new);
    let way = |p: &Placed| (p.new.0 - p.old.0).abs() + (p.new.1 - p.old.1).abs();
    let reach = a.reach + b.reach + way(a) + way(b);
    x * x + y * y > reach * reach
}

fn serials(state: &State, a: &Placed, b: &Placed) -> (u64, u64) {
    let serial = |p: &Placed| state.kinds[p.kind.index()].serial[p.row as usize];
    let (a, b) = (serial(a), serial(b));
    (a.min(b), a.max(b))
}

fn time_of(state: &State, arena: &Arena, a: &Placed, b: &Placed) -> Option<f64> {
    if far_apart(arena, a, b) {
        return None;
    }
    // Always as seen from the elder: whoever is looked at first, the bits are the same.
    let serial = |p: &Placed| state.kinds[p.kind.index()].serial[p.row as usize];
    let (a, b) = if serial(a) < serial(b) { (a, b) } else { (b, a) };
    let (mut shape_a, mut shape_b) = (a.shape, b.shape);
    if a.solid && b.solid {
        let known = state
            .contacts
            .binary_search_by_key(&serials(state, a, b), |k| (k.elder_serial, k.younger_serial));
        let skin = if known.is_ok() { SKIN_LEAVE } else { SKIN_MEET } / 2.0;
        shape_a = shape_a.grown(skin);
        shape_b = shape_b.grown(skin);
    }
    let end = space::offset(arena, a.new, b.new);
    let way_a = (a.new.0 - a.old.0, a.new.1 - a.old.1);
    let way_b = (b.new.0 - b.old.0, b.new.1 - b.old.1);
    let start = (end.0 - way_b.0 + way_a.0, end.1 - way_b.1 + way_a.1);
    meet(shape_a, shape_b, start, end)
}

fn meeting(state: &State, a: &Placed, b: &Placed, time: f64) -> Meeting {
    let serial = |p: &Placed| state.kinds[p.kind.index()].serial[p.row as usize];
    let (elder, younger) = if serial(a) < serial(b) { (a, b) } else { (b, a) };
    let (old, young) = (&state.kinds[elder.kind.index()], &state.kinds[younger.kind.index()]);
    let (o, y) = (elder.row as usize, younger.row as usize);
    let kin_born =
        young.maker[y] == old.id[o] || (young.batch[y] != 0 && young.batch[y] == old.batch[o]);
    let (elder_serial, younger_serial) = (old.serial[o], young.serial[y]);
    let before = state.contacts.binary_search_by_key(&(elder_serial, younger_serial), |k| {
        (k.elder_serial, k.younger_serial)
    });
    let attached = related(state, old.id[o], young.id[y]);
    let (born_so, began) = match before {
        Ok(at) => (state.contacts[at].born_so || attached, state.contacts[at].began),
        Err(_) => (attached || kin_born && young.born[y] == state.tick, state.tick),
    };
    let contact = Contact {
        elder_serial,
        younger_serial,
        elder: old.id[o],
        younger: young.id[y],
        elder_kind: elder.kind,
        younger_kind: younger.kind,
        born_so,
        began,
    };
    Meeting { contact, elder: (elder.kind, elder.row), younger: (younger.kind, younger.row), time }
}
