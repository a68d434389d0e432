//! What has just happened, for as long as it takes to be seen: births, ends, wounds, rays, blasts.

use tickpond_lab::Run;
use tickpond_sim::What;
use tickpond_sim::state::Trace as Noted;

use super::types::{Mark, Seen, Trace};

/// Seconds of play that births and ends are shown for, and seconds of a person's time at least.
const MARKS: (f64, f64) = (0.5, 0.35);
/// The same of wounds, rays and blasts.
const FLASHES: (f64, f64) = (0.25, 0.3);
/// Most births and ends that are shown, the newest.
const MOST_MARKS: usize = 1000;

/// So many ticks are shown at a speed.
fn lasting((of_play, of_time): (f64, f64), run: &Run, speed: f64) -> u64 {
    (of_play.max(of_time * speed) * run.program().rate).ceil() as u64
}

/// Births and ends up to now, as they are seen at a speed.
pub fn marks(run: &Run, speed: f64) -> Vec<Mark> {
    let (now, lasts) = (run.tick(), lasting(MARKS, run, speed));
    let state = run.state();
    let events = run.events();
    let start = events.partition_point(|e| e.tick + lasts <= now);
    let mut marks = Vec::new();
    for event in events[start..].iter().rev() {
        let left = 1.0 - (now - event.tick) as f64 / lasts as f64;
        match event.what {
            What::Born => {
                if let Some((kind, row)) = state.find(event.who.id) {
                    let c = &state.kinds[kind.index()];
                    marks.push(Mark { at: (c.x[row], c.y[row]), cause: None, left });
                }
            }
            What::Ended => {
                if let Some(at) = event.place {
                    marks.push(Mark { at, cause: event.cause, left });
                }
            }
            _ => {}
        }
        if marks.len() == MOST_MARKS {
            break;
        }
    }
    // The newest lies on top.
    marks.reverse();
    marks
}

/// Tells those who were hurt a moment ago.
pub fn hurt(run: &Run, speed: f64, seen: &mut [Seen]) {
    let (now, lasts) = (run.tick(), lasting(FLASHES, run, speed));
    let events = run.events();
    let start = events.partition_point(|e| e.tick + lasts <= now);
    for event in events[start..].iter().filter(|event| event.what == What::Hurt) {
        let key = |seen: &Seen| (seen.who.kind, seen.who.number);
        let wanted = (event.who.kind, event.who.number);
        // They stand kind by kind, the oldest first.
        if let Ok(at) = seen.binary_search_by_key(&wanted, key)
            && seen[at].who == event.who
        {
            seen[at].hurt = Some(1.0 - (now - event.tick) as f64 / lasts as f64);
        }
    }
}

/// Rays and blasts: those the pond shows, and those it shows for too short a time to be seen.
pub fn traces<'a>(run: &'a Run, speed: f64, noted: impl Iterator<Item = &'a Noted>) -> Vec<Trace> {
    let (now, lasts) = (run.tick(), lasting(FLASHES, run, speed));
    let own = run.state().traces.iter();
    let brief = noted.filter(|t| t.until <= now && t.since <= now && t.since + lasts > now);
    let shown = brief.chain(own);
    shown
        .map(|trace| {
            let until = trace.until.max(trace.since + lasts);
            let left = until.saturating_sub(now) as f64 / (until - trace.since).max(1) as f64;
            Trace { from: trace.from, to: trace.to, radius: trace.radius, left: left.min(1.0) }
        })
        .collect()
}
