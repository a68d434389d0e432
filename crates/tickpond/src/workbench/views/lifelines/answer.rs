//! The lives of a stretch of time.

use tickpond_lab::lifelines::{Lane, Lanes, lifelines};
use tickpond_sim::{What, Who};

use crate::workbench::answer::Answer;
use crate::workbench::snapshot::feed_line;
use crate::workbench::stretch::{Stretch, around};
use crate::workbench::views::Asking;
use crate::workbench::wish::Wish;

/// Most lanes that are handed to the screen.
const MOST_LANES: usize = 300;
/// Most events under the cursor that are told.
const MOST_UNDER: usize = 20;

/// Lives side by side.
#[derive(Default)]
pub struct Lives {
    pub lanes: Vec<Lane>,
    /// How many there are, with those that were not handed on.
    pub all: usize,
    /// The ticks the lanes show.
    pub span: Stretch,
    /// What befell those that are wanted in the ticks of the cursor's column: words and line, in order.
    pub under: Vec<(String, Option<u32>)>,
    /// How much more befell them there.
    pub more: usize,
    /// The first of these ticks.
    pub since: u64,
}

/// Answers for the lifelines.
pub fn answer(asking: &mut Asking<'_>, answer: &mut Answer) {
    asking.question.ask(asking.run, &asking.wish.filter);
    let run = &*asking.run;
    let tick = run.tick();
    let span = span_of(run.cast().rate, tick, asking.wish);
    let wanted = |who: Who| asking.question.is_wanted(run, who);
    let Lanes { lanes, all } = lifelines(run, span.0, MOST_LANES, &wanted);
    let per = (span.1 - span.0) / asking.wish.columns.saturating_sub(16).max(1) as u64;
    let since = tick.saturating_sub(per).max(span.0);
    let mut lives = Lives { lanes, all, span, since, ..Lives::default() };
    let events = run.events();
    let first = events.partition_point(|event| event.tick < since);
    for event in events[first..].iter().filter(|event| event.what != What::Damaged) {
        let cast = run.cast_at(event.tick);
        if event.who.kind.index() == 0 || cast.kinds.len() <= event.who.kind.index() {
            continue;
        }
        if !wanted(event.who) {
            continue;
        }
        if lives.under.len() == MOST_UNDER {
            lives.more += 1;
            continue;
        }
        let line = feed_line(run, event);
        lives.under.push((format!("{} {}", line.what.name(), line.words), line.line));
    }
    answer.give(lives);
    answer.trouble = asking.question.trouble.clone();
}

/// The lanes, if there are some.
pub fn lanes(answer: &Answer) -> &[Lane] {
    answer.own::<Lives>().map_or(&[], |lives| &lives.lanes)
}

/// The stretch that was chosen, else the last ten seconds.
pub fn span_of(rate: f64, tick: u64, wish: &Wish) -> Stretch {
    wish.stretch.map_or_else(|| usual(rate, tick, wish.columns), |stretch| around(stretch, tick))
}

/// Ten seconds, or less while less was played.
pub fn usual(rate: f64, tick: u64, columns: usize) -> Stretch {
    (tick.saturating_sub(((rate * 10.0) as u64).max(columns as u64)), tick)
}
