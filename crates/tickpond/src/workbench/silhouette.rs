//! The run along the time strip: what lived, was born and ended, and what the player did, by columns.

use std::collections::BTreeSet;

use tickpond_lab::counts::Counts;
use tickpond_lab::{Input, Timeline};

/// The run along the time strip, a column for each of its cells.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Strip {
    /// Ticks a column stands for.
    pub ticks_per_column: f64,
    /// Kind names with the most that lived at once, in the order they are stacked.
    pub kinds: Vec<(String, u32)>,
    /// By column, by kind: how many lived all through it, which is the least that did at once.
    pub live: Vec<Vec<u32>>,
    /// By column: the most that lived at once, of all kinds together.
    pub most: Vec<u32>,
    /// By column: how many were born.
    pub born: Vec<u32>,
    /// By column: how many ended.
    pub ended: Vec<u32>,
    /// By column: the most that lived at once in the run before.
    pub ghost: Vec<u32>,
    /// Most alive in a column, the ghost's among them.
    pub top: u32,
    /// The columns in which waves began.
    pub waves: Vec<u16>,
    /// Ticks at which edits were taken up.
    pub edits: Vec<u64>,
    /// By column: what the player did; empty if never anything. Those of a tape lie ahead, too.
    pub keys: Vec<Keys>,
}

/// What the player did in a column of the strip.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub enum Keys {
    #[default]
    None,
    /// A key was down.
    Held,
    /// A key went down, or something was put there by hand.
    Pressed,
}

/// The column a tick lies in where each stands for so many: column `c` begins with tick `c * per`, rounded down.
pub fn column_of(per: f64, tick: u64) -> usize {
    let at = (tick as f64 / per.max(1e-9)) as usize;
    let next_begins = ((at + 1) as f64 * per) as u64;
    if next_begins <= tick { at + 1 } else { at }
}

/// The run in so many columns. Costs the columns and the kinds, and hardly more for a longer run.
pub fn strip(run: &dyn Timeline, columns: usize) -> Strip {
    let record = run.record();
    let columns = columns.clamp(1, 400);
    // A short run does not stretch over the whole strip at once: it grows into it, and beside the
    // run before it has that one's scale.
    let past = run.past().map(|past| &past.record);
    let ghost_len = past.map_or(0, |past| past.len);
    let last_key = run.input().keys().next_back().map_or(0, |tick| *tick as usize + 1);
    let ticks = record.len.max(ghost_len).max(last_key).max(columns * 2);
    let per = ticks as f64 / columns as f64;
    let used = ((record.len as f64 / per).ceil() as usize).min(columns);
    // The ticks of a column: at least one.
    let ticks_of = |column: usize, len: usize| {
        let to = ((((column + 1) as f64 * per) as usize).max(1)).min(len);
        ((column as f64 * per) as usize).min(to.saturating_sub(1))..to
    };
    let shown: Vec<_> = record.kinds.iter().filter(|s| s.ever_lived()).collect();
    let sum = |values: &Counts, column: usize| -> u32 {
        values.sum(ticks_of(column, values.len())) as u32
    };
    let mut strip = Strip { ticks_per_column: per, ..Strip::default() };
    for series in &shown {
        strip.kinds.push((series.name.clone(), series.live.peak(0..record.len)));
    }
    for column in 0..used {
        let ticks = ticks_of(column, record.len);
        strip.live.push(shown.iter().map(|s| s.live.low(ticks.clone())).collect());
        strip.most.push(record.alive.peak(ticks));
        strip.born.push(shown.iter().map(|s| sum(&s.born, column)).sum());
        strip.ended.push(shown.iter().map(|s| sum(&s.ended, column)).sum());
    }
    if let Some(ghost) = past {
        let known = ((ghost.len as f64 / per).ceil() as usize).min(columns);
        strip.ghost =
            (0..known).map(|column| ghost.alive.peak(ticks_of(column, ghost.len))).collect();
    }
    strip.top = strip.most.iter().chain(&strip.ghost).copied().max().unwrap_or(0);
    strip.waves = (0..used)
        .filter(|column| record.waves.sum(ticks_of(*column, record.len)) > 0)
        .map(|column| column as u16)
        .collect();
    strip.edits = run.edits();
    strip.keys = keys(run, columns, per);
    strip
}

/// What the player did, by columns of so many ticks. Costs the changes of input.
fn keys(run: &dyn Timeline, columns: usize, per: f64) -> Vec<Keys> {
    if run.input().is_empty() {
        return Vec::new();
    }
    let mut keys = vec![Keys::None; columns];
    let column_of = |tick: u64| column_of(per, tick).min(columns - 1);
    // Those that are down, and since when any is.
    let (mut down, mut since) = (BTreeSet::new(), 0);
    for (tick, changes) in run.input() {
        for change in changes {
            match change {
                Input::Key(name, true) => {
                    if down.is_empty() {
                        since = *tick;
                    }
                    down.insert(name);
                    keys[column_of(*tick)] = Keys::Pressed;
                }
                Input::Key(name, false) => {
                    if down.remove(name) && down.is_empty() {
                        let held = column_of(since)..=column_of(*tick);
                        keys[held].iter_mut().for_each(|k| *k = (*k).max(Keys::Held));
                    }
                }
                Input::Place(..) => keys[column_of(*tick)] = Keys::Pressed,
                Input::Move(..) => {
                    let column = column_of(*tick);
                    keys[column] = keys[column].max(Keys::Held);
                }
            }
        }
    }
    if !down.is_empty() {
        let held = column_of(since)..=column_of(run.head());
        keys[held].iter_mut().for_each(|k| *k = (*k).max(Keys::Held));
    }
    keys
}
