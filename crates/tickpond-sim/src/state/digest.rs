//! A hash of the state: runs with equal digests go on equally.
//!
//! It covers all fields, in an order that does not depend on the order of the text. Left out is what decides nothing: the lines of
//! requests, how often lines ran, why the run stopped; and of the solver what it keeps of contacts between ticks, beside positions,
//! rotations, velocities and sleep of its bodies.

use std::collections::BTreeMap;
use std::sync::Arc;

use tickpond_lang::program::KindId;
use xxhash_rust::xxh3::Xxh3;

use super::birth::{BirthRequest, FilterRequest, PlaceRequest};
use super::canon::Canon;
use super::columns::{Columns, TrackColumns};
use super::contacts::{Contact, Touching};
use super::lazy::Lazy;
use super::letters::Letters;
use super::requests::{
    ActiveRequest, AttachRequest, Attachment, EndRequest, HealthRequest, PushRequest, Trace, Wait,
};
use super::roll::Key;
use super::slots::EntityId;
use super::solids::Solids;
use super::totals::{InputState, MailTotals, TallyKey, Totals, Wave};
use crate::event::Who;
use crate::luck::hash_text;

/// Collects words and hashes them in blocks: one call of the hash for each word is slow.
pub(super) struct Digest<'a> {
    hash: Xxh3,
    block: Vec<u8>,
    canon: &'a Canon,
}

impl<'a> Digest<'a> {
    /// The hash of what is told to it.
    pub fn of(canon: &'a Canon, tell: impl FnOnce(&mut Digest<'a>)) -> u64 {
        let mut digest = Digest { hash: Xxh3::new(), block: Vec::new(), canon };
        tell(&mut digest);
        digest.hash.update(&digest.block);
        digest.hash.digest()
    }

    pub fn word(&mut self, word: u64) {
        self.block.extend_from_slice(&word.to_le_bytes());
        if self.block.len() >= 4096 {
            self.hash.update(&self.block);
            self.block.clear();
        }
    }

    pub fn words(&mut self, words: impl IntoIterator<Item = u64>) {
        words.into_iter().for_each(|w| self.word(w));
    }

    /// A whole column at once. Its bytes are hashed as they lie in memory: little-endian, as on all
    /// machines this runs on.
    fn column<T: bytemuck::NoUninit>(&mut self, column: &[T]) {
        self.hash.update(&self.block);
        self.block.clear();
        self.hash.update(bytemuck::cast_slice(column));
    }

    /// A column that may be stored or not; which of both it is follows from what happened, and is
    /// part of the state.
    fn lazy<T: bytemuck::NoUninit + PartialEq>(&mut self, column: &Lazy<T>) {
        self.word(u64::from(column.stored().is_some()));
        if let Some(values) = column.stored() {
            self.column(values);
        }
    }

    fn number(&mut self, number: f64) {
        self.word(number.to_bits());
    }

    pub fn numbers(&mut self, numbers: &[f64]) {
        self.words(numbers.iter().map(|n| n.to_bits()));
    }

    fn maybe(&mut self, number: Option<f64>) {
        self.word(u64::from(number.is_some()));
        self.number(number.unwrap_or(0.0));
    }

    /// A text, or none.
    fn text(&mut self, text: Option<&str>) {
        self.words([u64::from(text.is_some()), text.map_or(0, hash_text)]);
    }

    fn who(&mut self, who: &Who) {
        self.words([self.canon.kind(who.kind), u64::from(who.number), who.id.to_word()]);
    }

    fn key(&mut self, key: &Key) {
        self.words([key.asker, u64::from(key.handler), key.other, u64::from(key.nth)]);
    }

    fn columns(&mut self, name: u64, c: &Columns, vars: &[u32]) {
        self.words([name, c.len() as u64]);
        self.column(&c.id);
        self.word(c.maker.usual().to_word());
        self.lazy(&c.maker);
        self.column(&c.number);
        for column in [&c.made_open, &c.made_in_all, &c.still] {
            self.lazy(column);
        }
        [&c.serial, &c.luck, &c.born].into_iter().for_each(|column| self.column(column));
        let lazy = [&c.batch, &c.first, &c.wave, &c.slept, &c.made_ended];
        lazy.into_iter().for_each(|column| self.lazy(column));
        self.lazy(&c.rests_since);
        for bits in &c.bits {
            self.word(u64::from(bits.stored().is_some()));
            bits.stored().into_iter().for_each(|bits| self.column(bits));
        }
        for column in [&c.x, &c.y, &c.vx, &c.vy, &c.heading] {
            self.column(column);
        }
        [&c.spin, &c.health].into_iter().for_each(|column| self.lazy(column));
        self.word(u64::from(c.down.stored().is_some()));
        self.words(c.down.stored().into_iter().flatten().map(|d| u64::from(*d)));
        let vars = vars.iter().filter_map(|word| c.vars.get(*word as usize));
        vars.for_each(|column| self.column(column));
        c.clocks.iter().for_each(|column| self.column(column));
        for track in &c.tracks {
            let TrackColumns { now, back, until, since, seen } = track;
            self.column(until);
            [now, back, since, seen].into_iter().for_each(|column| self.column(column));
        }
    }

    fn birth(&mut self, b: &BirthRequest) {
        self.key(&b.key);
        self.words([b.due, b.spaced, u64::from(b.index), u64::from(b.count)]);
        self.word(self.canon.kind(b.kind));
        self.who(&b.maker);
        self.words([b.luck, b.before, b.batch, b.wave]);
        let canon = self.canon;
        match b.place {
            PlaceRequest::Point(x, y) => self.numbers(&[0.0, x, y]),
            PlaceRequest::Entity(id, x, y, h) => {
                self.word(id.to_word());
                self.numbers(&[1.0, x, y, h]);
            }
            PlaceRequest::Mount(id, mount, x, y, h) => {
                self.words([id.to_word(), u64::from(mount)]);
                self.numbers(&[2.0, x, y, h]);
            }
            PlaceRequest::Spot(group, at) => {
                self.words([3, canon.spots[group.index()], u64::from(at)]);
            }
            PlaceRequest::AnySpot(group) => self.words([4, canon.spots[group.index()]]),
            PlaceRequest::Anywhere => self.word(5),
            PlaceRequest::InZone(zone) => self.words([7, canon.zones[zone.index()]]),
            PlaceRequest::Around(x, y, d) => self.numbers(&[8.0, x, y, d]),
            PlaceRequest::Ring(x, y, d) => self.numbers(&[9.0, x, y, d]),
            PlaceRequest::Edge(side) => self.words([6, side as u64]),
        }
        for number in [b.facing, b.speed, b.health, b.maker_heading, Some(b.spread.0)] {
            self.maybe(number);
        }
        self.word(u64::from(b.spread.1));
        for pair in [b.toward, b.vel] {
            self.maybe(pair.map(|p| p.0));
            self.maybe(pair.map(|p| p.1));
        }
        self.text(b.label.as_deref());
        self.word(b.vars.len() as u64);
        let order = &canon.vars[b.kind.index()];
        for word in order {
            let given = b.vars.iter().filter(|(at, _)| at == word);
            given.for_each(|(_, value)| self.word(*value));
        }
        self.word(u64::from(b.extras.is_some()));
        if let Some(extras) = &b.extras {
            self.numbers(&[extras.push.0, extras.push.1, extras.push_along]);
            let attached = extras.attached.map_or(2, u64::from);
            let along = extras.along.map_or(u64::MAX, u64::from);
            let flags = [extras.inactive, extras.keeps_velocity, extras.named].map(u64::from);
            self.words([attached, along, extras.filters.len() as u64]);
            self.words(flags);
            extras.filters.iter().for_each(|filter| self.filter(filter));
        }
    }

    fn filter(&mut self, filter: &FilterRequest) {
        match filter {
            FilterRequest::NotInView(wider) => self.numbers(&[0.0, *wider]),
            FilterRequest::NotNearPlace(distance, x, y) => self.numbers(&[1.0, *distance, *x, *y]),
            FilterRequest::NotNearKinds(distance, kinds) => {
                self.numbers(&[2.0, *distance]);
                let mut names: Vec<u64> = kinds.iter().map(|k| self.canon.kind(*k)).collect();
                names.sort_unstable();
                self.words(names);
            }
            FilterRequest::ClearOfSolid => self.word(3),
        }
    }

    pub fn knobs(&mut self, knobs: &[f64]) {
        let canon = self.canon;
        canon.knobs.iter().for_each(|knob| self.number(knobs[*knob]));
    }

    pub fn input(&mut self, input: &InputState) {
        for at in &self.canon.inputs {
            let bit = |bits: u64| bits >> (at % 64) & 1;
            self.words([bit(input.held), bit(input.pressed), bit(input.released)]);
            self.numbers(&[input.places[*at].0, input.places[*at].1]);
        }
    }

    pub fn kinds(&mut self, kinds: &[Columns]) {
        let canon = self.canon;
        for kind in &canon.kinds {
            let at = kind.index();
            self.columns(canon.kind(*kind), &kinds[at], &canon.vars[at]);
        }
    }

    pub fn births(&mut self, births: &[BirthRequest]) {
        let mut births: Vec<&BirthRequest> = births.iter().collect();
        births.sort_by_key(|b| (b.due, b.key, b.index));
        self.word(births.len() as u64);
        births.into_iter().for_each(|birth| self.birth(birth));
    }

    pub fn letters(&mut self, letters: &Letters) {
        self.word(letters.len() as u64);
        for letter in letters.iter() {
            self.key(&letter.key);
            self.words([self.canon.messages[letter.message.index()], letter.luck]);
            self.who(&letter.from);
            self.words(letters.values(letter).iter().copied());
            self.words(letters.addressees(letter).iter().map(|id| id.to_word()));
        }
    }

    pub fn health(&mut self, asked: &[HealthRequest]) {
        for health in asked {
            self.key(&health.key);
            self.words([health.target.to_word(), health.loss.to_bits()]);
            self.who(&health.by);
        }
    }

    pub fn ends(&mut self, asked: &[EndRequest]) {
        for end in asked {
            self.key(&end.key);
            self.words([end.target.to_word(), end.phase as u64, end.cause as u64]);
            self.text(end.words.as_deref());
            self.who(&end.by);
            self.maybe(end.kept_velocity.map(|v| v.0));
            self.maybe(end.kept_velocity.map(|v| v.1));
            self.word(end.births.len() as u64);
            end.births.iter().for_each(|birth| self.birth(birth));
        }
    }

    pub fn pushes(&mut self, asked: &[PushRequest]) {
        for push in asked {
            self.key(&push.key);
            self.words([push.target.to_word(), push.by.0.to_bits(), push.by.1.to_bits()]);
        }
    }

    pub fn activations(&mut self, asked: &[ActiveRequest]) {
        for request in asked {
            self.key(&request.key);
            self.words([request.target.to_word(), u64::from(request.on)]);
            self.who(&request.by);
        }
    }

    pub fn attaching(&mut self, asked: &[AttachRequest]) {
        for request in asked {
            self.key(&request.key);
            self.word(request.target.to_word());
            self.who(&request.by);
            self.word(u64::from(request.to.is_some()));
            if let Some(to) = request.to {
                let flags = u64::from(to.mount) << 1 | u64::from(to.outlives);
                self.words([to.owner.to_word(), flags]);
            }
        }
    }

    pub fn waits(&mut self, waits: &[Wait]) {
        for wait in waits {
            let (handler, at) = (u64::from(wait.handler), u64::from(wait.at));
            self.words([wait.due, wait.entity.to_word(), handler, at, wait.words.len() as u64]);
            self.words(wait.words.iter().copied());
        }
    }

    pub fn traces(&mut self, traces: &[Trace]) {
        for trace in traces {
            self.numbers(&[trace.from.0, trace.from.1, trace.to.0, trace.to.1]);
            self.words([trace.since, trace.until]);
            self.maybe(trace.radius);
        }
    }

    pub fn solids(&mut self, solids: Option<&Solids>) {
        self.word(u64::from(solids.is_some()));
        solids.into_iter().for_each(|solids| self.words(solids.words()));
    }

    pub fn attached(&mut self, attached: &BTreeMap<EntityId, Attachment>) {
        for (id, attachment) in attached {
            let flags = u64::from(attachment.mount) << 1 | u64::from(attachment.outlives);
            self.words([id.to_word(), attachment.owner.to_word(), flags]);
        }
    }

    pub fn contacts(&mut self, contacts: &[Contact]) {
        for contact in contacts {
            let ids = [contact.elder.to_word(), contact.younger.to_word(), contact.began];
            self.words(ids);
            self.word(u64::from(contact.born_so));
        }
    }

    pub fn touching(&mut self, touching: &BTreeMap<Touching, u64>) {
        let canon = self.canon;
        let touching = touching.iter().map(|(key, due)| {
            [canon.kind(key.kind), u64::from(key.handler), key.me, key.other, *due]
        });
        let mut touching: Vec<[u64; 5]> = touching.collect();
        touching.sort_unstable();
        self.words(touching.into_iter().flatten());
    }

    pub fn waves(&mut self, waves: &BTreeMap<u64, Wave>) {
        for (id, wave) in waves {
            self.words([*id, u64::from(wave.live), u64::from(wave.unborn)]);
        }
    }

    pub fn labels(&mut self, labels: &BTreeMap<EntityId, Arc<str>>) {
        for (id, label) in labels {
            self.word(id.to_word());
            self.text(Some(label));
        }
    }

    pub fn totals(&mut self, totals: &[Totals]) {
        let canon = self.canon;
        for kind in &canon.kinds {
            let totals = &totals[kind.index()];
            self.words([totals.born, totals.peak, totals.peak_tick]);
            self.words(totals.ended);
        }
    }

    pub fn mail_totals(&mut self, totals: &[MailTotals]) {
        let canon = self.canon;
        for message in &canon.message_order {
            let totals = &totals[*message];
            self.words([totals.sent, totals.heard, totals.unheard]);
        }
    }

    pub fn tally(&mut self, tally: &BTreeMap<TallyKey, u64>) {
        let canon = self.canon;
        let tally = tally.iter().map(|((kind, cause, words, by), count)| {
            let words = words.as_deref().map_or(0, hash_text);
            [canon.kind(*kind), *cause as u64, words, canon.kind(*by), *count]
        });
        let mut tally: Vec<[u64; 5]> = tally.collect();
        tally.sort_unstable();
        self.words(tally.into_iter().flatten());
    }

    pub fn peaks(&mut self, peaks: &[(Vec<KindId>, u64)]) {
        let canon = self.canon;
        let peaks = peaks.iter().map(|(kinds, peak)| {
            let mut names: Vec<u64> = kinds.iter().map(|kind| canon.kind(*kind)).collect();
            names.sort_unstable();
            (names, *peak)
        });
        let mut peaks: Vec<(Vec<u64>, u64)> = peaks.collect();
        peaks.sort_unstable();
        for (names, peak) in peaks {
            self.word(names.len() as u64);
            self.words(names);
            self.word(peak);
        }
    }
}

/// Of a part that decides nothing.
pub(super) fn untold<T>(_: &mut Digest<'_>, _: &T) {}

/// All that is said of a birth, as words that do not depend on the order of the text; and a hash of what is too long
/// to be kept whole.
pub(super) fn said_of(canon: &Canon, birth: &BirthRequest) -> (Vec<u64>, u64) {
    let plain = BirthRequest { key: Key::default(), batch: 0, ..birth.clone() };
    let mut d = Digest { hash: Xxh3::new(), block: Vec::new(), canon };
    d.birth(&plain);
    let words = d.block.chunks_exact(8).map(|word| word.try_into().unwrap_or_default());
    (words.map(u64::from_le_bytes).collect(), d.hash.digest())
}
