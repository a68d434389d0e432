//! What was asked for is placed, then `on birth` runs; births that asks for join in further rounds.

use std::ops::Range;

use tickpond_lang::program::{KindId, POND, SiteId};

use super::active::put_to_rest;
use super::due::Due;
use super::places::{Found, heading_of_maker};

use crate::angle;
use crate::code::Turn;
use crate::engine::Engine;
use crate::event::{Event, Guard, Phase, Stopped, What, Who};
use crate::luck;
use crate::space;
use crate::state::{
    Attachment, BY_HAND, Birth, BirthExtras, BirthRequest, EntityId, FilterRequest, HealthRequest,
    Key, PlaceRequest, State,
};
use crate::vm::{self, Origin, World};

impl Engine {
    pub(crate) fn births(&mut self, state: &mut State, events: &mut Vec<Event>) {
        if self.halted {
            // They take place in the next tick.
            return;
        }
        for _ in 0..self.compiled.program.limits.rounds {
            let mut due = std::mem::take(&mut self.due);
            due.take(state);
            let are_due = !due.order.is_empty();
            if are_due {
                self.place_all(state, &mut due, events);
                self.run_on_birth(state, &due);
                self.close(state, Phase::Births, events);
            }
            self.due = due;
            if !are_due {
                return;
            }
        }
        let mut due = std::mem::take(&mut self.due);
        due.take(state);
        if let Some(first) = due.in_order().next() {
            for request in due.in_order() {
                (0..request.count)
                    .for_each(|_| self.refuse(state, request, Guard::BirthRounds, events));
            }
            // The lines that asked for most in all of the rounds.
            let fault = |line: &u32| *line == first.site.0 || self.refused.contains_key(line);
            let asked = self.birth_lines.iter().filter(|(line, _)| fault(line));
            let lines = most_of(asked);
            state.stopped = Some(Stopped::by_lines(Guard::BirthRounds, state.tick, &lines));
        }
        self.due = due;
    }

    /// Tick 0: the placements, by kind, then x, then y.
    pub(crate) fn births_opening(&mut self, state: &mut State, events: &mut Vec<Event>) {
        let compiled = self.compiled.clone();
        let middle = {
            let arena = &compiled.program.arena;
            ((arena.low.0 + arena.high.0) / 2.0, (arena.low.1 + arena.high.1) / 2.0)
        };
        let world_state = state.clone();
        let index = self.index();
        let world =
            World { compiled: &compiled, state: &world_state, phase: Phase::Births, index: &index };
        for (site, code) in &compiled.places {
            let origin = Origin::outside(POND, code.hash, code.cause);
            self.block.prepare(&[0], &code.code);
            self.out.last_site = Some(*site);
            vm::run(world, origin, &code.code, 0, &mut self.block, &mut self.out);
        }
        // The pond is nowhere: `here` in a placement is the middle of the arena.
        let here_is_unsaid: Vec<bool> = compiled
            .program
            .places
            .iter()
            .map(|p| p.birth.place == tickpond_lang::program::Where::Here)
            .collect();
        for birth in &mut self.out.births {
            let placed = compiled.program.places.iter().position(|p| p.site == birth.site);
            if placed.is_some_and(|at| here_is_unsaid[at]) {
                birth.place = PlaceRequest::Point(middle.0, middle.1);
            }
            birth.maker_heading = None;
        }
        self.sort_placed(state);
        self.close(state, Phase::Births, events);
        // Numbers by kind, so that one more kind leaves the luck of the others alone.
        self.births(state, events);
    }

    /// Gives the placed their place in the roll and their luck: by kind, then x, then y, then by what else is
    /// said of them. Those that are alike in all of it could change places without a difference.
    fn sort_placed(&mut self, state: &State) {
        let births = std::mem::take(&mut self.out.births);
        // What one line placed is one another's sibling, what another placed is not.
        let lines = births.into_iter().enumerate();
        let mut placed: Vec<(usize, BirthRequest)> =
            lines.flat_map(|(line, birth)| birth.singly().map(move |one| (line, one))).collect();
        let kinds = &self.compiled.program.kinds;
        let place = |b: &BirthRequest| match b.place {
            PlaceRequest::Point(x, y) => (x, y),
            PlaceRequest::Spot(group, at) => {
                self.compiled.program.spots[group.index()].spots[at as usize].at
            }
            _ => (0.0, 0.0),
        };
        placed.sort_by_cached_key(|(_, b)| {
            let (x, y) = place(b);
            let label = b.label.clone();
            (kinds[b.kind.index()].name.clone(), ordered(x), ordered(y), state.said_of(b), label)
        });
        let mut batches: Vec<usize> = Vec::new();
        for (nth, (line, birth)) in placed.iter_mut().enumerate() {
            let batch = batches.iter().position(|known| known == line).unwrap_or_else(|| {
                batches.push(*line);
                batches.len() - 1
            });
            birth.batch = luck::hash(&[state.seed, batch as u64 + 1]);
            birth.key = Key { nth: nth as u32, ..Key::default() };
            birth.index = 0;
            birth.luck = luck::hash(&[state.seed]);
        }
        self.out.births = placed.into_iter().map(|(_, birth)| birth).collect();
    }

    fn place_all(&mut self, state: &mut State, due: &mut Due, events: &mut Vec<Event>) {
        let limits = self.compiled.program.limits;
        let mut live = state.live();
        let mut full = Guard::Entities;
        let Due { requests, order, born } = due;
        self.standing.forget();
        // At the opening the view goes where it belongs between the given places and the chosen ones.
        let mut viewed = state.tick > 0;
        for at in &*order {
            let request = &requests[*at as usize];
            if !viewed && request.is_chosen() {
                self.put_view(state);
                viewed = true;
            }
            if self.is_interrupted() {
                break;
            }
            let first = state.kinds[request.kind.index()].len();
            let count = request.count as usize;
            let has_room =
                live + count <= limits.entities && self.born_now + count as u64 <= limits.births;
            if has_room && is_plain(request) {
                self.place_plain(state, request, events);
            } else {
                for birth in request.each() {
                    self.enter_standing(state, request);
                    let placed = state.kinds[request.kind.index()].len() - first;
                    if live + placed >= limits.entities {
                        self.refuse(state, request, Guard::Entities, events);
                        full = Guard::Entities;
                    } else if self.born_now + placed as u64 >= limits.births {
                        self.refuse(state, request, Guard::Births, events);
                        full = Guard::Births;
                    } else if let Some(place) = self.resolve(state, birth) {
                        self.place_one(state, birth, place, events);
                    } else {
                        self.no_place(state, request, events);
                    }
                }
            }
            let rows = first..state.kinds[request.kind.index()].len();
            live += rows.len();
            self.born_now += rows.len() as u64;
            born.push((*at, rows));
        }
        self.note_refusals(state, full);
        for (kind, rows) in by_kind(requests, born) {
            self.first_values(state, kind, rows);
        }
        for (at, rows) in &*born {
            let birth = &requests[*at as usize];
            let columns = &mut state.kinds[birth.kind.index()];
            for (word, value) in &birth.vars {
                columns.vars[*word as usize][rows.clone()].fill(*value);
            }
            if let Some(health) = birth.health {
                rows.clone().for_each(|row| columns.health.set(row, health));
            }
        }
        self.judge_newborn(state, requests, born);
    }

    /// Enters where those stand that the conditions of a birth are about.
    fn enter_standing(&mut self, state: &State, request: &BirthRequest) {
        let Some(extras) = &request.extras else { return };
        let program = &self.compiled.program;
        let to_come = request.count as usize;
        for filter in &extras.filters {
            let mut enter = |kind: KindId| {
                let columns = &state.kinds[kind.index()];
                self.standing.enter(kind, columns, &program.arena, to_come);
            };
            match filter {
                FilterRequest::NotNearKinds(_, kinds) => kinds.iter().copied().for_each(&mut enter),
                FilterRequest::ClearOfSolid => {
                    let all = program.kinds.iter().enumerate();
                    let solid = all.filter(|(_, kind)| kind.matter.solid);
                    solid.for_each(|(at, _)| enter(KindId(at as u32)));
                }
                _ => {}
            }
        }
    }

    /// Who is born without health is judged in settle, as if it had just come to nothing.
    fn judge_newborn(
        &self,
        state: &mut State,
        requests: &[BirthRequest],
        born: &[(u32, Range<usize>)],
    ) {
        for (at, rows) in born {
            let request = &requests[*at as usize];
            if self.compiled.kinds[request.kind.index()].health.is_none() {
                continue;
            }
            for row in rows.clone() {
                let columns = &mut state.kinds[request.kind.index()];
                if columns.health[row] > 0.0 {
                    continue;
                }
                columns.health.set(row, 0.0);
                let who = state.who_at(request.kind, row);
                let (key, site) = (request.key, request.site);
                state.health.push(HealthRequest { key, target: who.id, loss: 0.0, by: who, site });
            }
        }
    }

    /// Variables and health at birth, for new rows of a kind.
    pub(crate) fn first_values(&mut self, state: &mut State, kind: KindId, rows: Range<usize>) {
        let compiled = self.compiled.clone();
        let code = &compiled.kinds[kind.index()];
        if code.vars.is_empty() && code.health.is_none() {
            return;
        }
        let rows: Vec<u32> = rows.map(|row| row as u32).collect();
        let rows = &rows[..];
        for (word, words, init) in &code.vars {
            let values = self.values(state, Phase::Births, kind, init, rows, *words);
            for (row, value) in rows.iter().zip(values) {
                let columns = &mut state.kinds[kind.index()].vars[usize::from(*word)..];
                // What is no number is not kept; the run stops for it.
                let fine = !init.numeric || f64::from_bits(value[0]).is_finite();
                for (column, part) in columns.iter_mut().zip(value).take(usize::from(*words)) {
                    column[*row as usize] = if fine { part } else { 0 };
                }
            }
        }
        if let Some(health) = &code.health {
            let values = self.values(state, Phase::Births, kind, health, rows, 1);
            for (row, value) in rows.iter().zip(values) {
                let health = f64::from_bits(value[0]);
                let health = if health.is_finite() { health } else { 0.0 };
                state.kinds[kind.index()].health.set(*row as usize, health);
            }
        }
    }

    /// Places all births of a request that asks for nothing out of the common: there is a place for each.
    fn place_plain(&self, state: &mut State, request: &BirthRequest, events: &mut Vec<Event>) {
        let maker_heading = heading_of_maker(state, request);
        let first = state.add_rows(request.kind, request.count as usize, request.maker.id);
        state.kinds[request.kind.index()].batch.fill_from(first, request.batch);
        events.reserve(request.count as usize);
        for (row, one) in (first..).zip(request.each()) {
            let place = self.place_at(state, one, 0);
            self.put(state, row, one, (place, maker_heading), events);
        }
    }

    fn place_one(
        &mut self,
        state: &mut State,
        one: Birth<'_>,
        place: Found,
        events: &mut Vec<Event>,
    ) {
        let birth = one.request;
        let maker_heading = heading_of_maker(state, birth);
        let row = state.add_rows(birth.kind, 1, birth.maker.id);
        let columns = &mut state.kinds[birth.kind.index()];
        columns.batch.set(row, birth.batch);
        if one.index == 0 && birth.extras.as_ref().is_some_and(|e| e.named) {
            columns.first.set(row, birth.batch);
        }
        columns.wave.set(row, birth.wave);
        let id = columns.id[row];
        self.put(state, row, one, (place, maker_heading), events);
        if let Some(extras) = &birth.extras {
            self.with_extras(state, birth, extras, id);
        }
        if let Some(label) = &birth.label {
            state.labels.insert(id, label.clone());
        }
        if birth.wave != 0 {
            let wave = state.waves.entry(birth.wave).or_default();
            wave.unborn = wave.unborn.saturating_sub(1);
            wave.live += 1;
        }
    }

    /// Puts one into its place, with its facing, velocity and luck.
    fn put(
        &self,
        state: &mut State,
        row: usize,
        one: Birth<'_>,
        ((x, y, place_facing), maker_heading): (Found, Option<f64>),
        events: &mut Vec<Event>,
    ) {
        let birth = one.request;
        let heading = self.heading_at(one, (x, y, place_facing), maker_heading);
        let (sin, cos) = angle::sin_cos(heading);
        let (vx, vy) = match (birth.vel, birth.speed) {
            (Some(vel), _) => vel,
            (None, Some(speed)) => (cos * speed, sin * speed),
            (None, None) => (0.0, 0.0),
        };
        let (vx, vy) = match &birth.extras {
            Some(extras) => (
                vx + extras.push.0 + cos * extras.push_along,
                vy + extras.push.1 + sin * extras.push_along,
            ),
            None => (vx, vy),
        };
        let columns = &mut state.kinds[birth.kind.index()];
        columns.luck[row] = one.luck;
        (columns.x[row], columns.y[row]) = (x + 0.0, y + 0.0);
        (columns.vx[row], columns.vy[row]) = (vx + 0.0, vy + 0.0);
        columns.heading[row] = heading;
        let who = Who { kind: birth.kind, number: columns.number[row], id: columns.id[row] };
        let mut event = Event::new(state.tick, Phase::Births, What::Born, who);
        event.other = Some(birth.maker);
        event.place = Some((x, y));
        event.site = line_of(birth);
        events.push(event);
    }

    fn with_extras(
        &self,
        state: &mut State,
        birth: &BirthRequest,
        extras: &BirthExtras,
        id: EntityId,
    ) {
        if extras.inactive {
            put_to_rest(state, id);
        }
        if let (Some(outlives), PlaceRequest::Mount(owner, mount, ..)) =
            (extras.attached, birth.place)
            && state.find(owner).is_some()
        {
            state.attached.insert(id, Attachment { owner, mount, outlives });
        }
    }

    /// Where one faces that is born in a place, whose maker faces somewhere; in deg. What is given goes first:
    /// a direction, a mount, a place to look at; then the facing of the place, then the maker's.
    pub(super) fn heading_at(
        &self,
        one: Birth<'_>,
        (x, y, place_facing): Found,
        maker_heading: Option<f64>,
    ) -> f64 {
        let birth = one.request;
        let along = birth.extras.as_ref().and_then(|extras| extras.along).map(|mount| {
            let mounts = &self.compiled.program.kinds[birth.maker.kind.index()].mounts;
            maker_heading.unwrap_or(0.0) + mounts[mount as usize].facing
        });
        let toward = birth.toward.and_then(|toward| {
            let (dx, dy) = space::offset(&self.compiled.program.arena, (x, y), toward);
            angle::direction(dx, dy)
        });
        let given = birth.facing.or(along).or(toward);
        let facing = given.or(place_facing).or(maker_heading).unwrap_or(0.0);
        angle::normal(facing + one.turn)
    }

    /// Notes that no place met the conditions: nothing is born.
    fn no_place(&mut self, state: &mut State, birth: &BirthRequest, events: &mut Vec<Event>) {
        if birth.wave != 0 {
            let wave = state.waves.entry(birth.wave).or_default();
            wave.unborn = wave.unborn.saturating_sub(1);
        }
        self.count_unmade(state, birth.maker.kind, birth.maker.id);
        let mut event = Event::new(state.tick, Phase::Births, What::NoPlace, birth.maker);
        let name = &self.compiled.program.kinds[birth.kind.index()].name;
        event.words = Some(format!("no place for a {name}").into());
        event.site = line_of(birth);
        events.push(event);
    }

    fn run_on_birth(&mut self, state: &State, due: &Due) {
        for job in self.jobs(state, Phase::Births, Turn::Births) {
            let born = due.born.iter().filter(|(at, _)| due.requests[*at as usize].kind == job.0);
            let rows = born.flat_map(|(_, rows)| rows.clone());
            let rows: Vec<u32> = rows.map(|row| row as u32).collect();
            self.fire_rows(state, Phase::Births, job, &rows);
        }
    }

    fn refuse(
        &mut self,
        state: &mut State,
        birth: &BirthRequest,
        guard: Guard,
        events: &mut Vec<Event>,
    ) {
        let count = self.refused.entry(birth.site.0).or_insert(0);
        *count += 1;
        if birth.wave != 0 {
            let wave = state.waves.entry(birth.wave).or_default();
            wave.unborn = wave.unborn.saturating_sub(1);
        }
        self.count_unmade(state, birth.maker.kind, birth.maker.id);
        // One record a line and tick tells enough; thousands would drown the rest.
        if *self.refused.get(&birth.site.0).unwrap_or(&0) == 1 {
            let mut event = Event::new(state.tick, Phase::Births, What::Refused, birth.maker);
            event.words = Some(guard.words().into());
            event.site = line_of(birth);
            events.push(event);
        }
    }

    fn note_refusals(&mut self, state: &mut State, guard: Guard) {
        if !self.refused.is_empty() {
            let lines = most_of(self.refused.iter());
            state.stopped = Some(Stopped::by_lines(guard, state.tick, &lines));
        }
    }
}

/// The lines with the largest counts, three at most; the first in the text among equals.
fn most_of<'a>(lines: impl Iterator<Item = (&'a u32, &'a u64)>) -> Vec<(SiteId, u64)> {
    let mut lines: Vec<(SiteId, u64)> =
        lines.map(|(site, times)| (SiteId(*site), *times)).collect();
    lines.sort_by_key(|(site, times)| (std::cmp::Reverse(*times), site.0));
    lines.retain(|(site, _)| *site != BY_HAND);
    lines.truncate(3);
    lines
}

/// A number as a word, of which the smaller stands for the smaller number.
fn ordered(number: f64) -> u64 {
    let bits = (number + 0.0).to_bits();
    if bits >> 63 == 1 { !bits } else { bits | 1 << 63 }
}

/// Whether there is a place for all births of a request, and nothing is to be done for one of them alone.
fn is_plain(request: &BirthRequest) -> bool {
    request.extras.is_none() && request.label.is_none() && request.wave == 0
}

/// The rows that were born, in one stretch for each kind: whoever is born comes behind those of its kind.
fn by_kind(requests: &[BirthRequest], born: &[(u32, Range<usize>)]) -> Vec<(KindId, Range<usize>)> {
    let mut stretches: Vec<(KindId, Range<usize>)> = Vec::new();
    for (at, rows) in born {
        let kind = requests[*at as usize].kind;
        match stretches.last_mut().filter(|(last, _)| *last == kind) {
            Some((_, all)) => all.end = rows.end,
            None => stretches.push((kind, rows.clone())),
        }
    }
    stretches.sort_by_key(|(kind, rows)| (*kind, rows.start));
    stretches.dedup_by(|next, all| {
        let same = next.0 == all.0;
        if same {
            all.1.end = next.1.end;
        }
        same
    });
    stretches
}

/// The line that asked for a birth; none if it was placed by hand.
fn line_of(birth: &BirthRequest) -> Option<SiteId> {
    (birth.site != BY_HAND).then_some(birth.site)
}
