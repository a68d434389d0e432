//! Who touches whom.
//!
//! Broad phase: bodies of kinds that notice touch go into a uniform grid by the bounding box of their motion. Narrow phase: pairs that
//! share a cell get a swept test. Cost grows with the bodies and with the pairs that are near each other.

use std::collections::BTreeMap;

use tickpond_lang::program::{KindId, SiteId};

use crate::code::{Compiled, other_of};
use crate::engine::Engine;
use crate::event::{Event, Guard, Phase, Stopped, What};
use crate::state::{Contact, State};
use crate::vm::related;

use super::search::{Meeting, in_order};

impl Engine {
    pub(crate) fn contact(&mut self, state: &mut State, events: &mut Vec<Event>) {
        let Some(meetings) = self.meetings(state) else {
            // Too many: the phase is left undone, whom it would have told last time.
            self.close(state, Phase::Contact, events);
            return;
        };
        let begun = begun(state, &meetings);
        for meeting in &begun {
            note(state, What::Touched, meeting.elder, meeting.younger, events);
        }
        let before = std::mem::take(&mut state.contacts);
        state.contacts = meetings.iter().map(|m| m.contact).collect();
        keep_resting(state, &before);
        let parted = self.parted(state, &before, events);
        self.note_crowded(state, &meetings, events);
        let crossed = self.crossed(state);
        self.run_touch(state, &begun);
        self.run_touching(state, &meetings);
        self.run_part(state, &parted);
        for (job, rows) in crossed {
            self.fire_rows(state, Phase::Contact, job, &rows);
        }
        self.close(state, Phase::Contact, events);
    }

    /// Who meets whom; `None` if that are more than the pond allows, or the tick is being given up.
    fn meetings(&mut self, state: &mut State) -> Option<Vec<Meeting>> {
        let compiled = self.compiled.clone();
        if compiled.notices.is_empty() {
            return Some(Vec::new());
        }
        let mut scratch = std::mem::take(&mut self.touch);
        let mut meetings = scratch.search(state, &compiled, || self.is_interrupted());
        self.touch = scratch;
        let (touches, interrupted) = (compiled.program.limits.touches, self.is_interrupted());
        in_order(&mut meetings);
        in_time(state, &mut meetings);
        if meetings.len() as u64 > touches || interrupted {
            let guard = if interrupted { Guard::Interrupted } else { Guard::Touches };
            let lines = lines_that_wait(&compiled, &meetings);
            state.stopped.get_or_insert(Stopped::by_lines(guard, state.tick, &lines));
            self.halted = true;
            return None;
        }
        Some(meetings)
    }

    /// Those that touched before and do not now. One of them may be gone.
    fn parted(&self, state: &State, before: &[Contact], events: &mut Vec<Event>) -> Vec<Contact> {
        let mut known = Known::new(&state.contacts);
        let mut still = |c: &Contact| known.find(c).is_some();
        let parted: Vec<Contact> =
            before.iter().filter(|c| !still(c) && !c.born_so).copied().collect();
        for contact in &parted {
            if let (Some((a, i)), Some((b, j))) =
                (state.find(contact.elder), state.find(contact.younger))
            {
                note(state, What::Parted, (a, i as u32), (b, j as u32), events);
            }
        }
        parted
    }

    /// Notes those that are not clear of their makers a second after their birth.
    fn note_crowded(&self, state: &State, meetings: &[Meeting], events: &mut Vec<Event>) {
        let second = self.compiled.program.rate.round() as u64;
        for meeting in meetings.iter().filter(|m| m.contact.born_so) {
            let (kind, row) = meeting.younger;
            let columns = &state.kinds[kind.index()];
            let made = columns.maker[row as usize] == meeting.contact.elder;
            if made && state.tick == columns.born[row as usize] + second {
                note(state, What::Crowded, meeting.younger, meeting.elder, events);
            }
        }
    }
}

/// The lines of the handlers that wait for most of these touches, and for how many: three at most.
fn lines_that_wait(compiled: &Compiled, meetings: &[Meeting]) -> Vec<(SiteId, u64)> {
    let mut pairs: BTreeMap<(KindId, KindId), u64> = BTreeMap::new();
    for meeting in meetings {
        *pairs.entry((meeting.elder.0, meeting.younger.0)).or_default() += 1;
    }
    let mut lines = Vec::new();
    for (kind, code) in compiled.kinds.iter().enumerate() {
        for handler in &code.handlers {
            let Some(other) = other_of(&handler.event) else { continue };
            let waits = |a: &KindId, b: &KindId| a.index() == kind && other.kinds.contains(b);
            let count = pairs.iter().filter(|((a, b), _)| waits(a, b) || waits(b, a));
            lines.push((handler.site, count.map(|(_, count)| count).sum::<u64>()));
        }
    }
    lines.retain(|(_, count)| *count > 0);
    lines.sort_by_key(|(site, count)| (std::cmp::Reverse(*count), site.0));
    lines.truncate(3);
    lines
}

/// Who lies over its maker or sibling since it was born, and is inactive, is still there: it has not been
/// apart from them.
fn keep_resting(state: &mut State, before: &[Contact]) {
    let rests =
        |id| state.find(id).is_some_and(|(kind, row)| !state.kinds[kind.index()].is_active(row));
    let lives = |id| state.find(id).is_some();
    let kept = before.iter().filter(|c| {
        c.born_so && lives(c.elder) && lives(c.younger) && (rests(c.elder) || rests(c.younger))
    });
    let kept: Vec<Contact> = kept.copied().collect();
    if !kept.is_empty() {
        state.contacts.extend(kept);
        state.contacts.sort_unstable();
    }
}

fn note(
    state: &State,
    what: What,
    who: (KindId, u32),
    other: (KindId, u32),
    events: &mut Vec<Event>,
) {
    let who = state.who_at(who.0, who.1 as usize);
    let mut event = Event::new(state.tick, Phase::Contact, what, who);
    event.other = Some(state.who_at(other.0, other.1 as usize));
    events.push(event);
}

/// The meetings that are new in this tick and not just the overlap of a birth.
fn begun(state: &State, meetings: &[Meeting]) -> Vec<Meeting> {
    // One that lay over another since its birth touches it for the first time after they were apart.
    let mut known = Known::new(&state.contacts);
    let mut is_known = |meeting: &Meeting| known.find(&meeting.contact).is_some();
    meetings.iter().filter(|m| !is_known(m) && !m.contact.born_so).copied().collect()
}

/// Contacts in their order, gone through from the first to the last.
struct Known<'c>(std::iter::Peekable<std::slice::Iter<'c, Contact>>);

impl<'c> Known<'c> {
    fn new(contacts: &'c [Contact]) -> Known<'c> {
        Known(contacts.iter().peekable())
    }

    /// The contact of two, asked for in the same order.
    fn find(&mut self, contact: &Contact) -> Option<&'c Contact> {
        let key = |c: &Contact| (c.elder_serial, c.younger_serial);
        let wanted = key(contact);
        while self.0.next_if(|known| key(known) < wanted).is_some() {}
        self.0.peek().copied().filter(|known| key(known) == wanted)
    }
}

/// Tells since when those meet that met before, and of the others whether they overlap because one was born of the other.
/// The meetings stand in their order.
fn in_time(state: &State, meetings: &mut [Meeting]) {
    let mut known = Known::new(&state.contacts);
    for meeting in meetings {
        let (elder, younger) = (meeting.elder, meeting.younger);
        let (old, young) = (&state.kinds[elder.0.index()], &state.kinds[younger.0.index()]);
        let (o, y) = (elder.1 as usize, younger.1 as usize);
        let attached = related(state, meeting.contact.elder, meeting.contact.younger);
        match known.find(&meeting.contact) {
            Some(before) => {
                meeting.contact.born_so = before.born_so || attached;
                meeting.contact.began = before.began;
            }
            None => {
                let kin = young.maker[y] == old.id[o]
                    || young.batch[y] != 0 && young.batch[y] == old.batch[o];
                let new = young.first_tick(y) == state.tick || old.first_tick(o) == state.tick;
                meeting.contact.born_so = attached || kin && new;
            }
        }
    }
}
