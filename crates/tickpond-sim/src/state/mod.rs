//! All that a run is at the end of a tick. Cloning it is saving it; nothing else is needed to go on.

mod birth;
mod bits;
mod canon;
mod chains;
mod clock;
mod column;
mod columns;
mod contacts;
mod digest;
mod fields;
mod lazy;
mod letters;
mod passing;
pub(crate) mod requests;
mod roll;
pub(crate) mod slots;
mod solids;
mod totals;

pub(crate) use birth::Birth;
pub use birth::{BY_HAND, BirthExtras, BirthRequest, FilterRequest, PlaceRequest};
pub use bits::{Bits, HeldAt};
pub(crate) use canon::Canon;
pub(crate) use chains::Chains;
pub use clock::Clock;
pub use columns::{Columns, NO_STATE, STRETCH, TrackColumns};
pub use contacts::{Contact, Touching};
use fields::Opening;
pub use fields::State;
pub use lazy::Lazy;
pub use letters::{Letter, Letters, Run as LetterRun, To};
pub use passing::Passing;
pub use requests::{
    ActiveRequest, AttachRequest, Attachment, EndRequest, HealthRequest, PushRequest, Trace, Wait,
};
pub use roll::Key;
pub use slots::{EntityId, Slots};
pub use solids::Solids;
pub use totals::{InputState, MailTotals, TallyKey, Totals, Wave};

use tickpond_lang::program::{KindId, POND, Program};

use crate::event::Who;

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
