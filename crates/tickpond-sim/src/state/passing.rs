//! A column that is valid within a tick only: neither saved nor moved.

use std::ops::Deref;

/// Values noted early in a tick and read later in it. Between ticks they mean nothing: they are not part of
/// what is saved, compared or hashed, and need not be moved when rows close up.
#[derive(Debug, Default)]
pub struct Passing<T = f64>(Vec<T>);

impl<T: Copy> Passing<T> {
    /// Notes a value for each row.
    pub(crate) fn note(&mut self, values: &[T]) {
        self.clear();
        self.note_more(values);
    }

    /// Notes the values of the rows behind those that have one.
    pub(crate) fn note_more(&mut self, values: &[T]) {
        self.0.extend_from_slice(values);
    }

    /// Leaves no value.
    pub(crate) fn clear(&mut self) {
        self.0.clear();
    }

    /// Gives a row another value.
    pub(crate) fn set(&mut self, row: usize, value: T) {
        self.0[row] = value;
    }
}

impl<T> Deref for Passing<T> {
    type Target = [T];

    fn deref(&self) -> &[T] {
        &self.0
    }
}

impl<T> Clone for Passing<T> {
    fn clone(&self) -> Passing<T> {
        Passing(Vec::new())
    }
}

impl<T> PartialEq for Passing<T> {
    fn eq(&self, _: &Passing<T>) -> bool {
        true
    }
}
