//! What ended the entities of each kind, by which age: a panel for each, its causes stacked.

use tickpond_lab::incidence::{Incidence, incidence};
use tickpond_lang::program::Cause;

use crate::axis::{plain, round_between};
use crate::drawing::{Anchor, Drawing, Step, Type};
use crate::pens::{GRID, INK, pen};
use crate::plot::{LABEL, LEFT, NOTE, STRONG, fitted};

/// How high a panel is, and one with the white beneath it.
const HIGH: f64 = 58.0;
const PANEL: f64 = 100.0;
/// White behind the last age.
const BEHIND: f64 = 6.0;
/// Room for the head.
const HEAD: f64 = 40.0;
/// Most kinds that have a panel.
const MOST: usize = 6;
/// Most causes that are named beside a panel.
const NAMED: usize = 4;
const WHITE: &str = "#ffffff";
const SMALL: Type<'_> = Type { size: 10.0, ..NOTE };

/// The causes of a kind.
pub(crate) struct Competing {
    name: String,
    ends: usize,
    /// The highest age in ticks that anybody is known to have reached.
    until: u64,
    found: Incidence,
}

impl Competing {
    /// The causes of a kind from its lives, with what ended them, and the ages of those alive, in ticks; none if nobody has
    /// ended.
    pub fn of(name: &str, ended: &[(u64, Cause)], alive: &[u64]) -> Option<Competing> {
        let until = ended.iter().map(|life| life.0).chain(alive.iter().copied()).max()?;
        let (name, ends) = (name.to_string(), ended.len());
        (ends > 0).then(|| Competing { name, ends, until, found: incidence(ended, alive) })
    }
}

/// Those that have a panel: the kinds of which most ended.
pub(crate) fn chosen(mut all: Vec<Competing>) -> (Vec<Competing>, usize) {
    all.sort_by_key(|kind| std::cmp::Reverse(kind.ends));
    let more = all.len().saturating_sub(MOST);
    all.truncate(MOST);
    (all, more)
}

/// How much room so many panels take.
pub(crate) fn room(panels: usize) -> f64 {
    if panels == 0 { 0.0 } else { HEAD + PANEL * panels as f64 + 8.0 }
}

/// Draws the panels from a height on, each over ages of its own.
pub(crate) fn draw(
    page: &mut Drawing,
    right: f64,
    (panels, more): &(Vec<Competing>, usize),
    (top, rate): (f64, f64),
) {
    if panels.is_empty() {
        return;
    }
    page.text((LEFT, top + 12.0), Anchor::Start, STRONG, "Ended by, up to an age");
    let more = match more {
        0 => String::new(),
        more => format!("; {more} more kinds are not drawn"),
    };
    let words = format!("shares of the kind, stacked; white is who is still alive; age in s{more}");
    page.text((LEFT + 148.0, top + 12.0), Anchor::Start, NOTE, &words);
    for (row, kind) in panels.iter().enumerate() {
        let ages = round_between(0.0, kind.until.max(1) as f64 / rate, 8, false);
        let panel = Panel {
            top: top + HEAD + row as f64 * PANEL,
            right,
            most: ages.last().copied().unwrap_or(1.0) * rate,
        };
        panel.draw(page, kind);
        for age in ages {
            let x = panel.x(age * rate);
            page.line((x, panel.base()), (x, panel.base() + 4.0), INK, 1.0);
            page.text((x, panel.base() + 15.0), Anchor::Middle, SMALL, &plain(age));
        }
    }
}

/// Where a kind's shares are drawn.
struct Panel {
    top: f64,
    right: f64,
    /// The age in ticks at the right end.
    most: f64,
}

impl Panel {
    fn base(&self) -> f64 {
        self.top + HIGH
    }

    /// The place of an age. A little is left behind the last one, so that what ends then is seen.
    fn x(&self, age: f64) -> f64 {
        LEFT + age / self.most * (self.right - LEFT - BEHIND)
    }

    fn y(&self, share: f64) -> f64 {
        self.base() - share.clamp(0.0, 1.0) * HIGH
    }

    fn draw(&self, page: &mut Drawing, kind: &Competing) {
        let name = fitted(&kind.name, 300.0, LABEL);
        page.text((LEFT, self.top - 5.0), Anchor::Start, LABEL, &name);
        let causes = &kind.found.causes;
        let of_all = |at: usize| causes.iter().map(|(_, shares)| shares[at]).sum::<f64>();
        // Where all have ended it stays so; else nothing is known of who would be older.
        let last = kind.found.ages.len() - 1;
        let end = if of_all(last) > 1.0 - 1e-9 { self.right } else { self.x(kind.until as f64) };
        let mut below = vec![0.0; last + 1];
        for (at, (cause, shares)) in causes.iter().enumerate() {
            let upto: Vec<f64> = below.iter().zip(shares).map(|(a, b)| a + b).collect();
            let colour = pen(*cause as usize).colour;
            let band = self.band(&kind.found.ages, (&below, &upto), end);
            // In grey a hair of white parts it from its neighbours.
            page.shape(band.clone(), colour);
            page.path(band, WHITE, 0.6, &[]);
            below = upto;
            // As they are stacked, from below.
            let (x, y) = (self.right + 16.0, self.base() - at as f64 * 14.0);
            let rest = causes.len() - at;
            if at + 1 == NAMED && rest > 1 {
                let words = format!("{rest} more causes");
                page.text((x + 14.0, y), Anchor::Start, SMALL, &words);
            } else if at < NAMED {
                page.rect(x, y - 7.0, 9.0, 7.0, colour);
                let share = (shares[last] * 1000.0).round() / 10.0;
                let words = format!("{} {} %", cause.name(), plain(share));
                page.text((x + 14.0, y), Anchor::Start, SMALL, &words);
            }
        }
        page.line((LEFT, self.base()), (self.right, self.base()), INK, 1.0);
        page.line((LEFT, self.top), (self.right, self.top), GRID, 1.0);
        for (share, y) in [("100 %", self.top), ("0 %", self.base())] {
            page.text((LEFT - 8.0, y + 4.0), Anchor::End, SMALL, share);
        }
    }

    /// The band between two stacked shares, in steps, up to an end.
    fn band(&self, ages: &[u64], (below, upto): (&[f64], &[f64]), end: f64) -> Vec<Step> {
        // Of the steps in half a point of the page's width the last.
        let mut seen: Vec<(f64, f64, f64)> = Vec::new();
        for ((age, below), upto) in ages.iter().zip(below).zip(upto) {
            let x = self.x(*age as f64);
            match seen.last_mut().filter(|last| x - last.0 < 0.5) {
                Some(last) => (last.1, last.2) = (*below, *upto),
                None => seen.push((x, *below, *upto)),
            }
        }
        let mut steps = vec![Step::Move(LEFT, self.base())];
        for (x, _, upto) in &seen {
            steps.extend([Step::Across(*x), Step::Along(self.y(*upto))]);
        }
        steps.push(Step::Across(end));
        for (x, below, _) in seen.iter().rev() {
            steps.extend([Step::Along(self.y(*below)), Step::Across(*x)]);
        }
        steps.extend([Step::Along(self.base()), Step::Close]);
        steps
    }
}
