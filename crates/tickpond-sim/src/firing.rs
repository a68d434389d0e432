//! Firings of a handler that bring values along, and the rounds they go in.

use smallvec::SmallVec;

use crate::code::op::Reg;
use crate::vm::Block;

/// One firing of a handler.
#[derive(Clone, Debug, Default)]
pub(crate) struct Firing {
    /// The row.
    pub row: u32,
    /// How many were born before the other party.
    pub other: u64,
    /// What the other party brings into its chance.
    pub other_luck: u64,
    /// Values of its event, in registers.
    pub words: SmallVec<[(Reg, u64); 1]>,
    /// The velocity a replacement keeps, if it is not the one at the end.
    pub kept_velocity: Option<(f64, f64)>,
}

/// What sets a handler off, one firing after another in the order of the roll.
pub(crate) trait Occasions {
    /// How many firings.
    fn len(&self) -> usize;
    /// The row of one.
    fn row(&self, at: usize) -> u32;
    /// Whether firings bring anything along.
    fn brings(&self) -> bool {
        true
    }
    /// What one brings along, put into a lane.
    fn bring(&self, at: usize, block: &mut Block, lane: usize);
}

impl Occasions for [Firing] {
    fn len(&self) -> usize {
        <[Firing]>::len(self)
    }

    fn row(&self, at: usize) -> u32 {
        self[at].row
    }

    fn bring(&self, at: usize, block: &mut Block, lane: usize) {
        let firing = &self[at];
        block.meet(lane, firing.other, firing.other_luck);
        for (reg, word) in &firing.words {
            block.set(*reg, lane, *word);
        }
        if let Some(velocity) = firing.kept_velocity {
            block.keep_velocity(lane, velocity);
        }
    }
}

/// Sorts firings into rounds.
#[derive(Default)]
pub(crate) struct Rounds {
    /// For each row, how many firings of it have been filed.
    filed: Vec<u32>,
    /// Lists that are not in use, kept for their memory.
    free: Vec<Vec<u32>>,
}

impl Rounds {
    /// The first firing of each row, the second, and so on, by their places; each round in the order
    /// given. The cost grows with the firings, and by a word each with the rows.
    pub fn of(&mut self, occasions: &(impl Occasions + ?Sized), rows: usize) -> Vec<Vec<u32>> {
        let mut rounds: Vec<Vec<u32>> = Vec::new();
        self.filed.clear();
        self.filed.resize(rows, 0);
        for at in 0..occasions.len() {
            let filed = &mut self.filed[occasions.row(at) as usize];
            let nth = *filed as usize;
            *filed += 1;
            if rounds.len() <= nth {
                rounds.push(self.free.pop().unwrap_or_default());
            }
            rounds[nth].push(at as u32);
        }
        rounds
    }

    /// Takes back a round that has been gone through.
    pub fn give_back(&mut self, mut round: Vec<u32>) {
        round.clear();
        self.free.push(round);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn each_row_fires_once_a_round_and_in_its_order(
            rows in prop::collection::vec(0u32..6, 0..40),
        ) {
            let firings: Vec<Firing> =
                rows.iter().map(|row| Firing { row: *row, ..Firing::default() }).collect();
            let mut sorter = Rounds::default();
            // Twice: what the first time left behind must not be seen in the second.
            let rounds = [0, 1].map(|_| {
                let rounds = sorter.of(&firings[..], 6);
                rounds.iter().for_each(|round| sorter.give_back(round.clone()));
                rounds
            });
            prop_assert_eq!(&rounds[0], &rounds[1]);
            let mut seen = vec![0; rows.len()];
            for (nth, round) in rounds[0].iter().enumerate() {
                prop_assert!(!round.is_empty() && round.is_sorted());
                for at in round {
                    let at = *at as usize;
                    seen[at] += 1;
                    let before = rows[..at].iter().filter(|row| **row == rows[at]).count();
                    prop_assert_eq!(before, nth);
                }
            }
            prop_assert!(seen.iter().all(|times| *times == 1));
        }
    }
}
