//! Chance without a running state: a draw is a hash of where and when it is made.
//!
//! The mixing step is the finaliser of SplitMix64 (G. L. Steele, D. Lea, C. H. Flood, "Fast
//! splittable pseudorandom number generators", OOPSLA 2014, with the constants of variant 13 by
//! D. Stafford). Keys are folded in one after another, so their order matters.

/// The odd constant of SplitMix64: 2^64 divided by the golden ratio.
const GOLDEN: u64 = 0x9E37_79B9_7F4A_7C15;

/// Mixes 64 bits so that each bit of the input changes half of the output.
#[inline(always)]
pub fn mix(value: u64) -> u64 {
    let value = (value ^ (value >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    let value = (value ^ (value >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    value ^ (value >> 31)
}

/// A hasher for tables whose keys are numbers of our own: a step of the mixer for each word.
#[derive(Clone, Copy, Default)]
pub struct Mixing(u64);

impl std::hash::Hasher for Mixing {
    fn finish(&self) -> u64 {
        self.0
    }

    fn write(&mut self, bytes: &[u8]) {
        bytes.iter().for_each(|byte| self.write_u64(u64::from(*byte)));
    }

    fn write_u32(&mut self, word: u32) {
        self.write_u64(u64::from(word));
    }

    fn write_u64(&mut self, word: u64) {
        self.0 = mix((self.0 ^ word).wrapping_add(GOLDEN));
    }
}

/// A table that uses [`Mixing`].
pub type Table<K, V> = std::collections::HashMap<K, V, std::hash::BuildHasherDefault<Mixing>>;

/// `hash` with one more key folded in.
pub fn fold(hash: u64, key: u64) -> u64 {
    mix(hash.wrapping_add(GOLDEN) ^ mix(key.wrapping_add(GOLDEN)))
}

/// The hash of several keys in order.
pub fn hash(keys: &[u64]) -> u64 {
    keys.iter().fold(GOLDEN, |hash, key| fold(hash, *key))
}

/// What all draws of a handler in a tick have in common.
pub fn draw_base(seed: u64, tick: u64, handler: u64) -> u64 {
    hash(&[seed, tick, handler])
}

/// One draw: of an entity by its luck, for another party by that one's, the `nth` of its firing.
#[inline(always)]
pub fn draw(base: u64, luck: u64, other: u64, nth: u32) -> u64 {
    let which = other ^ u64::from(nth).wrapping_add(1).wrapping_mul(GOLDEN);
    mix(mix(base ^ luck).wrapping_add(which))
}

/// The hash of a text, the same on every machine.
pub fn hash_text(text: &str) -> u64 {
    text.bytes().fold(text.len() as u64, |hash, byte| fold(hash, u64::from(byte)))
}

/// A number in `0.0..1.0`: the upper 53 bits of `hash` over 2^53.
#[inline(always)]
pub fn unit(hash: u64) -> f64 {
    (hash >> 11) as f64 * (1.0 / (1u64 << 53) as f64)
}

/// A number in `low..high`; `low` if the bounds are equal or upside down.
#[inline(always)]
pub fn between(hash: u64, low: f64, high: f64) -> f64 {
    if high > low { low + (high - low) * unit(hash) } else { low }
}

/// A whole number in `low..=high`; `low` if the bounds are upside down.
#[inline(always)]
pub fn whole(hash: u64, low: f64, high: f64) -> f64 {
    (low + (unit(hash) * (high - low + 1.0).max(1.0)).floor()).min(high.max(low))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn draws_stay_in_their_bounds(seed: u64, low in -1e6..1e6f64, width in 0.0..1e6f64) {
            let drawn = between(mix(seed), low, low + width);
            prop_assert!((low..=low + width).contains(&drawn));
        }

        #[test]
        fn whole_draws_reach_both_ends_and_nothing_more(seed: u64) {
            let drawn = whole(mix(seed), 1.0, 6.0);
            prop_assert!((1.0..=6.0).contains(&drawn) && drawn.fract() == 0.0);
        }
    }

    #[test]
    fn a_die_is_fair() {
        let mut faces = [0u32; 6];
        for i in 0..60_000 {
            faces[whole(hash(&[7, i]), 1.0, 6.0) as usize - 1] += 1;
        }
        // Chi-squared with 5 degrees of freedom: 20.5 is passed once in a thousand.
        let chi: f64 = faces.iter().map(|n| (f64::from(*n) - 10_000.0).powi(2) / 10_000.0).sum();
        assert!(chi < 20.5, "{faces:?}");
    }

    #[test]
    fn the_order_of_keys_matters() {
        assert_ne!(hash(&[1, 2]), hash(&[2, 1]));
    }
}
