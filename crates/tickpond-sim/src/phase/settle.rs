//! Damage and healing are summed, `on hurt` runs, zero health is judged.

use std::collections::HashSet;

use tickpond_lang::program::{Cause, Event as When, KindId};

use crate::code::Turn;
use crate::engine::Engine;
use crate::event::{Event, Phase, What};
use crate::state::{EndRequest, EntityId, HealthRequest, State};

/// What comes together for one entity in a tick.
struct Sum {
    kind: KindId,
    row: usize,
    loss: f64,
    /// The request that took most; the first in the roll of those that took as much.
    worst: usize,
    /// The request that took the last of its health.
    fatal: Option<usize>,
}

impl Engine {
    pub(crate) fn settle(&mut self, state: &mut State, events: &mut Vec<Event>) {
        if state.health.is_empty() && state.activations.is_empty() {
            return;
        }
        let mut requests = std::mem::take(&mut state.health);
        requests.sort_by_key(|r| r.key);
        let sums = self.sums(state, &requests, events);
        let mut hurt: Vec<(KindId, u32)> = Vec::new();
        let mut down: Vec<(KindId, u32)> = Vec::new();
        let ending: HashSet<EntityId> = state.ends.iter().map(|e| e.target).collect();
        for sum in sums {
            let stays = self.stays_down(sum.kind);
            let columns = &mut state.kinds[sum.kind.index()];
            let before = columns.health[sum.row];
            let health = (before - sum.loss).max(0.0) + 0.0;
            if health != before {
                columns.health.set(sum.row, health);
            }
            if health < before {
                hurt.push((sum.kind, sum.row as u32));
                let worst = &requests[sum.worst];
                let who = state.who_at(sum.kind, sum.row);
                let mut event = Event::new(state.tick, Phase::Settle, What::Hurt, who);
                event.other = Some(worst.by);
                event.value = Some(before - health);
                event.site = Some(worst.site);
                events.push(event);
            }
            let columns = &mut state.kinds[sum.kind.index()];
            if health > 0.0 {
                columns.down.set(sum.row, false);
            }
            let (true, Some(fatal)) = (health <= 0.0, sum.fatal) else { continue };
            let request = &requests[fatal];
            if stays {
                let id = columns.id[sum.row];
                // One that was asked to end does not go down before that.
                let ends = ending.contains(&id);
                if !std::mem::replace(&mut state.kinds[sum.kind.index()].down[sum.row], true) {
                    let who = state.who_at(sum.kind, sum.row);
                    let mut event = Event::new(state.tick, Phase::Settle, What::Downed, who);
                    event.other = Some(request.by);
                    event.site = Some(request.site);
                    events.push(event);
                    if !ends {
                        down.push((sum.kind, sum.row as u32));
                    }
                }
                continue;
            }
            state.ends.push(EndRequest {
                key: request.key,
                target: request.target,
                phase: Phase::Settle,
                cause: Cause::Damage,
                words: None,
                by: request.by,
                site: request.site,
                births: Vec::new(),
                kept_velocity: None,
            });
        }
        self.activate(state, events);
        for job in self.jobs(state, Phase::Settle, Turn::Down) {
            let rows: Vec<u32> = down.iter().filter(|h| h.0 == job.0).map(|h| h.1).collect();
            self.fire_rows(state, Phase::Settle, job, &rows);
        }
        for job in self.jobs(state, Phase::Settle, Turn::Hurt) {
            let rows: Vec<u32> = hurt.iter().filter(|h| h.0 == job.0).map(|h| h.1).collect();
            self.fire_rows(state, Phase::Settle, job, &rows);
        }
        self.close(state, Phase::Settle, events);
    }

    /// Whether a kind stays when its health comes to 0.
    fn stays_down(&self, kind: KindId) -> bool {
        self.compiled.kinds[kind.index()].handlers.iter().any(|h| h.event == When::Down)
    }

    /// Sums by entity, oldest first. Each request is told, but for one that alone lowers a health: that is
    /// told with the sum.
    fn sums(&self, state: &State, requests: &[HealthRequest], events: &mut Vec<Event>) -> Vec<Sum> {
        let mut order: Vec<(u64, usize, KindId, usize)> = Vec::new();
        for (at, request) in requests.iter().enumerate() {
            if let Some((kind, row)) = state.find(request.target) {
                let columns = &state.kinds[kind.index()];
                if columns.is_active(row) && self.compiled.kinds[kind.index()].health.is_some() {
                    order.push((columns.serial[row], at, kind, row));
                }
            }
        }
        order.sort_unstable_by_key(|(serial, at, ..)| (*serial, *at));
        let mut alone = vec![false; requests.len()];
        for group in order.chunk_by(|a, b| a.0 == b.0) {
            if let [(_, at, kind, row)] = group {
                let health = state.kinds[kind.index()].health[*row];
                alone[*at] = requests[*at].loss > 0.0 && health > 0.0;
            }
        }
        for (at, request) in requests.iter().enumerate() {
            if alone[at] || is_of_birth(request) {
                continue;
            }
            let found = state.find(request.target);
            let what = match found {
                None => What::Stale,
                Some((kind, _)) if self.compiled.kinds[kind.index()].health.is_none() => {
                    What::Unheard
                }
                Some((kind, row)) if !state.kinds[kind.index()].is_active(row) => What::Unheard,
                Some(_) if request.loss < 0.0 => What::Healed,
                Some(_) => What::Damaged,
            };
            let who = state.who(request.target).unwrap_or(request.by);
            let mut event = Event::new(state.tick, Phase::Settle, what, who);
            event.other = Some(request.by);
            event.value = Some(request.loss.abs());
            event.site = Some(request.site);
            if what == What::Unheard {
                let has = found
                    .is_some_and(|(kind, _)| self.compiled.kinds[kind.index()].health.is_some());
                let words = if has { "is inactive" } else { "has no health" };
                event.words = Some(words.into());
            }
            events.push(event);
        }
        let mut sums: Vec<Sum> = Vec::new();
        for group in order.chunk_by(|a, b| a.0 == b.0) {
            let (_, _, kind, row) = group[0];
            let health = state.kinds[kind.index()].health[row];
            let mut sum = Sum { kind, row, loss: 0.0, worst: group[0].1, fatal: None };
            for (_, at, ..) in group {
                sum.loss += requests[*at].loss;
                if requests[*at].loss > requests[sum.worst].loss {
                    sum.worst = *at;
                }
                if sum.fatal.is_none() && sum.loss >= health {
                    sum.fatal = Some(*at);
                }
            }
            sums.push(sum);
        }
        sums
    }
}

/// Whether it is no damage, but one who was born without health: see [`Engine::births`].
fn is_of_birth(request: &HealthRequest) -> bool {
    request.loss == 0.0 && request.by.id == request.target
}
