//! What the handlers of a phase want: carried out when the phase closes.

use std::sync::Arc;

use tickpond_lang::program::{KindId, SiteId};

use crate::code::op::Slot;
use crate::event::{Event, Guard};
use crate::state::{BirthRequest, EndRequest, HealthRequest, Letter, Wait};

/// A write of an entity to its own field.
#[derive(Clone, Debug, PartialEq)]
pub struct Write {
    /// Its kind.
    pub kind: KindId,
    /// Its row.
    pub row: u32,
    /// The handler's place in the roll of its kind.
    pub handler: u32,
    /// Which firing of that handler, and which write of that firing.
    pub nth: (u32, u32),
    /// The field.
    pub slot: Slot,
    /// The value, or what is added.
    pub words: [u64; 2],
    /// Whether it is added.
    pub adds: bool,
    /// The line.
    pub site: SiteId,
}

/// What the handlers of a phase want.
#[derive(Default)]
pub struct Outbox {
    /// Writes.
    pub writes: Vec<Write>,
    /// Births, their luck not yet drawn: see [`BirthRequest::luck`].
    pub births: Vec<BirthRequest>,
    /// Damage and healing.
    pub health: Vec<HealthRequest>,
    /// Ends.
    pub ends: Vec<EndRequest>,
    /// Letters.
    pub letters: Vec<Letter>,
    /// Handlers that wait.
    pub waits: Vec<Wait>,
    /// What is said or goes wrong, with its place in the roll.
    pub events: Vec<(crate::state::Key, Event)>,
    /// How often each site fired.
    pub fired: Vec<u64>,
    /// A guard that was reached.
    pub stopped: Option<(Guard, Option<SiteId>)>,
    /// Which firing of one handler and entity in this phase is running, from 0.
    pub round: u32,
    /// The last statement, for guards.
    pub last_site: Option<SiteId>,
    /// What earlier firings of the running handler made of the kept words: by row.
    pub overlay: std::collections::HashMap<u32, Arc<[u64]>>,
}

impl Outbox {
    /// An outbox for a program with so many sites.
    pub fn new(sites: usize) -> Outbox {
        Outbox { fired: vec![0; sites], ..Outbox::default() }
    }

    /// Counts firings.
    pub fn fire(&mut self, site: SiteId, times: u64) {
        self.fired[site.index()] += times;
    }

    /// Notes that a guard was reached; the first of a tick counts.
    pub fn stop(&mut self, guard: Guard, site: Option<SiteId>) {
        self.stopped.get_or_insert((guard, site));
    }
}
