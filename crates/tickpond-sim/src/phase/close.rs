//! Closing a phase: writes take hold, requests go to the phase that owns them.

use tickpond_lang::program::{KindId, Role};

use crate::angle;
use crate::code::op::Slot;
use crate::engine::Engine;
use crate::event::{Event, Guard, Phase, Stopped, What};
use crate::luck;
use crate::state::{Columns, State};
use crate::vm::Write;

impl Engine {
    /// Carries out the writes and hands on the requests of the phase that has just run.
    pub(crate) fn close(&mut self, state: &mut State, phase: Phase, events: &mut Vec<Event>) {
        self.apply_writes(state);
        self.collect_births(state);
        let mut letters = std::mem::take(&mut self.out.letters);
        letters.sort_by_key(|letter| letter.key);
        for letter in &letters {
            let mut event = Event::new(state.tick, phase, What::Sent, letter.from);
            event.message = Some(letter.message);
            event.value = Some(letter.to.len() as f64);
            event.site = Some(letter.site);
            event.other = match letter.to[..] {
                [one] => state.who(one),
                _ => None,
            };
            self.out.events.push((letter.key, event));
        }
        state.letters.append(&mut letters);
        state.health.append(&mut self.out.health);
        state.ends.append(&mut self.out.ends);
        state.waits.append(&mut self.out.waits);
        self.out.events.sort_by_key(|(key, _)| *key);
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
    fn apply_writes(&mut self, state: &mut State) {
        let mut writes = std::mem::take(&mut self.out.writes);
        let place = |w: &Write| (w.kind, w.handler, w.nth.0);
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
                if !apply(columns, write, var_word) {
                    self.out.stop(Guard::NotFinite, Some(write.site));
                }
            }
        }
        writes.clear();
        self.out.writes = writes;
    }

    /// Draws the luck of the births asked for, and files them.
    fn collect_births(&mut self, state: &mut State) {
        let mut births = std::mem::take(&mut self.out.births);
        births.sort_by_key(|birth| (birth.key, birth.index));
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
            columns.made_open[row] = columns.made_open[row].saturating_sub(1);
            columns.made_ended[row] = tick;
        }
    }
}

/// A stored number has no negative zero.
fn stored(number: f64) -> f64 {
    number + 0.0
}

/// Carries out a write; false, with nothing changed, if the result is no finite number.
fn apply(columns: &mut Columns, write: &Write, var_word: Option<usize>) -> bool {
    let row = write.row as usize;
    let [a, b] = write.words.map(f64::from_bits);
    let base = |now: f64| if write.adds { now } else { 0.0 };
    match write.slot {
        Slot::Pos => {
            let (x, y) = (base(columns.x[row]) + a, base(columns.y[row]) + b);
            set_pair(&mut columns.x[row], &mut columns.y[row], x, y)
        }
        Slot::Vel => {
            let (x, y) = (base(columns.vx[row]) + a, base(columns.vy[row]) + b);
            set_pair(&mut columns.vx[row], &mut columns.vy[row], x, y)
        }
        Slot::Heading => {
            let now = columns.heading[row];
            let new = base(now) + a;
            new.is_finite() && {
                turn(columns, row, new - now);
                columns.heading[row] = angle::normal(new);
                true
            }
        }
        Slot::Speed => {
            let now = libm::hypot(columns.vx[row], columns.vy[row]);
            let (sin, cos) = angle::sin_cos(columns.heading[row]);
            let speed = base(now) + a;
            let (vx, vy) = (cos * speed, sin * speed);
            set_pair(&mut columns.vx[row], &mut columns.vy[row], vx, vy)
        }
        Slot::Spin => {
            let spin = base(columns.spin[row]) + a;
            set(&mut columns.spin[row], spin)
        }
        Slot::Var { words, numeric, .. } => {
            let Some(at) = var_word else { return true };
            let mut fine = true;
            for word in 0..usize::from(words) {
                let cell = &mut columns.vars[at + word][row];
                if numeric {
                    let mut number = f64::from_bits(*cell);
                    let new = base(number) + f64::from_bits(write.words[word]);
                    fine &= set(&mut number, new);
                    *cell = number.to_bits();
                } else {
                    *cell = write.words[word];
                }
            }
            fine
        }
    }
}

fn set(cell: &mut f64, value: f64) -> bool {
    if value.is_finite() {
        *cell = stored(value);
    }
    value.is_finite()
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
