//! What lies between two moments of a run: births, ends, and how every count differs.

use crate::record::{Record, Series};

/// What lies between two moments.
#[derive(Clone, Debug, PartialEq)]
pub struct Between {
    /// The earlier tick.
    pub from: u64,
    /// The later one.
    pub to: u64,
    /// Births after the earlier tick, up to and with the later one.
    pub born: u64,
    /// Ends in the same ticks.
    pub ended: u64,
    /// Kinds that lived at either moment or were born in between, in the order of the text.
    pub kinds: Vec<Difference>,
}

/// How a kind differs between two moments.
#[derive(Clone, Debug, PartialEq)]
pub struct Difference {
    /// The kind's name.
    pub name: String,
    /// How many lived at the end of the earlier tick.
    pub before: u32,
    /// How many lived at the end of the later one.
    pub after: u32,
    /// How many were born in between.
    pub born: u64,
    /// How many ended in between.
    pub ended: u64,
}

impl Between {
    /// What lies between two ticks of a record, in either order. Ticks beyond its end are its last.
    pub fn of(record: &Record, one: u64, other: u64) -> Between {
        let last = (record.len as u64).saturating_sub(1);
        let (from, to) = (one.min(other).min(last), one.max(other).min(last));
        let kinds = record.kinds.iter().map(|series| difference(series, from, to));
        let kinds: Vec<Difference> =
            kinds.filter(|d| d.before + d.after > 0 || d.born + d.ended > 0).collect();
        Between {
            from,
            to,
            born: kinds.iter().map(|kind| kind.born).sum(),
            ended: kinds.iter().map(|kind| kind.ended).sum(),
            kinds,
        }
    }
}

fn difference(series: &Series, from: u64, to: u64) -> Difference {
    let at = |tick: u64| series.live.peak(tick as usize..tick as usize + 1);
    let between = from as usize + 1..to as usize + 1;
    Difference {
        name: series.name.clone(),
        before: at(from),
        after: at(to),
        born: series.born.sum(between.clone()),
        ended: series.ended.sum(between),
    }
}
