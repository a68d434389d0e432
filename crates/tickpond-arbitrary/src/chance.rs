//! Chance from a seed, the same on every machine (SplitMix64).

/// A stream of numbers.
#[derive(Clone, Debug)]
pub struct Chance(u64);

impl Chance {
    /// The stream of a seed.
    pub fn new(seed: u64) -> Chance {
        Chance(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ 0x5851_F42D_4C95_7F2D)
    }

    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mixed = (self.0 ^ (self.0 >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        let mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        mixed ^ (mixed >> 31)
    }

    /// A number below a limit; 0 if there is none.
    pub fn below(&mut self, limit: usize) -> usize {
        (self.next() % limit.max(1) as u64) as usize
    }

    /// Whether one of so many comes up.
    pub fn one_in(&mut self, many: usize) -> bool {
        self.below(many) == 0
    }

    /// One of several.
    pub fn of<'t, T: ?Sized>(&mut self, all: &[&'t T]) -> &'t T {
        all[self.below(all.len())]
    }

    /// So many of several, each once, in some order.
    pub fn some<T: Clone>(&mut self, all: &[T], most: usize) -> Vec<T> {
        let mut left: Vec<T> = all.to_vec();
        let count = self.below(most.min(all.len()) + 1);
        (0..count).map(|_| left.swap_remove(self.below(left.len()))).collect()
    }
}
