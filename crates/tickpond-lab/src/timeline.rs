//! What views ask of something that happened over time, whoever made it happen.
//!
//! A [`Run`] is one: it plays ponds, and knows its states. A recording can be one with a record, events and a
//! cast alone. What only a run can tell is asked of it by [`Timeline::as_run`].

use std::collections::BTreeMap;
use std::sync::Arc;

use tickpond_lang::program::{KindId, MessageId, SiteId};
use tickpond_sim::{Event, Who};

use crate::cast::Cast;
use crate::input::Input;
use crate::past::Past;
use crate::record::Record;
use crate::run::Run;

/// Someone alive at the present tick.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Alive {
    /// Who.
    pub who: Who,
    /// The tick of its birth.
    pub born: u64,
    /// Its age in ticks; it stands still while it is inactive.
    pub age: u64,
}

/// Something that happened over time, and a place in it.
pub trait Timeline {
    /// The present tick.
    fn tick(&self) -> u64;

    /// The last tick there is.
    fn head(&self) -> u64;

    /// The cast of a tick: its events speak of these kinds.
    fn cast_at(&self, tick: u64) -> &Arc<Cast>;

    /// Counts over all ticks, and events as far back as they are kept.
    fn record(&self) -> &Record;

    /// The events up to the present tick, as far back as they are kept or have been made again.
    fn events(&self) -> &[Event];

    /// Those alive at the present tick, kind by kind, the eldest first.
    fn alive(&self) -> Vec<Alive>;

    /// Tells apart what may still hold from what holds no more: as long as it stays, events are only added
    /// to the record.
    fn edition(&self) -> (u64, u64);

    /// The line, from 1, of what an event of a tick came from, if there is one.
    fn line_of(&self, tick: u64, site: SiteId) -> Option<u32>;

    /// The name of a message that an event of a tick speaks of.
    fn message_at(&self, tick: u64, message: MessageId) -> &str;

    /// Names and values of someone alive, as people read them.
    fn values_of(&self, who: Who) -> Vec<(String, String)>;

    /// What the player did, by the tick before which it came.
    fn input(&self) -> &BTreeMap<u64, Vec<Input>>;

    /// Those it can be compared with, the oldest first.
    fn pasts(&self) -> &[Past];

    /// The first ticks of what an edit changed.
    fn edits(&self) -> Vec<u64>;

    /// The run it is, if it is one.
    fn as_run(&mut self) -> Option<&mut Run> {
        None
    }

    /// The cast of the present tick.
    fn cast(&self) -> &Arc<Cast> {
        self.cast_at(self.tick())
    }

    /// The one before, to compare it with.
    fn past(&self) -> Option<&Past> {
        self.pasts().last()
    }

    /// Someone alive with this kind and number.
    fn find(&self, kind: KindId, number: u32) -> Option<Who> {
        let mut alive = self.alive().into_iter().map(|alive| alive.who);
        alive.find(|who| who.kind == kind && who.number == number)
    }
}
