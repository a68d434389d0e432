//! One tick taken apart, as lines.

use tickpond_lab::Run;
use tickpond_lab::apart::apart;
use tickpond_sim::Phase;

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

/// The present tick, line by line.
fn anatomy(run: &mut Run) -> Vec<AnatomyLine> {
    let phases = apart(run);
    let mut lines = Vec::new();
    for phase in phases {
        lines.push(AnatomyLine::Phase(phase.phase, phase.words()));
        lines.extend(phase.ran.into_iter().map(|ran| AnatomyLine::Handler {
            head: ran.head,
            who: ran.who,
            reads: ran.reads,
            asks: ran.asks,
            line: ran.line,
        }));
        for came in phase.came {
            lines.push(AnatomyLine::Outcome(feed_line(run, &came.event)));
            if came.more > 0 {
                lines.push(AnatomyLine::More(came.more));
            }
        }
    }
    lines
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
