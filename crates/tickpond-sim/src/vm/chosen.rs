//! Lane masks: one bit for each lane of a block.

use super::lanes::{LANES, Words};
use crate::wide::wide;

/// Lanes of one word of bits.
const STEP: usize = 64;

/// Some lanes of a block.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Chosen {
    bits: [u64; LANES / STEP],
    count: usize,
}

impl Chosen {
    /// The first so many lanes.
    pub fn first(count: usize) -> Chosen {
        let mut bits = [0; LANES / STEP];
        for (nth, bits) in bits.iter_mut().enumerate() {
            let here = count.saturating_sub(nth * STEP);
            *bits = if here >= STEP { u64::MAX } else { (1 << here) - 1 };
        }
        Chosen { bits, count }
    }

    /// One lane.
    pub fn one(lane: usize) -> Chosen {
        let mut bits = [0; LANES / STEP];
        bits[lane / STEP] = 1 << (lane % STEP);
        Chosen { bits, count: 1 }
    }

    fn of(bits: [u64; LANES / STEP]) -> Chosen {
        Chosen { bits, count: bits.iter().map(|bits| bits.count_ones() as usize).sum() }
    }

    /// How many they are.
    pub fn len(self) -> usize {
        self.count
    }

    /// Whether it is none.
    pub fn is_empty(self) -> bool {
        self.count == 0
    }

    /// Those for which a condition holds, and the others.
    pub fn part(self, condition: &Words) -> (Chosen, Chosen) {
        let mut holds = [0; LANES / STEP];
        wide(
            #[inline(always)]
            || {
                for (holds, words) in holds.iter_mut().zip(condition.chunks_exact(STEP)) {
                    let mut bits = 0;
                    for (lane, word) in words.iter().enumerate() {
                        bits |= u64::from(*word != 0) << lane;
                    }
                    *holds = bits;
                }
            },
        );
        let both = |f: fn(u64, u64) -> u64| {
            Chosen::of(std::array::from_fn(|nth| f(self.bits[nth], holds[nth])))
        };
        (both(|bits, holds| bits & holds), both(|bits, holds| bits & !holds))
    }

    /// These and those.
    pub fn join(self, other: Chosen) -> Chosen {
        Chosen::of(std::array::from_fn(|nth| self.bits[nth] | other.bits[nth]))
    }

    /// These without those.
    pub fn without(self, other: Chosen) -> Chosen {
        Chosen::of(std::array::from_fn(|nth| self.bits[nth] & !other.bits[nth]))
    }

    /// Those of which a word is no finite number; `None`, as almost always, if there are none.
    pub fn not_finite(self, numbers: &Words) -> Option<Chosen> {
        let width = (LANES - self.bits.iter().rev().take_while(|bits| **bits == 0).count() * STEP)
            .max(STEP);
        let all_finite = wide(
            #[inline(always)]
            || {
                let numbers = numbers[..width].iter();
                numbers.fold(true, |fine, word| fine & f64::from_bits(*word).is_finite())
            },
        );
        if all_finite {
            return None;
        }
        let bits = std::array::from_fn(|nth| {
            let mut bad = 0;
            for (lane, word) in numbers[nth * STEP..(nth + 1) * STEP].iter().enumerate() {
                bad |= u64::from(!f64::from_bits(*word).is_finite()) << lane;
            }
            self.bits[nth] & bad
        });
        let bad = Chosen::of(bits);
        (!bad.is_empty()).then_some(bad)
    }

    /// Calls a function for each lane, ascending. It is quicker than going through them one by one: 64 lanes
    /// that are all meant are a plain loop. The function should be inlined always.
    #[inline(always)]
    pub fn each(self, mut f: impl FnMut(usize)) {
        for (nth, word) in self.bits.into_iter().enumerate() {
            let first = nth * STEP;
            if word == u64::MAX {
                for lane in first..first + STEP {
                    f(lane);
                }
                continue;
            }
            let mut bits = word;
            while bits != 0 {
                f(first + bits.trailing_zeros() as usize);
                bits &= bits - 1;
            }
        }
    }

    /// All bits of each lane that is meant, none of the others.
    pub fn spread(self, mask: &mut Words) {
        wide(
            #[inline(always)]
            || {
                for (bits, words) in self.bits.iter().zip(mask.chunks_exact_mut(STEP)) {
                    for (lane, word) in words.iter_mut().enumerate() {
                        *word = (bits >> lane & 1).wrapping_neg();
                    }
                }
            },
        );
    }
}

impl IntoIterator for Chosen {
    type Item = usize;
    type IntoIter = Each;

    /// Lane by lane, ascending.
    fn into_iter(self) -> Each {
        Each { bits: self.bits, at: 0 }
    }
}

/// The lanes that are left to go through.
pub struct Each {
    bits: [u64; LANES / STEP],
    at: usize,
}

impl Iterator for Each {
    type Item = usize;

    #[inline]
    fn next(&mut self) -> Option<usize> {
        while self.at < LANES / STEP {
            let bits = self.bits[self.at];
            if bits != 0 {
                self.bits[self.at] = bits & (bits - 1);
                return Some(self.at * STEP + bits.trailing_zeros() as usize);
            }
            self.at += 1;
        }
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn the_first_so_many() {
        for count in [0, 1, 63, 64, 65, 255, LANES] {
            let chosen = Chosen::first(count);
            assert_eq!(chosen.len(), count);
            assert!(chosen.into_iter().eq(0..count), "{count}");
            assert_eq!(chosen.is_empty(), count == 0);
        }
        assert!(Chosen::one(130).into_iter().eq([130]));
    }

    proptest! {
        #[test]
        fn a_condition_parts_and_joining_brings_back(
            words in prop::collection::vec(prop_oneof![Just(0u64), Just(1), Just(1 << 63)], LANES),
            count in 0..=LANES,
        ) {
            let words: Words = words.try_into().unwrap();
            let all = Chosen::first(count);
            let (hold, fail) = all.part(&words);
            prop_assert!(hold.into_iter().eq((0..count).filter(|lane| words[*lane] != 0)));
            prop_assert!(fail.into_iter().eq((0..count).filter(|lane| words[*lane] == 0)));
            prop_assert_eq!(hold.join(fail), all);
            for some in [hold, fail, all] {
                let mut one_by_one = Vec::new();
                for lane in some {
                    one_by_one.push(lane);
                }
                let mut each = Vec::new();
                some.each(|lane| each.push(lane));
                prop_assert_eq!(each, one_by_one);
            }
            let mut mask = [7; LANES];
            hold.spread(&mut mask);
            for (lane, mask) in mask.iter().enumerate() {
                let meant = hold.into_iter().any(|l| l == lane);
                prop_assert_eq!(*mask, if meant { u64::MAX } else { 0 });
            }
        }
    }
}
