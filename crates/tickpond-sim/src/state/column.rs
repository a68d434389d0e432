//! The values of one field of the entities of a kind, row by row.

use std::fmt;
use std::ops::{Deref, DerefMut};

/// One value a row. Rows that go are closed up from the nearer end: those that end first are most often
/// among the oldest, and the many behind them need not be moved.
pub struct Column<T> {
    /// The values, behind some that are gone.
    values: Vec<T>,
    /// How many are gone at the front.
    gone: usize,
}

/// Rows that go, and from which end the others close up. It is the same for all columns of a kind.
#[derive(Clone, Copy)]
pub struct Gap<'a> {
    /// The rows, ascending.
    pub rows: &'a [usize],
    /// Whether those before the last of them move up to it; else those behind the first move down.
    pub from_front: bool,
}

impl<'a> Gap<'a> {
    /// The cheaper way to close up so many rows.
    pub fn of(rows: &'a [usize], len: usize) -> Gap<'a> {
        let (first, last) = (rows.first().map_or(0, |r| *r), rows.last().map_or(0, |r| *r));
        Gap { rows, from_front: last < len - first }
    }
}

/// Up to how many values are moved one by one: a call for all of them costs more.
const SHORT: usize = 6;

impl<T: Copy> Column<T> {
    /// Adds rows of one value.
    pub fn extend(&mut self, count: usize, value: T) {
        // Room that was left at the front is used before more is asked for. It is as much as all that
        // are moved for it, so a row is moved once at most for each that went.
        let len = self.values.len();
        if len + count > self.values.capacity() && self.gone * 2 >= len {
            self.values.copy_within(self.gone.., 0);
            self.values.truncate(len - self.gone);
            self.gone = 0;
        }
        self.values.resize(self.values.len() + count, value);
    }

    /// Leaves no row.
    pub fn clear(&mut self) {
        self.values.clear();
        self.gone = 0;
    }

    /// Makes it so many rows, new ones with this value.
    pub fn resize(&mut self, rows: usize, value: T) {
        self.values.resize(self.gone + rows, value);
    }

    /// Drops rows; the others close up, in their order.
    pub fn close_up(&mut self, gap: Gap<'_>) {
        let rows = gap.rows;
        if gap.from_front {
            let values = &mut self.values[self.gone..];
            let Some(mut to) = rows.last().map(|last| last + 1) else { return };
            for (at, row) in rows.iter().enumerate().rev() {
                let from = if at == 0 { 0 } else { rows[at - 1] + 1 };
                to -= row - from;
                if row - from > SHORT {
                    values.copy_within(from..*row, to);
                    continue;
                }
                let up = to - from;
                for at in (from..*row).rev() {
                    values[at + up] = values[at];
                }
            }
            self.gone += rows.len();
        } else {
            let values = &mut self.values[self.gone..];
            let Some(mut to) = rows.first().copied() else { return };
            for (at, row) in rows.iter().enumerate() {
                let until = rows.get(at + 1).copied().unwrap_or(values.len());
                values.copy_within(row + 1..until, to);
                to += until - row - 1;
            }
            self.values.truncate(self.gone + to);
        }
    }
}

impl<T> Default for Column<T> {
    fn default() -> Column<T> {
        Column { values: Vec::new(), gone: 0 }
    }
}

impl<T: Clone> Clone for Column<T> {
    fn clone(&self) -> Column<T> {
        Column { values: self.to_vec(), gone: 0 }
    }

    fn clone_from(&mut self, other: &Column<T>) {
        self.values.clear();
        self.values.extend_from_slice(other);
        self.gone = 0;
    }
}

impl<T: PartialEq> PartialEq for Column<T> {
    fn eq(&self, other: &Column<T>) -> bool {
        self[..] == other[..]
    }
}

impl<T: PartialEq, const N: usize> PartialEq<[T; N]> for Column<T> {
    fn eq(&self, other: &[T; N]) -> bool {
        self[..] == other[..]
    }
}

impl<T: fmt::Debug> fmt::Debug for Column<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_list().entries(self.iter()).finish()
    }
}

impl<T> Deref for Column<T> {
    type Target = [T];

    #[inline]
    fn deref(&self) -> &[T] {
        &self.values[self.gone..]
    }
}

impl<T> DerefMut for Column<T> {
    #[inline]
    fn deref_mut(&mut self) -> &mut [T] {
        &mut self.values[self.gone..]
    }
}

impl<T> From<Vec<T>> for Column<T> {
    fn from(values: Vec<T>) -> Column<T> {
        Column { values, gone: 0 }
    }
}

impl<'a, T> IntoIterator for &'a Column<T> {
    type Item = &'a T;
    type IntoIter = std::slice::Iter<'a, T>;

    fn into_iter(self) -> Self::IntoIter {
        self.iter()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[derive(Clone, Debug)]
    enum Step {
        Push(u8),
        Drop(Vec<prop::sample::Index>, Option<bool>),
    }

    fn step() -> impl Strategy<Value = Step> {
        let rows = prop::collection::vec(any::<prop::sample::Index>(), 1..6);
        prop_oneof![
            3 => any::<u8>().prop_map(Step::Push),
            1 => (rows, any::<Option<bool>>()).prop_map(|(rows, side)| Step::Drop(rows, side)),
        ]
    }

    proptest! {
        #[test]
        fn closing_up_from_either_end_leaves_the_same(
            steps in prop::collection::vec(step(), 0..80),
        ) {
            let mut column = Column::default();
            let mut model: Vec<u8> = Vec::new();
            for step in steps {
                match step {
                    Step::Push(value) => {
                        column.extend(1, value);
                        model.push(value);
                    }
                    Step::Drop(..) if model.is_empty() => {}
                    Step::Drop(rows, side) => {
                        let mut rows: Vec<usize> =
                            rows.iter().map(|row| row.index(model.len())).collect();
                        rows.sort_unstable();
                        rows.dedup();
                        let cheaper = Gap::of(&rows, model.len());
                        let from_front = side.unwrap_or(cheaper.from_front);
                        column.close_up(Gap { rows: &rows, from_front });
                        rows.iter().rev().for_each(|row| {
                            model.remove(*row);
                        });
                    }
                }
                prop_assert_eq!(&column[..], &model[..]);
                let mut copy = Column::from(vec![7; 3]);
                copy.clone_from(&column);
                prop_assert_eq!(&copy, &column);
                prop_assert_eq!(&column.clone(), &column);
            }
        }
    }

    #[test]
    fn room_at_the_front_is_used_again() {
        let mut column = Column::default();
        for value in 0..100_000u32 {
            column.extend(1, value);
            if column.len() > 16 {
                column.close_up(Gap::of(&[0], column.len()));
            }
        }
        assert_eq!(
            column.iter().copied().collect::<Vec<_>>(),
            (99_984..100_000).collect::<Vec<_>>()
        );
        assert!(column.values.capacity() < 256, "{}", column.values.capacity());
    }
}
