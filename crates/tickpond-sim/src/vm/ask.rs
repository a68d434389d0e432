//! Requests: births, damage, ends, letters. All values are fixed here, when they are asked for.

use std::sync::Arc;

use tickpond_lang::program::{POND, SiteId};

use super::block::Block;
use super::chosen::Chosen;
use super::outbox::Fault;
use super::outbox::Outbox;
use super::step::Run;
use crate::code::op::{FilterOp, PlaceOp, Reg, SpawnOp};
use crate::event::{Event, Guard, What, Who};
use crate::luck;
use crate::state::{
    BirthExtras, BirthRequest, EndRequest, EntityId, FilterRequest, HealthRequest, Key,
    PlaceRequest,
};

/// The places of a request: one, most often.
type Places = smallvec::SmallVec<[PlaceRequest; 1]>;

/// Most births one statement can ask for in one firing.
const MOST_AT_ONCE: f64 = 1.0e6;

impl Run<'_> {
    pub(super) fn asker(&self, block: &Block, lane: usize) -> Who {
        self.world.state.who_at(self.origin.kind, block.rows[lane] as usize)
    }

    pub(super) fn site(out: &Outbox) -> SiteId {
        out.last_site.unwrap_or(SiteId(0))
    }

    /// Notes that something was asked of one that is gone.
    pub(super) fn stale(&self, block: &mut Block, lane: usize, words: &str, out: &mut Outbox) {
        let who = self.asker(block, lane);
        let mut event = Event::new(self.world.state.tick, self.world.phase, What::Stale, who);
        event.words = Some(words.into());
        event.site = out.last_site;
        let key = self.key(block, lane);
        out.events.push((key, event));
    }

    /// Whom something is asked of, if it is there and it can be asked of it: of the pond it cannot. Notes why
    /// not.
    pub(super) fn target(
        &self,
        block: &mut Block,
        lane: usize,
        reg: Reg,
        what: &str,
        out: &mut Outbox,
    ) -> Option<EntityId> {
        let target = self.alive(block, lane, reg);
        match target.and_then(|id| self.world.state.find(id)) {
            None => self.stale(block, lane, what, out),
            Some((POND, _)) => {
                let words = format!("`{what}`: the pond itself is no entity");
                self.note(block, lane, What::Refused, Some(words.into()), out);
                return None;
            }
            Some(_) => {}
        }
        target
    }

    /// Notes that a value of a lane is no finite number: its firing ends here.
    pub(super) fn not_finite(&self, block: &mut Block, lane: usize, out: &mut Outbox) {
        // Code for a value tells where it stands itself.
        let site = if self.code.gives { self.code.site } else { out.last_site };
        self.fault(block, lane, (Guard::NotFinite, site, 1), out);
    }

    /// Ends the firing of a lane, for a guard.
    pub(super) fn fault(
        &self,
        block: &mut Block,
        lane: usize,
        (guard, site, times): (Guard, Option<SiteId>, u64),
        out: &mut Outbox,
    ) {
        block.fail(lane);
        // What code for a value gives then is no number, and no condition holds.
        if self.code.gives {
            let none = if self.code.numeric { f64::NAN.to_bits() } else { 0 };
            block.set(self.code.result, lane, none);
        }
        let row = block.rows[lane] as usize;
        let serial = self.columns().serial[row];
        let place = (false, self.origin.kind, self.origin.handler, out.round, serial);
        let who = (self.origin.kind != POND).then(|| self.asker(block, lane));
        out.fault(Fault { guard, place, site, span: self.code.span, who, times });
    }

    // Births.

    /// Asks for births; somebody may wait for the first of them.
    pub(super) fn spawn(
        &self,
        block: &mut Block,
        lanes: Chosen,
        (at, named): (u32, bool),
        out: &mut Outbox,
    ) {
        let spawn = &self.world.compiled.spawns[at as usize];
        let mut births = std::mem::take(&mut out.births);
        for lane in lanes {
            self.births_of(block, lane, (spawn, named), &mut births, out);
        }
        out.births = births;
    }

    /// Adds all births of a request; false if a value of it is no finite number.
    pub(super) fn births_of(
        &self,
        block: &mut Block,
        lane: usize,
        (spawn, named): (&SpawnOp, bool),
        births: &mut Vec<BirthRequest>,
        out: &mut Outbox,
    ) -> bool {
        let count = spawn.count.map_or(1.0, |reg| block.number(reg, lane));
        if !count.is_finite() {
            self.not_finite(block, lane, out);
            return false;
        }
        if !(0.0..=MOST_AT_ONCE).contains(&count) {
            let times = count.abs() as u64;
            let guard = if count < 0.0 { Guard::LessThanNone } else { Guard::AtOnce };
            self.fault(block, lane, (guard, Some(spawn.site), times), out);
            return false;
        }
        let places = self.places(block, lane, spawn);
        let key = self.key(block, lane);
        let Some(first) = self.birth(block, lane, (spawn, named), (key, places[0]), out) else {
            self.not_finite(block, lane, out);
            return false;
        };
        let rate = self.world.compiled.program.rate;
        let spaced = spawn
            .spaced
            .map_or(0, |reg| tickpond_lang::program::ticks(block.number(reg, lane), rate));
        let each = count.floor().max(0.0) as u32;
        let in_all = each.saturating_mul(places.len() as u32);
        let spread = (spawn.spread.map_or(0.0, |reg| block.number(reg, lane)), in_all);
        let first = BirthRequest { count: in_all, spread, spaced, ..first };
        if places.len() == 1 {
            births.extend((in_all > 0).then_some(first));
            return true;
        }
        let most = self.world.compiled.program.limits.requests;
        let (mut left, mut at) = (Some(first), 0);
        while let Some(birth) = left.take().filter(|birth| birth.count > 0) {
            if births.len() as u64 > most {
                out.go_over(Guard::Requests);
                break;
            }
            let (one, rest) = birth.split_first();
            births.push(BirthRequest { place: places[at % places.len()], spaced: 0, ..one });
            (left, at) = (rest, at + 1);
        }
        true
    }

    /// The first birth of a request; `None` if a value is no finite number.
    fn birth(
        &self,
        block: &Block,
        lane: usize,
        (spawn, named): (&SpawnOp, bool),
        (key, place): (Key, PlaceRequest),
        out: &mut Outbox,
    ) -> Option<BirthRequest> {
        let state = self.world.state;
        let columns = self.columns();
        let row = block.rows[lane] as usize;
        let number = |reg: Option<Reg>| reg.map(|reg| block.number(reg, lane));
        let pair = |reg: Option<Reg>| {
            reg.map(|reg| (block.number(reg, lane), block.number(reg + 1, lane)))
        };
        let kind = self.world.compiled.kind_of_word(block.word(spawn.kind, lane));
        let mut vars = Vec::new();
        for (name, reg, words) in &spawn.vars {
            let Some(at) = self.world.compiled.var_word(kind, *name) else { continue };
            for word in 0..Reg::from(*words) {
                vars.push((at as u32 + u32::from(word), block.word(reg + word, lane)));
            }
        }
        let birth = BirthRequest {
            due: self.birth_tick(),
            key,
            index: 0,
            count: 1,
            kind,
            maker: state.who_at(self.origin.kind, row),
            maker_heading: (self.origin.kind != POND).then(|| columns.heading[row]),
            luck: luck::hash(&[columns.luck[row], self.origin.hash, state.tick]),
            before: 0,
            spaced: 0,
            batch: luck::hash(&[
                columns.serial[row],
                u64::from(key.handler),
                state.tick,
                key.other,
                u64::from(key.nth),
                self.world.phase as u64,
            ]),
            wave: spawn.wave.map_or(0, |reg| block.word(reg, lane)),
            place,
            facing: number(spawn.facing),
            spread: (0.0, 1),
            toward: pair(spawn.toward),
            speed: number(spawn.speed),
            vel: pair(spawn.vel),
            health: number(spawn.health),
            label: spawn.label.as_ref().map(|label| self.render(block, lane, label, out)),
            vars,
            extras: self.extras(block, lane, (spawn, named)),
            site: spawn.site,
        };
        let spread = number(spawn.spread);
        is_finite(&birth, spread).then_some(birth)
    }

    /// What few births ask for; none if this one asks for nothing of it.
    fn extras(
        &self,
        block: &Block,
        lane: usize,
        (spawn, named): (&SpawnOp, bool),
    ) -> Option<Box<BirthExtras>> {
        let plain = spawn.push.is_none()
            && spawn.push_along.is_none()
            && spawn.along.is_none()
            && !named
            && !spawn.inactive
            && spawn.attached.is_none()
            && !spawn.keeps_velocity
            && spawn.filters.is_empty();
        if plain {
            return None;
        }
        let number = |reg: Reg| block.number(reg, lane);
        let filters = spawn.filters.iter().map(|filter| match filter {
            FilterOp::NotInView(wider) => FilterRequest::NotInView(wider.map_or(0.0, number)),
            FilterOp::NotNearPlace(distance, place) => {
                FilterRequest::NotNearPlace(number(*distance), number(*place), number(place + 1))
            }
            FilterOp::NotNearKinds(distance, kinds) => {
                FilterRequest::NotNearKinds(number(*distance), kinds.clone())
            }
            FilterOp::ClearOfSolid => FilterRequest::ClearOfSolid,
        });
        Some(Box::new(BirthExtras {
            push: spawn.push.map_or((0.0, 0.0), |reg| (number(reg), number(reg + 1))),
            push_along: spawn.push_along.map_or(0.0, number),
            along: spawn.along,
            named,
            inactive: spawn.inactive,
            attached: spawn.attached,
            keeps_velocity: spawn.keeps_velocity,
            filters: filters.collect(),
        }))
    }

    /// The places of a request: one, or every spot of a group.
    fn places(&self, block: &Block, lane: usize, spawn: &SpawnOp) -> Places {
        let columns = self.columns();
        let row = block.rows[lane] as usize;
        let me = columns.id[row];
        let (x, y, heading) = (columns.x[row], columns.y[row], columns.heading[row]);
        let place = match spawn.place {
            PlaceOp::Here => PlaceRequest::Point(x, y),
            PlaceOp::Point(reg) => {
                PlaceRequest::Point(block.number(reg, lane), block.number(reg + 1, lane))
            }
            PlaceOp::Entity(reg) => {
                let id = EntityId::from_word(block.word(reg, lane));
                match self.world.state.find(id) {
                    Some((kind, row)) => {
                        let columns = &self.world.state.kinds[kind.index()];
                        let heading = columns.heading[row];
                        PlaceRequest::Entity(id, columns.x[row], columns.y[row], heading)
                    }
                    None => PlaceRequest::Point(x, y),
                }
            }
            PlaceOp::Mount(mount) => PlaceRequest::Mount(me, mount, x, y, heading),
            PlaceOp::Spot(group, at) => PlaceRequest::Spot(group, at),
            PlaceOp::AnySpot(group) => PlaceRequest::AnySpot(group),
            PlaceOp::EachSpot(group) => {
                let count = self.world.compiled.program.spots[group.index()].spots.len() as u32;
                return (0..count).map(|at| PlaceRequest::Spot(group, at)).collect();
            }
            PlaceOp::Anywhere => PlaceRequest::Anywhere,
            PlaceOp::InZone(zone) => PlaceRequest::InZone(zone),
            PlaceOp::Around(at, distance) => PlaceRequest::Around(
                block.number(at, lane),
                block.number(at + 1, lane),
                block.number(distance, lane),
            ),
            PlaceOp::Ring(at, radius) => PlaceRequest::Ring(
                block.number(at, lane),
                block.number(at + 1, lane),
                block.number(radius, lane),
            ),
            PlaceOp::Edge(side) => PlaceRequest::Edge(side),
        };
        smallvec::smallvec![place]
    }

    // Health and ends.

    pub(super) fn damage(
        &self,
        block: &mut Block,
        lanes: Chosen,
        (target, amount, credit): (Reg, Reg, Option<Reg>),
        heals: bool,
        out: &mut Outbox,
    ) {
        for lane in lanes {
            let site = Self::site(out);
            let amount = block.number(amount, lane);
            if !amount.is_finite() {
                self.not_finite(block, lane, out);
                continue;
            }
            let words = if heals { "heal" } else { "damage" };
            let Some(target) = self.target(block, lane, target, words, out) else { continue };
            // Credit to one that is gone stays with the asker.
            let credit = credit.and_then(|reg| self.alive(block, lane, reg));
            let by = credit.and_then(|id| self.world.state.who(id));
            let by = by.unwrap_or_else(|| self.asker(block, lane));
            let loss = if heals { -amount } else { amount };
            let key = self.key(block, lane);
            out.health.push(HealthRequest { key, target, loss, by, site });
        }
    }

    pub(super) fn end(
        &self,
        block: &mut Block,
        lanes: Chosen,
        target: Reg,
        words: Option<&Arc<str>>,
        out: &mut Outbox,
    ) {
        for lane in lanes {
            let Some(target) = self.target(block, lane, target, "end", out) else { continue };
            let request = EndRequest {
                key: self.key(block, lane),
                target,
                phase: self.world.phase,
                cause: self.origin.cause,
                words: words.cloned(),
                by: self.asker(block, lane),
                site: Self::site(out),
                births: Vec::new(),
                kept_velocity: None,
            };
            out.ends.push(request);
        }
    }
}

fn is_finite(birth: &BirthRequest, spread: Option<f64>) -> bool {
    let pairs = [birth.toward, birth.vel];
    let point = match birth.place {
        PlaceRequest::Point(x, y) => Some((x, y)),
        PlaceRequest::Around(x, y, d) | PlaceRequest::Ring(x, y, d) => Some((x + d, y + d)),
        _ => None,
    };
    let push = birth.extras.as_ref().map(|e| e.push.0 + e.push.1 + e.push_along);
    let numbers = [birth.facing, birth.speed, birth.health, spread, push];
    numbers.into_iter().flatten().all(f64::is_finite)
        && pairs.into_iter().chain([point]).flatten().all(|(x, y)| x.is_finite() && y.is_finite())
}
