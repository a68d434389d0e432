//! Closing a phase: writes take hold, requests go to the phase that owns them.

use std::collections::BTreeMap;

use tickpond_lang::program::{KindId, Role, SiteId};

use crate::engine::Engine;
use crate::event::{Event, Guard, Phase, Stopped, What};
use crate::luck;
use crate::state::{BirthRequest, Clock, EntityId, Letters, State};
use crate::vm::{Become, Fault};

impl Engine {
    /// Carries out the writes and hands on the requests of the phase that has just run.
    pub(crate) fn close(&mut self, state: &mut State, phase: Phase, events: &mut Vec<Event>) {
        self.out.look_up(&self.compiled.program.limits);
        if let Some((guard, lines)) = self.out.give_up() {
            self.halted = true;
            state.stopped.get_or_insert(Stopped::by_lines(guard, state.tick, &lines));
        }
        self.out.hand_on();
        self.apply_writes(state);
        self.apply_becomes(state, phase);
        self.collect_births(state);
        if !self.out.letters.is_empty() {
            let mut letters = std::mem::take(&mut self.out.letters);
            if self.lists_mail {
                self.list_sent(state, phase, &mut letters);
            } else if phase > Phase::Mail {
                // They wait for the next tick: a state has one order, whoever looks on.
                letters.sort();
            }
            state.letters.append(&mut letters);
            self.out.letters = letters;
        }
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
        if let Some(Fault { guard, site, span, who, times, .. }) = self.out.fault.take() {
            let stopped = Stopped { who, times, span, ..Stopped::once(guard, state.tick, site) };
            state.stopped.get_or_insert(stopped);
        }
        self.out.last_site = None;
    }

    /// Lists the letters that are sent among the events.
    fn list_sent(&mut self, state: &State, phase: Phase, letters: &mut Letters) {
        letters.write_out(&state.kinds);
        letters.sort();
        for letter in letters.iter() {
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
    }

    /// Changes of state take hold; of several in one phase the last of the roll stands.
    fn apply_becomes(&mut self, state: &mut State, phase: Phase) {
        if self.out.becomes.is_empty() {
            return;
        }
        let mut becomes = std::mem::take(&mut self.out.becomes);
        let place = |b: &Become| u64::from(b.kind.0) << 32 | u64::from(b.row);
        // No two are alike in all of it. Of each handler and round they come in order: such stretches
        // are merged.
        becomes.sort_by_key(|b| (place(b), b.state.track, b.handler, b.nth));
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
        if change.until == Clock::NEVER {
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
                columns.clocks[usize::from(clock)][row] = Clock::UNSET;
            }
            if let Some(held) = handler.held {
                held.set(&mut columns.bits, row, 0);
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
        if self.out.births.is_empty() {
            return;
        }
        let mut births = std::mem::take(&mut self.out.births);
        if !births.is_sorted_by_key(|birth| (birth.key, birth.index)) {
            // Requests are large: their keys are sorted, and each request is moved once.
            births.sort_by_cached_key(|birth| (birth.key, birth.index));
        }
        self.refuse_to_wait(state, &mut births);
        for birth in &mut births {
            *self.birth_lines.entry(birth.site.0).or_insert(0) += u64::from(birth.count);
            let asked = self.birth_counts.entry((birth.luck, birth.kind.0)).or_insert(0);
            let name = self.compiled.kinds[birth.kind.index()].name_hash;
            birth.luck = luck::fold(birth.luck, name);
            birth.before = *asked;
            *asked += u64::from(birth.count);
            if birth.wave != 0 {
                state.waves.entry(birth.wave).or_default().unborn += birth.count;
            }
            self.count_made(state, birth.maker.kind, birth.maker.id, birth.count as i32);
        }
        state.births.append(&mut births);
        self.out.births = births;
    }

    /// Refuses births beyond the number that may wait: those last in the roll.
    fn refuse_to_wait(&mut self, state: &mut State, births: &mut Vec<BirthRequest>) {
        let waiting: u64 = state.births.iter().map(|b| u64::from(b.count)).sum();
        let mut room = self.compiled.program.limits.waiting.saturating_sub(waiting);
        // Those that take place in this tick have a limit of their own.
        let waits = |birth: &BirthRequest| birth.spaced > 0 || birth.due > state.tick + 1;
        let wanted: u64 = births.iter().filter(|b| waits(b)).map(|b| u64::from(b.count)).sum();
        if wanted <= room {
            return;
        }
        let mut lines: BTreeMap<u32, u64> = BTreeMap::new();
        births.retain_mut(|birth| {
            if !waits(birth) {
                return true;
            }
            let fits = u64::from(birth.count).min(room);
            let refused = u64::from(birth.count) - fits;
            room -= fits;
            if refused > 0 {
                let times = lines.entry(birth.site.0).or_insert(0);
                if *times == 0 {
                    let mut event =
                        Event::new(state.tick, Phase::Births, What::Refused, birth.maker);
                    event.words = Some(Guard::Waiting.words().into());
                    event.site = Some(birth.site);
                    self.out.events.push((birth.key, event));
                }
                *times += refused;
            }
            birth.count = fits as u32;
            fits > 0
        });
        let mut lines: Vec<(SiteId, u64)> =
            lines.into_iter().map(|(site, times)| (SiteId(site), times)).collect();
        lines.sort_by_key(|(site, times)| (std::cmp::Reverse(*times), site.0));
        lines.truncate(3);
        state.stopped.get_or_insert(Stopped::by_lines(Guard::Waiting, state.tick, &lines));
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
            columns.made_open[row] += change as u32;
            columns.made_in_all[row] += change as u32;
        } else {
            let open = columns.made_open[row].saturating_sub(1);
            columns.made_open.set(row, open);
            columns.made_ended[row] = tick;
        }
    }

    /// The same for a birth that did not take place: it was none of those a spawner makes in all.
    pub(crate) fn count_unmade(&self, state: &mut State, kind: KindId, maker: EntityId) {
        self.count_made(state, kind, maker, -1);
        if let Role::Spawner(_) = self.compiled.program.kinds[kind.index()].role
            && let Some((kind, row)) = state.find(maker)
        {
            let columns = &mut state.kinds[kind.index()];
            let in_all = columns.made_in_all[row].saturating_sub(1);
            columns.made_in_all.set(row, in_all);
        }
    }
}
