//! The entities of one kind, a column for each value, rows in the order of birth.
//!
//! Ends close the gaps they leave, so walking the rows is walking from the oldest to the youngest,
//! which is the order of the roll.

use std::ops::Range;

use super::bits::Bits;
use super::clock::Clock;
use super::column::{Column, Gap};
use super::lazy::Lazy;
use super::passing::Passing;
use super::slots::EntityId;

/// How many columns of each sort a kind needs beside those all kinds have.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Widths {
    /// Words for variables.
    pub vars: usize,
    /// Clocks.
    pub clocks: usize,
    /// Tracks of states.
    pub tracks: usize,
    /// Words for the bits of handlers that wait for a change.
    pub words_of_bits: usize,
}

/// How many rows are moved, and looked at, together.
pub const STRETCH: usize = 256;

/// A state that is none: before the first.
pub const NO_STATE: u64 = u64::MAX;

/// One track of states of the entities of a kind.
#[derive(Debug, PartialEq, Default)]
pub struct TrackColumns {
    /// The state, by its place in the track.
    pub now: Column<u64>,
    /// The last state that was not timed.
    pub back: Column<u64>,
    /// When a timed state ends; never for one that is not timed.
    pub until: Column<Clock>,
    /// When the state was entered.
    pub since: Column<u64>,
    /// The state when `on becoming` was last looked at; [`NO_STATE`] before that.
    pub seen: Column<u64>,
}

impl Clone for TrackColumns {
    fn clone(&self) -> TrackColumns {
        let mut copy = TrackColumns::default();
        copy.clone_from(self);
        copy
    }

    fn clone_from(&mut self, other: &TrackColumns) {
        let TrackColumns { now, back, until, since, seen } = other;
        self.now.clone_from(now);
        self.back.clone_from(back);
        self.until.clone_from(until);
        self.since.clone_from(since);
        self.seen.clone_from(seen);
    }
}

impl TrackColumns {
    /// Drops rows; the others close up, in their order.
    fn close_up(&mut self, gap: Gap<'_>) {
        let TrackColumns { now, back, until, since, seen } = self;
        for column in [now, back, since, seen] {
            column.close_up(gap);
        }
        until.close_up(gap);
    }
}

macro_rules! columns {
    (
        full { $($(#[$doc:meta])* $name:ident: $ty:ty,)* }
        lazy { $($(#[$ldoc:meta])* $lname:ident: $lty:ty = $usual:expr,)* }
    ) => {
        /// The entities of one kind.
        #[derive(Debug, PartialEq)]
        pub struct Columns {
            $($(#[$doc])* pub $name: Column<$ty>,)*
            $($(#[$ldoc])* pub $lname: Lazy<$lty>,)*
            /// Variables, word by word; a pair takes two.
            pub vars: Vec<Column<u64>>,
            /// When each clock is due.
            pub clocks: Vec<Column<Clock>>,
            /// Tracks of states, in the order of the kind's.
            pub tracks: Vec<TrackColumns>,
            /// What holds of it, a bit for each handler that waits for a change: where it is, conditions.
            pub bits: Vec<Bits>,
            /// Place before this tick's move.
            pub old_x: Passing,
            /// Place before this tick's move.
            pub old_y: Passing,
            /// Where it faced before this tick's move, in deg. Noted of bodies that turn.
            pub old_heading: Passing,
            /// Whether all of a stretch of [`STRETCH`] rows are inside the arena after this tick's move. Nothing
            /// if nobody wants to know, or it is not known.
            pub inside: Passing<bool>,
            /// The furthest way along an axis of any of a stretch of [`STRETCH`] rows in this tick's move, in u.
            /// Nothing if nobody wants to know, or it is not known.
            pub farthest: Passing,
            /// How many are ending in this phase; 0 between ticks.
            pub ending_count: usize,
            /// How many are inactive.
            pub resting_count: usize,
            /// What is added to a row to give its place: that of the others stays when the first go.
            pub(super) first_place: u32,
        }

        impl Default for Columns {
            fn default() -> Columns {
                Columns {
                    $($name: Column::default(),)*
                    $($lname: Lazy::of($usual),)*
                    vars: Vec::new(),
                    clocks: Vec::new(),
                    tracks: Vec::new(),
                    old_x: Passing::default(),
                    old_y: Passing::default(),
                    old_heading: Passing::default(),
                    inside: Passing::default(),
                    farthest: Passing::default(),
                    bits: Vec::new(),
                    ending_count: 0,
                    resting_count: 0,
                    first_place: 0,
                }
            }
        }

        /// Copied into memory that is there already a crowd costs a good deal less.
        impl Clone for Columns {
            fn clone(&self) -> Columns {
                let mut copy = Columns::default();
                copy.clone_from(self);
                copy
            }

            fn clone_from(&mut self, other: &Columns) {
                // What holds within a tick only is left out.
                let Columns {
                    $($name,)* $($lname,)* vars, clocks, tracks, bits, old_x: _, old_y: _,
                    old_heading: _, inside: _, farthest: _, ending_count, resting_count, first_place,
                } = other;
                $(self.$name.clone_from($name);)*
                $(self.$lname.clone_from($lname);)*
                self.vars.clone_from(vars);
                self.clocks.clone_from(clocks);
                self.tracks.clone_from(tracks);
                self.bits.clone_from(bits);
                (self.ending_count, self.resting_count) = (*ending_count, *resting_count);
                self.first_place = *first_place;
            }
        }

        impl Columns {
            /// A usual value for so many more rows in each lazy column.
            fn extend_usual(&mut self, count: usize) {
                $(self.$lname.extend_usual(count);)*
                self.bits.iter_mut().for_each(|bits| bits.extend(count));
            }

            /// How many bytes a copy takes: columns that are not stored take none.
            pub(super) fn bytes(&self) -> usize {
                let mut bytes = 0;
                $(bytes += size_of_val(&self.$name[..]);)*
                $(bytes += self.$lname.stored().map_or(0, |values| size_of_val(values));)*
                let bits = self.bits.iter().filter_map(Bits::stored);
                bytes += bits.map(|values| size_of_val(values)).sum::<usize>();
                let words = self.vars.len() + self.clocks.len() + self.tracks.len() * 5;
                bytes + words * self.len() * size_of::<u64>()
            }

            /// Drops rows; the others close up, in their order.
            fn drop_rows(&mut self, gap: Gap<'_>) {
                $(self.$name.close_up(gap);)*
                $(self.$lname.close_up(gap);)*
                self.bits.iter_mut().for_each(|bits| bits.close_up(gap));
                self.vars.iter_mut().for_each(|column| column.close_up(gap));
                self.clocks.iter_mut().for_each(|column| column.close_up(gap));
                self.tracks.iter_mut().for_each(|track| track.close_up(gap));
            }
        }
    };
}

columns! {
full {
    /// Identity.
    id: EntityId,
    /// How many were born before it in the run.
    serial: u64,
    /// Number among its kind, from 1.
    number: u32,
    /// What its chance is drawn from.
    luck: u64,
    /// Tick of its birth.
    born: u64,
    /// Place in u.
    x: f64,
    /// Place in u.
    y: f64,
    /// Velocity in u/s.
    vx: f64,
    /// Velocity in u/s.
    vy: f64,
    /// Where it faces, in deg, `0.0..360.0`.
    heading: f64,
}
lazy {
    /// Who spawned it: one and the same made all of many a kind.
    maker: EntityId = EntityId::NONE,
    /// The request it was born of: those of one request are siblings.
    batch: u64 = 0,
    /// The request it is the first of, if somebody waited for that; else 0.
    first: u64 = 0,
    /// The wave it belongs to; 0 if none.
    wave: u64 = 0,
    /// How fast it turns, in deg/s.
    spin: f64 = 0.0,
    /// Health; 0 for kinds without.
    health: f64 = 0.0,
    /// When it was put to rest; never while it is active.
    rests_since: Clock = Clock::NEVER,
    /// How many ticks it has been inactive.
    slept: u64 = 0,
    /// Whether its health came to 0 and it stays.
    down: bool = false,
    /// How many ticks it has lain still; kept for solids.
    still: u32 = 0,
    /// Whether it ends in this phase.
    ending: bool = false,
    /// How many it has made that still live or are asked for; kept for spawners.
    made_open: u32 = 0,
    /// How many it has made in all; kept for spawners.
    made_in_all: u32 = 0,
    /// When the last it made ended; kept for spawners.
    made_ended: u64 = 0,
}
}

impl Columns {
    pub(crate) fn new(widths: &Widths) -> Columns {
        Columns {
            vars: vec![Column::default(); widths.vars],
            clocks: vec![Column::default(); widths.clocks],
            tracks: vec![TrackColumns::default(); widths.tracks],
            bits: vec![Bits::default(); widths.words_of_bits],
            ..Columns::default()
        }
    }

    /// How many rows there are, those that end in this phase included.
    pub fn len(&self) -> usize {
        self.id.len()
    }

    /// Whether the entity in a row takes part.
    pub fn is_active(&self, row: usize) -> bool {
        self.rests_since[row] == Clock::NEVER
    }

    /// The first tick in which the entity in a row could touch another: that of its birth, tick 1 for what is
    /// placed, the one after it woke for what was born inactive.
    pub fn first_tick(&self, row: usize) -> u64 {
        match self.slept[row] {
            0 => self.born[row].max(1),
            slept => self.born[row] + slept + 1,
        }
    }

    /// The age in ticks of the entity in a row; it stands still while it is inactive.
    pub fn age(&self, row: usize, tick: u64) -> u64 {
        let now = self.rests_since[row].or_before(tick);
        now.saturating_sub(self.born[row] + self.slept[row])
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.id.is_empty()
    }

    /// Adds rows, all values at their defaults: nobody yet, each with one number more than the one before.
    pub(crate) fn extend(
        &mut self,
        count: usize,
        (serial, number): (u64, u32),
        (born, maker): (u64, EntityId),
    ) {
        let first = self.len();
        self.id.extend(count, EntityId::NONE);
        self.serial.extend(count, serial);
        self.number.extend(count, number);
        self.luck.extend(count, 0);
        self.born.extend(count, born);
        for (at, serial) in self.serial[first..].iter_mut().enumerate() {
            *serial += at as u64;
        }
        for (at, number) in self.number[first..].iter_mut().enumerate() {
            *number += at as u32;
        }
        for column in [&mut self.x, &mut self.y, &mut self.vx, &mut self.vy, &mut self.heading] {
            column.extend(count, 0.0);
        }
        self.maker.begin_with(maker);
        self.extend_usual(count);
        self.maker.fill_from(first, maker);
        for track in &mut self.tracks {
            track.now.extend(count, 0);
            track.back.extend(count, 0);
            track.until.extend(count, Clock::NEVER);
            track.since.extend(count, born);
            track.seen.extend(count, NO_STATE);
        }
        self.vars.iter_mut().for_each(|c| c.extend(count, 0));
        self.clocks.iter_mut().for_each(|c| c.extend(count, Clock::UNSET));
    }

    /// Takes out the rows that end, ascending, and gives the rows whose place has changed.
    pub(crate) fn remove_ending(&mut self, gone: &[usize]) -> Range<usize> {
        debug_assert_eq!(gone.len(), self.ending_count);
        debug_assert!(gone.is_sorted() && gone.iter().all(|row| self.ending[*row]));
        let Some((first, last)) = gone.first().zip(gone.last()) else { return 0..0 };
        self.ending.reset();
        self.resting_count -=
            gone.iter().filter(|row| self.rests_since[**row] != Clock::NEVER).count();
        self.ending_count = 0;
        let gap = Gap::of(gone, self.len());
        self.drop_rows(gap);
        if gap.from_front {
            self.first_place = self.first_place.wrapping_add(gone.len() as u32);
            0..last + 1 - gone.len()
        } else {
            *first..self.len()
        }
    }

    /// The place of a row, which identities are found by.
    pub(crate) fn place_of(&self, row: usize) -> u32 {
        self.first_place.wrapping_add(row as u32)
    }

    /// The row in a place.
    pub(crate) fn row_at(&self, place: u32) -> usize {
        place.wrapping_sub(self.first_place) as usize
    }
}
