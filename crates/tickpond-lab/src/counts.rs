//! A number for each tick, whose sum, peak and low over any stretch are found without walking it.

use std::ops::{Deref, Range};

/// How many entries of one level an entry of the next stands for, as a power of two.
const STEP: u32 = 3;
/// How many levels there are: the last stands for 262,144 ticks an entry.
const LEVELS: usize = 6;

/// One number a tick, from tick 0 on.
///
/// Above the numbers lie levels, each eight times coarser, of sums, maxima and minima. A sum or a peak over a
/// stretch of `n` ticks costs about 14 steps for each level the stretch spans: the logarithm of `n`.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Counts {
    values: Vec<u32>,
    levels: [Vec<Block>; LEVELS],
}

/// What is known of a stretch of ticks.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Block {
    sum: u64,
    peak: u32,
    low: u32,
}

impl Block {
    /// No ticks at all.
    const NONE: Block = Block { sum: 0, peak: 0, low: u32::MAX };

    fn and(self, other: Block) -> Block {
        Block {
            sum: self.sum + other.sum,
            peak: self.peak.max(other.peak),
            low: self.low.min(other.low),
        }
    }

    fn of(value: u32) -> Block {
        Block { sum: u64::from(value), peak: value, low: value }
    }
}

impl Counts {
    /// So many ticks of nothing.
    pub fn zeros(len: usize) -> Counts {
        let mut counts = Counts { values: vec![0; len], ..Counts::default() };
        for (level, blocks) in counts.levels.iter_mut().enumerate() {
            blocks.resize(len.div_ceil(width(level)), Block::of(0));
        }
        counts
    }

    /// How many bytes it takes.
    pub fn bytes(&self) -> usize {
        let blocks: usize = self.levels.iter().map(Vec::len).sum();
        self.values.len() * size_of::<u32>() + blocks * size_of::<Block>()
    }

    /// Adds the next tick's number.
    pub fn push(&mut self, value: u32) {
        let at = self.values.len();
        self.values.push(value);
        for (level, blocks) in self.levels.iter_mut().enumerate() {
            match blocks.get_mut(at / width(level)) {
                Some(block) => *block = block.and(Block::of(value)),
                None => blocks.push(Block::of(value)),
            }
        }
    }

    /// Forgets all but the first ticks.
    pub fn truncate(&mut self, len: usize) {
        if len >= self.values.len() {
            return;
        }
        self.values.truncate(len);
        for level in 0..LEVELS {
            let whole = len / width(level);
            self.levels[level].truncate(whole);
            if len > whole * width(level) {
                let rest = self.over_below(whole * width(level)..len, level);
                self.levels[level].push(rest);
            }
        }
    }

    /// The sum over a stretch of ticks; what lies beyond the last counts nothing.
    pub fn sum(&self, ticks: Range<usize>) -> u64 {
        self.over_below(ticks, LEVELS).sum
    }

    /// The largest number in a stretch of ticks; 0 if there is none.
    pub fn peak(&self, ticks: Range<usize>) -> u32 {
        self.over_below(ticks, LEVELS).peak
    }

    /// The smallest number in a stretch of ticks; 0 if there is none.
    pub fn low(&self, ticks: Range<usize>) -> u32 {
        match self.over_below(ticks, LEVELS).low {
            u32::MAX => 0,
            low => low,
        }
    }

    /// What is known of a stretch, by blocks of levels below one.
    fn over_below(&self, ticks: Range<usize>, below: usize) -> Block {
        let (mut at, end) = (ticks.start, ticks.end.min(self.values.len()));
        let mut found = Block::NONE;
        while at < end {
            let fits =
                |level: &usize| at.is_multiple_of(width(*level)) && at + width(*level) <= end;
            match (0..below).rev().find(fits) {
                Some(level) => {
                    found = found.and(self.levels[level][at / width(level)]);
                    at += width(level);
                }
                None => {
                    found = found.and(Block::of(self.values[at]));
                    at += 1;
                }
            }
        }
        found
    }
}

/// How many ticks a block of a level stands for.
fn width(level: usize) -> usize {
    1 << (STEP as usize * (level + 1))
}

impl Deref for Counts {
    type Target = [u32];

    fn deref(&self) -> &[u32] {
        &self.values
    }
}

impl FromIterator<u32> for Counts {
    fn from_iter<I: IntoIterator<Item = u32>>(values: I) -> Counts {
        let mut counts = Counts::default();
        values.into_iter().for_each(|value| counts.push(value));
        counts
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        #[test]
        fn a_stretch_is_what_a_walk_finds(
            values in prop::collection::vec(0u32..1000, 0..1500),
            from in 0usize..1600,
            len in 0usize..1600,
        ) {
            let counts: Counts = values.iter().copied().collect();
            let walked = values.get(from.min(values.len())..(from + len).min(values.len()));
            let walked = walked.unwrap_or(&[]);
            let sum: u64 = walked.iter().map(|v| u64::from(*v)).sum();
            prop_assert_eq!(counts.sum(from..from + len), sum);
            prop_assert_eq!(counts.peak(from..from + len), walked.iter().copied().max().unwrap_or(0));
            prop_assert_eq!(counts.low(from..from + len), walked.iter().copied().min().unwrap_or(0));
        }

        #[test]
        fn what_is_cut_off_and_played_again_is_as_if_it_never_was(
            values in prop::collection::vec(0u32..1000, 0..1500),
            keep in 0usize..1500,
            again in prop::collection::vec(0u32..1000, 0..300),
        ) {
            let mut counts: Counts = values.iter().copied().collect();
            counts.truncate(keep);
            again.iter().for_each(|value| counts.push(*value));
            let whole = values.iter().take(keep).chain(&again).copied();
            prop_assert_eq!(counts, whole.collect::<Counts>());
        }

        #[test]
        fn nothing_for_a_while_is_nothing(len in 0usize..2000) {
            prop_assert_eq!(Counts::zeros(len), (0..len).map(|_| 0).collect::<Counts>());
        }
    }
}
