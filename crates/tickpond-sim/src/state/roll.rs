//! The order in which requests are carried out: that of the roll.

/// Where a request stands in the roll: the asker, its handler, the other party, the statement.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug, Default, Hash)]
pub struct Key {
    /// How many were born before the asker.
    pub asker: u64,
    /// The handler's place among those of its kind, by head.
    pub handler: u32,
    /// How many were born before the other party; of those it touches, the how many-th it met.
    pub other: u64,
    /// Which request of this firing.
    pub nth: u32,
}
