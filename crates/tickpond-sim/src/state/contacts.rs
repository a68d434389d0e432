//! Who touches whom, and handlers that run meanwhile.

use tickpond_lang::program::KindId;

use super::slots::EntityId;

/// A handler that runs while two touch.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Touching {
    /// The kind of the one whose handler it is.
    pub kind: KindId,
    /// The handler's place in the roll of its kind.
    pub handler: u32,
    /// How many were born before the one.
    pub me: u64,
    /// How many were born before the other.
    pub other: u64,
}

/// Two that touch: the elder and the younger by birth.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Contact {
    /// The elder's place in the order of births.
    pub elder_serial: u64,
    /// The younger's place in the order of births.
    pub younger_serial: u64,
    /// The elder.
    pub elder: EntityId,
    /// The younger.
    pub younger: EntityId,
    /// The elder's kind.
    pub elder_kind: KindId,
    /// The younger's kind.
    pub younger_kind: KindId,
    /// Whether they overlap since one was born of the other, and have not been apart yet.
    pub born_so: bool,
    /// The tick in which they met.
    pub began: u64,
}
