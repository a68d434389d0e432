//! What the code of a block can read, and on whose behalf it runs.

use tickpond_lang::program::{Cause, KindId};

use crate::code::Compiled;
use crate::event::Phase;
use crate::index::Index;
use crate::state::State;

/// What the code of a block reads, beside its registers.
#[derive(Clone, Copy)]
pub struct World<'a> {
    /// The program.
    pub compiled: &'a Compiled,
    /// The state as the phase found it.
    pub state: &'a State,
    /// The phase.
    pub phase: Phase,
    /// What its questions have in common.
    pub index: &'a Index,
}

/// Whose code a block runs, for requests and chance.
#[derive(Clone, Copy)]
pub struct Origin {
    /// The kind of all lanes.
    pub kind: KindId,
    /// What draws are keyed by.
    pub hash: u64,
    /// The handler's place in the roll of its kind; [`Origin::NO_HANDLER`] for other code.
    pub handler: u32,
    /// The cause of ends asked for.
    pub cause: Cause,
}

impl Origin {
    /// The place in the roll of code that belongs to no handler: behind them all.
    const NO_HANDLER: u32 = u32::MAX;

    /// Code of a kind that belongs to no handler.
    pub fn outside(kind: KindId, hash: u64, cause: Cause) -> Origin {
        Origin { kind, hash, handler: Origin::NO_HANDLER, cause }
    }
}
