//! Rays and blasts: what a ray hits, and who is within a radius.

use tickpond_lang::program::{Arena, Body, Falloff, KindId, Role};

use super::act::root;
use super::block::Block;
use super::chosen::Chosen;
use super::outbox::Outbox;
use super::step::Run;
use crate::angle;
use crate::code::op::{BlastOp, Reg};
use crate::space;
use crate::state::{EntityId, HealthRequest, PushRequest, Trace};
use crate::sweep::{Shape, meet};

/// How long the reach of a blast is shown, in s.
const BLAST_SHOWN: f64 = 0.3;
/// As how many other questions one for what stands in a line counts, where all would have to be measured for it.
const WEIGHT: usize = 8;

/// One that a blast meets.
struct Met {
    serial: u64,
    kind: KindId,
    row: usize,
    distance: f64,
    way: (f64, f64),
}

/// A body that a ray meets: when, as a share of its way, and who.
struct Hit {
    time: f64,
    serial: u64,
    id: EntityId,
    kind: KindId,
    row: u32,
}

/// A straight way, and how far from it one may be and still be met.
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
        let joined = (!state.attached.is_empty()).then(|| [root(state, me), root(state, maker)]);
        let mut hits: Vec<Hit> = Vec::new();
        for kind in &query.kinds {
            let columns = &state.kinds[kind.index()];
            out.spend_looks(1 + columns.len());
            self.each_met(*kind, (start, way), |row, time| {
                let id = columns.id[row];
                let out_of_it =
                    id == me || id == maker || columns.ending[row] || !columns.is_active(row);
                let hangs = || joined.is_some_and(|joined| joined.contains(&root(state, id)));
                if !out_of_it && !hangs() {
                    let (serial, row) = (columns.serial[row], row as u32);
                    hits.push(Hit { time, serial, id, kind: *kind, row });
                }
            });
        }
        // Front to back: nobody behind the first is asked.
        hits.sort_unstable_by(|a, b| a.time.total_cmp(&b.time).then(a.serial.cmp(&b.serial)));
        let mut rows = out.spare_rows.pop().unwrap_or_default();
        let first = hits.into_iter().find(|hit| {
            rows.clear();
            rows.push(hit.row);
            self.filter(block, lane, query, hit.kind, &mut rows, out);
            !rows.is_empty()
        });
        out.spare_rows.push(rows);
        let (id, share) = first.map_or((EntityId::NONE, 1.0), |hit| (hit.id, hit.time));
        let arena = &self.world.compiled.program.arena;
        let (wrap_x, wrap_y) = space::wraps(arena);
        let (x, y) = (start.0 + way.0 * share, start.1 + way.1 * share);
        let x = if wrap_x { space::wrapped(x, arena.low.0, arena.high.0) } else { x };
        let y = if wrap_y { space::wrapped(y, arena.low.1, arena.high.1) } else { y };
        (id, reach * share, (x, y))
    }

    /// Calls `see` with the row of each body of a kind that a point meets on a straight way, and when, as a share of the
    /// way. The cost grows with those near the way, if several ask.
    fn each_met(
        &self,
        kind: KindId,
        (start, way): ((f64, f64), (f64, f64)),
        mut see: impl FnMut(usize, f64),
    ) {
        let program = &self.world.compiled.program;
        let body = program.kinds[kind.index()].body;
        if body == Body::None {
            return;
        }
        let reach = body.reach();
        let line = Line::new(&program.arena, start, way, reach);
        let mut look = |row: usize, at: (f64, f64)| {
            if line.passes(at) {
                return;
            }
            if let Some(time) = self.segment_meets(kind, row, start, way) {
                see(row, time);
            }
        };
        let (state, index) = (self.world.state, self.world.index);
        let places = index.places(state, &program.arena, kind, WEIGHT);
        let looked = places.is_some_and(|places| places.along((start, way), reach, &mut look));
        if !looked {
            let columns = &state.kinds[kind.index()];
            let places = columns.x.iter().zip(columns.y.iter());
            places.enumerate().for_each(|(row, (x, y))| look(row, (*x, *y)));
        }
    }

    /// Calls `see` with the row of each of a kind that may be within a radius of a place, and the way to it.
    fn each_near(
        &self,
        kind: KindId,
        at: (f64, f64),
        radius: f64,
        mut see: impl FnMut(usize, (f64, f64)),
    ) {
        if radius < 0.0 {
            return;
        }
        let (state, program) = (self.world.state, &self.world.compiled.program);
        let columns = &state.kinds[kind.index()];
        let ways = space::Ways::from(&program.arena, at);
        if let Some(places) = self.world.index.places(state, &program.arena, kind, 1) {
            places.around(at, radius, |row, (x, y)| see(row, ways.to(x, y)));
            return;
        }
        // A little more than the radius: what is near enough is measured.
        let limit = radius * radius * (1.0 + 1e-9);
        ways.each_within((&columns.x, &columns.y), limit, |row, _| {
            see(row, ways.to(columns.x[row], columns.y[row]));
            limit
        });
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

    pub(super) fn blast(&self, block: &mut Block, lanes: Chosen, at: u32, out: &mut Outbox) {
        let blast = &self.world.compiled.blasts[at as usize];
        for lane in lanes {
            self.blast_one(block, lane, blast, out);
            out.look_up(&self.world.compiled.program.limits);
            if out.is_over() {
                return;
            }
        }
    }

    fn blast_one(&self, block: &mut Block, lane: usize, blast: &BlastOp, out: &mut Outbox) {
        let (state, program) = (self.world.state, &self.world.compiled.program);
        let at = (block.number(blast.at, lane), block.number(blast.at + 1, lane));
        let radius = block.number(blast.radius, lane);
        let value = |reg: Option<Reg>| reg.map(|reg| block.number(reg, lane));
        let (damage, push) = (value(blast.damage), value(blast.push));
        let finite = [Some(at.0), Some(at.1), Some(radius), damage, push];
        if !finite.into_iter().flatten().all(f64::is_finite) {
            self.not_finite(block, lane, out);
            return;
        }
        let since = state.tick;
        let until = since + tickpond_lang::program::ticks(BLAST_SHOWN, program.rate);
        let trace = Trace { from: at, to: at, radius: Some(radius), since, until };
        out.traces.push((self.key(block, lane), trace));
        let who = self.asker(block, lane);
        let maker = self.columns().maker[block.rows[lane] as usize];
        let mut met: Vec<Met> = Vec::new();
        let mut looked = 1;
        for (k, columns) in state.kinds.iter().enumerate() {
            let of = &program.kinds[k];
            if blast.spares[k] || of.body == Body::None || of.role != Role::Entity {
                continue;
            }
            let kind = KindId(k as u32);
            self.each_near(kind, at, radius, |row, way| {
                let spared = columns.id[row] == who.id
                    || blast.spares_maker && columns.id[row] == maker
                    || columns.ending[row]
                    || !columns.is_active(row);
                let distance = libm::hypot(way.0, way.1);
                looked += usize::from(distance <= radius);
                if !spared
                    && distance <= radius
                    && !self.is_shielded(blast, at, way, columns.id[row], who.id)
                {
                    let serial = columns.serial[row];
                    met.push(Met { serial, kind, row, distance, way });
                }
            });
        }
        let shields = blast.shields.iter().map(|kind| state.kinds[kind.index()].len());
        out.spend_looks(looked * (1 + shields.sum::<usize>()));
        met.sort_unstable_by_key(|m| m.serial);
        let site = Self::site(out);
        for Met { kind, row, distance, way, .. } in met {
            let share = if radius > 0.0 { 1.0 - distance / radius } else { 1.0 };
            let share = match blast.falloff {
                Falloff::Even => 1.0,
                Falloff::Straight => share,
                Falloff::Square => share * share,
            };
            let columns = &state.kinds[kind.index()];
            let target = columns.id[row];
            if let Some(damage) = damage
                && program.kinds[kind.index()].health.is_some()
            {
                let key = self.key(block, lane);
                out.health.push(HealthRequest { key, target, loss: damage * share, by: who, site });
            }
            if let Some(push) = push {
                let angle = angle::direction(way.0, way.1).unwrap_or(columns.heading[row]);
                let (sin, cos) = angle::sin_cos(angle);
                let key = self.key(block, lane);
                let by = (cos * push * share, sin * push * share);
                out.pushes.push(PushRequest { key, target, by, site });
            }
        }
    }

    /// Whether a shielding body stands between the blast and its target.
    fn is_shielded(
        &self,
        blast: &BlastOp,
        at: (f64, f64),
        way: (f64, f64),
        target: EntityId,
        me: EntityId,
    ) -> bool {
        blast.shields.iter().any(|kind| {
            let columns = &self.world.state.kinds[kind.index()];
            let mut shielded = false;
            self.each_met(*kind, (at, way), |row, _| {
                let id = columns.id[row];
                shielded |= id != target && id != me && columns.is_active(row);
            });
            shielded
        })
    }
}
