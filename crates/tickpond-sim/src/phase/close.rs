//! Closing a phase: writes take hold, requests go to the phase that owns them.

use tickpond_lang::program::{KindId, Role};

use crate::angle;
use crate::code::op::Slot;
use crate::engine::Engine;
use crate::event::{Event, Guard, Phase, Stopped, What};
use crate::luck;
use crate::state::{Columns, NEVER, State, UNSET};
use crate::vm::{Become, Writes};
use crate::wide::wide;

impl Engine {
    /// Carries out the writes and hands on the requests of the phase that has just run.
    pub(crate) fn close(&mut self, state: &mut State, phase: Phase, events: &mut Vec<Event>) {
        self.apply_writes(state);
        if let Some((_, site)) = self.out.unfinite.take() {
            self.out.stop(Guard::NotFinite, Some(site));
        }
        self.apply_becomes(state, phase);
        self.collect_births(state);
        let mut letters = std::mem::take(&mut self.out.letters);
        letters.sort();
        for letter in letters.iter().filter(|_| self.lists_mail) {
            let mut event = Event::new(state.tick, phase, What::Sent, letter.from);
            event.message = Some(letter.message);
            event.value = Some(letters.addressees(letter).len() as f64);
            event.site = Some(letter.site);
            event.other = match letters.addressees(letter) {
                [one] => state.who(*one),
                _ => None,
            };
            self.out.events.push((letter.key, event));
        }
        state.letters.append(&mut letters);
        self.out.letters = letters;
        state.health.append(&mut self.out.health);
        state.ends.append(&mut self.out.ends);
        state.pushes.append(&mut self.out.pushes);
        state.activations.append(&mut self.out.activations);
        state.attaching.append(&mut self.out.attaching);
        if !self.out.traces.is_empty() {
            self.out.traces.sort_by_key(|(key, _)| *key);
            state.traces.extend(self.out.traces.drain(..).map(|(_, trace)| trace));
        }
        state.waits.append(&mut self.out.waits);
        if !self.out.events.is_sorted_by_key(|(key, _)| *key) {
            self.out.events.sort_by_key(|(key, _)| *key);
        }
        events.extend(self.out.events.drain(..).map(|(_, event)| event));
        for (total, fired) in state.fired.iter_mut().zip(&mut self.out.fired) {
            *total += std::mem::take(fired);
        }
        if let Some((guard, site)) = self.out.stopped.take() {
            let tick = state.tick;
            state.stopped.get_or_insert(Stopped { guard, tick, site, times: 1 });
        }
        self.out.last_site = None;
    }

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
                let place = (adds, write.kind, write.handler, write.round);
                if !fine && self.out.unfinite.is_none_or(|(first, _)| place < first) {
                    self.out.unfinite = Some((place, write.site));
                }
            }
        }
        self.out.taken += writes.iter().map(|w| w.asked).sum::<usize>();
        writes.clear();
        self.out.writes = writes;
        self.out.write_rows.clear();
        self.out.write_words.clear();
    }

    /// Changes of state take hold; of several in one phase the last of the roll stands.
    fn apply_becomes(&mut self, state: &mut State, phase: Phase) {
        if self.out.becomes.is_empty() {
            return;
        }
        let mut becomes = std::mem::take(&mut self.out.becomes);
        let place = |b: &Become| u64::from(b.kind.0) << 32 | u64::from(b.row);
        // No two are alike in all of it.
        becomes.sort_unstable_by_key(|b| (place(b), b.state.track, b.handler, b.nth));
        let same = |a: &Become, b: &Become| {
            (a.kind, a.row, a.state.track) == (b.kind, b.row, b.state.track)
        };
        let last: Vec<Become> =
            becomes.chunk_by(same).filter_map(|group| group.last().copied()).collect();
        for change in last {
            let asker = state.kinds[change.kind.index()].serial[change.row as usize];
            if let Some(mut event) = self.enter_state(state, &change, phase) {
                event.site = Some(change.site);
                let key =
                    crate::state::Key { asker, handler: change.handler, ..Default::default() };
                self.out.events.push((key, event));
            }
        }
        becomes.clear();
        self.out.becomes = becomes;
    }

    /// Puts an entity into a state. The waits, clocks and conditions of the state it leaves are
    /// dropped. `None` if it is in that state already; then only its time changes.
    pub(crate) fn enter_state(
        &mut self,
        state: &mut State,
        change: &Become,
        phase: Phase,
    ) -> Option<Event> {
        let (row, tick) = (change.row as usize, state.tick);
        let columns = &mut state.kinds[change.kind.index()];
        let track = &mut columns.tracks[change.state.track];
        let (old, new) = (track.now[row], change.state.state as u64);
        track.until[row] = change.until;
        if change.until == NEVER {
            track.back[row] = new;
        }
        if old == new {
            return None;
        }
        track.now[row] = new;
        track.since[row] = tick;
        let id = columns.id[row];
        let code = &self.compiled.kinds[change.kind.index()];
        let mut left: Vec<u32> = Vec::new();
        for (at, handler) in code.handlers.iter().enumerate() {
            let Some(own) = handler.state.filter(|s| s.track == change.state.track) else {
                continue;
            };
            if own.state as u64 == old {
                left.push(at as u32);
            }
            if let Some(clock) = handler.clock {
                columns.clocks[usize::from(clock)][row] = UNSET;
            }
            if let Some(bit) = handler.bit {
                let bits = columns.bits[row] & !(1 << bit);
                columns.bits.set(row, bits);
            }
        }
        if !left.is_empty() {
            let stays = |w: &crate::state::Wait| w.entity != id || !left.contains(&w.handler);
            state.waits.retain(stays);
            self.out.waits.retain(stays);
        }
        let who = state.who_at(change.kind, row);
        let mut event = Event::new(tick, phase, What::Became, who);
        let states = &self.compiled.program.kinds[change.kind.index()].tracks[change.state.track];
        let name = states.states[change.state.state].0;
        event.words = Some(self.compiled.state_words[name.0 as usize].clone());
        Some(event)
    }

    /// Draws the luck of the births asked for, and files them.
    fn collect_births(&mut self, state: &mut State) {
        let mut births = std::mem::take(&mut self.out.births);
        if !births.is_sorted_by_key(|birth| (birth.key, birth.index)) {
            // Requests are large: their keys are sorted, and each request is moved once.
            births.sort_by_cached_key(|birth| (birth.key, birth.index));
        }
        for birth in &mut births {
            let nth = self.birth_counts.entry((birth.luck, birth.kind.0)).or_insert(0);
            let name = self.compiled.kinds[birth.kind.index()].name_hash;
            let base = birth.luck;
            birth.luck = luck::fold(luck::fold(base, name), *nth);
            *nth += 1;
            if birth.wave != 0 {
                state.waves.entry(birth.wave).or_default().unborn += 1;
            }
            self.count_made(state, birth.maker.kind, birth.maker.id, 1);
        }
        state.births.append(&mut births);
    }

    /// Keeps the books of a spawner: how many of its own live or are asked for.
    pub(crate) fn count_made(
        &self,
        state: &mut State,
        kind: KindId,
        maker: crate::state::EntityId,
        change: i32,
    ) {
        if !matches!(self.compiled.program.kinds[kind.index()].role, Role::Spawner(_)) {
            return;
        }
        let Some((kind, row)) = state.find(maker) else { return };
        let tick = state.tick;
        let columns = &mut state.kinds[kind.index()];
        if change > 0 {
            columns.made_open[row] += 1;
            columns.made_in_all[row] += 1;
        } else {
            let open = columns.made_open[row].saturating_sub(1);
            columns.made_open.set(row, open);
            columns.made_ended[row] = tick;
        }
    }
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
