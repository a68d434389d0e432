//! Messages are delivered, in rounds until all is quiet.

use tickpond_lang::program::{Event as When, KindId, MessageId};

use super::mailboxes::Boxes;
use crate::code::Turn;
use crate::code::op::Reg;
use crate::code::{Compiled, HandlerCode};
use crate::engine::Engine;
use crate::engine::fire::allows;
use crate::event::{Event, Phase, What};
use crate::firing::{Counted, Occasions};
use crate::state::{Letter, Letters, State};
use crate::vm::Block;

/// Most rounds of mail in a tick; the rest is delivered in the next.
const MOST_ROUNDS: u32 = 16;

impl Engine {
    pub(crate) fn mail(&mut self, state: &mut State, events: &mut Vec<Event>) {
        for _ in 0..MOST_ROUNDS {
            if state.letters.is_empty() || self.halted {
                break;
            }
            let mut letters = std::mem::take(&mut state.letters);
            if !self.deliver_runs(state, &letters) {
                letters.write_out(&state.kinds);
                letters.sort();
                self.deliver(state, &letters, events);
            }
            letters.clear();
            if self.out.letters.is_empty() && state.letters.is_empty() {
                // For the memory.
                self.out.letters = letters;
            }
            self.close(state, Phase::Mail, events);
        }
        if state.letters.is_empty() {
            return;
        }
        let mut letters = std::mem::take(&mut state.letters);
        letters.write_out(&state.kinds);
        letters.sort();
        state.letters = letters;
        if let Some(first) = state.letters.iter().next() {
            let mut event = Event::new(state.tick, Phase::Mail, What::Refused, first.from);
            let words = format!("{} messages wait for the next tick", state.letters.len());
            event.words = Some(words.into());
            event.site = Some(first.site);
            events.push(event);
        }
    }

    /// Delivers letters that all lie in runs, each to one handler that wants nothing of them: it is enough
    /// to count them. False if they are not such letters; then nothing has happened.
    fn deliver_runs(&mut self, state: &mut State, letters: &Letters) -> bool {
        let Some(runs) = letters.in_runs().filter(|_| self.trace.is_none()) else { return false };
        let compiled = self.compiled.clone();
        let mut heard = Vec::new();
        for (run, ways) in runs {
            let Some(handler) = self.ear(state, run.to, run.what.0).open_to_all else {
                return false;
            };
            let code = &compiled.kinds[run.to.index()].handlers[handler];
            let (values, from) = registers(&compiled, code);
            if !values.is_empty() || from.is_some() || code.code.traits.is_about_another {
                return false;
            }
            heard.push(((run.to, handler), run.what.0, ways));
        }
        let mut counted = std::mem::take(&mut self.counted);
        for (job, message, ways) in heard {
            let totals = &mut state.mail_totals[message.index()];
            totals.sent += ways.len() as u64;
            totals.heard += ways.len() as u64;
            let columns = &state.kinds[job.0.index()];
            let at = counted.iter().position(|(of, _)| *of == job).unwrap_or_else(|| {
                counted.push((job, Counted::default()));
                counted.len() - 1
            });
            let counted = &mut counted[at].1;
            counted.times.resize(columns.len(), 0);
            counted.in_all += ways.len();
            for (_, addressee) in ways {
                counted.times[columns.row_at(*addressee)] += 1;
            }
        }
        for job in self.jobs(state, Phase::Mail, Turn::Mail) {
            if let Some((_, counted)) = counted.iter_mut().find(|(of, _)| *of == job)
                && counted.in_all > 0
            {
                self.fire(state, Phase::Mail, job, counted);
                counted.times.clear();
                counted.in_all = 0;
            }
        }
        self.counted = counted;
        true
    }

    fn deliver(&mut self, state: &mut State, letters: &Letters, events: &mut Vec<Event>) {
        let compiled = self.compiled.clone();
        let mut boxes = std::mem::take(&mut self.mailboxes);
        boxes.resize_with(compiled.kinds.len(), Vec::new);
        for (boxes, kind) in boxes.iter_mut().zip(&compiled.kinds) {
            boxes
                .resize_with(if kind.hears.is_empty() { 0 } else { kind.handlers.len() }, Vec::new);
        }
        let mut last: Option<Ear> = None;
        for (at, letter) in letters.iter().enumerate() {
            if let Some((kind, place)) = letters.stands(letter) {
                // Most letters are heard as the one before was.
                let (same, message) = ((kind, letter.message), letter.message);
                if last.as_ref().is_none_or(|ear| ear.of != same) {
                    last = Some(self.ear(state, kind, message));
                }
                if let Some(handler) = last.as_ref().and_then(|ear| ear.open_to_all) {
                    let totals = &mut state.mail_totals[message.index()];
                    totals.sent += 1;
                    totals.heard += 1;
                    let row = state.kinds[kind.index()].row_at(place) as u32;
                    boxes[kind.index()][handler].push((row, at as u32));
                    continue;
                }
            }
            state.mail_totals[letter.message.index()].sent += 1;
            let (mut heard, mut unheard) = (0, 0);
            match letters.stands(letter) {
                Some((kind, place)) => {
                    let found = Some((kind, state.row_at(kind, place)));
                    let hears = self.address(state, (at as u32, letter), found, &mut boxes, events);
                    heard += u64::from(hears);
                    unheard += u64::from(!hears);
                }
                None => {
                    for to in letters.addressees(letter) {
                        let found = state.find(*to);
                        let hears =
                            self.address(state, (at as u32, letter), found, &mut boxes, events);
                        heard += u64::from(hears);
                        // One to who is gone is stale, not unheard.
                        unheard += u64::from(!hears && found.is_some());
                    }
                }
            }
            let totals = &mut state.mail_totals[letter.message.index()];
            totals.heard += heard;
            totals.unheard += unheard;
            if letters.addressees(letter).is_empty() {
                totals.unheard += 1;
                let mut event = Event::new(state.tick, Phase::Mail, What::Unheard, letter.from);
                event.message = Some(letter.message);
                event.words = Some("nobody was there to hear it".into());
                event.site = Some(letter.site);
                events.push(event);
            }
        }
        let jobs = self.jobs(state, Phase::Mail, Turn::Mail);
        for (kind, handler) in jobs {
            let Some(heard) = boxes[kind.index()].get_mut(handler).map(std::mem::take) else {
                continue;
            };
            if !heard.is_empty() {
                let code = &compiled.kinds[kind.index()].handlers[handler];
                let about = code.code.traits.is_about_another;
                let heard = Heard { heard, letters, registers: registers(&compiled, code), about };
                self.fire(state, Phase::Mail, (kind, handler), &heard);
                boxes[kind.index()][handler] = heard.heard;
                boxes[kind.index()][handler].clear();
            }
        }
        self.mailboxes = boxes;
    }

    /// Whether one handler of a kind hears a message, and in all members, and nobody wants a list.
    fn ear(&self, state: &State, kind: KindId, message: MessageId) -> Ear {
        let code = &self.compiled.kinds[kind.index()];
        let mut hearing = code.hearing(message);
        let one = hearing.next().filter(|_| hearing.next().is_none() && !self.lists_mail);
        let awake = state.kinds[kind.index()].resting_count == 0;
        let open_to_all = one.filter(|at| {
            let handler = &code.handlers[*at];
            awake && handler.state.is_none() && !handler.while_inactive
        });
        Ear { of: (kind, message), open_to_all }
    }

    /// Finds the handlers of one addressee; false if it has none.
    fn address(
        &self,
        state: &State,
        (nth, letter): (u32, &Letter),
        found: Option<(KindId, usize)>,
        boxes: &mut Boxes,
        events: &mut Vec<Event>,
    ) -> bool {
        let mut note = |what, who| {
            let mut event = Event::new(state.tick, Phase::Mail, what, who);
            event.other = Some(letter.from);
            event.message = Some(letter.message);
            event.site = Some(letter.site);
            events.push(event);
        };
        let Some((kind, row)) = found else {
            note(What::Stale, letter.from);
            return false;
        };
        let mut hears = false;
        let code = &self.compiled.kinds[kind.index()];
        for at in code.hearing(letter.message) {
            if allows(state, kind, &code.handlers[at], row) {
                hears = true;
                boxes[kind.index()][at].push((row as u32, nth));
            }
        }
        if !hears {
            note(What::Unheard, state.who_at(kind, row));
        } else if self.lists_mail {
            note(What::Heard, state.who_at(kind, row));
        }
        hears
    }
}

/// How a kind hears a message.
struct Ear {
    of: (KindId, MessageId),
    /// The place of the handler that every member hears it with.
    open_to_all: Option<usize>,
}

/// Where a handler has the words of a letter, in their order, and who sent it.
fn registers(compiled: &Compiled, handler: &HandlerCode) -> (Vec<Reg>, Option<Reg>) {
    let When::Message { message, params, from } = &handler.event else { return Default::default() };
    let types = &compiled.program.messages[message.index()].params;
    let words = params.iter().zip(types).flat_map(|(local, (_, ty))| {
        let first = handler.register(*local);
        (0..Reg::from(crate::code::layout::words_of(ty))).map(move |part| first + part)
    });
    (words.collect(), from.map(|from| handler.register(from)))
}

/// Letters that set a handler off.
struct Heard<'a> {
    heard: Vec<(u32, u32)>,
    letters: &'a Letters,
    registers: (Vec<Reg>, Option<Reg>),
    /// Whether the handler is about who sent it.
    about: bool,
}

impl Occasions for Heard<'_> {
    fn len(&self) -> usize {
        self.heard.len()
    }

    fn row(&self, at: usize) -> u32 {
        self.heard[at].0
    }

    fn brings(&self) -> bool {
        self.about || !self.registers.0.is_empty() || self.registers.1.is_some()
    }

    fn bring(&self, at: usize, block: &mut Block, lane: usize) {
        let letter = self.letters.at(self.heard[at].1 as usize);
        block.meet(lane, letter.key.asker, letter.luck);
        for (reg, word) in self.registers.0.iter().zip(self.letters.values(letter)) {
            block.set(*reg, lane, *word);
        }
        if let Some(from) = self.registers.1 {
            block.set(from, lane, letter.from.id.to_word());
        }
    }
}
