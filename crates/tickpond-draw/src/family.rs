//! Who makes which kinds, and who ends which, with how many and by what.

use std::collections::BTreeMap;

use tickpond_lab::{Cast, Run, Timeline};
use tickpond_lang::program::Cause;
use tickpond_sim::{Event, What, Who};

use crate::drawing::{Anchor, Drawing, Type};
use crate::pens::{FAINT, GRID, INK, pen_of};
use crate::plot::{LABEL, LEFT, NOTE, STRONG, TOP, WIDTH, fitted};
use crate::wanted::{Wanted, page};

const ROW: f64 = 22.0;
/// Room for names at the left.
const NAMES: f64 = 90.0;
/// Most rows and columns of a table; what goes beyond is summed.
const MOST: usize = 12;

/// How many of each kind which kind did it to.
#[derive(Default)]
struct Deeds {
    /// By who did it and whom it was done to; nobody for what only the pond's own rules did.
    counts: BTreeMap<(String, String), BTreeMap<&'static str, usize>>,
}

/// Two tables: which kind or spawner makes which, with how many; which ends which, with how many and by which cause.
/// A row is who did it, a column whom it was done to; the darker a cell, the more. An entity that ended itself stands in the row of
/// its own kind.
pub fn family(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let ticks = wanted.ticks(run.record());
    let (mut made, mut ended) = (Deeds::default(), Deeds::default());
    let events = run.record().events().iter();
    for event in events.filter(|event| ticks.contains(&(event.tick as usize))) {
        let cast = run.cast_at(event.tick);
        let whom = name(cast, event.who);
        if !wanted.has(&whom) {
            continue;
        }
        match event.what {
            What::Born => made.add(by(cast, event), whom, ""),
            What::Ended => ended.add(by(cast, event), whom, event.cause.map_or("", Cause::name)),
            _ => {}
        }
    }
    let heights = [made.height(), ended.height()];
    let height = TOP + heights[0] + 30.0 + heights[1] + 24.0;
    let kept = run.record().kept_from();
    let more = (kept > ticks.start as u64)
        .then(|| format!("events before tick {kept} are not kept: they are not counted"));
    let more: Vec<String> = more.into_iter().collect();
    let mut page = page(run, wanted, "who makes and who ends whom", height, &more);
    let none = wanted.why_empty("nobody was born in this time");
    made.draw(&mut page, run, (TOP, "Makes", "who is born, by who made it"), none);
    let none = wanted.why_empty("nobody has ended in this time");
    let head = (TOP + heights[0] + 30.0, "Ends", "who has ended, by who did it and by what");
    ended.draw(&mut page, run, head, none);
    page
}

fn name(cast: &Cast, who: Who) -> String {
    match who.kind.index() {
        0 => "pond".into(),
        at => cast.kinds.get(at).map_or(String::new(), |kind| kind.name.clone()),
    }
}

/// Who did it: the other party; without one it was the pond.
fn by(cast: &Cast, event: &Event) -> String {
    event.other.map_or("pond".into(), |who| name(cast, who))
}

impl Deeds {
    fn add(&mut self, by: String, whom: String, cause: &'static str) {
        *self.counts.entry((by, whom)).or_default().entry(cause).or_default() += 1;
    }

    /// Those who did something, or whom something was done to, those with the most first; and those beyond [`MOST`]
    /// together.
    fn names(&self, of: impl Fn(&(String, String)) -> &String) -> (Vec<String>, usize) {
        let mut sums: BTreeMap<&String, usize> = BTreeMap::new();
        for (pair, causes) in &self.counts {
            *sums.entry(of(pair)).or_default() += causes.values().sum::<usize>();
        }
        let mut sums: Vec<(&String, usize)> = sums.into_iter().collect();
        sums.sort_by_key(|(name, sum)| (std::cmp::Reverse(*sum), *name));
        let rest = sums.len().saturating_sub(MOST);
        (sums.into_iter().take(MOST).map(|(name, _)| name.clone()).collect(), rest)
    }

    fn height(&self) -> f64 {
        let (rows, rest) = self.names(|(by, _)| by);
        62.0 + rows.len().max(1) as f64 * ROW * 1.5 + if rest > 0 { ROW } else { 0.0 }
    }

    fn draw(
        &self,
        page: &mut Drawing,
        run: &Run,
        (top, head, words): (f64, &str, &str),
        none: &str,
    ) {
        const SMALL: Type<'_> = Type { size: 9.5, bold: false, colour: INK };
        page.text((LEFT, top), Anchor::Start, STRONG, head);
        page.text((LEFT + 48.0, top), Anchor::Start, NOTE, words);
        let (rows, more_rows) = self.names(|(by, _)| by);
        let (columns, more_columns) = self.names(|(_, whom)| whom);
        if rows.is_empty() {
            page.text((LEFT, top + 44.0), Anchor::Start, LABEL, none);
            return;
        }
        let left = LEFT + NAMES;
        let width = ((WIDTH - 16.0 - left) / columns.len() as f64).min(130.0);
        let high = ROW * 1.5;
        let most = self.counts.values().map(|causes| causes.values().sum::<usize>()).max();
        let most = most.unwrap_or(1).max(1) as f64;
        for (at, whom) in columns.iter().enumerate() {
            let x = left + at as f64 * width;
            let label = fitted(whom, width - 8.0, LABEL);
            let colour = pen_of(run.cast(), whom).colour;
            page.rect(x + 4.0, top + 36.0, (width - 8.0).max(1.0), 2.0, colour);
            page.text((x + width / 2.0, top + 30.0), Anchor::Middle, LABEL, &label);
        }
        for (row, by) in rows.iter().enumerate() {
            let y = top + 44.0 + row as f64 * high;
            let label = fitted(by, NAMES - 12.0, LABEL);
            page.text((left - 8.0, y + high / 2.0 + 4.0), Anchor::End, LABEL, &label);
            page.line((left, y), (left + columns.len() as f64 * width, y), GRID, 1.0);
            for (column, whom) in columns.iter().enumerate() {
                let Some(causes) = self.counts.get(&(by.clone(), whom.clone())) else { continue };
                let sum: usize = causes.values().sum();
                let x = left + column as f64 * width;
                let share = 0.10 + 0.5 * (sum as f64).ln_1p() / most.ln_1p();
                let at = (x + 1.0, y + 1.0);
                page.shade(at, (width - 2.0, high - 2.0), pen_of(run.cast(), whom).colour, share);
                let middle = x + width / 2.0;
                let mut causes: Vec<(&str, usize)> = causes
                    .iter()
                    .filter(|(name, _)| !name.is_empty())
                    .map(|(n, c)| (*n, *c))
                    .collect();
                causes.sort_by_key(|(name, count)| (std::cmp::Reverse(*count), *name));
                let causes: Vec<String> = match &causes[..] {
                    // One cause needs no number of its own.
                    [(name, _)] => vec![name.to_string()],
                    several => {
                        several.iter().map(|(name, count)| format!("{count} {name}")).collect()
                    }
                };
                let down = if causes.is_empty() { high / 2.0 + 4.0 } else { high / 2.0 - 2.0 };
                page.text((middle, y + down), Anchor::Middle, LABEL, &sum.to_string());
                if !causes.is_empty() {
                    let words = fitted(&causes.join(", "), width - 8.0, SMALL);
                    page.text((middle, y + high - 5.0), Anchor::Middle, SMALL, &words);
                }
            }
        }
        let left_out = [(more_rows, "who did it"), (more_columns, "whom it was done to")];
        let left_out = left_out.iter().filter(|(count, _)| *count > 0);
        let left_out: Vec<String> =
            left_out.map(|(count, what)| format!("{count} more kinds of {what}")).collect();
        if !left_out.is_empty() {
            let y = top + 44.0 + rows.len() as f64 * high + 14.0;
            let words = format!("not shown: {}", left_out.join(", "));
            page.text((left, y), Anchor::Start, Type { colour: FAINT, ..NOTE }, &words);
        }
    }
}
