//! A column that costs nothing while all its values are alike.

use std::ops::{Index, IndexMut};

use super::column::{Column, Gap};

/// One value a row. As long as no row has been given another value than the usual one, none is stored:
/// most kinds have no use for most columns, and what is not stored need not be moved, copied or hashed.
#[derive(Debug, PartialEq)]
pub struct Lazy<T> {
    /// All values, or none if all rows have the usual one.
    values: Column<T>,
    usual: T,
    rows: usize,
}

impl<T: Copy + PartialEq + Default> Default for Lazy<T> {
    fn default() -> Lazy<T> {
        Lazy::of(T::default())
    }
}

impl<T: Copy> Clone for Lazy<T> {
    fn clone(&self) -> Lazy<T> {
        Lazy { values: self.values.clone(), usual: self.usual, rows: self.rows }
    }

    fn clone_from(&mut self, other: &Lazy<T>) {
        self.values.clone_from(&other.values);
        (self.usual, self.rows) = (other.usual, other.rows);
    }
}

impl<T: Copy + PartialEq> Lazy<T> {
    /// A column without rows, whose usual value is this.
    pub fn of(usual: T) -> Lazy<T> {
        Lazy { values: Column::default(), usual, rows: 0 }
    }

    /// How many rows there are.
    pub fn len(&self) -> usize {
        self.rows
    }

    /// Whether there is no row.
    pub fn is_empty(&self) -> bool {
        self.rows == 0
    }

    /// The stored values; `None` if all rows have the usual one.
    pub fn stored(&self) -> Option<&[T]> {
        (!self.values.is_empty()).then_some(&self.values)
    }

    /// The stored values, to be changed; stores them if they were not.
    pub fn stored_mut(&mut self) -> &mut [T] {
        if self.values.is_empty() {
            self.values.resize(self.rows, self.usual);
        }
        &mut self.values
    }

    /// The value of rows that were given none.
    pub fn usual(&self) -> T {
        self.usual
    }

    /// All values, row by row.
    pub fn iter(&self) -> impl DoubleEndedIterator<Item = T> + ExactSizeIterator + '_ {
        (0..self.rows).map(|row| self[row])
    }

    /// Adds rows with the usual value.
    pub fn extend_usual(&mut self, count: usize) {
        if !self.values.is_empty() {
            self.values.extend(count, self.usual);
        }
        self.rows += count;
    }

    /// Makes a value the usual one, if there is no row yet.
    pub fn begin_with(&mut self, value: T) {
        if self.rows == 0 {
            self.usual = value;
        }
    }

    /// Gives the rows from here on a value; the usual one changes nothing where none is stored.
    pub fn fill_from(&mut self, row: usize, value: T) {
        if !self.values.is_empty() || value != self.usual {
            self.stored_mut()[row..].fill(value);
        }
    }

    /// Gives a row a value; the usual one changes nothing where none is stored.
    pub fn set(&mut self, row: usize, value: T) {
        if !self.values.is_empty() || value != self.usual {
            self[row] = value;
        }
    }

    /// Gives all rows the usual value.
    pub fn reset(&mut self) {
        self.values.clear();
    }

    /// Drops rows; the others close up.
    pub(super) fn close_up(&mut self, gap: Gap<'_>) {
        if !self.values.is_empty() {
            self.values.close_up(gap);
        }
        self.rows -= gap.rows.len();
    }
}

impl<T: Copy + PartialEq> Index<usize> for Lazy<T> {
    type Output = T;

    fn index(&self, row: usize) -> &T {
        if self.values.is_empty() && row < self.rows { &self.usual } else { &self.values[row] }
    }
}

impl<T: Copy + PartialEq> IndexMut<usize> for Lazy<T> {
    fn index_mut(&mut self, row: usize) -> &mut T {
        &mut self.stored_mut()[row]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_is_stored_until_a_row_differs() {
        let mut column: Lazy<u64> = Lazy::of(7);
        column.extend_usual(3);
        column.set(1, 7);
        assert_eq!(column.stored(), None);
        assert_eq!(column.iter().collect::<Vec<_>>(), [7, 7, 7]);
        column.set(1, 8);
        assert_eq!(column.stored(), Some(&[7, 8, 7][..]));
        column.extend_usual(1);
        column.close_up(Gap::of(&[0, 2], 4));
        assert_eq!(column.iter().collect::<Vec<_>>(), [8, 7]);
        column.reset();
        assert_eq!((column.len(), column[0], column.stored()), (2, 7, None));
    }

    #[test]
    fn what_the_first_have_is_usual() {
        let mut column: Lazy<u64> = Lazy::default();
        let add = |column: &mut Lazy<u64>, count: usize, value: u64| {
            let first = column.len();
            column.begin_with(value);
            column.extend_usual(count);
            column.fill_from(first, value);
        };
        add(&mut column, 3, 5);
        assert_eq!((column.stored(), column[2]), (None, 5));
        add(&mut column, 2, 6);
        assert_eq!(column.iter().collect::<Vec<_>>(), [5, 5, 5, 6, 6]);
        column.close_up(Gap::of(&[0, 1, 2, 3, 4], 5));
        add(&mut column, 1, 6);
        assert_eq!((column.stored(), column[0]), (None, 6));
    }

    #[test]
    #[should_panic(expected = "index out of bounds")]
    fn a_row_that_is_not_there_is_not_read() {
        let mut column: Lazy<u64> = Lazy::default();
        column.extend_usual(1);
        let _ = column[1];
    }

    #[test]
    fn dropping_all_rows_leaves_an_empty_column() {
        let mut column: Lazy<bool> = Lazy::default();
        column.extend_usual(1);
        column.set(0, true);
        column.close_up(Gap::of(&[0], 1));
        assert!(column.is_empty());
        column.extend_usual(1);
        assert!(!column[0]);
    }
}
