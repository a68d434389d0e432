//! A program compiled to code.

use std::sync::Arc;

use tickpond_lang::program::*;

use super::kinds::{HandlerCode, KindCode, Part};
use super::notices::Notices;
use super::op::*;
use super::turns::Turns;

/// A program and the code of all its parts.
#[derive(Clone, Debug)]
pub struct Compiled {
    /// The program.
    pub program: Arc<Program>,
    /// By kind.
    pub kinds: Vec<KindCode>,
    /// All handlers, by what sets them off.
    pub turns: Turns,
    /// Births the code refers to.
    pub spawns: Vec<SpawnOp>,
    /// Messages the code refers to.
    pub sends: Vec<SendOp>,
    /// Questions the code refers to.
    pub queries: Vec<QueryOp>,
    /// Totals the code refers to.
    pub stats: Vec<StatOp>,
    /// Totals by words or credit the code refers to.
    pub tallies: Vec<Tally>,
    /// Blasts the code refers to.
    pub blasts: Vec<BlastOp>,
    /// The watches.
    pub watches: Vec<Code>,
    /// The conditions of the expectations, by expectation: what must hold, and the event.
    pub conditions: Vec<Conditions>,
    /// The code of the placements, in the order of the roll's kinds.
    pub places: Vec<(SiteId, HandlerCode)>,
    /// Which pairs of kinds notice touch.
    pub notices: Notices,
    /// By kind and variable name: first word of the variable.
    pub var_words: Vec<Vec<Option<u16>>>,
    /// By kind: the word that stands for it, which is its place by name. Words do not depend on the order
    /// of the text.
    pub kind_words: Vec<u32>,
    /// The kinds, by the word that stands for each.
    pub by_word: Vec<KindId>,
    /// Several kinds of which the most that ever lived together are asked for.
    pub peaks: Vec<Vec<KindId>>,
    /// Names of the states, for events.
    pub state_words: Vec<Arc<str>>,
}

/// The conditions of one expectation.
#[derive(Clone, Debug, Default)]
pub struct Conditions {
    /// What must hold.
    pub holds: Option<Code>,
    /// The event that is a condition turning true.
    pub event: Option<Code>,
    /// What must hold of each it is about.
    pub those: Option<Code>,
    /// What must hold, taken apart.
    pub parts: Option<Part>,
}
