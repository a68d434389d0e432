//! The run before an edit or a restart, and what has changed since, in words.

use std::sync::Arc;

use tickpond_lang::program::Cause;

use crate::branch::Recipe;
use crate::record::{Record, Series};

/// What is kept of a run that another has taken the place of: counts, no events.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Past {
    /// Which it is, counted from 1 in the order they were played.
    pub number: u64,
    /// The last tick it has in common with the run that took its place.
    pub parted: u64,
    /// Counts and watches; none if it has been taken up from an earlier session.
    pub record: Record,
    /// What it takes to play it again.
    pub recipe: Arc<Recipe>,
}

impl Past {
    /// What is worth keeping of a record, up to which both are one.
    pub fn of(number: u64, parted: u64, record: &Record, recipe: Recipe) -> Past {
        Past { number, parted, record: record.without_events(), recipe: Arc::new(recipe) }
    }

    /// What it is called: by what took its place.
    pub fn words(&self) -> String {
        format!("{}, before {}", self.number, self.recipe.before)
    }

    /// About how many bytes it takes.
    pub fn bytes(&self) -> usize {
        self.record.bytes() + self.recipe.bytes()
    }
}

/// What differs in one kind.
#[derive(Clone, Debug, PartialEq)]
pub struct Change {
    /// The kind's name.
    pub kind: String,
    /// How much differs, as a share of what there was: the largest of its numbers.
    pub weight: f64,
    /// The numbers that differ: what, before, now.
    pub numbers: Vec<(String, u64, u64)>,
}

impl Change {
    /// As a line: `drop: peak 41 -> 18, ended by edge 120 -> 0`.
    pub fn words(&self) -> String {
        let numbers: Vec<String> =
            self.numbers.iter().map(|(what, old, new)| format!("{what} {old} -> {new}")).collect();
        format!("{}: {}", self.kind, numbers.join(", "))
    }
}

/// What differs between two runs over the ticks both have played, the largest difference first. Costs
/// the kinds, and hardly more for more ticks.
pub fn changes(before: &Record, now: &Record) -> Vec<Change> {
    let len = before.len.min(now.len);
    let none = Series::default();
    let find = |record: &'_ Record, name: &str| record.kinds.iter().position(|s| s.name == name);
    let mut names: Vec<&str> = now.kinds.iter().map(|s| s.name.as_str()).collect();
    names.extend(before.kinds.iter().map(|s| s.name.as_str()).filter(|n| find(now, n).is_none()));
    let mut changes: Vec<Change> = names
        .into_iter()
        .filter_map(|name| {
            let of = |record: &Record| {
                let series = find(record, name).map_or(&none, |at| &record.kinds[at]);
                numbers(series, len)
            };
            let pairs = of(before).into_iter().zip(of(now));
            let differ = pairs.filter(|((_, old), (_, new))| old != new);
            let numbers: Vec<(String, u64, u64)> =
                differ.map(|((what, old), (_, new))| (what, old, new)).collect();
            let share = |(_, old, new): &(String, u64, u64)| {
                old.abs_diff(*new) as f64 / (*old.max(new)).max(1) as f64
            };
            let weight = numbers.iter().map(share).fold(0.0, f64::max);
            (!numbers.is_empty()).then(|| Change { kind: name.to_string(), weight, numbers })
        })
        .collect();
    changes.sort_by(|a, b| b.weight.total_cmp(&a.weight));
    changes
}

/// Peak, births, and ends by each cause, in the first ticks.
fn numbers(series: &Series, len: usize) -> Vec<(String, u64)> {
    let peak = u64::from(series.live.peak(0..len));
    let mut numbers =
        vec![("peak".to_string(), peak), ("born".to_string(), series.born.sum(0..len))];
    numbers.extend(
        Cause::ALL.into_iter().map(|c| (format!("ended by {}", c.name()), series.ended_by(c, len))),
    );
    numbers
}
