//! Keys are sampled; `on press`, `on release` and `while held` run.

use tickpond_lang::program::{Event as When, InputId};

use crate::engine::{Engine, KeyChange};
use crate::event::{Event, Phase};
use crate::state::{InputState, State};

fn bit(input: InputId) -> u64 {
    // The checker lets no pond have more inputs than there are bits.
    1u64.checked_shl(input.0).unwrap_or(0)
}

fn sample(input: &mut InputState, keys: &[KeyChange]) {
    input.pressed = 0;
    input.released = 0;
    for key in keys {
        let bit = bit(key.input);
        let was_down = input.held & bit != 0;
        if key.down && !was_down {
            input.held |= bit;
            input.pressed |= bit;
        } else if !key.down && was_down {
            input.held &= !bit;
            input.released |= bit;
        }
    }
}

impl Engine {
    pub(crate) fn input(&mut self, state: &mut State, keys: &[KeyChange], events: &mut Vec<Event>) {
        sample(&mut state.input, keys);
        let now = state.input;
        // A key that went down and up within one tick was held in it.
        let held = now.held | now.pressed;
        if held | now.released == 0 {
            return;
        }
        let jobs = self.jobs(state, Phase::Input, |handler| match handler.event {
            When::Press(input) => now.pressed & bit(input) != 0,
            When::Release(input) => now.released & bit(input) != 0,
            When::WhileHeld(input, _) => held & bit(input) != 0,
            _ => false,
        });
        for job in jobs {
            let rows = self.due_rows(state, job);
            self.fire_rows(state, Phase::Input, job, &rows);
            self.rewind(state, Phase::Input, job, &rows, state.tick);
        }
        self.close(state, Phase::Input, events);
    }
}
