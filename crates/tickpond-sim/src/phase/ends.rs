//! `on end` runs, and the entity is gone.

use tickpond_lang::program::{Event as When, KindId};

use crate::engine::Engine;
use crate::event::{Event, Phase, What};
use crate::state::{EndRequest, PlaceRequest, State};

impl Engine {
    pub(crate) fn ends(&mut self, state: &mut State, events: &mut Vec<Event>) {
        if state.ends.is_empty() {
            return;
        }
        let requests = std::mem::take(&mut state.ends);
        let winners = winners(state, requests, events);
        for (request, kind, row) in &winners {
            let columns = &mut state.kinds[kind.index()];
            columns.ending[*row] = true;
            columns.ending_count += 1;
            let life = state.tick - columns.born[*row];
            let place = (columns.x[*row], columns.y[*row]);
            let mut event =
                Event::new(state.tick, Phase::Ends, What::Ended, state.who_at(*kind, *row));
            event.other = Some(request.by);
            event.cause = Some(request.cause);
            event.words = request.words.clone();
            event.value = Some(life as f64);
            event.place = Some(place);
            event.site = Some(request.site);
            events.push(event);
            state.totals[kind.index()].ended[request.cause as usize] += 1;
        }
        self.run_on_end(state, &winners);
        self.close(state, Phase::Ends, events);
        for (_, kind, row) in &winners {
            self.forget(state, *kind, *row);
        }
        remove(state);
    }

    fn run_on_end(&mut self, state: &State, winners: &[(EndRequest, KindId, usize)]) {
        for job in self.jobs(state, Phase::Ends, |h| matches!(h.event, When::End(_))) {
            let When::End(causes) =
                self.compiled.kinds[job.0.index()].handlers[job.1].event.clone()
            else {
                continue;
            };
            let wanted = |r: &EndRequest| causes.is_empty() || causes.contains(&r.cause);
            let rows: Vec<u32> = winners
                .iter()
                .filter(|(request, kind, _)| *kind == job.0 && wanted(request))
                .map(|(_, _, row)| *row as u32)
                .collect();
            self.fire_rows(state, Phase::Ends, job, &rows);
        }
    }

    /// Puts down what others keep of one that goes.
    fn forget(&self, state: &mut State, kind: KindId, row: usize) {
        let columns = &state.kinds[kind.index()];
        let (id, maker, wave) = (columns.id[row], columns.maker[row], columns.wave[row]);
        let last = (columns.x[row], columns.y[row], columns.heading[row]);
        state.slots.give_back(id);
        state.labels.remove(&id);
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
        // Births still to come at its mount or place happen where it last was.
        for birth in &mut state.births {
            match &mut birth.place {
                PlaceRequest::Entity(at, x, y, heading)
                | PlaceRequest::Mount(at, _, x, y, heading)
                    if *at == id =>
                {
                    (*x, *y, *heading) = last;
                }
                _ => {}
            }
        }
    }
}

/// One end for each entity: the earliest phase wins, in it the first cause, then the roll. The
/// others are noted. Oldest entity first.
fn winners(
    state: &State,
    mut requests: Vec<EndRequest>,
    events: &mut Vec<Event>,
) -> Vec<(EndRequest, KindId, usize)> {
    requests.sort_by_key(|a| (a.target, a.phase, a.cause, a.key));
    let mut winners: Vec<(EndRequest, KindId, usize)> = Vec::new();
    for group in requests.chunk_by(|a, b| a.target == b.target) {
        let Some((kind, row)) = state.find(group[0].target) else {
            for request in group {
                let mut event = Event::new(state.tick, Phase::Ends, What::Stale, request.by);
                event.words = Some("end".into());
                event.site = Some(request.site);
                events.push(event);
            }
            continue;
        };
        winners.push((group[0].clone(), kind, row));
        for other in group[1..].iter().filter(|r| r.site != group[0].site) {
            let mut event =
                Event::new(state.tick, Phase::Ends, What::Outvoted, state.who_at(kind, row));
            event.other = Some(other.by);
            event.cause = Some(other.cause);
            event.words = other.words.clone();
            event.site = Some(other.site);
            events.push(event);
        }
    }
    winners.sort_by_key(|(_, kind, row)| state.kinds[kind.index()].serial[*row]);
    winners
}

fn remove(state: &mut State) {
    for columns in &mut state.kinds {
        if columns.ending_count == 0 {
            continue;
        }
        if let Some(first) = columns.remove_ending() {
            for row in first..columns.len() {
                state.slots.set_row(columns.id[row], row as u32);
            }
        }
    }
}
