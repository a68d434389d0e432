//! The refusals of a tick, and where the nearest others are.

use tickpond_lab::Timeline;
use tickpond_lab::odd::ODD;
use tickpond_sim::Event;

use crate::workbench::answer::Answer;
use crate::workbench::snapshot::{FeedLine, feed_line};
use crate::workbench::views::Asking;

/// Most refusals of a tick that are handed to the screen.
const MOST: usize = 600;
/// Most events that are looked at for the nearest others, on each side.
const LOOKS: usize = 300_000;

/// What a tick asked for and did not get.
#[derive(Default)]
pub struct Refused {
    /// In the order of the tick; the first [`MOST`].
    pub rows: Vec<FeedLine>,
    /// How many there are beside those.
    pub more: usize,
    /// The last tick before this one with a refusal, as far back as events are kept.
    pub before: Option<u64>,
    /// The next tick after it that was played and has one.
    pub after: Option<u64>,
}

/// Answers with the refusals of the present tick.
pub fn answer(asking: &mut Asking<'_>, answer: &mut Answer) {
    answer.give(refused(asking.run));
}

fn is_refusal(event: &&Event) -> bool {
    ODD.contains(&event.what)
}

/// Costs the events of the tick, and those up to the nearest refusals on both sides.
fn refused(run: &dyn Timeline) -> Refused {
    let (tick, events) = (run.tick(), run.events());
    let first = events.partition_point(|event| event.tick < tick);
    let here = events[first..].iter().filter(is_refusal);
    let rows: Vec<FeedLine> = here.clone().take(MOST).map(|event| feed_line(run, event)).collect();
    let before = events[..first].iter().rev().take(LOOKS).find(is_refusal);
    let kept = run.record().events();
    let later = kept.partition_point(|event| event.tick <= tick);
    let after = kept[later..].iter().take(LOOKS).find(is_refusal);
    Refused {
        more: here.count() - rows.len(),
        rows,
        before: before.map(|event| event.tick),
        after: after.map(|event| event.tick),
    }
}
