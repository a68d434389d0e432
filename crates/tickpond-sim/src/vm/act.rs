//! Requests about others beside births, damage, ends and letters: pushes, blasts, attachments,
//! activation; and changes of state.

use std::sync::Arc;

use tickpond_lang::program::{Body, Falloff, InState, KindId, Role, SiteId, ticks};

use super::step::Run;
use super::{Block, Chosen, Outbox};
use crate::angle;
use crate::code::op::{BlastOp, PlaceOp, Reg};
use crate::event::{Phase, What};
use crate::phase::{self, Shape};
use crate::space;
use crate::state::{
    ActiveRequest, AttachRequest, Attachment, EndRequest, EntityId, HealthRequest, NEVER,
    PlaceRequest, PushRequest, Trace,
};
use crate::vm::outbox::Become;

/// How long the reach of a blast is shown, in s.
const BLAST_SHOWN: f64 = 0.3;

/// One that a blast meets.
struct Met {
    serial: u64,
    kind: KindId,
    row: usize,
    distance: f64,
    way: (f64, f64),
}

impl Run<'_> {
    pub(super) fn push(
        &self,
        block: &mut Block,
        lanes: Chosen,
        (target, by): (Reg, Reg),
        out: &mut Outbox,
    ) {
        for lane in lanes {
            let by = (block.number(by, lane), block.number(by + 1, lane));
            if !by.0.is_finite() || !by.1.is_finite() {
                self.not_finite(block, lane, out);
                continue;
            }
            let Some(target) = self.target(block, lane, target, "push", out) else { continue };
            let (key, site) = (self.key(block, lane), Self::site(out));
            out.pushes.push(PushRequest { key, target, by, site });
        }
    }

    pub(super) fn become_state(
        &self,
        block: &mut Block,
        lanes: Chosen,
        state: InState,
        time: Option<Reg>,
        out: &mut Outbox,
    ) {
        let rate = self.world.compiled.program.rate;
        let now = self.world.state.tick;
        let site = out.last_site.unwrap_or(SiteId(0));
        for lane in lanes {
            let until = time.map_or(NEVER, |reg| {
                now.saturating_add(ticks(block.number(reg, lane), rate)).min(NEVER - 1)
            });
            block.asked[lane] += 1;
            out.becomes.push(Become {
                kind: self.origin.kind,
                row: block.rows[lane],
                handler: self.origin.handler,
                nth: (out.round, block.asked[lane]),
                state,
                until,
                site,
            });
        }
    }

    pub(super) fn activate(
        &self,
        block: &mut Block,
        lanes: Chosen,
        target: Reg,
        on: bool,
        out: &mut Outbox,
    ) {
        for lane in lanes {
            let words = if on { "activate" } else { "deactivate" };
            let Some(target) = self.target(block, lane, target, words, out) else { continue };
            let (by, site) = (self.asker(block, lane), Self::site(out));
            let key = self.key(block, lane);
            out.activations.push(ActiveRequest { key, target, on, by, site });
        }
    }

    pub(super) fn attach(
        &self,
        block: &mut Block,
        lanes: Chosen,
        (target, owner): (Reg, Reg),
        (mount, outlives): (&str, bool),
        out: &mut Outbox,
    ) {
        for lane in lanes {
            let Some(target) = self.target(block, lane, target, "attach", out) else { continue };
            let Some(owner) = self.target(block, lane, owner, "attach to", out) else { continue };
            let kind = self.world.state.find(owner).map_or(KindId(0), |(kind, _)| kind);
            let mounts = &self.world.compiled.program.kinds[kind.index()].mounts;
            let Some(at) = mounts.iter().position(|m| m.name == mount) else {
                self.note(block, lane, What::Unheard, &format!("has no mount {mount}"), out);
                continue;
            };
            let to = Some(Attachment { owner, mount: at as u32, outlives });
            let (by, site) = (self.asker(block, lane), Self::site(out));
            let key = self.key(block, lane);
            out.attaching.push(AttachRequest { key, target, to, by, site });
        }
    }

    pub(super) fn detach(&self, block: &mut Block, lanes: Chosen, target: Reg, out: &mut Outbox) {
        for lane in lanes {
            let Some(target) = self.target(block, lane, target, "detach", out) else { continue };
            let (by, site) = (self.asker(block, lane), Self::site(out));
            let key = self.key(block, lane);
            out.attaching.push(AttachRequest { key, target, to: None, by, site });
        }
    }

    /// Asks for the asker's own end, and for what takes its place.
    pub(super) fn replace(&self, block: &mut Block, lanes: Chosen, at: u32, out: &mut Outbox) {
        let spawn = &self.world.compiled.spawns[at as usize];
        for lane in lanes {
            let mut births = Vec::new();
            if !self.births_of(block, lane, (spawn, false), &mut births, out) {
                continue;
            }
            let by = self.asker(block, lane);
            if spawn.place == PlaceOp::Here {
                // Where it is when it ends, not where it asked.
                let row = block.rows[lane] as usize;
                let columns = self.columns();
                let (x, y, heading) = (columns.x[row], columns.y[row], columns.heading[row]);
                for birth in &mut births {
                    birth.place = PlaceRequest::Entity(by.id, x, y, heading);
                }
            }
            let request = EndRequest {
                key: self.key(block, lane),
                target: by.id,
                phase: self.world.phase,
                cause: tickpond_lang::program::Cause::Replaced,
                words: None,
                by,
                site: Self::site(out),
                births,
                kept_velocity: block.kept_velocity.get(lane).copied().flatten(),
            };
            out.ends.push(request);
        }
    }

    /// The first entity born of a request, if it lives.
    pub(super) fn newborn(&self, kind: KindId, batch: u64) -> EntityId {
        let columns = &self.world.state.kinds[kind.index()];
        // It was born in the tick before: it stands near the end.
        let first = (0..columns.len()).rev().find(|row| columns.first[*row] == batch);
        first.map_or(EntityId::NONE, |row| columns.id[row])
    }

    // Rays and blasts.

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
        let joined = joined.as_ref();
        let found = self.find(block, lane, query, out);
        let mut best: Option<(f64, u64, EntityId)> = None;
        for (kind, row) in found {
            let columns = &state.kinds[kind.index()];
            let row = row as usize;
            let id = columns.id[row];
            let hangs = joined.is_some_and(|joined| joined.contains(&root(state, id)));
            if id == maker || !columns.is_active(row) || hangs {
                continue;
            }
            if let Some(time) = self.segment_meets(kind, row, start, way) {
                let candidate = (time, columns.serial[row], id);
                if best.is_none_or(|b| (candidate.0, candidate.1) < (b.0, b.1)) {
                    best = Some(candidate);
                }
            }
        }
        let (id, share) = best.map_or((EntityId::NONE, 1.0), |(time, _, id)| (id, time));
        let arena = &self.world.compiled.program.arena;
        let (wrap_x, wrap_y) = space::wraps(arena);
        let (x, y) = (start.0 + way.0 * share, start.1 + way.1 * share);
        let x = if wrap_x { space::wrapped(x, arena.low.0, arena.high.0) } else { x };
        let y = if wrap_y { space::wrapped(y, arena.low.1, arena.high.1) } else { y };
        (id, reach * share, (x, y))
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
        if body == Body::None {
            return None;
        }
        let columns = &self.world.state.kinds[kind.index()];
        let shape = Shape::of(&body, columns.heading[row]);
        let arena = &program.arena;
        let (wrap_x, wrap_y) = space::wraps(arena);
        let images =
            |wraps: bool, size: f64| if wraps { vec![0.0, -size, size] } else { vec![0.0] };
        let mut first: Option<f64> = None;
        for dx in images(wrap_x, arena.size().0) {
            for dy in images(wrap_y, arena.size().1) {
                let from = (start.0 - columns.x[row] + dx, start.1 - columns.y[row] + dy);
                let to = (from.0 + way.0, from.1 + way.1);
                if let Some(time) = phase::meet(shape, Shape::Circle(0.0), from, to) {
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
        for (k, columns) in state.kinds.iter().enumerate() {
            let kind = &program.kinds[k];
            if blast.spares[k] || kind.body == Body::None || kind.role != Role::Entity {
                continue;
            }
            // A little more than the radius: what is near enough is measured.
            let limit = if radius >= 0.0 { radius * radius * (1.0 + 1e-9) } else { -1.0 };
            let ways = space::Ways::from(&program.arena, at);
            ways.each_within((&columns.x, &columns.y), limit, |row, _| {
                let spared = columns.id[row] == who.id
                    || blast.spares_maker && columns.id[row] == maker
                    || columns.ending[row]
                    || !columns.is_active(row);
                let way = ways.to(columns.x[row], columns.y[row]);
                let distance = libm::hypot(way.0, way.1);
                if !spared
                    && distance <= radius
                    && !self.is_shielded(blast, at, way, columns.id[row], who.id)
                {
                    let (serial, kind) = (columns.serial[row], KindId(k as u32));
                    met.push(Met { serial, kind, row, distance, way });
                }
                limit
            });
        }
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
            (0..columns.len()).any(|row| {
                columns.id[row] != target
                    && columns.id[row] != me
                    && columns.is_active(row)
                    && self.segment_meets(*kind, row, at, way).is_some()
            })
        })
    }

    /// Notes something odd about the asker.
    pub(super) fn note(
        &self,
        block: &mut Block,
        lane: usize,
        what: What,
        words: &str,
        out: &mut Outbox,
    ) {
        let who = self.asker(block, lane);
        let mut event =
            crate::event::Event::new(self.world.state.tick, self.world.phase, what, who);
        event.words = Some(Arc::from(words));
        event.site = out.last_site;
        let key = self.key(block, lane);
        out.events.push((key, event));
    }

    /// When births asked for now are placed.
    pub(super) fn birth_tick(&self) -> u64 {
        self.world.state.tick + u64::from(self.world.phase > Phase::Births)
    }
}

/// The one all of a chain of attachments hang on.
fn root(state: &crate::state::State, id: EntityId) -> EntityId {
    let mut at = id;
    // Chains do not close, and none is longer than this.
    for _ in 0..state.attached.len() {
        match state.attached.get(&at) {
            Some(attachment) => at = attachment.owner,
            None => break,
        }
    }
    at
}

/// Whether one hangs on the other.
pub(crate) fn related(state: &crate::state::State, a: EntityId, b: EntityId) -> bool {
    if state.attached.is_empty() {
        return false;
    }
    let owner = |id: EntityId| state.attached.get(&id).map(|a| a.owner);
    owner(a) == Some(b) || owner(b) == Some(a)
}
