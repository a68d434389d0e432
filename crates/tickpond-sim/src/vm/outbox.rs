//! The outbox: what the handlers of a phase ask for. It is carried out when the phase closes.

use std::collections::BTreeMap;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use tickpond_lang::Span;
use tickpond_lang::program::{InState, KindId, Limits, SiteId};

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
    /// When it ends; never for one that is not timed.
    pub until: crate::state::Clock,
    /// The line.
    pub site: SiteId,
}

/// A firing that a guard ended.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fault {
    /// Which guard.
    pub guard: Guard,
    /// Its place in a phase: whether it is an addition that came to no number, kind, handler, round, and how
    /// many were born before the one whose firing it is. The first counts, whoever found it.
    pub place: (bool, KindId, u32, u32, u64),
    /// The line.
    pub site: Option<SiteId>,
    /// Whose it was.
    pub who: Option<Who>,
    /// Where, if it is on no line that is counted.
    pub span: Option<Span>,
    /// How often that line ran in the firing.
    pub times: u64,
}

/// Something that is counted in a tick, in all and by line.
#[derive(Default)]
struct Tally {
    sum: u64,
    lines: Vec<u64>,
}

impl Tally {
    fn new(sites: usize) -> Tally {
        Tally { sum: 0, lines: vec![0; sites] }
    }

    fn add(&mut self, count: u64, site: SiteId) {
        self.sum += count;
        self.lines[site.index()] += count;
    }

    fn clear(&mut self) {
        if std::mem::take(&mut self.sum) > 0 {
            self.lines.fill(0);
        }
    }

    /// Takes over what another has counted; it has nothing then.
    fn append(&mut self, other: &mut Tally) {
        if std::mem::take(&mut other.sum) > 0 {
            for (mine, theirs) in self.lines.iter_mut().zip(&mut other.lines) {
                self.sum += *theirs;
                *mine += std::mem::take(theirs);
            }
        }
    }

    fn each_line(&self, count: &mut impl FnMut(SiteId, u64)) {
        let counted = self.lines.iter().enumerate().filter(|(_, count)| **count > 0);
        counted.for_each(|(site, times)| count(SiteId(site as u32), *times));
    }
}

/// What has been spent of the limits of a tick.
#[derive(Default)]
struct Spent {
    /// Steps of all firings.
    steps: Tally,
    /// Bytes of text.
    text: Tally,
    /// How many were looked at by questions.
    looks: Tally,
    /// The same, by question, for those whose answer is worked out once for all askers of a phase: the line, and how many.
    shared: BTreeMap<u32, (SiteId, u64)>,
    /// Requests that have been handed on.
    requests: u64,
    /// Letters, one for each addressee.
    letters: u64,
}

impl Spent {
    fn new(sites: usize) -> Spent {
        let [steps, text, looks] = [(); 3].map(|()| Tally::new(sites));
        Spent { steps, text, looks, ..Spent::default() }
    }

    fn looks(&self) -> u64 {
        self.looks.sum + self.shared.values().map(|(_, looks)| looks).sum::<u64>()
    }
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
    /// The first firing of the phase that a guard ended.
    pub fault: Option<Fault>,
    /// What the tick has spent.
    spent: Spent,
    /// Whether looks are counted by whoever has something worked out.
    counts_otherwise: bool,
    /// The limit of the tick that was gone over; all that a phase asks for is given up then.
    over: Option<Guard>,
    /// Somebody else's wish to end the tick.
    pub stop: Option<Arc<AtomicBool>>,
    /// Which firing of one handler and entity in this phase is running, from 0.
    pub round: u32,
    /// The last statement, for guards.
    pub last_site: Option<SiteId>,
    /// What earlier firings of the running handler made of the kept words: by row.
    pub overlay: Overlay,
    /// Blocks for questions about others, kept for their memory.
    pub spare_blocks: Vec<super::block::Block>,
    /// Lists of rows, kept for their memory.
    pub spare_rows: Vec<Vec<u32>>,
}

impl Outbox {
    /// An outbox for a program with so many sites.
    pub fn new(sites: usize) -> Outbox {
        Outbox { fired: vec![0; sites], spent: Spent::new(sites), ..Outbox::default() }
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
        if let Some(fault) = other.fault.take() {
            self.fault(fault);
        }
        let theirs = &mut other.spent;
        self.spent.steps.append(&mut theirs.steps);
        self.spent.text.append(&mut theirs.text);
        self.spent.looks.append(&mut theirs.looks);
        // What several asked at once counts once.
        for (query, (site, looks)) in std::mem::take(&mut theirs.shared) {
            self.spent.shared.entry(query).or_insert((site, looks));
        }
        self.spent.letters += std::mem::take(&mut theirs.letters);
        theirs.requests = 0;
        self.over = self.over.or(other.over.take());
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

    /// Notes a firing that a guard ended; the first in the roll counts.
    pub fn fault(&mut self, fault: Fault) {
        if self.fault.is_none_or(|first| fault.place < first.place) {
            self.fault = Some(fault);
        }
    }

    // The limits of a tick.

    /// Begins a tick: nothing of it is spent.
    pub fn begin_tick(&mut self) {
        let Spent { steps, text, looks, shared, requests, letters } = &mut self.spent;
        [steps, text, looks].into_iter().for_each(Tally::clear);
        shared.clear();
        (*requests, *letters) = (0, 0);
        self.over = None;
    }

    /// Counts steps of a loop.
    pub fn spend_steps(&mut self, steps: u64, site: SiteId) {
        self.spent.steps.add(steps, site);
    }

    /// Counts bytes of a text on the running line.
    pub fn spend_text(&mut self, bytes: usize) {
        self.spent.text.add(bytes as u64, self.last_site.unwrap_or(SiteId(0)));
    }

    /// Counts looks of a question on the running line.
    pub fn spend_looks(&mut self, looks: usize) {
        if self.counts_otherwise {
            return;
        }
        self.spent.looks.add(looks as u64, self.last_site.unwrap_or(SiteId(0)));
    }

    /// Counts looks of a question whose answer all askers of a phase share: once for the phase, on the line that asked first.
    pub fn share_looks(&mut self, query: u32, looks: usize) {
        let site = self.last_site.unwrap_or(SiteId(0));
        self.spent.shared.entry(query).or_insert((site, looks as u64));
    }

    /// Has something worked out whose looks are counted otherwise.
    pub fn without_looks<T>(&mut self, work: impl FnOnce(&mut Outbox) -> T) -> T {
        let before = std::mem::replace(&mut self.counts_otherwise, true);
        let done = work(self);
        self.counts_otherwise = before;
        done
    }

    /// Counts letters, one for each addressee.
    pub fn spend_letters(&mut self, letters: u64) {
        self.spent.letters += letters;
    }

    /// Whether a limit of the tick has been gone over.
    pub fn is_over(&self) -> bool {
        self.over.is_some()
    }

    /// How many requests wait to be handed on: what takes memory until the phase closes.
    fn pending(&self) -> u64 {
        let lists = [
            self.writes.len(),
            self.births.len(),
            self.health.len(),
            self.ends.len(),
            self.becomes.len(),
            self.pushes.len(),
            self.activations.len(),
            self.attaching.len(),
            self.traces.len(),
            self.waits.len(),
            self.events.len(),
        ];
        lists.iter().sum::<usize>() as u64
    }

    /// Notes that a limit of the tick has been gone over.
    pub fn go_over(&mut self, guard: Guard) {
        self.over.get_or_insert(guard);
    }

    /// Looks whether a limit of the tick has been gone over. Which of a phase's firings finds out first does
    /// not matter: all of the phase is given up.
    pub fn look_up(&mut self, limits: &Limits) {
        if self.over.is_some() {
            return;
        }
        let spent = &self.spent;
        self.over = match () {
            () if spent.steps.sum > limits.steps_in_all => Some(Guard::StepsInAll),
            () if spent.text.sum > limits.text => Some(Guard::Text),
            () if spent.looks() > limits.looks => Some(Guard::Looks),
            () if spent.letters > limits.letters => Some(Guard::Letters),
            () if spent.requests + self.pending() > limits.requests => Some(Guard::Requests),
            () if self.stop.as_ref().is_some_and(|stop| stop.load(Ordering::Relaxed)) => {
                Some(Guard::Interrupted)
            }
            () => None,
        };
    }

    /// Notes that what was asked for is handed on.
    pub fn hand_on(&mut self) {
        self.spent.requests += self.pending() - self.writes.len() as u64;
        // In the next phase all is asked anew.
        for (site, looks) in std::mem::take(&mut self.spent.shared).into_values() {
            self.spent.looks.add(looks, site);
        }
    }

    /// Gives up all that the phase asked for, if a limit of the tick was gone over: which one, and the lines
    /// that did most of it, with how often.
    pub fn give_up(&mut self) -> Option<(Guard, Vec<(SiteId, u64)>)> {
        let guard = self.over?;
        let mut lines = BTreeMap::new();
        let mut count = |site: SiteId, times: u64| *lines.entry(site.0).or_insert(0) += times;
        match guard {
            Guard::StepsInAll => self.spent.steps.each_line(&mut count),
            Guard::Text => self.spent.text.each_line(&mut count),
            Guard::Looks => {
                self.spent.looks.each_line(&mut count);
                self.spent.shared.values().for_each(|(site, looks)| count(*site, *looks));
            }
            Guard::Letters => self.letters.count_lines(&mut count),
            _ => {
                self.writes.iter().for_each(|w| count(w.site, 1));
                self.births.iter().for_each(|b| count(b.site, 1));
                self.health.iter().for_each(|h| count(h.site, 1));
                self.ends.iter().for_each(|e| count(e.site, 1));
                self.becomes.iter().for_each(|b| count(b.site, 1));
                self.pushes.iter().for_each(|p| count(p.site, 1));
                self.activations.iter().for_each(|a| count(a.site, 1));
                self.attaching.iter().for_each(|a| count(a.site, 1));
                self.events.iter().filter_map(|(_, e)| e.site).for_each(|site| count(site, 1));
            }
        }
        let mut lines: Vec<(SiteId, u64)> =
            lines.into_iter().map(|(site, times)| (SiteId(site), times)).collect();
        lines.sort_by_key(|(site, times)| (std::cmp::Reverse(*times), site.0));
        lines.truncate(3);
        self.writes.clear();
        self.write_rows.clear();
        self.write_words.clear();
        // The memory of a storm is not worth keeping.
        self.births = Vec::new();
        self.health = Vec::new();
        self.ends = Vec::new();
        self.letters = Letters::default();
        self.becomes = Vec::new();
        self.pushes = Vec::new();
        self.activations = Vec::new();
        self.attaching = Vec::new();
        self.traces = Vec::new();
        self.waits = Vec::new();
        self.events = Vec::new();
        self.fault = None;
        Some((guard, lines))
    }
}
