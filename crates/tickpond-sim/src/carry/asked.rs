//! What was asked for and not done yet: requests, births, waits, input.

use tickpond_lang::program::*;

use super::{CannotCarry, Map};
use crate::code::Compiled;
use crate::code::layout::words_of;
use crate::state::*;

impl Map<'_> {
    pub(super) fn requests(&self, next: &mut State) {
        let kinds = &self.kinds;
        let who = |who: &mut crate::event::Who| who.kind = kinds[who.kind.index()];
        next.births.retain_mut(|birth| match self.place(birth.maker.kind, birth.place) {
            Some(place) => {
                birth.place = place;
                true
            }
            None => false,
        });
        next.births.iter_mut().for_each(|birth| self.birth(birth));
        for request in &mut next.activations {
            who(&mut request.by);
            request.site = self.site(request.site, request.by.kind);
        }
        for push in &mut next.pushes {
            push.site = self.sites[push.site.index()].unwrap_or(SiteId(0));
        }
        for request in &mut next.attaching {
            who(&mut request.by);
            request.site = self.site(request.site, request.by.kind);
        }
        for contact in &mut next.contacts {
            contact.elder_kind = kinds[contact.elder_kind.index()];
            contact.younger_kind = kinds[contact.younger_kind.index()];
        }
        let tally = std::mem::take(&mut next.tally).into_iter();
        next.tally = tally
            .map(|((kind, cause, words, by), count)| {
                ((kinds[kind.index()], cause, words, kinds[by.index()]), count)
            })
            .collect();
        self.mounts(next);
        for request in &mut next.health {
            who(&mut request.by);
            request.site = self.site(request.site, request.by.kind);
        }
        for request in &mut next.ends {
            request.births.retain_mut(|birth| {
                let place = self.place(birth.maker.kind, birth.place);
                birth.place = place.unwrap_or(birth.place);
                place.is_some()
            });
            request.births.iter_mut().for_each(|birth| self.birth(birth));
            who(&mut request.by);
            request.site = self.site(request.site, request.by.kind);
        }
        // Letters whose message has changed reach nobody.
        next.letters.retain(|letter| self.message(letter.message.index()).is_some());
        next.letters.forget_places();
        for letter in next.letters.iter_mut() {
            who(&mut letter.from);
            letter.site = self.site(letter.site, letter.from.kind);
            if let Some(message) = self.message(letter.message.index()) {
                letter.message = message;
            }
        }
    }

    pub(super) fn birth(&self, birth: &mut crate::state::BirthRequest) {
        let from = birth.kind;
        birth.kind = self.kinds[from.index()];
        birth.vars = birth.vars.iter().filter_map(|(w, v)| self.var(from, *w, *v)).collect();
        if let Some(extras) = &mut birth.extras {
            for filter in &mut extras.filters {
                if let FilterRequest::NotNearKinds(_, near) = filter {
                    *near = near.iter().map(|k| self.kinds[k.index()]).collect();
                }
            }
        }
        birth.maker.kind = self.kinds[birth.maker.kind.index()];
        birth.site = self.site(birth.site, birth.maker.kind);
    }

    /// Mounts go over by name; what hung on one that is gone is let go.
    pub(super) fn mounts(&self, next: &mut State) {
        let slots = next.slots.clone();
        next.attached.retain(|_, attachment| {
            let Some((to, _)) = slots.find(attachment.owner) else { return false };
            let Some(from) = self.kinds.iter().position(|k| *k == to) else { return false };
            let old = &self.old.program.kinds[from].mounts;
            let Some(name) = old.get(attachment.mount as usize).map(|m| &m.name) else {
                return false;
            };
            let mounts = &self.new.program.kinds[to.index()].mounts;
            match mounts.iter().position(|m| m.name == *name) {
                Some(at) => {
                    attachment.mount = at as u32;
                    true
                }
                None => false,
            }
        });
    }

    /// Where a birth is to happen, by the names of mounts and spot groups; `None` if what it names is
    /// gone, and the birth with it.
    pub(super) fn place(&self, maker: KindId, place: PlaceRequest) -> Option<PlaceRequest> {
        let group = |group: SpotsId| {
            let name = &self.old.program.spots[group.index()].name;
            let at = self.new.program.spots.iter().position(|s| s.name == *name)?;
            Some(SpotsId(at as u32))
        };
        Some(match place {
            PlaceRequest::InZone(zone) => {
                let name = &self.old.program.zones[zone.index()].name;
                let at = self.new.program.zones.iter().position(|z| z.name == *name)?;
                PlaceRequest::InZone(tickpond_lang::program::ZoneId(at as u32))
            }
            PlaceRequest::AnySpot(spots) => PlaceRequest::AnySpot(group(spots)?),
            PlaceRequest::Spot(spots, at) => {
                let spots = group(spots)?;
                let count = self.new.program.spots[spots.index()].spots.len();
                ((at as usize) < count).then_some(PlaceRequest::Spot(spots, at))?
            }
            PlaceRequest::Mount(id, mount, x, y, heading) => {
                let name = &self.old.program.kinds[maker.index()].mounts[mount as usize].name;
                let mounts = &self.new.program.kinds[self.kinds[maker.index()].index()].mounts;
                let at = mounts.iter().position(|m| m.name == *name)?;
                PlaceRequest::Mount(id, at as u32, x, y, heading)
            }
            other => other,
        })
    }

    /// A given word of a variable, at its new place.
    pub(super) fn var(&self, kind: KindId, word: u32, value: u64) -> Option<(u32, u64)> {
        let old = &self.old.program.kinds[kind.index()];
        for var in &old.vars {
            let start = self.old.var_word(kind, var.name)? as u32;
            let part = word.wrapping_sub(start);
            if part < u32::from(words_of(&var.ty)) {
                let name = &self.old.program.var_names[var.name.index()];
                let at = self.new.program.var_names.iter().position(|n| n == name)?;
                let name = tickpond_lang::program::VarName(at as u32);
                let to = self.kinds[kind.index()];
                let same = self.new.program.var_of(to, name)?.ty == var.ty;
                return same
                    .then(|| self.new.var_word(to, name))
                    .flatten()
                    .map(|w| (w as u32 + part, value));
            }
        }
        None
    }

    pub(super) fn message(&self, at: usize) -> Option<tickpond_lang::program::MessageId> {
        let old = &self.old.program.messages[at];
        let new = self.new.program.messages.iter().position(|m| m == old)?;
        Some(tickpond_lang::program::MessageId(new as u32))
    }

    pub(super) fn mail_totals(&self, state: &State) -> Vec<crate::state::MailTotals> {
        let mut totals = vec![Default::default(); self.new.program.messages.len()];
        for at in 0..self.old.program.messages.len() {
            if let Some(to) = self.message(at) {
                totals[to.index()] = state.mail_totals[at];
            }
        }
        totals
    }

    pub(super) fn input(&self, state: &State) -> crate::state::InputState {
        let inputs = &self.new.program.inputs;
        let renamed = |bits: u64| {
            let set =
                self.old.program.inputs.iter().enumerate().filter(|(i, _)| bits >> i & 1 == 1);
            set.filter_map(|(_, input)| inputs.iter().position(|new| new.name == input.name))
                .fold(0, |bits, at| bits | 1 << at)
        };
        crate::state::InputState {
            held: renamed(state.input.held),
            pressed: renamed(state.input.pressed),
            released: renamed(state.input.released),
            places: {
                let old = &self.old.program.inputs;
                let middle = self.new.program.arena.middle();
                let place = |name: &str| {
                    let at = old.iter().position(|o| o.name == name)?;
                    state.input.places.get(at).copied()
                };
                inputs.iter().map(|input| place(&input.name).unwrap_or(middle)).collect()
            },
        }
    }

    /// A handler that waits must be the same, word for word and step for step.
    pub(super) fn wait(&self, state: &State, wait: &Wait) -> Result<Wait, CannotCarry> {
        let Some((kind, _)) = state.find(wait.entity) else { return Ok(wait.clone()) };
        let to = self.kinds[kind.index()];
        let old = &self.old.kinds[kind.index()].handlers[wait.handler as usize];
        let refused = || CannotCarry::Waiting(self.head(kind, old.site, false).to_string());
        let source = |compiled: &Compiled, kind: KindId, site: SiteId| {
            let program = &compiled.program;
            let handler = program.kinds[kind.index()].handlers.iter().find(|h| h.site == site);
            handler.and_then(|h| program.text.get(h.span.range()).map(str::to_string))
        };
        let text = source(self.old, kind, old.site);
        let handlers = &self.new.kinds[to.index()].handlers;
        let at = handlers.iter().position(|h| source(self.new, to, h.site) == text);
        let at = at.ok_or_else(refused)?;
        let new = &handlers[at];
        let alike = old.code.regs == new.code.regs
            && old.code.ops.len() == new.code.ops.len()
            && old
                .code
                .ops
                .iter()
                .zip(&new.code.ops)
                .all(|(a, b)| std::mem::discriminant(a) == std::mem::discriminant(b));
        if !alike {
            return Err(refused());
        }
        let mut next = Wait { handler: at as u32, ..wait.clone() };
        let program = &self.new.program.kinds[to.index()];
        if let Some(handler) = program.handlers.iter().find(|h| h.site == new.site) {
            for (local, reg) in handler.locals.iter().zip(&new.locals) {
                if matches!(local.ty, Ty::Kind | Ty::KindOf(_)) {
                    let reg = usize::from(*reg);
                    self.rename_kinds(&mut next.words[reg..=reg]);
                }
            }
        }
        Ok(next)
    }
}
