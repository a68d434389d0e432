//! Messages are delivered, in rounds until all is quiet.

use std::collections::BTreeMap;

use tickpond_lang::program::{Event as When, KindId, MessageId};

use crate::code::HandlerCode;
use crate::engine::{Engine, Firing, allowed};
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
            letters.sort_by_key(|letter| letter.key);
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
        let mut firings: BTreeMap<(KindId, usize), Vec<Firing>> = BTreeMap::new();
        for letter in letters {
            state.mail_totals[letter.message.index()].sent += 1;
            let mut heard = 0;
            for to in &letter.to {
                if self.address(state, letter, *to, &mut firings, events) {
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
        for job in jobs {
            if let Some(firings) = firings.get_mut(&job) {
                firings.sort_by_key(|f| f.row);
                self.fire(state, Phase::Mail, job, firings);
            }
        }
    }

    /// Finds the handlers of one addressee; false if it has none.
    fn address(
        &self,
        state: &State,
        letter: &Letter,
        to: EntityId,
        firings: &mut BTreeMap<(KindId, usize), Vec<Firing>>,
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
        let who = state.who_at(kind, row);
        let handlers = &self.compiled.kinds[kind.index()].handlers;
        let mut hears = false;
        for (at, handler) in handlers.iter().enumerate() {
            let awake = !allowed(state, kind, handler, &[row as u32]).is_empty();
            if hears_message(handler, letter.message) && awake {
                hears = true;
                let firing = self.letter_firing(state, letter, handler, row as u32);
                firings.entry((kind, at)).or_default().push(firing);
            }
        }
        note(if hears { What::Heard } else { What::Unheard }, who);
        hears
    }

    fn letter_firing(
        &self,
        state: &State,
        letter: &Letter,
        handler: &HandlerCode,
        row: u32,
    ) -> Firing {
        let When::Message { params, from, .. } = &handler.event else {
            return Firing { row, ..Firing::default() };
        };
        let types = &self.compiled.program.messages[letter.message.index()].params;
        let mut words = Vec::new();
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
        let sender = state.find(letter.from.id);
        let column = |pick: fn(&crate::state::Columns, usize) -> u64| {
            sender.map_or(0, |(kind, row)| pick(&state.kinds[kind.index()], row))
        };
        Firing {
            row,
            other: column(|c, row| c.serial[row]),
            other_luck: column(|c, row| c.luck[row]),
            words,
            kept_velocity: None,
        }
    }
}

fn hears_message(handler: &HandlerCode, wanted: MessageId) -> bool {
    matches!(handler.event, When::Message { message, .. } if message == wanted)
}
