//! A plot over time: axes, curves, a legend.

use std::ops::Range;

use crate::axis::{plain, round_between};
use crate::drawing::{Anchor, Drawing, Step, Type};
use crate::fonts::FONTS;
use crate::pens::{FAINT, GRID, INK, Pen};

pub(crate) const TITLE: Type<'_> = Type { size: 18.0, bold: true, colour: INK };
pub(crate) const NOTE: Type<'_> = Type { size: 11.0, bold: false, colour: FAINT };
pub(crate) const LABEL: Type<'_> = Type { size: 12.0, bold: false, colour: INK };
pub(crate) const STRONG: Type<'_> = Type { size: 12.0, bold: true, colour: INK };

/// Width of a page.
pub(crate) const WIDTH: f64 = 900.0;
/// White to the left of a plot.
pub(crate) const LEFT: f64 = 64.0;
/// Room to the right of a plot, for its legend.
const RIGHT: f64 = 170.0;
/// Where plots begin.
pub(crate) const TOP: f64 = 86.0;
/// How high a plot is.
pub(crate) const HEIGHT: f64 = 300.0;

/// Where curves are drawn, and what its sides stand for.
pub(crate) struct Plot {
    /// The first tick, and the one at the right edge.
    pub ticks: (f64, f64),
    /// The values at the lower and the upper edge.
    pub values: (f64, f64),
}

impl Plot {
    pub fn width(&self) -> f64 {
        WIDTH - LEFT - RIGHT
    }

    pub fn right(&self) -> f64 {
        LEFT + self.width()
    }

    pub fn x(&self, tick: f64) -> f64 {
        let (first, last) = self.ticks;
        LEFT + (tick - first) / (last - first).max(1e-9) * self.width()
    }

    pub fn y(&self, value: f64) -> f64 {
        let (low, high) = self.values;
        TOP + HEIGHT * (1.0 - (value - low) / (high - low))
    }

    /// Lines to read values by, and what is drawn upwards.
    pub fn value_axis(&self, page: &mut Drawing, marks: &[f64], upright: &str) {
        for mark in marks {
            let y = self.y(*mark);
            page.line((LEFT, y), (self.right(), y), GRID, 1.0);
            page.text((LEFT - 8.0, y + 4.0), Anchor::End, LABEL, &plain(*mark));
        }
        page.text((LEFT, TOP - 8.0), Anchor::Start, NOTE, upright);
    }

    /// Seconds along the lower edge, and what is drawn to the right.
    pub fn time_axis(&self, page: &mut Drawing, rate: f64, across: &str) {
        let base = TOP + HEIGHT;
        page.line((LEFT, base), (self.right(), base), INK, 1.2);
        let (first, last) = self.ticks;
        for mark in round_between(first / rate, last / rate, 8, false) {
            let x = self.x(mark * rate);
            if x < LEFT - 0.5 || x > self.right() + 0.5 {
                continue;
            }
            page.line((x, base), (x, base + 5.0), INK, 1.2);
            page.text((x, base + 19.0), Anchor::Middle, LABEL, &plain(mark));
        }
        let middle = LEFT + self.width() / 2.0;
        page.text((middle, base + 38.0), Anchor::Middle, NOTE, across);
    }

    /// Steps of the curve, at most two for each point of the page's width: its lowest and highest value there. `span`
    /// gives both for a range of ticks, or none where nothing is known: there the curve has a gap.
    pub fn curve(
        &self,
        page: &mut Drawing,
        ticks: Range<usize>,
        pen: &Pen,
        span: &dyn Fn(Range<usize>) -> Option<(f64, f64)>,
    ) {
        let per_column = ticks.len().div_ceil(self.width() as usize).max(1);
        let mut steps = Vec::new();
        let mut last: Option<f64> = None;
        for start in ticks.clone().step_by(per_column) {
            let Some((low, high)) = span(start..(start + per_column).min(ticks.end)) else {
                if last.take().is_some() {
                    steps.push(Step::Across(self.x(start as f64)));
                }
                continue;
            };
            let first_low = last.is_none_or(|last| last <= low);
            let pair = if first_low { [low, high] } else { [high, low] };
            for value in pair {
                if last == Some(value) {
                    continue;
                }
                let (x, y) = (self.x(start as f64), self.y(value));
                // A value changes at once: sideways first, then up or down.
                match last {
                    None => steps.push(Step::Move(x, y)),
                    Some(_) => steps.extend([Step::Across(x), Step::Along(y)]),
                }
                last = Some(value);
            }
        }
        // A line ends where its run does.
        if last.is_some() {
            steps.push(Step::Across(self.x(ticks.end.max(1) as f64 - 1.0)));
        }
        page.path(steps, pen.colour, 1.8, pen.dashes);
        for share in [0.12, 0.37, 0.62, 0.87] {
            let (first, end) = self.ticks;
            let tick = (first + (end - first) * share) as usize;
            let here = ticks.contains(&tick).then(|| span(tick..tick + 1)).flatten();
            if let Some((_, value)) = here {
                pen.mark(page, (self.x(tick as f64), self.y(value)));
            }
        }
    }

    /// Names at the right, each beside a piece of its line. What finds no room is counted.
    pub fn legend(&self, page: &mut Drawing, head: &str, names: &[(String, Pen)]) {
        const ROW: f64 = 20.0;
        let x = self.right() + 16.0;
        page.text((x, TOP - 8.0), Anchor::Start, NOTE, head);
        let fits = (HEIGHT / ROW) as usize;
        let shown = if names.len() > fits { fits - 1 } else { names.len() };
        for (order, (name, pen)) in names.iter().take(shown).enumerate() {
            let y = TOP + 12.0 + order as f64 * ROW;
            page.path(
                vec![Step::Move(x, y - 4.0), Step::Across(x + 30.0)],
                pen.colour,
                1.8,
                pen.dashes,
            );
            pen.mark(page, (x + 15.0, y - 4.0));
            page.text(
                (x + 38.0, y),
                Anchor::Start,
                LABEL,
                &fitted(name, WIDTH - 8.0 - x - 38.0, LABEL),
            );
        }
        if shown < names.len() {
            let y = TOP + 12.0 + shown as f64 * ROW;
            let more = format!("+{} more", names.len() - shown);
            page.text((x + 38.0, y), Anchor::Start, NOTE, &more);
        }
    }

    /// What is said where nothing can be drawn.
    pub fn empty(&self, page: &mut Drawing, why: &str) {
        let middle = (LEFT + self.width() / 2.0, TOP + HEIGHT / 2.0);
        page.text(middle, Anchor::Middle, LABEL, why);
    }
}

/// How wide a text is, in points.
pub(crate) fn width_of(text: &str, ty: Type<'_>) -> f64 {
    FONTS.width(text, ty.bold) * ty.size
}

/// A text cut to a width in points, with a mark where it is cut.
pub(crate) fn fitted(text: &str, width: f64, ty: Type<'_>) -> String {
    if width_of(text, ty) <= width {
        return text.to_string();
    }
    let mut cut: String = text.to_string();
    while cut.pop().is_some() && width_of(&format!("{cut}…"), ty) > width {}
    format!("{cut}…")
}
