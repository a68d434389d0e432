//! What the drawer asks of the simulation, and what it gets: only the view that is shown costs anything.

mod anatomy;
mod here;
mod roster;
mod trend;

pub use anatomy::AnatomyLine;
pub use here::Here;
pub use roster::Sort;
pub use trend::{Chart, Trend, TrendSeries};

use tickpond_lab::Run;
use tickpond_lab::lifelines::{Lane, lifelines};
use tickpond_lab::past::changes;
use tickpond_sim::Who;

use super::app::DrawerView;
use super::snapshot::Seen;
use roster::Question;

/// Most lanes of lifelines that are handed to the screen.
const MOST_LANES: usize = 300;

/// What the drawer shows.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Wish {
    pub view: DrawerView,
    /// What was typed to narrow the roster and the lifelines.
    pub filter: String,
    pub sort: Sort,
    pub reversed: bool,
    /// What was typed to narrow the feed.
    pub feed: String,
    pub trend: Trend,
    /// The series that is looked at alone, counted around; none is 0.
    pub series: usize,
    /// How many earlier runs are drawn, too; as many as are kept if that are fewer.
    pub overlay: usize,
    /// Columns of the drawer's list.
    pub columns: usize,
}

/// What the simulation has to say to it.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Answer {
    /// What was asked; none if nothing was.
    pub wish: Option<Wish>,
    /// The entities of the roster in their order, by place among those alive.
    pub roster: Vec<usize>,
    /// Why the question cannot be answered.
    pub trouble: Option<String>,
    pub lanes: Vec<Lane>,
    /// The ticks the lanes show.
    pub span: (u64, u64),
    pub chart: Option<Chart>,
    /// What was born and ended where the chart's cursor is.
    pub here: Here,
    pub anatomy: Vec<AnatomyLine>,
    /// What differs from the run before, in words, the largest difference first.
    pub changes: Vec<String>,
}

/// What was worked out before and may still hold.
#[derive(Default)]
pub struct Known {
    question: Question,
    changes: Option<(Compared, Vec<String>)>,
}

/// What was compared: the number of the run before, over how many ticks, with which edition of this run.
#[derive(PartialEq)]
struct Compared {
    past: u64,
    ticks: usize,
    edition: (u64, u64),
}

impl Known {
    /// What differs from the run before. Worked out anew only when more ticks can be compared, or others.
    fn changes(&mut self, run: &Run) -> Vec<String> {
        let Some(past) = run.past() else { return Vec::new() };
        let ticks = past.record.len.min(run.record().len);
        let compared = Compared { past: past.number, ticks, edition: run.edition() };
        if let Some((known, words)) = &self.changes
            && *known == compared
        {
            return words.clone();
        }
        let changes = changes(&past.record, run.record());
        let words: Vec<String> = changes.iter().map(|c| c.words()).collect();
        self.changes = Some((compared, words.clone()));
        words
    }
}

impl Answer {
    /// The answer to a wish. `known` is what was worked out before; the anatomy is only
    /// looked at while the run stands still, since it plays a tick again.
    pub fn of(
        run: &mut Run,
        wish: &Wish,
        known: &mut Known,
        entities: &[Seen],
        stands: bool,
    ) -> Answer {
        let mut answer =
            Answer { wish: Some(wish.clone()), changes: known.changes(run), ..Answer::default() };
        let question = &mut known.question;
        match wish.view {
            DrawerView::Roster => {
                question.ask(run, &wish.filter);
                answer.roster = roster::order(run, wish, question, entities);
                answer.trouble = question.trouble.clone();
            }
            DrawerView::Lifelines => {
                question.ask(run, &wish.filter);
                let tick = run.tick();
                let from = span_of(run, tick, wish.columns);
                let wanted = |who: Who| question.is_wanted(run, who);
                answer.lanes = lifelines(run, from, MOST_LANES, &wanted);
                answer.span = (from, tick);
                answer.trouble = question.trouble.clone();
            }
            DrawerView::Trends => {
                let chart = trend::chart(run, wish);
                answer.here = here::here(run, chart.per.filter(|_| stands));
                answer.chart = Some(chart);
            }
            DrawerView::Anatomy if stands => answer.anatomy = anatomy::anatomy(run),
            _ => {}
        }
        answer
    }
}

/// Lifelines show ten seconds, or less while less was played.
fn span_of(run: &Run, tick: u64, columns: usize) -> u64 {
    let ticks = (run.program().rate * 10.0) as u64;
    tick.saturating_sub(ticks.max(columns as u64))
}
