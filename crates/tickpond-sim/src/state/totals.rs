//! Running totals, waves, and the player's keys.

use std::sync::Arc;

use tickpond_lang::program::{Cause, KindId};

/// What ends are told apart by: kind, cause, words, the kind that did it.
pub type TallyKey = (KindId, Cause, Option<Arc<str>>, KindId);

/// The members of a wave.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub struct Wave {
    /// How many live.
    pub live: u32,
    /// How many are asked for and not yet born.
    pub unborn: u32,
}

/// The keys of one tick, a bit for each input.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct InputState {
    /// Those that are down.
    pub held: u64,
    /// Those that went down in this tick.
    pub pressed: u64,
    /// Those that went up in this tick.
    pub released: u64,
    /// Where each input's pointer is, in u; the middle of the arena until it is moved.
    pub places: Vec<(f64, f64)>,
}

/// Running totals of a kind.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct Totals {
    /// Ever born.
    pub born: u64,
    /// Ended, by the place of the cause in [`Cause::ALL`].
    pub ended: [u64; 11],
    /// Most alive at the end of a tick.
    pub peak: u64,
    /// The first tick with that many.
    pub peak_tick: u64,
}

impl Totals {
    /// Ended, by whatever cause.
    pub fn ended_in_all(&self) -> u64 {
        self.ended.iter().sum()
    }

    /// Ended by one of these causes; by any if there is none.
    pub fn ended_by(&self, causes: &[Cause]) -> u64 {
        if causes.is_empty() {
            return self.ended_in_all();
        }
        causes.iter().map(|c| self.ended[*c as usize]).sum()
    }
}

/// Running totals of a message.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub struct MailTotals {
    /// Letters sent, each to one addressee.
    pub sent: u64,
    /// Letters a handler heard.
    pub heard: u64,
    /// Letters that reached somebody without a handler, or nobody.
    pub unheard: u64,
}
