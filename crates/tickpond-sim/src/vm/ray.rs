//! What stands in a straight line: rays, and the shields of blasts. A ray is followed front to back, a piece of its way at a
//! time, and ends at the first it meets: nobody behind that one is looked at.

use smallvec::SmallVec;
use tickpond_lang::program::{Arena, Body, KindId};

use super::block::Block;
use super::outbox::Outbox;
use super::step::Run;
use crate::angle;
use crate::code::op::Reg;
use crate::index::Places;
use crate::space;
use crate::state::EntityId;
use crate::sweep::{Shape, meet};

/// As how many other questions one for what stands in a line counts, where all would have to be measured for it.
const WEIGHT: usize = 8;
/// How long the first piece of a way is, in cells of places; each next one is twice as long as all before it.
const FIRST_PIECE: f64 = 4.0;
/// How much longer than it is a piece is searched, as a share of the way: more than rounding is.
const OVERLAP: f64 = 1.0e-6;

/// A body that a ray meets: when, as a share of its way, and who.
struct Hit {
    time: f64,
    serial: u64,
    id: EntityId,
    kind: KindId,
    row: u32,
}

/// A straight way, and how far from it one may be and still be met.
#[derive(Clone, Copy)]
struct Line {
    ways: space::Ways,
    way: (f64, f64),
    /// One over the square of its length.
    scale: f64,
    /// The square of the distance.
    limit: f64,
    /// Whether it is so short that nobody lies in it but on the shortest way from its start.
    is_short: bool,
}

impl Line {
    fn new(arena: &Arena, start: (f64, f64), way: (f64, f64), reach: f64) -> Line {
        // A little more, for what rounding takes away.
        let reach = reach * (1.0 + 1e-9) + 1e-9 + (way.0.abs() + way.1.abs()) * 1e-9;
        let ((width, height), wraps) = (arena.size(), space::wraps(arena));
        let fits = |wraps: bool, way: f64, length: f64| !wraps || way.abs() + reach < length * 0.5;
        let square = way.0 * way.0 + way.1 * way.1;
        Line {
            ways: space::Ways::from(arena, start),
            way,
            scale: if square > 0.0 { 1.0 / square } else { 0.0 },
            limit: reach * reach,
            is_short: fits(wraps.0, way.0, width) && fits(wraps.1, way.1, height),
        }
    }

    /// Whether it goes past somebody for certain.
    #[inline(always)]
    fn passes(&self, (x, y): (f64, f64)) -> bool {
        let (dx, dy) = self.ways.to_one(x, y);
        let share = ((dx * self.way.0 + dy * self.way.1) * self.scale).clamp(0.0, 1.0);
        let (off_x, off_y) = (dx - self.way.0 * share, dy - self.way.1 * share);
        self.is_short && off_x * off_x + off_y * off_y > self.limit
    }
}

/// The members of a kind that may stand in a line.
struct Ahead<'a> {
    kind: KindId,
    /// How far a body reaches from its place, in u.
    reach: f64,
    line: Line,
    /// Where they are, if it is known; else all are walked through.
    places: Option<&'a Places>,
    /// Whether all of the way was looked at.
    is_done: bool,
}

impl Run<'_> {
    /// What a ray meets first: who, how far, where it ends.
    pub(super) fn ray(
        &self,
        block: &mut Block,
        lane: usize,
        (from, along, reach): (Reg, Reg, Reg),
        query: u32,
        out: &mut Outbox,
    ) -> (EntityId, f64, (f64, f64)) {
        let query = &self.world.compiled.queries[query as usize];
        let start = (block.number(from, lane), block.number(from + 1, lane));
        let (sin, cos) = angle::sin_cos(block.number(along, lane));
        let reach = block.number(reach, lane).max(0.0);
        let way = (cos * reach, sin * reach);
        let me = self.columns().id[block.rows[lane] as usize];
        let maker = self.columns().maker[block.rows[lane] as usize];
        let state = self.world.state;
        // What hangs together with the asker or its maker, however deep, is not in its way.
        let chains = (!state.attached.is_empty()).then(|| self.world.index.chains(state));
        let joined = chains.map(|chains| (chains, [chains.root(me), chains.root(maker)]));
        let is_out_of_it = |kind: KindId, row: usize| {
            let columns = &state.kinds[kind.index()];
            let id = columns.id[row];
            let hangs = || joined.is_some_and(|(chains, roots)| roots.contains(&chains.root(id)));
            id == me || id == maker || columns.ending[row] || !columns.is_active(row) || hangs()
        };
        let mut rows = out.spare_rows.pop().unwrap_or_default();
        for kind in &query.kinds {
            out.spend_looks(1 + state.kinds[kind.index()].len());
        }
        let hit = self.first_met(&query.kinds, (start, way), is_out_of_it, |hit| {
            rows.clear();
            rows.push(hit.row);
            self.filter(block, lane, query, hit.kind, &mut rows, out);
            !rows.is_empty()
        });
        out.spare_rows.push(rows);
        let (id, share) = hit.map_or((EntityId::NONE, 1.0), |hit| (hit.id, hit.time));
        let arena = &self.world.compiled.program.arena;
        let (wrap_x, wrap_y) = space::wraps(arena);
        let (x, y) = (start.0 + way.0 * share, start.1 + way.1 * share);
        let x = if wrap_x { space::wrapped(x, arena.low.0, arena.high.0) } else { x };
        let y = if wrap_y { space::wrapped(y, arena.low.1, arena.high.1) } else { y };
        (id, reach * share, (x, y))
    }

    /// The first on a straight way that is not out of it and is `wanted`; of two at once the elder.
    #[inline(never)]
    fn first_met(
        &self,
        kinds: &[KindId],
        (start, way): ((f64, f64), (f64, f64)),
        is_out_of_it: impl Fn(KindId, usize) -> bool,
        mut wanted: impl FnMut(&Hit) -> bool,
    ) -> Option<Hit> {
        let state = self.world.state;
        let ahead = kinds.iter().filter_map(|kind| self.ahead(*kind, (start, way)));
        let mut ahead: SmallVec<[Ahead<'_>; 4]> = ahead.collect();
        let piece = |ahead: &Ahead<'_>| Some(ahead.places?.cell() * FIRST_PIECE + ahead.reach);
        let piece = ahead.iter().filter_map(piece).fold(0.0, f64::max);
        let length = libm::hypot(way.0, way.1);
        let (mut from, mut to) =
            (0.0, if piece > 0.0 && piece < length { piece / length } else { 1.0 });
        let mut hits: Vec<Hit> = Vec::new();
        loop {
            for Ahead { kind, reach, line, places, is_done } in
                ahead.iter_mut().filter(|a| !a.is_done)
            {
                let (columns, line) = (&state.kinds[kind.index()], *line);
                let mut look = |row: usize, (after, until): (f64, f64)| {
                    let Some(time) = self.segment_meets(*kind, row, start, way) else { return };
                    if (time > after || after == 0.0) && time <= until && !is_out_of_it(*kind, row)
                    {
                        let (serial, id) = (columns.serial[row], columns.id[row]);
                        hits.push(Hit { time, serial, id, kind: *kind, row: row as u32 });
                    }
                };
                let searched = (from - OVERLAP).max(0.0)..(to + OVERLAP).min(1.0);
                let looked = places.map(|places| {
                    let begin =
                        (start.0 + way.0 * searched.start, start.1 + way.1 * searched.start);
                    let share = searched.end - searched.start;
                    let part = (way.0 * share, way.1 * share);
                    places.along((begin, part), *reach, |row, at| {
                        if !line.passes(at) {
                            look(row, (from, to));
                        }
                    })
                });
                // Those nobody has put in cells are walked through, for all of the way that is left; so they are if a
                // piece goes around the arena.
                if looked != Some(true) {
                    let places = columns.x.iter().zip(columns.y.iter());
                    for (row, (x, y)) in places.enumerate() {
                        if !line.passes((*x, *y)) {
                            look(row, (from, 1.0));
                        }
                    }
                    *is_done = true;
                }
            }
            hits.sort_unstable_by(|a, b| a.time.total_cmp(&b.time).then(a.serial.cmp(&b.serial)));
            let reached = hits.partition_point(|hit| hit.time <= to);
            if let Some(hit) = hits.drain(..reached).find(|hit| wanted(hit)) {
                return Some(hit);
            }
            if to == 1.0 {
                return None;
            }
            (from, to) = (to, (to * 3.0).min(1.0));
        }
    }

    /// Whether a straight way meets any of a kind that is `wanted`. Ends at the first that is found.
    pub(super) fn meets_any(
        &self,
        kind: KindId,
        (start, way): ((f64, f64), (f64, f64)),
        wanted: impl Fn(usize) -> bool,
    ) -> bool {
        let Some(Ahead { reach, line, places, .. }) = self.ahead(kind, (start, way)) else {
            return false;
        };
        let mut met = false;
        let mut look = |row: usize, at: (f64, f64)| {
            met = met
                || !line.passes(at)
                    && wanted(row)
                    && self.segment_meets(kind, row, start, way).is_some();
        };
        if !places.is_some_and(|places| places.along((start, way), reach, &mut look)) {
            let columns = &self.world.state.kinds[kind.index()];
            let places = columns.x.iter().zip(columns.y.iter());
            places.enumerate().for_each(|(row, (x, y))| look(row, (*x, *y)));
        }
        met
    }

    /// Those of a kind that may stand in a line; `None` of one without bodies.
    fn ahead(&self, kind: KindId, (start, way): ((f64, f64), (f64, f64))) -> Option<Ahead<'_>> {
        let program = &self.world.compiled.program;
        let body = program.kinds[kind.index()].body;
        if body == Body::None {
            return None;
        }
        let (reach, arena) = (body.reach(), &program.arena);
        let places = self.world.index.places(self.world.state, arena, kind, WEIGHT);
        Some(Ahead {
            kind,
            reach,
            line: Line::new(arena, start, way, reach),
            places,
            is_done: false,
        })
    }

    /// When, as a share of the way, a point on it first meets a body; over a seam, too.
    fn segment_meets(
        &self,
        kind: KindId,
        row: usize,
        start: (f64, f64),
        way: (f64, f64),
    ) -> Option<f64> {
        let program = &self.world.compiled.program;
        let body = program.kinds[kind.index()].body;
        let columns = &self.world.state.kinds[kind.index()];
        let arena = &program.arena;
        let (wrap_x, wrap_y) = space::wraps(arena);
        let (width, height) = arena.size();
        let images = |wraps: bool| if wraps { &[0.0, -1.0, 1.0][..] } else { &[0.0][..] };
        // A little more, for what rounding takes away.
        let room = body.reach() * (1.0 + 1e-9) + 1e-9 + (way.0.abs() + way.1.abs()) * 1e-12;
        let misses = |from: f64, way: f64| {
            let to = from + way;
            from.max(to) < -room || from.min(to) > room
        };
        let at = (start.0 - columns.x[row], start.1 - columns.y[row]);
        let mut first: Option<f64> = None;
        for across in images(wrap_x) {
            let from_x = at.0 + across * width;
            if misses(from_x, way.0) {
                continue;
            }
            for up in images(wrap_y) {
                let from = (from_x, at.1 + up * height);
                if misses(from.1, way.1) {
                    continue;
                }
                let shape = Shape::of(&body, columns.heading[row]);
                let to = (from.0 + way.0, from.1 + way.1);
                if let Some(time) = meet(shape, Shape::Circle(0.0), from, to) {
                    first = Some(first.map_or(time, |f: f64| f.min(time)));
                }
            }
        }
        first
    }
}
