//! What happened to a run over time, as marks on a plot: expectations that broke, edits.

use tickpond_lab::{Run, Timeline};

use crate::drawing::{Drawing, Step};
use crate::pens::FAINT;
use crate::plot::{HEIGHT, Plot, TOP};
use crate::wanted::Wanted;

/// What broke.
const BROKEN: &str = "#982c00";

/// The ticks of what happened, in the ticks that are wanted.
pub(crate) struct Happened {
    /// The first failing ticks of expectations.
    broken: Vec<u64>,
    /// The first ticks of what edits changed.
    edits: Vec<u64>,
}

/// What happened to a run in the ticks that are wanted.
pub(crate) fn happened(run: &Run, wanted: &Wanted<'_>) -> Happened {
    let ticks = wanted.ticks(run.record());
    let inside = |tick: &u64| ticks.contains(&(*tick as usize));
    let mut broken: Vec<u64> =
        run.verdicts().iter().filter_map(|verdict| verdict.failed).filter(inside).collect();
    broken.sort_unstable();
    broken.dedup();
    Happened { broken, edits: Timeline::edits(run).into_iter().filter(inside).collect() }
}

impl Happened {
    /// What the marks stand for; nothing if there are none.
    pub fn told(&self) -> Vec<String> {
        let told = |ticks: &[u64], mark: &str, one: &str, more: &str| match ticks.len() {
            0 => None,
            1 => Some(format!("{mark}: {one}")),
            count => Some(format!("{mark}s: {count} {more}")),
        };
        let broken = told(&self.broken, "triangle", "an expectation broke", "expectations broke");
        let edits = told(&self.edits, "diamond", "an edit", "edits");
        broken.into_iter().chain(edits).collect()
    }

    /// Draws them: a line over the plot, and its mark on the upper side.
    pub fn draw(&self, page: &mut Drawing, plot: &Plot) {
        let marks =
            |ticks: &[u64]| ticks.iter().map(|tick| plot.x(*tick as f64)).collect::<Vec<f64>>();
        for x in marks(&self.edits) {
            let steps = vec![Step::Move(x, TOP), Step::Along(TOP + HEIGHT)];
            page.path(steps, FAINT, 0.8, &[2.0, 3.0]);
            page.shape(
                vec![
                    Step::Move(x, TOP - 4.5),
                    Step::Line(x + 4.5, TOP),
                    Step::Line(x, TOP + 4.5),
                    Step::Line(x - 4.5, TOP),
                    Step::Close,
                ],
                FAINT,
            );
        }
        for x in marks(&self.broken) {
            let steps = vec![Step::Move(x, TOP), Step::Along(TOP + HEIGHT)];
            page.path(steps, BROKEN, 0.8, &[4.0, 3.0]);
            page.shape(
                vec![
                    Step::Move(x - 5.0, TOP - 4.0),
                    Step::Line(x + 5.0, TOP - 4.0),
                    Step::Line(x, TOP + 5.0),
                    Step::Close,
                ],
                BROKEN,
            );
        }
    }
}
