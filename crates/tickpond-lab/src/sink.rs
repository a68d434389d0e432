//! Where what is played goes: a tick at a time, in order.

use std::io;

use tickpond_lang::program::Program;
use tickpond_sim::{Event, State};

/// A tick that has just been played.
pub struct Tick<'a> {
    /// The program that played it.
    pub program: &'a Program,
    /// The state at its end.
    pub state: &'a State,
    /// The values of the watches, in the program's order; `NaN` for what is no finite number.
    pub watches: &'a [f64],
    /// What happened, in order.
    pub events: &'a [Event],
}

/// Takes what a run brings forth, tick by tick from tick 0 on.
pub trait Sink {
    /// Takes one tick.
    ///
    /// # Errors
    /// Whatever the sink writes to reports.
    fn take(&mut self, tick: &Tick<'_>) -> io::Result<()>;
}
