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
    /// The rounds they go in, of a kind of so many rows: see [`Rounds::of`].
    fn rounds(&self, rounds: &mut Rounds, rows: usize) -> Vec<Vec<u32>> {
        rounds.of(self, rows)
    }
}

/// How often each row of a kind fires, for firings that bring nothing along: each is told by its row.
#[derive(Default)]
pub(crate) struct Counted {
    /// By row.
    pub times: Vec<u32>,
    /// In all.
    pub in_all: usize,
}

impl Occasions for Counted {
    fn len(&self) -> usize {
        self.in_all
    }

    fn row(&self, at: usize) -> u32 {
        at as u32
    }

    fn brings(&self) -> bool {
        false
    }

    fn bring(&self, _: usize, _: &mut Block, _: usize) {}

    /// What one row does is not seen by another before the phase closes, so a round may go through
    /// the rows in their order.
    fn rounds(&self, rounds: &mut Rounds, _: usize) -> Vec<Vec<u32>> {
        let mut all: Vec<Vec<u32>> = Vec::new();
        let mut next = self.filed(0..self.times.len() as u32, 0, rounds);
        while !next.is_empty() {
            let after = self.filed(next.iter().copied(), all.len() as u32 + 1, rounds);
            all.push(next);
            next = after;
        }
        rounds.give_back(next);
        all
    }
}

impl Counted {
    /// Those of the rows that fire more often than so many times.
    fn filed(
        &self,
        rows: impl ExactSizeIterator<Item = u32>,
        times: u32,
        rounds: &mut Rounds,
    ) -> Vec<u32> {
        // What a list held before is written over, so it need not be emptied first.
        let mut filed = rounds.free.pop().unwrap_or_default();
        filed.resize(rows.len(), 0);
        let mut count = 0;
        for row in rows {
            // Each is written down, and the next one over it unless it fires: which do cannot be
            // foreseen, and a branch that is guessed wrongly costs more.
            filed[count] = row;
            count += usize::from(self.times[row as usize] > times);
        }
        filed.truncate(count);
        filed
    }
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
                let mut round = self.free.pop().unwrap_or_default();
                round.clear();
                rounds.push(round);
            }
            rounds[nth].push(at as u32);
        }
        rounds
    }

    /// Takes back a round that has been gone through.
    pub fn give_back(&mut self, round: Vec<u32>) {
        self.free.push(round);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn counted_firings_go_in_rounds_of_rows() {
        let counted = Counted { times: vec![0, 3, 1, 0, 2], in_all: 6 };
        let mut rounds = Rounds::default();
        for _ in 0..2 {
            let all = counted.rounds(&mut rounds, 5);
            assert_eq!(all, [vec![1, 2, 4], vec![1, 4], vec![1]]);
            assert_eq!(all.iter().map(Vec::len).sum::<usize>(), counted.len());
            all.into_iter().for_each(|round| rounds.give_back(round));
        }
        assert!(Counted::default().rounds(&mut rounds, 0).is_empty());
    }

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
