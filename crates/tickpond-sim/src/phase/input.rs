//! Keys are sampled; `on press`, `on release` and `while held` run.

use tickpond_lang::program::{Event as When, InputId};

use crate::code::Turn;
use crate::engine::{Engine, InputChange};
use crate::event::{Event, Phase};
use crate::luck;
use crate::state::{BY_HAND, BirthRequest, InputState, Key, PlaceRequest, State};

fn bit(input: InputId) -> u64 {
    // The checker lets no pond have more inputs than there are bits.
    1u64.checked_shl(input.0).unwrap_or(0)
}

fn sample(input: &mut InputState, keys: &[InputChange]) {
    input.pressed = 0;
    input.released = 0;
    for change in keys {
        match *change {
            InputChange::Key { input: key, down } => {
                let bit = bit(key);
                let was_down = input.held & bit != 0;
                if down && !was_down {
                    input.held |= bit;
                    input.pressed |= bit;
                } else if !down && was_down {
                    input.held &= !bit;
                    input.released |= bit;
                }
            }
            InputChange::Move { input: pointer, to } => {
                if to.0.is_finite() && to.1.is_finite() {
                    input.places[pointer.index()] = to;
                }
            }
            InputChange::Place { .. } => {}
        }
    }
}

impl Engine {
    pub(crate) fn input(
        &mut self,
        state: &mut State,
        keys: &[InputChange],
        events: &mut Vec<Event>,
    ) {
        sample(&mut state.input, keys);
        self.place_by_hand(state, keys, events);
        let now = (state.input.held, state.input.pressed, state.input.released);
        let (held, pressed, released) = now;
        // A key that went down and up within one tick was held in it.
        let held = held | pressed;
        if held | released == 0 {
            return;
        }
        let compiled = self.compiled.clone();
        for job in self.jobs(state, Phase::Input, Turn::Input) {
            let is_set_off = match compiled.kinds[job.0.index()].handlers[job.1].event {
                When::Press(input) => pressed & bit(input) != 0,
                When::Release(input) => released & bit(input) != 0,
                When::WhileHeld(input, _) => held & bit(input) != 0,
                _ => false,
            };
            if !is_set_off {
                continue;
            }
            let rows = self.due_rows(state, job);
            self.fire_rows(state, Phase::Input, job, &rows);
            self.rewind(state, Phase::Input, job, &rows, state.tick);
        }
        self.close(state, Phase::Input, events);
    }

    /// What was put there by hand is born in this tick, with the pond as its maker.
    fn place_by_hand(&mut self, state: &mut State, keys: &[InputChange], events: &mut Vec<Event>) {
        let placed = keys.iter().filter_map(|change| match *change {
            InputChange::Place { kind, at } => Some((kind, at)),
            _ => None,
        });
        for (nth, (kind, (x, y))) in placed.enumerate() {
            let fits = kind.index() > 0 && kind.index() < state.kinds.len();
            if !fits || !x.is_finite() || !y.is_finite() {
                continue;
            }
            let luck = luck::hash(&[state.seed, state.tick, nth as u64]);
            self.out.births.push(BirthRequest {
                due: state.tick,
                key: Key { nth: nth as u32, ..Key::default() },
                index: 0,
                count: 1,
                kind,
                maker: state.pond(),
                maker_heading: None,
                luck,
                before: 0,
                spaced: 0,
                batch: 0,
                wave: 0,
                place: PlaceRequest::Point(x, y),
                facing: None,
                spread: (0.0, 1),
                toward: None,
                speed: None,
                vel: None,
                health: None,
                label: None,
                vars: Vec::new(),
                extras: None,
                site: BY_HAND,
            });
        }
        if !self.out.births.is_empty() {
            self.close(state, Phase::Input, events);
        }
    }
}
