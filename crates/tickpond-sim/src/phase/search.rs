//! The search for pairs that meet in a tick: candidates by cells (broad phase), then swept tests (narrow phase).

use tickpond_lang::program::{Arena, Body, Kind, KindId, Program};

use super::near::{Looker, Near, usual_way};
use super::still::Still;
use crate::angle;
use crate::cells::{Cells, Grid, Way};
use crate::code::Compiled;
use crate::space;
use crate::state::{Columns, Contact, State};
use crate::sweep::{Shape, Turning, meet_turning};

/// Memory for the search, used again in each tick.
#[derive(Default)]
pub(crate) struct TouchScratch {
    /// The bodies that were put into cells.
    bodies: Vec<Placed>,
    cells: Cells,
    /// The cells of those that stood in the tick before, too: only those that did not look there.
    still_cells: Cells,
    still: Still,
    /// Where each body is, and how far from there it can have touched another in this tick.
    spots: Vec<Spot>,
    /// Those of a kind that only look and may meet something.
    lookers: Vec<Looker>,
    /// Rows of the kind that looks, and the bodies that share a cell with them.
    pairs: Vec<(u32, u32)>,
}

/// All that is needed of a body to see that another stays clear of it: of most that share a cell.
#[derive(Clone, Copy)]
struct Spot {
    at: (f64, f64),
    reach: f64,
}

/// How many pairs are gathered before they are looked at closely. The memory is asked for many at once:
/// one after another, each would wait for it anew.
const MANY_PAIRS: usize = 1024;

/// A kind whose bodies take part: those that are put into cells, those that look there for others, and
/// those that do both.
struct Role {
    kind: KindId,
    enters: bool,
    looks: bool,
}

/// A body and its way in this tick.
#[derive(Clone, Copy)]
struct Placed {
    kind: KindId,
    row: u32,
    /// How many were born before it.
    serial: u64,
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

/// The kinds that take part. The rarest go first: only they are put into cells, where the many look
/// for them.
fn roles(state: &State, compiled: &Compiled) -> Vec<Role> {
    let program = &compiled.program;
    let mut order: Vec<usize> = (0..state.kinds.len())
        .filter(|k| !state.kinds[*k].is_empty() && program.kinds[*k].body != Body::None)
        .filter(|k| compiled.notices.kind(KindId(*k as u32)))
        .collect();
    order.sort_by_key(|k| (state.kinds[*k].len(), *k));
    let mut place = vec![None; state.kinds.len()];
    (0..).zip(&order).for_each(|(at, k)| place[*k] = Some(at));
    let solid = |k: &usize| program.kinds[*k].matter.solid;
    let (first, last) = (order.iter().position(solid), order.iter().rposition(solid));
    let role = |(at, k): (usize, &usize)| {
        let kind = KindId(*k as u32);
        let mut others = compiled.notices.of(kind).iter().filter_map(|other| place[other.index()]);
        let later = others.clone().any(|other: usize| other >= at);
        let earlier = others.any(|other| other <= at);
        Role {
            kind,
            enters: later || solid(k) && last.is_some_and(|last| last >= at),
            looks: earlier || solid(k) && first.is_some_and(|first| first <= at),
        }
    };
    order.iter().enumerate().map(role).collect()
}

impl TouchScratch {
    /// All that meet, some several times; it stops when they are more than enough, or `stop` says so.
    pub(super) fn search(
        &mut self,
        state: &State,
        compiled: &Compiled,
        stop: impl Fn() -> bool,
    ) -> Vec<Meeting> {
        let program = &compiled.program;
        let roles = roles(state, compiled);
        let count = |role: &Role| state.kinds[role.kind.index()].len();
        let entering: usize = roles.iter().filter(|r| r.enters).map(count).sum();
        if entering == 0 {
            return Vec::new();
        }
        let mut still = std::mem::take(&mut self.still);
        still.begin(state, program, roles.iter().map(|role| role.kind));
        let reach_of = |role: &Role| reach(&program.kinds[role.kind.index()]);
        let widest = roles.iter().map(reach_of).fold(0.0, f64::max);
        let entering_ways = roles.iter().filter(|r| r.enters);
        let usual = entering_ways.map(|r| usual_way(&state.kinds[r.kind.index()]));
        let usual = usual.fold(0.0, f64::max);
        let grid = Grid::new(&program.arena, (widest, usual), entering);
        let looking: Vec<(&Columns, f64)> = roles
            .iter()
            .filter(|role| role.looks && !role.enters)
            .map(|role| (&state.kinds[role.kind.index()], reach_of(role)))
            .collect();
        let near = Near::new(&looking, grid.cell());
        let room = if looking.is_empty() { 0.0 } else { near.room() };
        self.bodies.clear();
        self.spots.clear();
        self.cells.clear(&grid);
        let some_are_still = roles.iter().any(|role| role.enters && still.is_any(role.kind));
        if some_are_still {
            self.still_cells.clear(&grid);
        }
        let mut meetings = Vec::new();
        still.each_known(state, |a, b| {
            let of = |(kind, row): (KindId, usize)| {
                let (columns, what) = (&state.kinds[kind.index()], &program.kinds[kind.index()]);
                let way = way_of(&program.arena, columns, row);
                placed((columns, what), (kind, row as u32), way)
            };
            meetings.push(meeting(state, &of(a), &of(b), 0.0));
        });
        let mut pairs = std::mem::take(&mut self.pairs);
        let enough = |meetings: &mut Vec<Meeting>| {
            let touches = program.limits.touches as usize;
            if meetings.len() > touches.saturating_mul(2) {
                in_order(meetings);
            }
            meetings.len() > touches.saturating_mul(2) || stop()
        };
        for role in &roles {
            let (columns, kind) =
                (&state.kinds[role.kind.index()], &program.kinds[role.kind.index()]);
            let (reach, resting) = (reach(kind), columns.resting_count > 0);
            let way = |row: usize| way_of(&program.arena, columns, row);
            let takes_part = |row: usize| !resting || columns.is_active(row);
            pairs.clear();
            if role.enters {
                for row in (0..columns.len()).filter(|row| takes_part(*row)) {
                    let way = way(row);
                    let is_still = still.is_still(role.kind, row);
                    if role.looks {
                        grid.each_of(way, reach, |cell| {
                            self.cells.meet(cell, |other| pairs.push((row as u32, other)));
                            if some_are_still && !is_still {
                                let see = |other| pairs.push((row as u32, other));
                                self.still_cells.meet(cell, see);
                            }
                        });
                        if pairs.len() > MANY_PAIRS {
                            self.look(state, compiled, role.kind, &mut pairs, &mut meetings);
                            if enough(&mut meetings) {
                                return meetings;
                            }
                        }
                    }
                    let cells = if is_still { &mut self.still_cells } else { &mut self.cells };
                    cells.enter(&grid, (way, reach + room), self.bodies.len() as u32);
                    self.spots.push(Spot { at: way.1, reach: reach + length(way) });
                    self.bodies.push(placed((columns, kind), (role.kind, row as u32), way));
                }
                self.look(state, compiled, role.kind, &mut pairs, &mut meetings);
                continue;
            }
            // Most that only look find nothing near: they cost no more than this.
            let mut lookers = std::mem::take(&mut self.lookers);
            for among_still in [false, true] {
                if among_still && !some_are_still {
                    break;
                }
                let cells = if among_still { &self.still_cells } else { &self.cells };
                lookers.clear();
                near.lookers(&grid, cells, columns, &mut lookers);
                let looks = |looker: &&Looker| {
                    let row = looker.row as usize;
                    takes_part(row) && !(among_still && still.is_still(role.kind, row))
                };
                for looker in lookers.iter().filter(looks) {
                    let mut see = |other| pairs.push((looker.row, other));
                    match looker.only {
                        Some(head) => cells.follow(head, see),
                        None => grid.each_of(way(looker.row as usize), reach, |cell| {
                            cells.meet(cell, &mut see);
                        }),
                    }
                    if pairs.len() > MANY_PAIRS {
                        self.look(state, compiled, role.kind, &mut pairs, &mut meetings);
                        if enough(&mut meetings) {
                            self.lookers = lookers;
                            return meetings;
                        }
                    }
                }
            }
            self.lookers = lookers;
            self.look(state, compiled, role.kind, &mut pairs, &mut meetings);
        }
        for meeting in &meetings {
            let stands = |(kind, row): (KindId, u32)| still.stands(kind, row as usize);
            if stands(meeting.elder) && stands(meeting.younger) {
                still.note(meeting.contact.elder, meeting.contact.younger);
            }
        }
        still.end(state);
        // Where it is not brought to its end nothing is known of the tick.
        self.still = still;
        self.pairs = pairs;
        meetings
    }

    /// Looks closely at pairs that share a cell, of which the one who looks is of this kind. None is left.
    fn look(
        &self,
        state: &State,
        compiled: &Compiled,
        kind: KindId,
        pairs: &mut Vec<(u32, u32)>,
        meetings: &mut Vec<Meeting>,
    ) {
        let program = &compiled.program;
        let (columns, what) = (&state.kinds[kind.index()], &program.kinds[kind.index()]);
        let own = reach(what);
        // More than enough for what rounding takes away: what is kept is looked at again.
        let enough = 1.0 + 1e-9;
        pairs.retain(|(row, other)| {
            let spot = &self.spots[*other as usize];
            let way = way_of(&program.arena, columns, *row as usize);
            let (x, y) = space::offset(&program.arena, spot.at, way.1);
            let reach = (spot.reach + own + length(way)) * enough;
            x * x + y * y <= reach * reach
        });
        for (row, other) in pairs.drain(..) {
            let way = way_of(&program.arena, columns, row as usize);
            let body = &placed((columns, what), (kind, row), way);
            let other = &self.bodies[other as usize];
            // Solids that were born of each other are followed until they are apart.
            let watched = compiled.notices.pair(body.kind, other.kind)
                || body.solid
                    && other.solid
                    && kin(state, body, other)
                    && !passes(program, body.kind, other.kind);
            if watched && let Some(time) = time_of(state, program, other, body) {
                meetings.push(meeting(state, other, body, time));
            }
        }
    }
}

/// The way of a row in this tick.
#[inline(always)]
fn way_of(arena: &Arena, columns: &Columns, row: usize) -> Way {
    let old = (columns.old_x[row], columns.old_y[row]);
    space::way(arena, old, (columns.x[row], columns.y[row]))
}

/// How long a way is at most, in u.
#[inline(always)]
fn length((old, new): Way) -> f64 {
    (new.0 - old.0).abs() + (new.1 - old.1).abs()
}

/// How far from its place a body can touch another, in u.
fn reach(kind: &Kind) -> f64 {
    kind.body.reach() + if kind.matter.solid { SKIN_LEAVE } else { 0.0 }
}

#[inline(always)]
fn placed(
    (columns, what): (&Columns, &Kind),
    (kind, row): (KindId, u32),
    (old, new): Way,
) -> Placed {
    let (serial, solid) = (columns.serial[row as usize], what.matter.solid);
    Placed { kind, row, serial, old, new, reach: reach(what), solid }
}

/// Whether one is the other's maker, or both are of one request.
fn kin(state: &State, a: &Placed, b: &Placed) -> bool {
    let (ca, cb) = (&state.kinds[a.kind.index()], &state.kinds[b.kind.index()]);
    let (i, j) = (a.row as usize, b.row as usize);
    ca.maker[i] == cb.id[j]
        || cb.maker[j] == ca.id[i]
        || ca.batch[i] != 0 && ca.batch[i] == cb.batch[j]
}

/// Whether bodies of two kinds neither touch nor push each other.
fn passes(program: &Program, a: KindId, b: KindId) -> bool {
    let passes = |a: KindId, b: KindId| program.kinds[a.index()].matter.passes.contains(&b);
    passes(a, b) || passes(b, a)
}

/// Whether the circles around two bodies and their ways stay apart: the quick way out.
#[inline(always)]
fn far_apart(arena: &Arena, a: &Placed, b: &Placed) -> bool {
    let (x, y) = space::offset(arena, a.new, b.new);
    let way = |p: &Placed| length((p.old, p.new));
    let reach = a.reach + b.reach + way(a) + way(b);
    x * x + y * y > reach * reach
}

fn serials(a: &Placed, b: &Placed) -> (u64, u64) {
    (a.serial.min(b.serial), a.serial.max(b.serial))
}

fn time_of(state: &State, program: &Program, a: &Placed, b: &Placed) -> Option<f64> {
    let arena = &program.arena;
    if far_apart(arena, a, b) {
        return None;
    }
    // Always as seen from the elder: whoever is looked at first, the bits are the same.
    let (a, b) = if a.serial < b.serial { (a, b) } else { (b, a) };
    let shape = |of: &Placed| {
        let (columns, row) = (&state.kinds[of.kind.index()], of.row as usize);
        Turning {
            shape: Shape::of(&program.kinds[of.kind.index()].body, columns.heading[row]),
            by: turned_by(columns, row, program),
        }
    };
    let (mut shape_a, mut shape_b) = (shape(a), shape(b));
    if a.solid && b.solid {
        let known = state
            .contacts
            .binary_search_by_key(&serials(a, b), |k| (k.elder_serial, k.younger_serial));
        let skin = if known.is_ok() { SKIN_LEAVE } else { SKIN_MEET } / 2.0;
        shape_a.shape = shape_a.shape.grown(skin);
        shape_b.shape = shape_b.shape.grown(skin);
    }
    let end = space::offset(arena, a.new, b.new);
    let way_a = (a.new.0 - a.old.0, a.new.1 - a.old.1);
    let way_b = (b.new.0 - b.old.0, b.new.1 - b.old.1);
    let start = (end.0 - way_b.0 + way_a.0, end.1 - way_b.1 + way_a.1);
    meet_turning(shape_a, shape_b, start, end)
}

/// How far a row's body has turned in this tick's move, in deg; 0 for one that does not turn.
fn turned_by(columns: &Columns, row: usize, program: &Program) -> f64 {
    let Some(old) = columns.old_heading.get(row) else { return 0.0 };
    let by = angle::normal(columns.heading[row] - old + 180.0) - 180.0;
    // A spin may go round more than once: the way is that of the spin then.
    let spun = columns.spin[row] / program.rate;
    let turns = ((spun - by) / 360.0).round();
    by + turns * 360.0
}

fn meeting(state: &State, a: &Placed, b: &Placed, time: f64) -> Meeting {
    let (elder, younger) = if a.serial < b.serial { (a, b) } else { (b, a) };
    let id = |of: &Placed| state.kinds[of.kind.index()].id[of.row as usize];
    let (elder_serial, younger_serial) = (elder.serial, younger.serial);
    let contact = Contact {
        elder_serial,
        younger_serial,
        elder: id(elder),
        younger: id(younger),
        elder_kind: elder.kind,
        younger_kind: younger.kind,
        // Told when all are found: see `in_time`.
        born_so: false,
        began: state.tick,
    };
    Meeting { contact, elder: (elder.kind, elder.row), younger: (younger.kind, younger.row), time }
}

/// Once each, in the order of the roll.
pub(super) fn in_order(meetings: &mut Vec<Meeting>) {
    meetings.sort_by_key(|m| m.contact);
    meetings.dedup_by_key(|m| (m.contact.elder_serial, m.contact.younger_serial));
}
