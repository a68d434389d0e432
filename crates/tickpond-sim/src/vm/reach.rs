//! Blasts: who is within a radius, and what shields them.

use tickpond_lang::program::{Body, Falloff, KindId, Role};

use super::block::Block;
use super::chosen::Chosen;
use super::outbox::Outbox;
use super::step::Run;
use crate::angle;
use crate::code::op::{BlastOp, Reg};
use crate::space;
use crate::state::{EntityId, HealthRequest, PushRequest, Trace};

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
            self.meets_any(*kind, (at, way), |row| {
                let id = columns.id[row];
                id != target && id != me && columns.is_active(row)
            })
        })
    }
}
