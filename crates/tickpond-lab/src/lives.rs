//! Lengths of lives, counted.

use std::collections::BTreeMap;

/// Most different lengths that are told apart.
const MOST: usize = 1 << 16;

/// How many lives were of which length, in ticks. Exact up to 65,536 different lengths; beyond that neighbours are
/// counted together, in steps of 2, 4, 8 … ticks, so that the memory is bounded however long a run is.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Lives {
    counts: BTreeMap<u64, u64>,
    ends: Option<(u64, u64)>,
    /// Lengths are told apart to 2 to the power of this many ticks.
    coarse: u32,
}

impl Lives {
    /// Adds a life of so many ticks.
    pub fn add(&mut self, ticks: u64) {
        let (shortest, longest) = self.ends.unwrap_or((ticks, ticks));
        self.ends = Some((shortest.min(ticks), longest.max(ticks)));
        *self.counts.entry(ticks >> self.coarse).or_insert(0) += 1;
        if self.counts.len() > MOST {
            self.coarse += 1;
            let before = std::mem::take(&mut self.counts);
            for (length, count) in before {
                *self.counts.entry(length >> 1).or_insert(0) += count;
            }
        }
    }

    /// The shortest, the median and the longest, in ticks; `None` if there is none. The median of an even number
    /// is the mean of the two in the middle.
    pub fn spread(&self) -> Option<[f64; 3]> {
        let (shortest, longest) = self.ends?;
        let all: u64 = self.counts.values().sum();
        let nth = |wanted: u64| {
            let mut seen = 0;
            let mut counts = self.counts.iter();
            let found = counts.find(|(_, count)| {
                seen += **count;
                seen > wanted
            });
            found.map_or(0.0, |(length, _)| (length << self.coarse) as f64)
        };
        let median = (nth((all - 1) / 2) + nth(all / 2)) / 2.0;
        Some([shortest as f64, median, longest as f64])
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn the_median_is_that_of_a_sorted_list(lives in prop::collection::vec(0..50u64, 1..40)) {
            let mut counted = Lives::default();
            lives.iter().for_each(|life| counted.add(*life));
            let mut sorted = lives.clone();
            sorted.sort_unstable();
            let middle = sorted.len() / 2;
            let median = match sorted.len() % 2 {
                1 => sorted[middle] as f64,
                _ => (sorted[middle - 1] + sorted[middle]) as f64 / 2.0,
            };
            let wanted = [sorted[0] as f64, median, sorted[sorted.len() - 1] as f64];
            prop_assert_eq!(counted.spread(), Some(wanted));
        }
    }

    #[test]
    fn more_lengths_than_are_told_apart_stay_near_the_truth() {
        let mut lives = Lives::default();
        (0..300_001).for_each(|life| lives.add(life));
        let [shortest, median, longest] = lives.spread().unwrap();
        assert_eq!((shortest, longest), (0.0, 300_000.0));
        assert!((median - 150_000.0).abs() <= 8.0, "{median}");
        assert!(lives.counts.len() <= MOST);
        assert_eq!(Lives::default().spread(), None);
    }
}
