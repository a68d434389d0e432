//! Messages are delivered, in rounds until all is quiet.

use smallvec::SmallVec;
use tickpond_lang::program::Event as When;

use crate::code::{HandlerCode, KindCode};
use crate::engine::{Engine, Firing, allows};
use crate::event::{Event, Phase, What};
use crate::state::{EntityId, Letter, State};

/// Most rounds of mail in a tick; the rest is delivered in the next.
const MOST_ROUNDS: u32 = 16;

impl Engine {
    pub(crate) fn mail(&mut self, state: &mut State, events: &mut Vec<Event>) {
        for _ in 0..MOST_ROUNDS {
            if state.letters.is_empty() {
                return;
            }
            let mut letters = std::mem::take(&mut state.letters);
            if !letters.is_sorted_by_key(|letter| letter.key) {
                letters.sort_by_key(|letter| letter.key);
            }
            self.deliver(state, &letters, events);
            self.close(state, Phase::Mail, events);
        }
        if let Some(first) = state.letters.first() {
            let mut event = Event::new(state.tick, Phase::Mail, What::Refused, first.from);
            let words = format!("{} messages wait for the next tick", state.letters.len());
            event.words = Some(words.into());
            event.site = Some(first.site);
            events.push(event);
        }
    }

    fn deliver(&mut self, state: &mut State, letters: &[Letter], events: &mut Vec<Event>) {
        let compiled = self.compiled.clone();
        let ears: Vec<Ears<'_>> =
            compiled.kinds.iter().map(|k| Ears::of(k, compiled.program.messages.len())).collect();
        let mut boxes: Vec<Vec<Vec<Firing>>> =
            compiled.kinds.iter().map(|k| vec![Vec::new(); k.handlers.len()]).collect();
        for letter in letters {
            state.mail_totals[letter.message.index()].sent += 1;
            let mut heard = 0;
            for to in &letter.to {
                if self.address(state, letter, *to, (&ears, &mut boxes), events) {
                    heard += 1;
                }
            }
            let totals = &mut state.mail_totals[letter.message.index()];
            totals.heard += heard;
            totals.unheard += letter.to.len() as u64 - heard;
            if letter.to.is_empty() {
                totals.unheard += 1;
                let mut event = Event::new(state.tick, Phase::Mail, What::Unheard, letter.from);
                event.message = Some(letter.message);
                event.words = Some("nobody was there to hear it".into());
                event.site = Some(letter.site);
                events.push(event);
            }
        }
        let jobs = self.jobs(state, Phase::Mail, |h| matches!(h.event, When::Message { .. }));
        for (kind, handler) in jobs {
            let firings = std::mem::take(&mut boxes[kind.index()][handler]);
            if !firings.is_empty() {
                self.fire(state, Phase::Mail, (kind, handler), &firings);
            }
        }
    }

    /// Finds the handlers of one addressee; false if it has none.
    fn address(
        &self,
        state: &State,
        letter: &Letter,
        to: EntityId,
        (ears, boxes): (&[Ears<'_>], &mut [Vec<Vec<Firing>>]),
        events: &mut Vec<Event>,
    ) -> bool {
        let mut note = |what, who| {
            let mut event = Event::new(state.tick, Phase::Mail, what, who);
            event.other = Some(letter.from);
            event.message = Some(letter.message);
            event.site = Some(letter.site);
            events.push(event);
        };
        let Some((kind, row)) = state.find(to) else {
            note(What::Stale, letter.from);
            return false;
        };
        let mut hears = false;
        for (at, handler) in &ears[kind.index()].hearing[letter.message.index()] {
            if allows(state, kind, handler, row) {
                hears = true;
                let firing = self.letter_firing(letter, handler, row as u32);
                boxes[kind.index()][*at].push(firing);
            }
        }
        if !hears {
            note(What::Unheard, state.who_at(kind, row));
        } else if self.lists_mail {
            note(What::Heard, state.who_at(kind, row));
        }
        hears
    }

    fn letter_firing(&self, letter: &Letter, handler: &HandlerCode, row: u32) -> Firing {
        let When::Message { params, from, .. } = &handler.event else {
            return Firing { row, ..Firing::default() };
        };
        let types = &self.compiled.program.messages[letter.message.index()].params;
        let mut words = SmallVec::new();
        let mut at = 0;
        for (local, (_, ty)) in params.iter().zip(types) {
            for part in 0..u16::from(crate::code::words_of(ty)) {
                words.push((handler.register(*local) + part, letter.values[at]));
                at += 1;
            }
        }
        if let Some(from) = from {
            words.push((handler.register(*from), letter.from.id.to_word()));
        }
        Firing { row, other: letter.key.asker, other_luck: letter.luck, words, kept_velocity: None }
    }
}

/// Which handlers of a kind hear which message.
struct Ears<'a> {
    /// For each message, the handlers and their places in the roll.
    hearing: Vec<Vec<(usize, &'a HandlerCode)>>,
}

impl<'a> Ears<'a> {
    fn of(kind: &'a KindCode, messages: usize) -> Ears<'a> {
        let mut hearing = vec![Vec::new(); messages];
        for (at, handler) in kind.handlers.iter().enumerate() {
            if let When::Message { message, .. } = handler.event {
                hearing[message.index()].push((at, handler));
            }
        }
        Ears { hearing }
    }
}
