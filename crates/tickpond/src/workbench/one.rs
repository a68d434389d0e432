//! An entity by its name, which is what a person selects: the name outlives an edit and a run made again, a place
//! among the living does not.

use std::sync::Arc;

use tickpond_lab::cast::Cast;
use tickpond_lang::program::KindId;
use tickpond_sim::Who;

/// An entity's name: its kind and its number among it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct One {
    kind: Arc<str>,
    number: u32,
}

impl One {
    /// The name of one of a cast's kinds; `None` for the pond and what the cast does not know.
    pub fn of(cast: &Cast, who: Who) -> Option<One> {
        let kind = cast.kinds.get(who.kind.index()).filter(|_| who.kind.index() > 0)?;
        Some(One { kind: kind.name.as_str().into(), number: who.number })
    }

    /// Its kind in a cast, if there is one of this name.
    pub fn kind_in(&self, cast: &Cast) -> Option<KindId> {
        cast.kind_named(&self.kind).filter(|kind| kind.index() > 0)
    }

    /// Its number among its kind.
    pub fn number(&self) -> u32 {
        self.number
    }

    /// Whether somebody of a cast's kinds has this name.
    pub fn is(&self, cast: &Cast, who: Who) -> bool {
        who.number == self.number
            && cast.kinds.get(who.kind.index()).is_some_and(|kind| *kind.name == *self.kind)
    }

    /// As it is written: `midge#3`.
    pub fn name(&self) -> String {
        format!("{}#{}", self.kind, self.number)
    }
}
