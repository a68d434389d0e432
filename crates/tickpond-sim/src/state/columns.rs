//! The entities of one kind, a column for each value, rows in the order of birth.
//!
//! Ends close the gaps they leave, so walking the rows is walking from the oldest to the youngest,
//! which is the order of the roll.

use super::EntityId;

/// A clock that has not been set yet.
pub const UNSET: u64 = 0;
/// A clock that never comes due.
pub const NEVER: u64 = u64::MAX;

/// How many columns of each sort a kind needs beside those all kinds have.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Widths {
    /// Words for variables.
    pub vars: usize,
    /// Clocks.
    pub clocks: usize,
}

macro_rules! columns {
    ($($(#[$doc:meta])* $name:ident: $ty:ty,)*) => {
        /// The entities of one kind.
        #[derive(Clone, Debug, PartialEq, Default)]
        pub struct Columns {
            $($(#[$doc])* pub $name: Vec<$ty>,)*
            /// Variables, word by word; a pair takes two.
            pub vars: Vec<Vec<u64>>,
            /// When each clock is due, in ticks.
            pub clocks: Vec<Vec<u64>>,
            /// How many are ending in this phase; 0 between ticks.
            pub ending_count: usize,
        }

        impl Columns {
            /// Drops the rows whose flag is set; the others close up, in their order.
            fn drop_rows(&mut self, gone: &[bool]) {
                $(keep(&mut self.$name, gone);)*
                for column in self.vars.iter_mut().chain(&mut self.clocks) {
                    keep(column, gone);
                }
            }
        }
    };
}

columns! {
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
    /// Who spawned it.
    maker: EntityId,
    /// The request it was born of: those of one request are siblings.
    batch: u64,
    /// The wave it belongs to; 0 if none.
    wave: u64,
    /// Place in u.
    x: f64,
    /// Place in u.
    y: f64,
    /// Place before this tick's move.
    old_x: f64,
    /// Place before this tick's move.
    old_y: f64,
    /// Velocity in u/s.
    vx: f64,
    /// Velocity in u/s.
    vy: f64,
    /// Where it faces, in deg, `0.0..360.0`.
    heading: f64,
    /// How fast it turns, in deg/s.
    spin: f64,
    /// Health; 0 for kinds without.
    health: f64,
    /// Whether it is wholly past the arena's margin.
    outside: bool,
    /// Whether it ends in this phase.
    ending: bool,
    /// How many it has made that still live or are asked for; kept for spawners.
    made_open: u32,
    /// How many it has made in all; kept for spawners.
    made_in_all: u32,
    /// When the last it made ended; kept for spawners.
    made_ended: u64,
}

impl Columns {
    pub(crate) fn new(widths: &Widths) -> Columns {
        Columns {
            vars: vec![Vec::new(); widths.vars],
            clocks: vec![Vec::new(); widths.clocks],
            ..Columns::default()
        }
    }

    /// How many rows there are, those that end in this phase included.
    pub fn len(&self) -> usize {
        self.id.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.id.is_empty()
    }

    pub(super) fn push(
        &mut self,
        id: EntityId,
        serial: u64,
        number: u32,
        luck: u64,
        born: u64,
        maker: EntityId,
    ) {
        self.id.push(id);
        self.serial.push(serial);
        self.number.push(number);
        self.luck.push(luck);
        self.born.push(born);
        self.maker.push(maker);
        self.batch.push(0);
        self.wave.push(0);
        for column in [
            &mut self.x,
            &mut self.y,
            &mut self.old_x,
            &mut self.old_y,
            &mut self.vx,
            &mut self.vy,
            &mut self.heading,
            &mut self.spin,
            &mut self.health,
        ] {
            column.push(0.0);
        }
        self.outside.push(false);
        self.ending.push(false);
        self.made_open.push(0);
        self.made_in_all.push(0);
        self.made_ended.push(0);
        self.vars.iter_mut().for_each(|c| c.push(0));
        self.clocks.iter_mut().for_each(|c| c.push(UNSET));
    }

    /// Takes out the rows that end, and gives the first row that moved.
    pub(crate) fn remove_ending(&mut self) -> Option<usize> {
        let first = self.ending.iter().position(|e| *e)?;
        let gone = self.ending.clone();
        self.drop_rows(&gone);
        self.ending_count = 0;
        Some(first)
    }
}

fn keep<T>(column: &mut Vec<T>, gone: &[bool]) {
    let mut row = 0;
    column.retain(|_| {
        row += 1;
        !gone[row - 1]
    });
}
