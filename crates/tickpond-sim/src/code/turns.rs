//! Lists of handlers by what sets them off, made once, so that no tick searches all of them.

use tickpond_lang::program::{Event, KindId};

use super::kinds::KindCode;

/// A handler: its kind, and its place in the roll of that.
pub type Job = (KindId, usize);

/// What sets handlers off together.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Turn {
    /// A key.
    Input,
    /// A clock.
    Clocks,
    /// A birth.
    Births,
    /// A tick, a condition, a state that begins or ends.
    Think,
    /// A touch that begins.
    Touch,
    /// A touch that goes on.
    Touching,
    /// A touch that is over.
    Part,
    /// A zone, a line, an edge.
    Cross,
    /// A message.
    Mail,
    /// Health that came to 0.
    Down,
    /// Health that went down.
    Hurt,
    /// An end.
    Ends,
}

impl Turn {
    const COUNT: usize = Turn::Ends as usize + 1;

    /// Whose turn an event is.
    pub fn of(event: &Event) -> Turn {
        match event {
            Event::Press(_) | Event::Release(_) | Event::WhileHeld(..) => Turn::Input,
            Event::After(_) | Event::Every(_) | Event::Routine(_) => Turn::Clocks,
            Event::Birth => Turn::Births,
            Event::EveryTick | Event::When(_) | Event::Becoming(_) | Event::Quitting(_) => {
                Turn::Think
            }
            Event::Touch { .. } | Event::Impact(..) => Turn::Touch,
            Event::WhileTouching(..) => Turn::Touching,
            Event::Part(_) => Turn::Part,
            Event::LeaveArena
            | Event::Enter(_)
            | Event::Leave(_)
            | Event::Line(..)
            | Event::TouchEdge(_) => Turn::Cross,
            Event::Message { .. } => Turn::Mail,
            Event::Down => Turn::Down,
            Event::Hurt => Turn::Hurt,
            Event::End(_) => Turn::Ends,
        }
    }
}

/// The handlers by turn; in each, kind by kind in the order of the roll.
#[derive(Clone, Debug, Default)]
pub struct Turns([Vec<Job>; Turn::COUNT]);

impl Turns {
    /// Those of all kinds.
    pub fn new(kinds: &[KindCode]) -> Turns {
        let mut turns = Turns::default();
        for (k, kind) in kinds.iter().enumerate() {
            for (at, handler) in kind.handlers.iter().enumerate() {
                turns.0[Turn::of(&handler.event) as usize].push((KindId(k as u32), at));
            }
        }
        turns
    }

    /// Those whose turn it is.
    pub fn at(&self, turn: Turn) -> &[Job] {
        &self.0[turn as usize]
    }
}

#[cfg(test)]
mod tests {
    use super::super::Compiled;
    use super::*;
    use rstest::rstest;
    use std::path::PathBuf;

    #[rstest]
    fn each_handler_has_one_turn_in_the_order_of_the_roll(
        #[files("../../ponds/gallery/*.pond")] path: PathBuf,
    ) {
        let text = std::fs::read_to_string(path).unwrap();
        let compiled = Compiled::new(tickpond_lang::compile(&text).program.unwrap());
        let mut listed: Vec<Job> = Vec::new();
        for jobs in &compiled.turns.0 {
            assert!(jobs.is_sorted());
            listed.extend(jobs);
        }
        listed.sort_unstable();
        let kinds = compiled.kinds.iter().enumerate();
        let all: Vec<Job> = kinds
            .flat_map(|(k, kind)| (0..kind.handlers.len()).map(move |at| (KindId(k as u32), at)))
            .collect();
        assert_eq!(listed, all);
    }
}
