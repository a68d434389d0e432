//! Scratch buffers that the phases reuse in each tick.

use rapier2d::prelude::PhysicsPipeline;
use tickpond_lang::program::KindId;

use crate::event::{Event, Phase, What};
use crate::state::{EndRequest, State};

/// The request that ends an entity, its kind and row.
pub(super) type Winner<'a> = (&'a EndRequest, KindId, usize);

/// Memory for the ends of a tick, used again in each.
#[derive(Default)]
pub(crate) struct Ending {
    pub(super) requests: Vec<EndRequest>,
    /// The requests by the age of those they end, their rank and their place.
    pub(super) order: Vec<(u64, u32, u32)>,
    /// The place of the request that ends an entity, its kind and row.
    pub(super) winners: Vec<(u32, KindId, usize)>,
    pub(super) rows: Vec<usize>,
}

impl Ending {
    /// The requests that end an entity, oldest entity first.
    pub(super) fn winners(&self) -> impl Iterator<Item = Winner<'_>> {
        self.winners.iter().map(|(at, kind, row)| (&self.requests[*at as usize], *kind, *row))
    }

    /// One end for each entity: the earliest phase wins, in it the first cause, then the roll. The
    /// others are noted. Oldest entity first.
    pub(super) fn find_winners(&mut self, state: &State, events: &mut Vec<Event>) {
        let Ending { requests, order, winners, .. } = self;
        order.clear();
        winners.clear();
        let mut stale: Vec<&EndRequest> = Vec::new();
        for (at, request) in requests.iter().enumerate() {
            match state.find(request.target) {
                Some((kind, row)) => {
                    let rank = (request.phase as u32) << 8 | request.cause as u32;
                    order.push((state.kinds[kind.index()].serial[row], rank, at as u32));
                }
                None => stale.push(request),
            }
        }
        stale.sort_by_key(|request| (request.target, request.phase, request.cause, request.key));
        for request in stale {
            let mut event = Event::new(state.tick, Phase::Ends, What::Stale, request.by);
            event.words = Some("end".into());
            event.site = Some(request.site);
            events.push(event);
        }
        order.sort_unstable();
        for group in order.chunk_by_mut(|a, b| a.0 == b.0) {
            if group.len() > 1 {
                group.sort_by_key(|at| (at.1, requests[at.2 as usize].key));
            }
            let (_, _, at) = group[0];
            let first = &requests[at as usize];
            let Some((kind, row)) = state.find(first.target) else { continue };
            winners.push((at, kind, row));
            let others = group[1..].iter().map(|(_, _, at)| &requests[*at as usize]);
            for other in others.filter(|r| r.site != first.site) {
                let mut event =
                    Event::new(state.tick, Phase::Ends, What::Outvoted, state.who_at(kind, row));
                event.other = Some(other.by);
                event.cause = Some(other.cause);
                event.words = other.words.clone();
                event.site = Some(other.site);
                events.push(event);
            }
        }
    }

    /// Takes the rows out of those that went, which come oldest first.
    pub(super) fn remove(&mut self, state: &mut State) {
        state.letters.forget_places();
        // Stable: those of a kind stay oldest first.
        self.winners.sort_by_key(|(_, kind, _)| *kind);
        for of_kind in self.winners.chunk_by(|a, b| a.1 == b.1) {
            self.rows.clear();
            self.rows.extend(of_kind.iter().map(|(_, _, row)| *row));
            let columns = &mut state.kinds[of_kind[0].1.index()];
            let moved = columns.remove_ending(&self.rows);
            let first = columns.place_of(moved.start);
            for (at, id) in columns.id[moved].iter().enumerate() {
                state.slots.set_place(*id, first.wrapping_add(at as u32));
            }
        }
    }
}

/// The solver's own memory; nothing in it outlives a tick.
#[derive(Default)]
pub(crate) struct Solver {
    pub(super) pipeline: Option<Box<PhysicsPipeline>>,
}
