//! Whatever has been played and can be summed up.

use std::sync::Arc;

use tickpond_lang::program::{KindId, Program};
use tickpond_sim::State;

use crate::judge::Verdict;
use crate::watching::NotFinite;

/// A run that can be summed up at its present place.
pub trait Played {
    /// The program at that place.
    fn program(&self) -> &Arc<Program>;
    /// The state.
    fn state(&self) -> &State;
    /// The verdicts, in the order of the program's expectations.
    fn verdicts(&self) -> &[Verdict];
    /// The watches and their values; `NaN` for what is no finite number.
    fn watches(&self) -> Vec<(String, f64)>;
    /// The watches that were no finite number in some tick.
    fn not_finite(&self) -> Vec<(String, NotFinite)>;
    /// The shortest, median and longest life of a kind's ended, in ticks, if any has.
    fn lifetimes(&self, kind: KindId) -> Option<[f64; 3]>;
}
