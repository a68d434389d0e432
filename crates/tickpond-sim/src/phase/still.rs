//! A cache of overlaps between bodies that stand still.
//!
//! Bodies that stood in the tick before and have not moved keep their cells and known overlaps. An entry depends on positions and
//! headings alone, and those are compared each time, so it is valid for any state.

use tickpond_lang::program::{KindId, Program};

use crate::state::{Columns, EntityId, State};

/// Who stands, of all kinds that take part in touch.
#[derive(Default)]
pub(super) struct Still {
    kinds: Vec<OfKind>,
    /// The pairs of those that stood in the last tick looked at, and lie over each other.
    known: Vec<(EntityId, EntityId)>,
}

/// Who stands of a kind.
#[derive(Default)]
struct OfKind {
    /// Those that stood in the last tick looked at, in the order of their rows.
    stood: Vec<Stood>,
    /// By row: whether it stands in this tick; empty if none does.
    stands: Vec<bool>,
    /// By row: whether it stood there in the last tick, too; empty if none did.
    still: Vec<bool>,
}

/// One that stood: who, where, and how it faced.
#[derive(Clone, Copy, PartialEq)]
struct Stood {
    serial: u64,
    id: EntityId,
    at: (f64, f64),
    heading: f64,
}

impl Still {
    /// Finds who stands in this tick, of these kinds.
    pub fn begin(&mut self, state: &State, program: &Program, kinds: impl Iterator<Item = KindId>) {
        self.kinds.resize_with(state.kinds.len(), OfKind::default);
        for of in &mut self.kinds {
            of.stands.clear();
            of.still.clear();
        }
        for kind in kinds {
            let (columns, of) = (&state.kinds[kind.index()], &mut self.kinds[kind.index()]);
            // What the solver moves is looked at each time: solids keep a skin between them.
            if !program.kinds[kind.index()].matter.solid && may_stand(columns) {
                of.begin(columns);
            }
            if of.stands.is_empty() {
                of.stood.clear();
            }
        }
        for (of, columns) in self.kinds.iter_mut().zip(&state.kinds) {
            if of.stands.len() != columns.len() {
                of.stood.clear();
            }
        }
    }

    /// Whether anybody stood in the last tick, too.
    pub fn is_any(&self, kind: KindId) -> bool {
        !self.kinds[kind.index()].still.is_empty()
    }

    /// Whether one stood in the last tick, too.
    pub fn is_still(&self, kind: KindId, row: usize) -> bool {
        self.kinds[kind.index()].still.get(row) == Some(&true)
    }

    /// Whether one stands in this tick.
    pub fn stands(&self, kind: KindId, row: usize) -> bool {
        self.kinds[kind.index()].stands.get(row) == Some(&true)
    }

    /// Calls `see` with each pair of those that are still and lie over each other; the others are forgotten.
    pub fn each_known(
        &mut self,
        state: &State,
        mut see: impl FnMut((KindId, usize), (KindId, usize)),
    ) {
        let mut known = std::mem::take(&mut self.known);
        known.retain(|(a, b)| {
            let still =
                |id: &EntityId| state.find(*id).filter(|(kind, row)| self.is_still(*kind, *row));
            let both = still(a).zip(still(b));
            if let Some((a, b)) = both {
                see(a, b);
            }
            both.is_some()
        });
        self.known = known;
    }

    /// Notes that two that stand lie over each other.
    pub fn note(&mut self, a: EntityId, b: EntityId) {
        self.known.push((a, b));
    }

    /// Brings the tick to its end: who stands in it is known in the next.
    pub fn end(&mut self, state: &State) {
        // One pair may have been met in several cells.
        self.known.sort_unstable();
        self.known.dedup();
        for (of, columns) in self.kinds.iter_mut().zip(&state.kinds) {
            of.stood.clear();
            let standing = (0..columns.len()).zip(&of.stands).filter(|(_, stands)| **stands);
            of.stood.extend(standing.map(|(row, _)| stood(columns, row)));
        }
    }
}

impl OfKind {
    fn begin(&mut self, columns: &Columns) {
        let resting = columns.resting_count > 0;
        let mut any = false;
        self.stands.extend((0..columns.len()).map(|row| {
            let stands = columns.old_x[row] == columns.x[row]
                && columns.old_y[row] == columns.y[row]
                && columns.old_heading.get(row).is_none_or(|old| *old == columns.heading[row])
                && columns.spin[row] == 0.0
                && (!resting || columns.is_active(row));
            any |= stands;
            stands
        }));
        if !any {
            self.stands.clear();
            return;
        }
        if self.stood.is_empty() {
            return;
        }
        // Both are in the order of births; those that went are passed over.
        let mut before = self.stood.iter().peekable();
        self.still.resize(columns.len(), false);
        for row in (0..columns.len()).filter(|row| self.stands[*row]) {
            let now = stood(columns, row);
            while before.next_if(|stood| stood.serial < now.serial).is_some() {}
            self.still[row] = before.peek() == Some(&&now);
        }
    }
}

fn stood(columns: &Columns, row: usize) -> Stood {
    let (serial, id) = (columns.serial[row], columns.id[row]);
    Stood { serial, id, at: (columns.x[row], columns.y[row]), heading: columns.heading[row] }
}

/// Of how many it is looked whether they stand.
const SAMPLE: usize = 64;

/// Whether it pays to look who stands: one in eight of a few. Most kinds move, and are not looked through.
fn may_stand(columns: &Columns) -> bool {
    let count = columns.len();
    if columns.old_x.len() != count || count == 0 {
        return false;
    }
    let step = count.div_ceil(SAMPLE);
    let stands = |row: &usize| {
        columns.old_x[*row] == columns.x[*row] && columns.old_y[*row] == columns.y[*row]
    };
    (0..count).step_by(step).filter(stands).count() * 8 >= count.div_ceil(step)
}
