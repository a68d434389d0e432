//! Requests about others beside births, damage, ends and letters: pushes, attachments,
//! activation; and changes of state.

use std::sync::Arc;

use tickpond_lang::program::{InState, KindId, SiteId, ticks};

use super::block::Block;
use super::chosen::Chosen;
use super::outbox::Become;
use super::outbox::Outbox;
use super::step::Run;
use crate::code::op::{PlaceOp, Reg};
use crate::event::{Phase, What};
use crate::state::{
    ActiveRequest, AttachRequest, Attachment, Clock, EndRequest, EntityId, Key, PlaceRequest,
    PushRequest,
};

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
            let until = time.map_or(Clock::NEVER, |reg| {
                Clock::at(now.saturating_add(ticks(block.number(reg, lane), rate)))
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
                let words = format!("has no mount {mount}").into();
                self.note(block, lane, What::Unheard, Some(words), out);
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
        let row = self.world.index.first_of(self.world.state, kind, batch);
        let ids = &self.world.state.kinds[kind.index()].id;
        row.map_or(EntityId::NONE, |row| ids[row])
    }

    /// Notes what the one in a lane did, or what is odd about it, at the statement it has come to.
    pub(super) fn note(
        &self,
        block: &mut Block,
        lane: usize,
        what: What,
        words: Option<Arc<str>>,
        out: &mut Outbox,
    ) {
        let key = self.key(block, lane);
        self.note_at(key, (block, lane), what, words, out);
    }

    /// The same at a place in the roll that was taken before.
    pub(super) fn note_at(
        &self,
        key: Key,
        (block, lane): (&Block, usize),
        what: What,
        words: Option<Arc<str>>,
        out: &mut Outbox,
    ) {
        let who = self.asker(block, lane);
        let mut event =
            crate::event::Event::new(self.world.state.tick, self.world.phase, what, who);
        event.words = words;
        event.site = out.last_site;
        out.events.push((key, event));
    }

    /// When births asked for now are placed.
    pub(super) fn birth_tick(&self) -> u64 {
        self.world.state.tick + u64::from(self.world.phase > Phase::Births)
    }
}

/// Whether one hangs on the other.
pub(crate) fn related(state: &crate::state::State, a: EntityId, b: EntityId) -> bool {
    if state.attached.is_empty() {
        return false;
    }
    let owner = |id: EntityId| state.attached.get(&id).map(|a| a.owner);
    owner(a) == Some(b) || owner(b) == Some(a)
}
