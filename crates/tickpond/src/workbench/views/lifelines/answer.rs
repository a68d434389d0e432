//! The lives of a stretch of time.

use tickpond_lab::Timeline;
use tickpond_lab::lifelines::{Lane, lifelines};
use tickpond_sim::Who;

use crate::workbench::answer::Answer;
use crate::workbench::views::Asking;

/// Most lanes that are handed to the screen.
const MOST_LANES: usize = 300;

/// Lives side by side.
#[derive(Default)]
pub struct Lives {
    pub lanes: Vec<Lane>,
    /// The ticks the lanes show.
    pub span: (u64, u64),
}

/// Answers for the lifelines.
pub fn answer(asking: &mut Asking<'_>, answer: &mut Answer) {
    asking.question.ask(asking.run, &asking.wish.filter);
    let run = &*asking.run;
    let tick = run.tick();
    let from = span_of(run, tick, asking.wish.columns);
    let wanted = |who: Who| asking.question.is_wanted(run, who);
    answer.give(Lives { lanes: lifelines(run, from, MOST_LANES, &wanted), span: (from, tick) });
    answer.trouble = asking.question.trouble.clone();
}

/// The lanes, if there are some.
pub fn lanes(answer: &Answer) -> &[Lane] {
    answer.own::<Lives>().map_or(&[], |lives| &lives.lanes)
}

/// Lifelines show ten seconds, or less while less was played.
fn span_of(run: &dyn Timeline, tick: u64, columns: usize) -> u64 {
    let ticks = (run.cast().rate * 10.0) as u64;
    tick.saturating_sub(ticks.max(columns as u64))
}
