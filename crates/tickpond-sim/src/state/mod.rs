//! All that a run is at the end of a tick. Cloning it is saving it; nothing else is needed to go on.

mod bits;
mod canon;
mod clock;
mod column;
mod columns;
mod digest;
mod fields;
mod lazy;
mod letters;
mod passing;
pub(crate) mod requests;
pub(crate) mod slots;
mod solids;

use std::sync::Arc;

pub use bits::Bits;
pub(crate) use canon::Canon;
pub use clock::Clock;
pub use columns::{Columns, NO_STATE, STRETCH, TrackColumns};
use fields::Opening;
pub use fields::State;
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

use crate::event::Who;

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
        let mut state = State::unborn(&Opening { program, widths, seed, middle });
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
