//! Writes take hold, a column at a time.

use crate::angle;
use crate::code::op::Slot;
use crate::engine::Engine;
use crate::event::Guard;
use crate::state::{Columns, State};
use crate::vm::{Fault, Writes};
use crate::wide::wide;

impl Engine {
    /// In each phase `=` goes first, in the order of the roll, then `+=` and `turn by`.
    pub(crate) fn apply_writes(&mut self, state: &mut State) {
        if self.out.writes.is_empty() {
            return;
        }
        let mut writes = std::mem::take(&mut self.out.writes);
        let place = |w: &Writes| (w.kind, w.handler, w.round);
        if !writes.is_sorted_by_key(place) {
            // Stable: the writes of one firing stay in their order.
            writes.sort_by_key(place);
        }
        for adds in [false, true] {
            for write in writes.iter().filter(|w| w.adds == adds) {
                let columns = &mut state.kinds[write.kind.index()];
                let var_word = match write.slot {
                    Slot::Var { name, .. } => self.compiled.var_word(write.kind, name),
                    _ => None,
                };
                let drifts = self.compiled.program.kinds[write.kind.index()].drifts;
                let rows = &self.out.write_rows;
                let words = &self.out.write_words[write.words_from..];
                let rows = match write.first {
                    Some(first) => Rows::Stretch(first as usize),
                    None => Rows::Listed(&rows[write.rows_from..write.rows_from + write.count]),
                };
                let fine = apply(columns, write, var_word, drifts, words, rows);
                if !fine {
                    let row = at_fault(columns, write, var_word, words, rows);
                    let serial = row.map_or(0, |row| columns.serial[row]);
                    let place = (adds, write.kind, write.handler, write.round, serial);
                    let who = row.map(|row| state.who_at(write.kind, row));
                    let (guard, site, times) = (Guard::NotFinite, Some(write.site), 1);
                    self.out.fault(Fault { guard, place, site, span: None, who, times });
                }
            }
        }
        self.out.taken += writes.iter().map(|w| w.asked).sum::<usize>();
        writes.clear();
        self.out.writes = writes;
        self.out.write_rows.clear();
        self.out.write_words.clear();
    }
}

/// The first row that would have been given a number that is none.
fn at_fault(
    columns: &Columns,
    write: &Writes,
    var_word: Option<usize>,
    words: &[u64],
    rows: Rows<'_>,
) -> Option<usize> {
    (0..write.count).find_map(|at| {
        let row = rows.row(at);
        let parts = |first: f64, second: f64| if write.adds { [first, second] } else { [0.0; 2] };
        let old = match (write.slot, var_word) {
            (Slot::Pos, _) => parts(columns.x[row], columns.y[row]),
            (Slot::Vel, _) => parts(columns.vx[row], columns.vy[row]),
            (Slot::Heading, _) => parts(columns.heading[row], 0.0),
            (Slot::Speed, _) => parts(libm::hypot(columns.vx[row], columns.vy[row]), 0.0),
            (Slot::Spin, _) => parts(columns.spin[row], 0.0),
            (Slot::Var { words: 2, .. }, Some(var)) => parts(
                f64::from_bits(columns.vars[var][row]),
                f64::from_bits(columns.vars[var + 1][row]),
            ),
            (_, Some(var)) => parts(f64::from_bits(columns.vars[var][row]), 0.0),
            _ => [0.0; 2],
        };
        let second = words.get(write.count + at).filter(|_| write.slot.is_pair());
        let new = [words.get(at), second].into_iter().zip(old);
        let mut new = new.filter_map(|(word, old)| Some(f64::from_bits(*word?) + old));
        new.any(|new| !new.is_finite()).then_some(row)
    })
}

/// A stored number has no negative zero.
fn stored(number: f64) -> f64 {
    number + 0.0
}

/// The rows of writes.
#[derive(Clone, Copy)]
enum Rows<'a> {
    /// They follow one another from here.
    Stretch(usize),
    /// One by one.
    Listed(&'a [u32]),
}

impl Rows<'_> {
    fn row(self, at: usize) -> usize {
        match self {
            Rows::Stretch(first) => first + at,
            Rows::Listed(rows) => rows[at] as usize,
        }
    }

    /// Puts numbers into a column, or adds them; false if one was no finite number: that changes
    /// nothing.
    fn put<N: Number>(self, column: &mut [N], words: &[u64], adds: bool) -> bool {
        // What is added to: nothing, if the number is to be replaced.
        let base = if adds { u64::MAX } else { 0 };
        match self {
            Rows::Stretch(first) => {
                let column = &mut column[first..first + words.len()];
                wide(
                    #[inline(always)]
                    move || {
                        column
                            .iter_mut()
                            .zip(words)
                            .fold(true, |fine, (c, w)| fine & put(c, *w, base))
                    },
                )
            }
            Rows::Listed(rows) => {
                let mut fine = true;
                for (row, word) in rows.iter().zip(words) {
                    fine &= put(&mut column[*row as usize], *word, base);
                }
                fine
            }
        }
    }

    /// The same for pairs: both numbers are finite, or neither is changed.
    fn put_pair(self, xs: &mut [f64], ys: &mut [f64], words: &[u64], adds: bool) -> bool {
        let base = if adds { u64::MAX } else { 0 };
        let (firsts, seconds) = words.split_at(words.len() / 2);
        match self {
            Rows::Stretch(from) => {
                let count = firsts.len();
                let (xs, ys) = (&mut xs[from..from + count], &mut ys[from..from + count]);
                wide(
                    #[inline(always)]
                    move || {
                        let mut fine = true;
                        for at in 0..count {
                            fine &=
                                put_two(&mut xs[at], &mut ys[at], (firsts[at], seconds[at]), base);
                        }
                        fine
                    },
                )
            }
            Rows::Listed(rows) => {
                let mut fine = true;
                for ((row, first), second) in rows.iter().zip(firsts).zip(seconds) {
                    let row = *row as usize;
                    fine &= put_two(&mut xs[row], &mut ys[row], (*first, *second), base);
                }
                fine
            }
        }
    }
}

/// A cell of a column that holds a number, or its bits.
trait Number {
    fn number(&self) -> f64;
    fn put(&mut self, number: f64);
}

impl Number for f64 {
    #[inline(always)]
    fn number(&self) -> f64 {
        *self
    }
    #[inline(always)]
    fn put(&mut self, number: f64) {
        *self = number;
    }
}

impl Number for u64 {
    #[inline(always)]
    fn number(&self) -> f64 {
        f64::from_bits(*self)
    }
    #[inline(always)]
    fn put(&mut self, number: f64) {
        *self = number.to_bits();
    }
}

/// A number is put in place of what `base` leaves of the old one: all of it, or nothing.
#[inline(always)]
fn put<N: Number>(cell: &mut N, word: u64, base: u64) -> bool {
    let old = cell.number();
    let new = f64::from_bits(old.to_bits() & base) + f64::from_bits(word);
    let fine = new.is_finite();
    cell.put(if fine { new + 0.0 } else { old });
    fine
}

/// The same for two numbers that go together.
#[inline(always)]
fn put_two(x: &mut f64, y: &mut f64, (first, second): (u64, u64), base: u64) -> bool {
    let new_x = f64::from_bits(x.to_bits() & base) + f64::from_bits(first);
    let new_y = f64::from_bits(y.to_bits() & base) + f64::from_bits(second);
    let fine = new_x.is_finite() & new_y.is_finite();
    *x = if fine { new_x + 0.0 } else { *x };
    *y = if fine { new_y + 0.0 } else { *y };
    fine
}

/// Carries out writes to one field; false if one was no finite number: that changes nothing.
fn apply(
    columns: &mut Columns,
    write: &Writes,
    var_word: Option<usize>,
    drifts: bool,
    words: &[u64],
    rows: Rows<'_>,
) -> bool {
    let (count, adds) = (write.count, write.adds);
    let base = |now: f64| if adds { now } else { 0.0 };
    let first = |at: usize| f64::from_bits(words[at]);
    let mut fine = true;
    match write.slot {
        Slot::Pos => {
            return rows.put_pair(&mut columns.x, &mut columns.y, &words[..2 * count], adds);
        }
        Slot::Vel => {
            return rows.put_pair(&mut columns.vx, &mut columns.vy, &words[..2 * count], adds);
        }
        Slot::Heading => {
            if let Rows::Stretch(first) = rows
                && let Some(fine) = head_stretch(columns, first, &words[..count], adds, drifts)
            {
                return fine;
            }
            for at in 0..count {
                let row = rows.row(at);
                let now = columns.heading[row];
                let new = base(now) + first(at);
                if !new.is_finite() {
                    fine = false;
                    continue;
                }
                if !drifts {
                    turn(columns, row, new - now);
                }
                columns.heading[row] = angle::normal(new);
            }
        }
        Slot::Speed => {
            for at in 0..count {
                let row = rows.row(at);
                let now = libm::hypot(columns.vx[row], columns.vy[row]);
                let (sin, cos) = angle::sin_cos(columns.heading[row]);
                let speed = base(now) + first(at);
                let (vx, vy) = (cos * speed, sin * speed);
                fine &= set_pair(&mut columns.vx[row], &mut columns.vy[row], vx, vy);
            }
        }
        Slot::Spin => {
            for at in 0..count {
                let row = rows.row(at);
                let spin = base(columns.spin[row]) + first(at);
                if spin.is_finite() {
                    columns.spin.set(row, stored(spin));
                }
                fine &= spin.is_finite();
            }
        }
        Slot::Var { words: parts, numeric, .. } => {
            let Some(var) = var_word else { return true };
            for part in 0..usize::from(parts) {
                let column = &mut columns.vars[var + part];
                let words = &words[part * count..(part + 1) * count];
                match rows {
                    _ if numeric => fine &= rows.put(column, words, adds),
                    Rows::Stretch(first) => column[first..first + count].copy_from_slice(words),
                    Rows::Listed(rows) => {
                        for (row, word) in rows.iter().zip(words) {
                            column[*row as usize] = *word;
                        }
                    }
                }
            }
        }
    }
    fine
}

/// Headings of rows that follow one another, side by side; `None` if an angle is so large that it must be
/// brought down first: nothing is changed then.
fn head_stretch(
    columns: &mut Columns,
    first: usize,
    words: &[u64],
    adds: bool,
    drifts: bool,
) -> Option<bool> {
    let base = if adds { u64::MAX } else { 0 };
    let rows = first..first + words.len();
    let headings = &mut columns.heading[rows.clone()];
    let (vxs, vys) = (&mut columns.vx[rows.clone()], &mut columns.vy[rows]);
    wide(
        #[inline(always)]
        move || {
            let wanted = |heading: f64, word: u64| {
                f64::from_bits(heading.to_bits() & base) + f64::from_bits(word)
            };
            let headed = headings.iter().zip(words);
            let near = headed.fold(true, |near, (heading, word)| {
                near & angle::is_nearly_normal(wanted(*heading, *word))
            });
            if !near {
                return None;
            }
            let ways = vxs.iter_mut().zip(vys.iter_mut());
            for ((heading, word), (vx, vy)) in headings.iter_mut().zip(words).zip(ways) {
                let new = wanted(*heading, *word);
                let by = new - *heading;
                let (x, y) = angle::turned_by(*vx, *vy, angle::near_sin_cos(by));
                // What stands still has no way to swing, and keeps it.
                let swings = !drifts & ((*vx != 0.0) | (*vy != 0.0)) & (by != 0.0);
                (*vx, *vy) = if swings { (x + 0.0, y + 0.0) } else { (*vx, *vy) };
                *heading = angle::near_normal(new);
            }
            Some(true)
        },
    )
}

fn set_pair(x: &mut f64, y: &mut f64, new_x: f64, new_y: f64) -> bool {
    let fine = new_x.is_finite() && new_y.is_finite();
    if fine {
        *x = stored(new_x);
        *y = stored(new_y);
    }
    fine
}

/// Turning swings the velocity along.
pub(super) fn turn(columns: &mut Columns, row: usize, by: f64) {
    let (vx, vy) = (columns.vx[row], columns.vy[row]);
    if (vx != 0.0 || vy != 0.0) && by != 0.0 {
        let (vx, vy) = angle::turned(vx, vy, by);
        columns.vx[row] = stored(vx);
        columns.vy[row] = stored(vy);
    }
}
