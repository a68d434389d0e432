//! Activation and rest: an inactive entity keeps its place and data and takes no part.

use std::collections::HashMap;

use crate::engine::Engine;
use crate::event::{Event, Phase, What};
use crate::state::{ActiveRequest, Clock, EntityId, State};

impl Engine {
    /// Carries out what was asked for; of several requests for one entity the last of the roll stands.
    pub(crate) fn activate(&mut self, state: &mut State, events: &mut Vec<Event>) {
        if state.activations.is_empty() {
            return;
        }
        let mut requests = std::mem::take(&mut state.activations);
        requests.sort_by_key(|r| (r.target, r.key));
        let mut last: Vec<ActiveRequest> = requests
            .chunk_by(|a, b| a.target == b.target)
            .filter_map(|group| group.last().copied())
            .collect();
        last.sort_by_key(|r| r.key);
        let mut woken: HashMap<EntityId, u64> = HashMap::new();
        for request in last {
            let Some((kind, row)) = state.find(request.target) else {
                let mut event = Event::new(state.tick, Phase::Settle, What::Stale, request.by);
                event.words = Some(if request.on { "activate" } else { "deactivate" }.into());
                event.site = Some(request.site);
                events.push(event);
                continue;
            };
            if state.kinds[kind.index()].is_active(row) == request.on {
                continue;
            }
            let who = state.who_at(kind, row);
            if request.on {
                self.wake(state, request.target, &mut woken);
            } else {
                put_to_rest(state, request.target);
            }
            let what = if request.on { What::Activated } else { What::Deactivated };
            let mut event = Event::new(state.tick, Phase::Settle, what, who);
            event.other = Some(request.by);
            event.site = Some(request.site);
            events.push(event);
        }
        if !woken.is_empty() {
            for wait in &mut state.waits {
                if let Some(asleep) = woken.get(&wait.entity) {
                    wait.due = wait.due.saturating_add(*asleep);
                }
            }
        }
    }

    /// Wakes an entity: its clocks, waits and timed states go on where they stood.
    fn wake(&mut self, state: &mut State, id: EntityId, woken: &mut HashMap<EntityId, u64>) {
        let Some((kind, row)) = state.find(id) else { return };
        let tick = state.tick;
        let columns = &mut state.kinds[kind.index()];
        let rested = std::mem::replace(&mut columns.rests_since[row], Clock::NEVER);
        let asleep = tick - rested.or_before(tick);
        columns.resting_count -= 1;
        columns.slept[row] += asleep;
        let later = |due: &mut Clock| *due = due.later_by(asleep);
        columns.clocks.iter_mut().for_each(|clock| later(&mut clock[row]));
        for track in &mut columns.tracks {
            later(&mut track.until[row]);
            track.since[row] += asleep;
        }
        woken.insert(id, asleep);
    }
}

/// Puts an entity to rest, from the end of this tick on.
pub(crate) fn put_to_rest(state: &mut State, id: EntityId) {
    let Some((kind, row)) = state.find(id) else { return };
    let tick = state.tick;
    let columns = &mut state.kinds[kind.index()];
    columns.rests_since[row] = Clock::at(tick);
    columns.resting_count += 1;
}
