//! A column that holds within a tick only.

use std::ops::Deref;

/// Values noted early in a tick and read later in it. Between ticks they mean nothing: they are not part of
/// what is saved, compared or hashed, and need not be moved when rows close up.
#[derive(Debug, Default)]
pub struct Passing(Vec<f64>);

impl Passing {
    /// Notes a value for each row.
    pub(crate) fn note(&mut self, values: &[f64]) {
        self.clear();
        self.note_more(values);
    }

    /// Notes the values of the rows behind those that have one.
    pub(crate) fn note_more(&mut self, values: &[f64]) {
        self.0.extend_from_slice(values);
    }

    /// Leaves no value.
    pub(crate) fn clear(&mut self) {
        self.0.clear();
    }

    #[cfg(test)]
    pub(crate) fn set(&mut self, row: usize, value: f64) {
        self.0[row] = value;
    }
}

impl Deref for Passing {
    type Target = [f64];

    fn deref(&self) -> &[f64] {
        &self.0
    }
}

impl Clone for Passing {
    fn clone(&self) -> Passing {
        Passing::default()
    }
}

impl PartialEq for Passing {
    fn eq(&self, _: &Passing) -> bool {
        true
    }
}
