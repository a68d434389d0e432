//! Playing ticks once more by a text that says more, to hear what it says.

use std::sync::Arc;

use tickpond_lang::program::Program;
use tickpond_sim::carry::carry;
use tickpond_sim::{Engine, Event, Guard, State, What};

use super::Run;
use crate::input::changes_at;

impl Run {
    /// The first tick that the newest stretch of one text has played before the present tick, and so many ticks at
    /// most before that.
    pub(crate) fn one_text_from(&self, ticks: u64) -> u64 {
        let tick = self.tick();
        self.segments[self.segment_at(tick)].from.max(tick.saturating_sub(ticks))
    }

    /// What a text says, with words that begin with `mark`, in the ticks after `from` up to the present one. It is
    /// the text that played them with such sayings put in; the run stays where it is. Costs those ticks, and the way to
    /// `from`; where something waits then in what was changed, all from a tick on in which nothing did.
    ///
    /// # Errors
    /// Why it could not be asked: something waits in what was changed, or it did not come about as in the run.
    pub(crate) fn heard(
        &mut self,
        from: u64,
        program: Arc<Program>,
        mark: char,
    ) -> Result<Vec<Event>, String> {
        let tick = self.tick();
        self.recall();
        let mut engine = Engine::new(program.clone());
        if let Some(stop) = &self.stop {
            engine.interrupt_by(stop.clone());
        }
        let (begin, mut state) = self.carried(from, &engine)?;
        let (mut said, mut others) = (Vec::new(), Vec::new());
        for at in begin + 1..=tick {
            let keys = changes_at(&self.keys, at, &program);
            let mut events = Vec::new();
            engine.step(&mut state, &keys, &mut events);
            if state.stopped.as_ref().is_some_and(|stopped| stopped.guard == Guard::Interrupted) {
                return Err("it took too long and was given up".into());
            }
            let ours = |event: &Event| {
                let words = event.words.as_deref().unwrap_or("");
                event.what == What::Said && words.starts_with(mark)
            };
            // Before that nobody asks: the events are those of the run, as far as it still knows them.
            for event in events.into_iter().filter(|event| event.tick > from) {
                if ours(&event) { said.push(event) } else { others.push(event) }
            }
        }
        let known = self.events();
        let known = &known[known.partition_point(|event| event.tick <= from)..];
        let same = |a: &Event, b: &Event| {
            (a.tick, a.what, a.who.kind, a.who.number, a.cause)
                == (b.tick, b.what, b.who.kind, b.who.number, b.cause)
        };
        let all = known.len() == others.len();
        if !all || !known.iter().zip(&others).all(|(a, b)| same(a, b)) {
            return Err("played once more with the question in it, it came out differently".into());
        }
        Ok(said)
    }

    /// The state of the latest tick up to `from` from which a text that was changed can go on, and that tick; not before
    /// the text that plays began. The way back is twice as long each time it is tried.
    fn carried(&mut self, from: u64, engine: &Engine) -> Result<(u64, State), String> {
        let segment = self.segment_at(self.tick());
        let first = self.segments[segment].from.min(from);
        let (mut begin, mut back) = (from, 30);
        loop {
            let state = self.aside(begin, |run| run.now.state.clone());
            let old = &self.segments[segment].engine;
            match carry(&state, &old.compiled, &engine.compiled) {
                Ok(state) => return Ok((begin, state)),
                Err(why) if begin == first => return Err(why.words()),
                Err(_) => begin = from.saturating_sub(back).max(first),
            }
            back *= 2;
        }
    }
}
