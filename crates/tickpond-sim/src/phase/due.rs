//! The births that are due.

use std::ops::Range;

use crate::state::{BirthRequest, State};

/// The births that are due, and who was born of them. Used again in each tick.
#[derive(Default)]
pub(crate) struct Due {
    /// Requests are large: they stay where they are, and the order is a list of their places.
    pub(super) requests: Vec<BirthRequest>,
    /// The order they take place in.
    pub(super) order: Vec<u32>,
    /// The requests that were placed, by their place, and the rows of those that were born.
    pub(super) born: Vec<(u32, Range<usize>)>,
}

impl Due {
    /// Takes out what is due now.
    pub(super) fn take(&mut self, state: &mut State) {
        let tick = state.tick;
        self.born.clear();
        self.order.clear();
        self.requests.clear();
        if state.births.iter().all(|b| b.due <= tick) {
            std::mem::swap(&mut self.requests, &mut state.births);
        } else {
            self.requests.extend(state.births.extract_if(.., |b| b.due <= tick));
        }
        // Of those that come one after another, one is due.
        for request in &mut self.requests {
            if request.spaced > 0 && request.count > 1 {
                let (one, rest) = request.clone().split_first();
                *request = one;
                state.births.extend(rest);
            }
        }
        // Given places are filled first; those chosen under conditions see what stands there already.
        self.order.extend(0..self.requests.len() as u32);
        let place = |at: &u32| {
            let birth = &self.requests[*at as usize];
            (birth.is_chosen(), birth.key, birth.index)
        };
        if !self.order.is_sorted_by_key(place) {
            self.order.sort_by_cached_key(place);
        }
    }

    pub(super) fn in_order(&self) -> impl Iterator<Item = &BirthRequest> {
        self.order.iter().map(|at| &self.requests[*at as usize])
    }
}
