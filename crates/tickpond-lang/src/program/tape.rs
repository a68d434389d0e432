//! What a player does, written down.

use super::ids::InputId;

/// Input written down.
#[derive(Clone, Debug, PartialEq)]
pub struct Tape {
    /// Its name.
    pub name: String,
    /// Whether it is played unless told otherwise.
    pub played: bool,
    /// What is done, in the order of the text.
    pub steps: Vec<TapeStep>,
}

/// One line of a tape, its times in ticks.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TapeStep {
    /// Which input.
    pub input: InputId,
    /// The tick it begins in.
    pub at: u64,
    /// What is done.
    pub act: TapeAct,
}

/// What a line of a tape does.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum TapeAct {
    /// Pressed for one tick, so many times, so many ticks apart.
    Tap {
        /// How often.
        times: u32,
        /// Ticks from one to the next.
        every: u64,
    },
    /// Held up to, not with, this tick.
    Hold {
        /// The tick in which it is released.
        until: u64,
    },
    /// The pointer is moved to a place.
    Move {
        /// x and y in u.
        to: (f64, f64),
    },
}
