//! What is kept of watches while a run is played: their last values, and where they were no numbers.

use tickpond_lang::program::Program;

/// When a watch was no finite number.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct NotFinite {
    /// The first tick.
    pub tick: u64,
    /// In how many ticks.
    pub ticks: u64,
}

/// The watches of a run.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Watching {
    last: Vec<f64>,
    not_finite: Vec<Option<NotFinite>>,
}

impl Watching {
    /// For a program's watches.
    pub fn new(program: &Program) -> Watching {
        let count = program.watches.len();
        Watching { last: vec![f64::NAN; count], not_finite: vec![None; count] }
    }

    /// Takes the values of a tick.
    pub fn tick(&mut self, tick: u64, values: &[f64]) {
        self.last.clear();
        self.last.extend_from_slice(values);
        for (known, value) in self.not_finite.iter_mut().zip(values) {
            if !value.is_finite() {
                known.get_or_insert(NotFinite { tick, ticks: 0 }).ticks += 1;
            }
        }
    }

    /// The last values by name.
    pub fn last(&self, program: &Program) -> Vec<(String, f64)> {
        let names = program.watches.iter().map(|watch| watch.name.clone());
        names.zip(self.last.iter().copied()).collect()
    }

    /// Those that were no finite number in some tick.
    pub fn not_finite(&self, program: &Program) -> Vec<(String, NotFinite)> {
        let names = program.watches.iter().map(|watch| watch.name.clone());
        names.zip(&self.not_finite).filter_map(|(name, known)| Some((name, (*known)?))).collect()
    }
}
