//! One bit for each handler that waits for a condition to turn true: whether it held before.

use std::ops::Index;

use super::column::Gap;
use super::lazy::Lazy;

/// Where the bits of a handler that waits for a change stand: so many in one word.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct HeldAt {
    /// Which word of a kind's bits.
    pub word: usize,
    /// The lowest bit.
    pub low: u8,
    /// How many; in one word, all of them.
    pub count: u8,
}

impl HeldAt {
    /// The next so many bits that are free; they do not go over the end of a word.
    pub fn take(&mut self, count: u8) -> HeldAt {
        let (word, low) = match self.low + self.count {
            low if low + count <= 64 => (self.word, low),
            _ => (self.word + 1, 0),
        };
        *self = HeldAt { word, low, count };
        *self
    }

    fn mask(self) -> u64 {
        ((1 << self.count) - 1) << self.low
    }

    /// The bits of a row.
    pub fn of(self, bits: &[Bits], row: usize) -> u64 {
        (bits[self.word][row] & self.mask()) >> self.low
    }

    /// Gives a row these bits.
    pub fn set(self, bits: &mut [Bits], row: usize, held: u64) {
        let bits = &mut bits[self.word];
        let all = bits[row] & !self.mask() | held << self.low;
        bits.set(row, all);
    }
}

/// A word of bits for each row. Of most kinds none is set most of the time; then nobody need look.
#[derive(Debug, Default)]
pub struct Bits {
    words: Lazy<u64>,
    /// In how many rows a bit is set.
    set: usize,
}

impl Bits {
    /// So many rows without a bit.
    pub fn rows(count: usize) -> Bits {
        let mut bits = Bits::default();
        bits.extend(count);
        bits
    }

    /// The words row by row; `None` if no bit is set.
    pub fn stored(&self) -> Option<&[u64]> {
        self.words.stored().filter(|_| self.set > 0)
    }

    /// Gives a row its bits.
    pub fn set(&mut self, row: usize, bits: u64) {
        let before = self.words[row] != 0;
        self.set = self.set + usize::from(bits != 0) - usize::from(before);
        self.words.set(row, bits);
    }

    /// Adds rows without a bit.
    pub(super) fn extend(&mut self, count: usize) {
        self.words.extend_usual(count);
    }

    /// Drops rows; the others close up.
    pub(super) fn close_up(&mut self, gap: Gap<'_>) {
        if self.set > 0 {
            self.set -= gap.rows.iter().filter(|row| self.words[**row] != 0).count();
        }
        self.words.close_up(gap);
    }
}

impl Index<usize> for Bits {
    type Output = u64;

    fn index(&self, row: usize) -> &u64 {
        &self.words[row]
    }
}

impl Clone for Bits {
    fn clone(&self) -> Bits {
        if self.set > 0 {
            return Bits { words: self.words.clone(), set: self.set };
        }
        Bits::rows(self.words.len())
    }

    fn clone_from(&mut self, other: &Bits) {
        if other.set > 0 {
            self.words.clone_from(&other.words);
            self.set = other.set;
        } else {
            *self = other.clone();
        }
    }
}

/// Words that are stored and have no bit are the same as none.
impl PartialEq for Bits {
    fn eq(&self, other: &Bits) -> bool {
        self.words.len() == other.words.len() && self.stored() == other.stored()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn whether_any_is_set_is_known_whatever_happens(
            steps in prop::collection::vec((0..3u8, any::<prop::sample::Index>(), 0..3u64), 0..60),
        ) {
            let (mut bits, mut model) = (Bits::default(), Vec::new());
            let mut copy = Bits::default();
            for (what, at, word) in steps {
                match what {
                    0 => {
                        bits.extend(1);
                        model.push(0);
                    }
                    1 if !model.is_empty() => {
                        let row = at.index(model.len());
                        bits.set(row, word);
                        model[row] = word;
                    }
                    2 if !model.is_empty() => {
                        let row = at.index(model.len());
                        bits.close_up(Gap::of(&[row], model.len()));
                        model.remove(row);
                    }
                    _ => {}
                }
                let any = model.iter().any(|word| *word != 0);
                prop_assert_eq!(bits.stored(), any.then_some(&model[..]));
                prop_assert!((0..model.len()).all(|row| bits[row] == model[row]));
                prop_assert_eq!(&bits.clone(), &bits);
                copy.clone_from(&bits);
                prop_assert_eq!(&copy, &bits);
            }
        }
    }
}
