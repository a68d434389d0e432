//! What the handlers of a phase want: carried out when the phase closes.

use tickpond_lang::program::{InState, KindId, SiteId};

use super::overlay::Overlay;
use crate::code::op::Slot;
use crate::event::{Event, Guard, Who};
use crate::state::{
    ActiveRequest, AttachRequest, BirthRequest, EndRequest, HealthRequest, Letters, PushRequest,
    Trace, Wait,
};

/// Writes of the lanes of a block to one of their own fields.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Writes {
    /// Their kind.
    pub kind: KindId,
    /// The handler's place in the roll of its kind.
    pub handler: u32,
    /// Which firing of that handler.
    pub round: u32,
    /// The field.
    pub slot: Slot,
    /// Whether the values are added.
    pub adds: bool,
    /// The line.
    pub site: SiteId,
    /// The first row, if the rows follow one another; else they are listed.
    pub first: Option<u32>,
    /// How many values there are: of one word each, or two.
    pub count: usize,
    /// How many of them were asked for; the others add nothing.
    pub asked: usize,
    /// Where the rows are in [`Outbox::write_rows`].
    pub rows_from: usize,
    /// Where the values are in [`Outbox::write_words`]: all first words, then all second ones.
    pub words_from: usize,
}

/// A change of state.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Become {
    /// Its kind.
    pub kind: KindId,
    /// Its row.
    pub row: u32,
    /// The handler's place in the roll of its kind.
    pub handler: u32,
    /// Which firing of that handler, and which request of that firing.
    pub nth: (u32, u32),
    /// The new state.
    pub state: InState,
    /// The tick it ends in; [`crate::state::NEVER`] for one that is not timed.
    pub until: u64,
    /// The line.
    pub site: SiteId,
}

/// A write of a number that is none.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Unfinite {
    /// Its place among the writes of a phase: whether it adds, kind, handler and round.
    pub place: (bool, KindId, u32, u32),
    /// The line.
    pub site: SiteId,
    /// Whose it was.
    pub who: Option<Who>,
}

/// What the handlers of a phase want.
#[derive(Default)]
pub struct Outbox {
    /// Writes, in the order they were made.
    pub writes: Vec<Writes>,
    /// Rows of writes.
    pub write_rows: Vec<u32>,
    /// Values of writes.
    pub write_words: Vec<u64>,
    /// Births, their luck not yet drawn: see [`BirthRequest::luck`].
    pub births: Vec<BirthRequest>,
    /// Damage and healing.
    pub health: Vec<HealthRequest>,
    /// Ends.
    pub ends: Vec<EndRequest>,
    /// Letters.
    pub letters: Letters,
    /// Changes of state.
    pub becomes: Vec<Become>,
    /// Pushes.
    pub pushes: Vec<PushRequest>,
    /// Activations.
    pub activations: Vec<ActiveRequest>,
    /// Attachments.
    pub attaching: Vec<AttachRequest>,
    /// Rays to be shown.
    pub traces: Vec<(crate::state::Key, Trace)>,
    /// Handlers that wait.
    pub waits: Vec<Wait>,
    /// What is said or goes wrong, with its place in the roll.
    pub events: Vec<(crate::state::Key, Event)>,
    /// How often each site fired.
    pub fired: Vec<u64>,
    /// Writes that wait for the close while those of a handler take hold at once: see
    /// [`Outbox::set_aside`].
    aside: (Vec<Writes>, Vec<u32>, Vec<u64>),
    /// How many writes have taken hold already, in this phase and all before it.
    pub taken: usize,
    /// The first write of a number that is none.
    pub unfinite: Option<Unfinite>,
    /// A guard that was reached.
    pub stopped: Option<(Guard, Option<SiteId>)>,
    /// Which firing of one handler and entity in this phase is running, from 0.
    pub round: u32,
    /// The last statement, for guards.
    pub last_site: Option<SiteId>,
    /// What earlier firings of the running handler made of the kept words: by row.
    pub overlay: Overlay,
}

impl Outbox {
    /// An outbox for a program with so many sites.
    pub fn new(sites: usize) -> Outbox {
        Outbox { fired: vec![0; sites], ..Outbox::default() }
    }

    /// Takes over what another has gathered, behind one's own. The other is empty afterwards.
    pub fn append(&mut self, other: &mut Outbox) {
        let (rows, words) = (self.write_rows.len(), self.write_words.len());
        self.writes.extend(other.writes.drain(..).map(|w| Writes {
            rows_from: w.rows_from + rows,
            words_from: w.words_from + words,
            ..w
        }));
        self.write_rows.append(&mut other.write_rows);
        self.write_words.append(&mut other.write_words);
        self.births.append(&mut other.births);
        self.health.append(&mut other.health);
        self.ends.append(&mut other.ends);
        self.letters.append(&mut other.letters);
        self.becomes.append(&mut other.becomes);
        self.pushes.append(&mut other.pushes);
        self.activations.append(&mut other.activations);
        self.attaching.append(&mut other.attaching);
        self.traces.append(&mut other.traces);
        self.waits.append(&mut other.waits);
        self.events.append(&mut other.events);
        for (mine, theirs) in self.fired.iter_mut().zip(&mut other.fired) {
            *mine += std::mem::take(theirs);
        }
        if let Some((guard, site)) = other.stopped.take() {
            self.stop(guard, site);
        }
        self.last_site = other.last_site.take().or(self.last_site);
    }

    /// Puts the writes so far aside, or brings them back, when none have been made since: between the
    /// two a handler's own writes can take hold without those of others.
    pub fn set_aside(&mut self) {
        std::mem::swap(&mut self.writes, &mut self.aside.0);
        std::mem::swap(&mut self.write_rows, &mut self.aside.1);
        std::mem::swap(&mut self.write_words, &mut self.aside.2);
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
