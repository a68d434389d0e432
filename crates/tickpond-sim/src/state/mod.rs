//! All that a run is at the end of a tick. Cloning it is saving it; nothing else is needed to go on.

mod bits;
mod canon;
mod column;
mod columns;
mod digest;
mod lazy;
mod letters;
mod passing;
pub(crate) mod requests;
pub(crate) mod slots;
mod solids;

use std::collections::BTreeMap;
use std::sync::Arc;

pub use bits::Bits;
pub(crate) use canon::Canon;
pub use columns::{Columns, NEVER, NO_STATE, STRETCH, TrackColumns, UNSET};
pub use lazy::Lazy;
pub use letters::{Letter, Letters, Run as LetterRun, To};
pub use passing::Passing;
pub(crate) use requests::Birth;
pub use requests::{
    ActiveRequest, AttachRequest, Attachment, BY_HAND, BirthExtras, BirthRequest, Contact,
    EndRequest, FilterRequest, HealthRequest, Key, PlaceRequest, PushRequest, Touching, Trace,
    Wait,
};
pub use slots::{EntityId, Slots};
pub use solids::Solids;

use tickpond_lang::program::{Cause, KindId, POND, Program};

use crate::event::{Stopped, Who};

/// The state of a run at the end of a tick.
#[derive(Debug, PartialEq)]
pub struct State {
    /// The tick that has just been played; 0 is the opening.
    pub tick: u64,
    /// The seed of all chance.
    pub seed: u64,
    /// Values of the knobs in base units.
    pub knobs: Vec<f64>,
    /// The entities, kind by kind, in the order of the program's kinds.
    pub kinds: Vec<Columns>,
    /// From identity to kind and row.
    pub slots: Slots,
    /// How many were ever born, the pond among them.
    pub born_in_all: u64,
    /// Births asked for and not yet due.
    pub births: Vec<BirthRequest>,
    /// Letters not yet delivered.
    pub letters: Letters,
    /// Damage and healing not yet settled.
    pub health: Vec<HealthRequest>,
    /// Ends not yet carried out.
    pub ends: Vec<EndRequest>,
    /// Pushes not yet carried out.
    pub pushes: Vec<PushRequest>,
    /// Activations not yet settled.
    pub activations: Vec<ActiveRequest>,
    /// Attachments not yet made.
    pub attaching: Vec<AttachRequest>,
    /// Who hangs on whom.
    pub attached: BTreeMap<EntityId, Attachment>,
    /// Rays that are shown.
    pub traces: Vec<Trace>,
    /// The middle of the view.
    pub view: (f64, f64),
    /// The solver's bodies; none in a pond without solid kinds.
    pub solids: Option<Box<Solids>>,
    /// Ends by kind, cause, words and the kind that did it; kept if an expectation or a watch asks.
    pub tally: BTreeMap<TallyKey, u64>,
    /// Handlers that wait.
    pub waits: Vec<Wait>,
    /// Who touches whom, ascending.
    pub contacts: Vec<Contact>,
    /// When `while touching` is due, for each handler and pair that touches.
    pub touching: BTreeMap<Touching, u64>,
    /// Most that ever lived of several kinds together, of those a program asks for: the kinds, ascending.
    pub peaks: Vec<(Vec<KindId>, u64)>,
    /// The order the digest goes in.
    pub(crate) canon: Arc<Canon>,
    /// Waves with members alive or unborn.
    pub waves: BTreeMap<u64, Wave>,
    /// Labels by identity.
    pub labels: BTreeMap<EntityId, Arc<str>>,
    /// The keys.
    pub input: InputState,
    /// Totals by kind.
    pub totals: Vec<Totals>,
    /// Totals by message.
    pub mail_totals: Vec<MailTotals>,
    /// How often each site fired. Not part of the digest: it can be remade from the run.
    pub fired: Vec<u64>,
    /// Why the run paused by itself, if it did.
    pub stopped: Option<Stopped>,
}

/// A copy into memory that is there already costs a good deal less than one into new.
impl Clone for State {
    fn clone(&self) -> State {
        State {
            tick: self.tick,
            seed: self.seed,
            knobs: self.knobs.clone(),
            kinds: self.kinds.clone(),
            slots: self.slots.clone(),
            born_in_all: self.born_in_all,
            births: self.births.clone(),
            letters: self.letters.clone(),
            health: self.health.clone(),
            ends: self.ends.clone(),
            pushes: self.pushes.clone(),
            activations: self.activations.clone(),
            attaching: self.attaching.clone(),
            attached: self.attached.clone(),
            traces: self.traces.clone(),
            view: self.view,
            solids: self.solids.clone(),
            tally: self.tally.clone(),
            waits: self.waits.clone(),
            contacts: self.contacts.clone(),
            touching: self.touching.clone(),
            peaks: self.peaks.clone(),
            canon: self.canon.clone(),
            waves: self.waves.clone(),
            labels: self.labels.clone(),
            input: self.input.clone(),
            totals: self.totals.clone(),
            mail_totals: self.mail_totals.clone(),
            fired: self.fired.clone(),
            stopped: self.stopped.clone(),
        }
    }

    fn clone_from(&mut self, other: &State) {
        let State {
            tick,
            seed,
            knobs,
            kinds,
            slots,
            born_in_all,
            births,
            letters,
            health,
            ends,
            pushes,
            activations,
            attaching,
            attached,
            traces,
            view,
            solids,
            tally,
            waits,
            contacts,
            touching,
            peaks,
            canon,
            waves,
            labels,
            input,
            totals,
            mail_totals,
            fired,
            stopped,
        } = other;
        self.tick = *tick;
        self.seed = *seed;
        self.knobs.clone_from(knobs);
        self.kinds.clone_from(kinds);
        self.slots.clone_from(slots);
        self.born_in_all = *born_in_all;
        self.births.clone_from(births);
        self.letters.clone_from(letters);
        self.health.clone_from(health);
        self.ends.clone_from(ends);
        self.pushes.clone_from(pushes);
        self.activations.clone_from(activations);
        self.attaching.clone_from(attaching);
        self.attached.clone_from(attached);
        self.traces.clone_from(traces);
        self.view = *view;
        self.solids.clone_from(solids);
        self.tally.clone_from(tally);
        self.waits.clone_from(waits);
        self.contacts.clone_from(contacts);
        self.touching.clone_from(touching);
        self.peaks.clone_from(peaks);
        self.canon.clone_from(canon);
        self.waves.clone_from(waves);
        self.labels.clone_from(labels);
        self.input.clone_from(input);
        self.totals.clone_from(totals);
        self.mail_totals.clone_from(mail_totals);
        self.fired.clone_from(fired);
        self.stopped.clone_from(stopped);
    }
}

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

impl State {
    /// The empty state before tick 0: nothing but the pond itself.
    pub(crate) fn empty(program: &Program, widths: &[columns::Widths], seed: u64) -> State {
        let arena = &program.arena;
        let middle = ((arena.low.0 + arena.high.0) / 2.0, (arena.low.1 + arena.high.1) / 2.0);
        let mut state = State {
            tick: 0,
            seed,
            knobs: program.knobs.iter().map(|k| k.value).collect(),
            kinds: widths.iter().map(Columns::new).collect(),
            slots: Slots::default(),
            born_in_all: 0,
            births: Vec::new(),
            letters: Letters::default(),
            health: Vec::new(),
            ends: Vec::new(),
            pushes: Vec::new(),
            activations: Vec::new(),
            attaching: Vec::new(),
            attached: BTreeMap::new(),
            traces: Vec::new(),
            view: program.view.map_or(middle, |view| view.at),
            solids: Solids::for_program(program),
            tally: BTreeMap::new(),
            waits: Vec::new(),
            contacts: Vec::new(),
            touching: BTreeMap::new(),
            peaks: Vec::new(),
            canon: Arc::new(Canon::of(program)),
            waves: BTreeMap::new(),
            labels: BTreeMap::new(),
            input: InputState { places: vec![middle; program.inputs.len()], ..Default::default() },
            totals: vec![Totals::default(); program.kinds.len()],
            mail_totals: vec![MailTotals::default(); program.messages.len()],
            fired: vec![0; program.sites.len()],
            stopped: None,
        };
        state.add_rows(POND, 1, EntityId::NONE);
        state.kinds[POND.index()].luck[0] = crate::luck::hash(&[seed]);
        state
    }

    /// New rows for members of `kind`, all values at their defaults; gives the first.
    pub(crate) fn add_rows(&mut self, kind: KindId, count: usize, maker: EntityId) -> usize {
        let (columns, totals) = (&mut self.kinds[kind.index()], &mut self.totals[kind.index()]);
        let first = columns.len();
        columns.extend(count, (self.born_in_all, totals.born as u32 + 1), (self.tick, maker));
        for row in first..first + count {
            columns.id[row] = self.slots.take(kind, columns.place_of(row));
        }
        totals.born += count as u64;
        self.born_in_all += count as u64;
        first
    }

    /// Kind and row of a living entity.
    pub fn find(&self, id: EntityId) -> Option<(KindId, usize)> {
        let (kind, place) = self.slots.find(id)?;
        Some((kind, self.kinds[kind.index()].row_at(place)))
    }

    /// The row a place of a kind is in: see [`Letters::stands`].
    pub(crate) fn row_at(&self, kind: KindId, place: u32) -> usize {
        self.kinds[kind.index()].row_at(place)
    }

    /// The entity as events name it.
    pub fn who(&self, id: EntityId) -> Option<Who> {
        let (kind, row) = self.find(id)?;
        Some(self.who_at(kind, row))
    }

    /// The entity in a row as events name it.
    pub fn who_at(&self, kind: KindId, row: usize) -> Who {
        let columns = &self.kinds[kind.index()];
        Who { kind, number: columns.number[row], id: columns.id[row] }
    }

    /// The pond as events name it.
    pub fn pond(&self) -> Who {
        self.who_at(POND, 0)
    }

    /// How many of a kind live, those ending in this very phase left out.
    pub fn count(&self, kind: KindId) -> usize {
        let columns = &self.kinds[kind.index()];
        columns.len() - columns.ending_count
    }

    /// About how many bytes a copy takes, without the little things that do not grow with the crowd.
    pub fn bytes(&self) -> usize {
        let entities: usize = self.kinds.iter().map(Columns::bytes).sum();
        let requests = size_of_val(&self.births[..])
            + self.letters.bytes()
            + size_of_val(&self.waits[..])
            + size_of_val(&self.contacts[..])
            + self.touching.len() * size_of::<(Touching, u64)>() * 2
            + self.attached.len() * size_of::<(EntityId, Attachment)>() * 2
            + self.labels.len() * 64
            + size_of_val(&self.health[..])
            + size_of_val(&self.ends[..])
            + size_of_val(&self.pushes[..]);
        let solids = self.solids.as_ref().map_or(0, |solids| solids.bytes());
        entities + self.slots.bytes() + requests + solids + size_of_val(&self.fired[..]) + 4096
    }

    /// How many of a kind are in a state of a track.
    pub fn in_state(&self, kind: KindId, track: usize, state: u64) -> usize {
        let columns = &self.kinds[kind.index()];
        columns.tracks.get(track).map_or(0, |t| t.now.iter().filter(|s| **s == state).count())
    }

    /// How many entities live, spawners among them, the pond left out.
    pub fn live(&self) -> usize {
        self.kinds.iter().skip(1).map(Columns::len).sum()
    }
}

pub(crate) use columns::Widths;
