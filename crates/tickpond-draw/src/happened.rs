//! What happened to a run over time, as marks on a plot: expectations that broke, edits, waves.

use tickpond_lab::{Run, Timeline};

use crate::drawing::{Drawing, Step};
use crate::pens::{FAINT, INK};
use crate::plot::{HEIGHT, Plot, TOP};
use crate::wanted::Wanted;

/// What broke.
const BROKEN: &str = "#982c00";

/// Marks of one sort nearer to each other than this are drawn as one, in points.
const APART: f64 = 2.0;

/// The ticks of what happened, in the ticks that are wanted.
pub(crate) struct Happened {
    /// The first failing ticks of expectations.
    broken: Vec<u64>,
    /// The first ticks of what edits changed.
    edits: Vec<u64>,
    /// The ticks in which waves began.
    waves: Vec<u64>,
    /// How many began in them.
    begun: u64,
}

/// What happened to a run in the ticks that are wanted.
pub(crate) fn happened(run: &Run, wanted: &Wanted<'_>) -> Happened {
    let ticks = wanted.ticks(run.record());
    let inside = |tick: &u64| ticks.contains(&(*tick as usize));
    let mut broken: Vec<u64> =
        run.verdicts().iter().filter_map(|verdict| verdict.failed).filter(inside).collect();
    broken.sort_unstable();
    broken.dedup();
    let begun = &run.record().waves;
    Happened {
        broken,
        edits: Timeline::edits(run).into_iter().filter(inside).collect(),
        waves: ticks.clone().filter(|at| begun.sum(*at..at + 1) > 0).map(|at| at as u64).collect(),
        begun: begun.sum(ticks),
    }
}

impl Happened {
    /// What the marks stand for; nothing if there are none.
    pub fn told(&self) -> Vec<String> {
        let told = |count: u64, mark: &str, one: &str, more: &str| match count {
            0 => None,
            1 => Some(format!("{mark}: {one}")),
            count => Some(format!("{mark}s: {count} {more}")),
        };
        let [broken, edits] = [self.broken.len() as u64, self.edits.len() as u64];
        let broken = told(broken, "triangle", "an expectation broke", "expectations broke");
        let edits = told(edits, "diamond", "an edit", "edits");
        let waves = match self.waves.len() as u64 {
            // Some begin together.
            ticks if ticks < self.begun => {
                Some(format!("flags: {} waves begin, in {ticks} ticks", self.begun))
            }
            _ => told(self.begun, "flag", "a wave begins", "waves begin"),
        };
        broken.into_iter().chain(edits).chain(waves).collect()
    }

    /// Draws them: a line over the plot, and its mark on the upper side.
    pub fn draw(&self, page: &mut Drawing, plot: &Plot) {
        let marks = |ticks: &[u64]| {
            let mut xs: Vec<f64> = ticks.iter().map(|tick| plot.x(*tick as f64)).collect();
            xs.dedup_by(|next, kept| *next - *kept < APART);
            xs
        };
        // A line, and the shape on it: by its corners, from where the line begins.
        let mut mark = |x: f64, corners: &[(f64, f64)], (line, shape): (&str, &str), dashes| {
            page.path(vec![Step::Move(x, TOP), Step::Along(TOP + HEIGHT)], line, 0.8, dashes);
            let steps = corners.iter().enumerate().map(|(at, (right, down))| match at {
                0 => Step::Move(x + right, TOP + down),
                _ => Step::Line(x + right, TOP + down),
            });
            page.shape(steps.chain([Step::Close]).collect(), shape);
        };
        for x in marks(&self.waves) {
            // A flag within the plot: above it are words.
            mark(x, &[(0.0, 0.0), (8.0, 4.0), (0.0, 8.0)], (FAINT, INK), &[1.0, 3.0]);
        }
        for x in marks(&self.edits) {
            let diamond = [(0.0, -4.5), (4.5, 0.0), (0.0, 4.5), (-4.5, 0.0)];
            mark(x, &diamond, (FAINT, FAINT), &[2.0, 3.0]);
        }
        for x in marks(&self.broken) {
            mark(x, &[(-5.0, -4.0), (5.0, -4.0), (0.0, 5.0)], (BROKEN, BROKEN), &[4.0, 3.0]);
        }
    }
}
