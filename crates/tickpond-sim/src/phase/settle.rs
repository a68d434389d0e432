//! Damage and healing are summed, `on hurt` runs, zero health is judged.

use tickpond_lang::program::{Cause, Event as When, KindId};

use crate::engine::Engine;
use crate::event::{Event, Phase, What};
use crate::state::{EndRequest, HealthRequest, State};

/// What comes together for one entity in a tick.
struct Sum {
    kind: KindId,
    row: usize,
    loss: f64,
    /// The request that took the last of its health.
    fatal: Option<usize>,
}

impl Engine {
    pub(crate) fn settle(&mut self, state: &mut State, events: &mut Vec<Event>) {
        let mut requests = std::mem::take(&mut state.health);
        if requests.is_empty() {
            return;
        }
        requests.sort_by_key(|r| r.key);
        let sums = self.sums(state, &requests, events);
        let mut hurt: Vec<(KindId, u32)> = Vec::new();
        for sum in sums {
            let health = &mut state.kinds[sum.kind.index()].health[sum.row];
            *health = *health - sum.loss + 0.0;
            if sum.loss > 0.0 {
                hurt.push((sum.kind, sum.row as u32));
            }
            if let (true, Some(fatal)) = (*health <= 0.0, sum.fatal) {
                let request = &requests[fatal];
                state.ends.push(EndRequest {
                    key: request.key,
                    target: request.target,
                    phase: Phase::Settle,
                    cause: Cause::Damage,
                    words: None,
                    by: request.by,
                    site: request.site,
                });
            }
        }
        for job in self.jobs(state, Phase::Settle, |h| h.event == When::Hurt) {
            let rows: Vec<u32> = hurt.iter().filter(|h| h.0 == job.0).map(|h| h.1).collect();
            self.fire_rows(state, Phase::Settle, job, &rows);
        }
        self.close(state, Phase::Settle, events);
    }

    /// Sums by entity, oldest first; each request is told.
    fn sums(&self, state: &State, requests: &[HealthRequest], events: &mut Vec<Event>) -> Vec<Sum> {
        let mut order: Vec<(u64, usize, KindId, usize)> = Vec::new();
        for (at, request) in requests.iter().enumerate() {
            let found = state.find(request.target);
            let what = match found {
                None => What::Stale,
                Some((kind, _)) if self.compiled.kinds[kind.index()].health.is_none() => {
                    What::Unheard
                }
                Some(_) if request.loss < 0.0 => What::Healed,
                Some(_) => What::Hurt,
            };
            let who = state.who(request.target).unwrap_or(request.by);
            let mut event = Event::new(state.tick, Phase::Settle, what, who);
            event.other = Some(request.by);
            event.value = Some(request.loss.abs());
            event.site = Some(request.site);
            if what == What::Unheard {
                event.words = Some("has no health".into());
            }
            events.push(event);
            if let (Some((kind, row)), What::Hurt | What::Healed) = (found, what) {
                order.push((state.kinds[kind.index()].serial[row], at, kind, row));
            }
        }
        order.sort_unstable_by_key(|(serial, at, ..)| (*serial, *at));
        let mut sums: Vec<Sum> = Vec::new();
        for group in order.chunk_by(|a, b| a.0 == b.0) {
            let (_, _, kind, row) = group[0];
            let health = state.kinds[kind.index()].health[row];
            let mut sum = Sum { kind, row, loss: 0.0, fatal: None };
            for (_, at, ..) in group {
                sum.loss += requests[*at].loss;
                if sum.fatal.is_none() && sum.loss >= health {
                    sum.fatal = Some(*at);
                }
            }
            sums.push(sum);
        }
        sums
    }
}
