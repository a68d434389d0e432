//! One tick taken apart, as lines.

use tickpond_lab::Run;
use tickpond_lab::naming::name_of;
use tickpond_sim::{Phase, What};

use crate::workbench::answer::Answer;
use crate::workbench::snapshot::{FeedLine, feed_line};
use crate::workbench::views::Asking;

/// A line of the anatomy.
#[derive(Clone, Debug, PartialEq)]
pub enum AnatomyLine {
    /// A phase, and how much happened in it.
    Phase(Phase, String),
    /// A handler that ran.
    Handler {
        /// Its kind and its head.
        head: String,
        /// For whom.
        who: String,
        reads: String,
        asks: String,
        line: Option<u32>,
    },
    /// What came of it.
    Outcome(FeedLine),
    /// So many more like it.
    More(usize),
}

impl AnatomyLine {
    /// The line of the script it is about.
    pub fn line(&self) -> Option<u32> {
        match self {
            AnatomyLine::Handler { line, .. } => *line,
            AnatomyLine::Outcome(event) => event.line,
            _ => None,
        }
    }
}

/// Most outcomes of one sort in one phase that are listed.
const MOST_ALIKE: usize = 6;

const PHASES: [Phase; 10] = [
    Phase::Input,
    Phase::Clocks,
    Phase::Births,
    Phase::Think,
    Phase::Move,
    Phase::Contact,
    Phase::Mail,
    Phase::Settle,
    Phase::Ends,
    Phase::Record,
];

/// The present tick: its phases in their order, under each the handlers in the order of the roll with
/// what they read and asked for, then what was settled.
fn anatomy(run: &mut Run) -> Vec<AnatomyLine> {
    let tick = run.tick();
    let firings = run.anatomy();
    let run = &*run;
    let program = run.program();
    let compiled = run.compiled();
    let events = run.events();
    let events = &events[events.partition_point(|e| e.tick < tick)..];
    let mut lines = Vec::new();
    for phase in PHASES {
        let ran: Vec<_> = firings.iter().filter(|f| f.phase == phase).collect();
        let came: Vec<_> = events.iter().filter(|e| e.phase == phase).collect();
        if ran.is_empty() && came.is_empty() {
            continue;
        }
        let count = |n: usize, one: &str| format!("{n} {one}{}", if n == 1 { "" } else { "s" });
        let words = [count(ran.len(), "handler"), count(came.len(), "event")].join(", ");
        lines.push(AnatomyLine::Phase(phase, words));
        for firing in ran {
            let kind = &program.kinds[firing.kind.index()];
            let code = &compiled.kinds[firing.kind.index()].handlers[firing.handler];
            let head = kind.handlers.iter().find(|h| h.site == firing.site);
            let head = head.map_or("", |h| h.head.as_str());
            let names: Vec<String> = firing.who.iter().map(|w| name_of(program, *w)).collect();
            let more = firing.count - names.len();
            let more = if more > 0 { format!(" and {more} more") } else { String::new() };
            let asks: Vec<String> = firing
                .asked
                .all()
                .into_iter()
                .filter(|(_, n)| *n > 0)
                .map(|(what, n)| count(n, what))
                .collect();
            lines.push(AnatomyLine::Handler {
                head: format!("{} {head}", kind.name),
                who: format!("{}{more}", names.join(", ")),
                reads: code.reads(compiled).join(", "),
                asks: asks.join(", "),
                line: run.line_of(run.tick(), firing.site),
            });
        }
        outcomes(run, &came, &mut lines);
    }
    lines
}

fn outcomes(run: &Run, came: &[&tickpond_sim::Event], lines: &mut Vec<AnatomyLine>) {
    let mut sorts: Vec<What> = Vec::new();
    for event in came {
        if !sorts.contains(&event.what) {
            sorts.push(event.what);
        }
    }
    for what in sorts {
        let alike: Vec<_> = came.iter().filter(|e| e.what == what).collect();
        let shown = alike.iter().take(MOST_ALIKE).map(|e| feed_line(run, e));
        lines.extend(shown.map(AnatomyLine::Outcome));
        if alike.len() > MOST_ALIKE {
            lines.push(AnatomyLine::More(alike.len() - MOST_ALIKE));
        }
    }
}

/// The lines of a tick taken apart.
pub struct Apart(pub Vec<AnatomyLine>);

/// Answers for the anatomy: only while the run stands still, since it plays a tick again.
pub fn answer(asking: &mut Asking<'_>, answer: &mut Answer) {
    if asking.stands {
        let lines = asking.run.as_run().map_or_else(Vec::new, anatomy);
        answer.give(Apart(lines));
    }
}

/// The lines, if there are some.
pub fn lines(answer: &Answer) -> &[AnatomyLine] {
    answer.own::<Apart>().map_or(&[], |apart| &apart.0)
}
