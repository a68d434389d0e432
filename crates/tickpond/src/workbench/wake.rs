//! Where everyone was in the last seconds, and which rays were cast: noted as it plays.

use std::collections::{BTreeMap, VecDeque};
use std::sync::Arc;

use tickpond_lab::{Cast, Run, Timeline};
use tickpond_lang::program::KindId;
use tickpond_sim::state::Trace;

use crate::workbench::snapshot::Trail;

/// How often a second places are noted.
const A_SECOND: f64 = 20.0;
/// Seconds of places that are kept: a step back finds them.
const KEPT: f64 = 4.0;
/// Most alive at once of whom places are noted.
const MOST: usize = 3000;
/// Most rays and blasts that are kept.
const MOST_TRACES: usize = 400;

/// Who, where, and how fast.
struct Stood {
    kind: KindId,
    number: u32,
    at: (f64, f64),
    speed: f64,
}

/// Where everyone was in the last seconds.
#[derive(Default)]
pub struct Wake {
    edition: (u64, u64),
    /// Whose numbers the kinds have.
    cast: Option<Arc<Cast>>,
    /// By tick; none of those of which there were too many.
    places: VecDeque<(u64, Option<Vec<Stood>>)>,
    traces: VecDeque<Trace>,
}

/// Every how many ticks places are noted.
fn every(run: &Run) -> u64 {
    (run.program().rate / A_SECOND).round().max(1.0) as u64
}

impl Wake {
    /// Notes the present tick. Costs those alive, as long as they are few.
    pub fn note(&mut self, run: &Run) {
        let (now, every) = (run.tick(), every(run));
        if !self.is_of(run) {
            let cast = Some(Arc::clone(run.cast()));
            *self = Wake { edition: run.edition(), cast, ..Wake::default() };
        }
        let cast = run.state().traces.iter().filter(|trace| trace.since == now);
        self.traces.extend(cast.copied());
        let over = self.traces.len().saturating_sub(MOST_TRACES);
        self.traces.drain(..over);
        if !now.is_multiple_of(every) {
            return;
        }
        let follows = self.places.back().is_some_and(|(last, _)| *last + every == now);
        if !follows {
            if self.places.iter().any(|(tick, _)| *tick == now) {
                // It was here before, and is the same as then.
                return;
            }
            self.places.clear();
        }
        self.places.push_back((now, stood(run)));
        let most = (KEPT * run.program().rate / every as f64) as usize;
        let over = self.places.len().saturating_sub(most);
        self.places.drain(..over);
    }

    /// Whether what was noted is of this run and its kinds.
    fn is_of(&self, run: &Run) -> bool {
        let same = |cast: &Arc<Cast>| Arc::ptr_eq(cast, run.cast());
        self.edition == run.edition() && self.cast.as_ref().is_some_and(same)
    }

    /// Whether all of the last second before the present tick has been noted. Of too many nothing is missing.
    pub fn is_whole(&self, run: &Run) -> bool {
        if run.state().live() > MOST {
            return true;
        }
        let (now, every) = (run.tick(), every(run));
        let second = run.program().rate as u64;
        let from = now.saturating_sub(second).div_ceil(every) * every;
        let known = |tick: u64| self.places.iter().any(|(noted, _)| *noted == tick);
        self.is_of(run) && known(from) && known(now / every * every)
    }

    /// Rays and blasts that were noted, the oldest first.
    pub fn traces(&self) -> impl Iterator<Item = &Trace> {
        self.traces.iter()
    }

    /// Where each was in the last second, and whether there were too many to tell.
    pub fn trails(&self, run: &Run) -> (Vec<Trail>, bool) {
        let (now, rate) = (run.tick(), run.program().rate);
        if !self.is_of(run) {
            return (Vec::new(), run.state().live() > MOST);
        }
        let from = now.saturating_sub(rate as u64);
        let arena = &run.program().arena;
        let half = (arena.size().0 / 2.0, arena.size().1 / 2.0);
        let mut trails: BTreeMap<(KindId, u32), (Trail, f64)> = BTreeMap::new();
        let present = stood(run);
        let mut crowded = present.is_none();
        let noted = self.places.iter().filter(|(tick, _)| (from..now).contains(tick));
        let noted = noted.map(|(tick, stood)| (*tick, stood.as_deref()));
        for (tick, stood) in noted.chain([(now, present.as_deref())]) {
            let Some(stood) = stood else {
                crowded = true;
                continue;
            };
            for one in stood {
                let since = (now - tick) as f64 / rate;
                let (trail, speed) = trails
                    .entry((one.kind, one.number))
                    .or_insert_with(|| (Trail { kind: one.kind, places: Vec::new() }, 0.0));
                // What is farther than it can have flown, or round to the other side, was no flight.
                let moved = trail.places.last().is_some_and(|(x, y, before, _)| {
                    let (dx, dy) = ((one.at.0 - x).abs(), (one.at.1 - y).abs());
                    let flown = speed.max(one.speed) * (before - since) * 1.5 + 0.5;
                    dx < half.0 && dy < half.1 && dx * dx + dy * dy <= flown * flown
                });
                trail.places.push((one.at.0, one.at.1, since, moved));
                *speed = one.speed;
            }
        }
        if crowded {
            return (Vec::new(), true);
        }
        // Whoever stands still leaves no trail.
        let moves = |trail: &Trail| {
            let first = trail.places.first().map(|p| (p.0, p.1));
            trail.places.iter().any(|p| Some((p.0, p.1)) != first)
        };
        (trails.into_values().map(|(trail, _)| trail).filter(moves).collect(), false)
    }
}

/// Everyone's place; none if they are too many.
fn stood(run: &Run) -> Option<Vec<Stood>> {
    let state = run.state();
    if state.live() > MOST {
        return None;
    }
    let mut stood = Vec::with_capacity(state.live());
    for (k, c) in state.kinds.iter().enumerate().skip(1) {
        for row in 0..c.len() {
            stood.push(Stood {
                kind: KindId(k as u32),
                number: c.number[row],
                at: (c.x[row], c.y[row]),
                speed: c.vx[row].hypot(c.vy[row]),
            });
        }
    }
    Some(stood)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use tickpond_lab::RunOptions;

    fn run_of(text: &str) -> Run {
        let program = tickpond_lang::compile(text);
        let program = program.program.unwrap_or_else(|| panic!("{:?}", program.diagnostics));
        Run::new(program, RunOptions::default()).unwrap()
    }

    const FLIES: &str = "pond \"t\" { arena 100 x 20\n edges wrap }
kind midge { on birth { speed = 30 u/s } }
kind reed { }
place midge at (90, 10)
place reed at (5, 5)
";

    #[rstest]
    fn a_trail_is_where_one_flew_in_the_last_second() {
        let mut run = run_of(FLIES);
        let mut wake = Wake::default();
        wake.note(&run);
        for _ in 0..90 {
            run.step();
            wake.note(&run);
        }
        assert!(wake.is_whole(&run));
        let (trails, crowded) = wake.trails(&run);
        assert!(!crowded);
        // The reed stands still. 30 u in a second, twenty times noted: 1.5 u each, and the present.
        assert_eq!(trails.len(), 1);
        let places = &trails[0].places;
        assert_eq!(places.len(), 21);
        for pair in places.windows(2) {
            let step = pair[1].0 - pair[0].0;
            let jumps = step < 0.0;
            assert_eq!(pair[1].3, !jumps, "round to the other side is no flight");
            assert!(jumps || (step - 1.5).abs() < 1e-6, "{step}");
        }
    }

    #[rstest]
    fn another_run_or_another_cast_has_no_trails_of_this_one() {
        let mut run = run_of(FLIES);
        let mut wake = Wake::default();
        wake.note(&run);
        for _ in 0..90 {
            run.step();
            wake.note(&run);
        }
        // Kinds have other numbers from here on.
        let text = FLIES.replace("kind midge", "kind frog { }\nkind midge");
        run.edit(tickpond_lang::compile(&text).program.unwrap()).unwrap();
        run.step();
        assert!(!wake.is_whole(&run));
        assert!(wake.trails(&run).0.is_empty());
        let mut again = run_of(FLIES);
        again.restart(Some(7)).unwrap();
        assert!(!wake.is_whole(&again));
    }

    #[rstest]
    fn of_a_crowd_there_are_no_trails_and_it_says_so() {
        let text = "pond \"t\" { arena 100 x 100\n limit 9000 entities }
kind midge { }
spawner bed { makes midge anywhere; keep 3200 alive }
place bed
";
        let mut run = run_of(text);
        let mut wake = Wake::default();
        wake.note(&run);
        for _ in 0..90 {
            run.step();
            wake.note(&run);
        }
        assert!(run.state().live() > MOST, "{}", run.state().live());
        assert_eq!(wake.trails(&run), (Vec::new(), true));
        // Nor is a second of them played once more to find that out.
        assert!(Wake::default().is_whole(&run));
    }
}
