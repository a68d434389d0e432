//! `on end` runs, and the entity is gone.

use std::collections::{HashMap, HashSet};

use tickpond_lang::program::{Cause, Event as When, KindId};

use super::ending::Ending;
use crate::code::Turn;
use crate::engine::Engine;
use crate::event::{Event, Phase, What, Who};
use crate::luck;
use crate::state::{EndRequest, EntityId, PlaceRequest, State};

impl Engine {
    pub(crate) fn ends(&mut self, state: &mut State, events: &mut Vec<Event>) {
        if state.ends.is_empty() {
            return;
        }
        let mut ending = std::mem::take(&mut self.ending);
        std::mem::swap(&mut ending.requests, &mut state.ends);
        self.with_attached(state, &mut ending.requests);
        ending.find_winners(state, events);
        events.reserve(ending.winners.len());
        for (request, kind, row) in ending.winners() {
            let columns = &mut state.kinds[kind.index()];
            columns.ending[row] = true;
            columns.ending_count += 1;
            let life = state.tick - columns.born[row];
            let place = (columns.x[row], columns.y[row]);
            let who = Who { kind, number: columns.number[row], id: columns.id[row] };
            let mut event = Event::new(state.tick, Phase::Ends, What::Ended, who);
            event.other = Some(request.by);
            event.cause = Some(request.cause);
            event.words = request.words.clone();
            event.value = Some(life as f64);
            event.place = Some(place);
            event.site = Some(request.site);
            events.push(event);
            state.totals[kind.index()].ended[request.cause as usize] += 1;
            if !self.compiled.tallies.is_empty() {
                let key = (kind, request.cause, request.words.clone(), request.by.kind);
                *state.tally.entry(key).or_default() += 1;
            }
        }
        self.run_on_end(state, &ending);
        self.ask_replacements(state, &ending);
        self.close(state, Phase::Ends, events);
        self.keep_last_places(state, &ending);
        self.let_go(state, &ending);
        for (_, kind, row) in &ending.winners {
            self.forget(state, *kind, *row);
        }
        ending.remove(state);
        ending.requests.clear();
        self.ending = ending;
    }

    /// What hangs on one that ends, ends with it, unless it outlives its owner.
    fn with_attached(&self, state: &State, requests: &mut Vec<EndRequest>) {
        if state.attached.is_empty() {
            return;
        }
        let mut hanging: HashMap<EntityId, Vec<EntityId>> = HashMap::new();
        for (id, attachment) in state.attached.iter().filter(|(_, a)| !a.outlives) {
            hanging.entry(attachment.owner).or_default().push(*id);
        }
        // The request that ends an owner is the one that ends what hangs on it.
        requests.sort_by_key(|r| (r.phase, r.cause, r.key));
        let by_owner = |r: &&EndRequest| r.cause == Cause::Owner;
        let mut asked: HashSet<EntityId> =
            requests.iter().filter(by_owner).map(|r| r.target).collect();
        let mut at = 0;
        // Those added are looked at in their turn: chains end as a whole.
        while at < requests.len() {
            let (owner, by, site, key) =
                (requests[at].target, requests[at].by, requests[at].site, requests[at].key);
            at += 1;
            let Some(owner_who) = state.who(owner) else { continue };
            for id in hanging.get(&owner).into_iter().flatten().copied() {
                if !asked.insert(id) {
                    continue;
                }
                let by = if state.find(owner).is_some() { owner_who } else { by };
                requests.push(EndRequest {
                    key,
                    target: id,
                    phase: Phase::Ends,
                    cause: Cause::Owner,
                    words: None,
                    by,
                    site,
                    births: Vec::new(),
                    kept_velocity: None,
                });
            }
        }
    }

    /// What takes the place of those that were replaced; it keeps place and facing, and velocity if
    /// wished.
    fn ask_replacements(&mut self, state: &State, ending: &Ending) {
        for (request, kind, row) in ending.winners() {
            let columns = &state.kinds[kind.index()];
            let now = (columns.vx[row], columns.vy[row]);
            let (vx, vy) = request.kept_velocity.unwrap_or(now);
            for birth in &request.births {
                let mut birth = birth.clone();
                birth.due = birth.due.max(state.tick + 1);
                birth.maker_heading = Some(columns.heading[row]);
                if let PlaceRequest::Entity(_, x, y, heading) = &mut birth.place {
                    (*x, *y, *heading) = (columns.x[row], columns.y[row], columns.heading[row]);
                }
                if let Some(extras) = birth.extras.as_mut().filter(|e| e.keeps_velocity) {
                    extras.push.0 += vx;
                    extras.push.1 += vy;
                }
                self.out.births.push(birth);
            }
        }
    }

    fn run_on_end(&mut self, state: &State, ending: &Ending) {
        for job in self.jobs(state, Phase::Ends, Turn::Ends) {
            let When::End(causes) =
                self.compiled.kinds[job.0.index()].handlers[job.1].event.clone()
            else {
                continue;
            };
            let wanted = |r: &EndRequest| causes.is_empty() || causes.contains(&r.cause);
            let rows: Vec<u32> = ending
                .winners()
                .filter(|(request, kind, _)| *kind == job.0 && wanted(request))
                .map(|(_, _, row)| row as u32)
                .collect();
            self.fire_rows(state, Phase::Ends, job, &rows);
        }
    }

    /// Nothing hangs on those that go, nor do they hang on anything.
    fn let_go(&self, state: &mut State, ending: &Ending) {
        if state.attached.is_empty() {
            return;
        }
        let gone = ending.winners.iter();
        let gone: HashSet<EntityId> =
            gone.map(|(_, kind, row)| state.kinds[kind.index()].id[*row]).collect();
        state.attached.retain(|id, a| !gone.contains(id) && !gone.contains(&a.owner));
    }

    /// Puts down what others keep of one that goes.
    fn forget(&self, state: &mut State, kind: KindId, row: usize) {
        let columns = &state.kinds[kind.index()];
        let (id, maker, wave) = (columns.id[row], columns.maker[row], columns.wave[row]);
        state.slots.give_back(id);
        state.labels.remove(&id);
        if let Some(solids) = &mut state.solids {
            solids.remove(id);
        }
        if wave != 0
            && let Some(members) = state.waves.get_mut(&wave)
        {
            members.live = members.live.saturating_sub(1);
            if members.live + members.unborn == 0 {
                state.waves.remove(&wave);
            }
        }
        if let Some((maker_kind, _)) = state.find(maker) {
            self.count_made(state, maker_kind, maker, -1);
        }
    }

    /// Births still to come at a mount or place of one that goes happen where it last was.
    fn keep_last_places(&self, state: &mut State, ending: &Ending) {
        let places_move = |b: &crate::state::BirthRequest| {
            matches!(b.place, PlaceRequest::Entity(..) | PlaceRequest::Mount(..))
        };
        if !state.births.iter().any(places_move) {
            return;
        }
        let last: luck::Table<EntityId, (f64, f64, f64)> = ending
            .winners
            .iter()
            .map(|(_, kind, row)| {
                let c = &state.kinds[kind.index()];
                (c.id[*row], (c.x[*row], c.y[*row], c.heading[*row]))
            })
            .collect();
        for birth in &mut state.births {
            if let PlaceRequest::Entity(at, x, y, heading)
            | PlaceRequest::Mount(at, _, x, y, heading) = &mut birth.place
                && let Some(place) = last.get(at)
            {
                (*x, *y, *heading) = *place;
            }
        }
    }
}
