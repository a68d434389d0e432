//! A trace of one tick: which handlers ran, for whom, and what they asked for.

use tickpond_lang::program::{KindId, SiteId};

use crate::event::{Phase, Who};
use crate::vm::Outbox;

/// Most of those a handler ran for that are named.
pub const MOST_NAMED: usize = 8;

/// One handler of one kind in one phase.
#[derive(Clone, Debug, PartialEq)]
pub struct Firings {
    /// The phase.
    pub phase: Phase,
    /// The kind.
    pub kind: KindId,
    /// The handler's place in the roll of its kind.
    pub handler: usize,
    /// Its line.
    pub site: SiteId,
    /// For how many it ran.
    pub count: usize,
    /// The first of them.
    pub who: Vec<Who>,
    /// What they asked for.
    pub asked: Asked,
}

/// How many requests of each sort.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Asked {
    /// Fields to be written.
    pub writes: usize,
    /// Births.
    pub births: usize,
    /// Damage and healing.
    pub damage: usize,
    /// Ends.
    pub ends: usize,
    /// Messages.
    pub letters: usize,
    /// Changes of state.
    pub states: usize,
    /// Pushes.
    pub pushes: usize,
    /// Activations and their ends.
    pub activations: usize,
    /// Attachments and their ends.
    pub attachments: usize,
    /// Handlers that wait from here on.
    pub waits: usize,
}

impl Asked {
    /// What waits in an outbox.
    pub(crate) fn of(out: &Outbox) -> Asked {
        Asked {
            writes: out.taken + out.writes.iter().map(|w| w.asked).sum::<usize>(),
            births: out.births.iter().map(|birth| birth.count as usize).sum(),
            damage: out.health.len(),
            ends: out.ends.len(),
            letters: out.letters.len(),
            states: out.becomes.len(),
            pushes: out.pushes.len(),
            activations: out.activations.len(),
            attachments: out.attaching.len(),
            waits: out.waits.len(),
        }
    }

    /// Each sort with its name.
    pub fn all(&self) -> [(&'static str, usize); 10] {
        [
            ("write", self.writes),
            ("birth", self.births),
            ("damage", self.damage),
            ("end", self.ends),
            ("message", self.letters),
            ("state", self.states),
            ("push", self.pushes),
            ("activation", self.activations),
            ("attachment", self.attachments),
            ("wait", self.waits),
        ]
    }

    /// What has come since `before`.
    pub(crate) fn since(self, before: Asked) -> Asked {
        Asked {
            writes: self.writes - before.writes,
            births: self.births - before.births,
            damage: self.damage - before.damage,
            ends: self.ends - before.ends,
            letters: self.letters - before.letters,
            states: self.states - before.states,
            pushes: self.pushes - before.pushes,
            activations: self.activations - before.activations,
            attachments: self.attachments - before.attachments,
            waits: self.waits - before.waits,
        }
    }
}
