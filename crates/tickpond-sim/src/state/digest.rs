//! A hash of the state: two runs that agree in it agree in everything that is to come.

use xxhash_rust::xxh3::Xxh3;

use super::{BirthRequest, Columns, Key, Lazy, PlaceRequest, State};

/// Collects words and hashes them in blocks: one call of the hash for each word is slow.
struct Digest {
    hash: Xxh3,
    block: Vec<u8>,
}

impl Digest {
    fn word(&mut self, word: u64) {
        self.block.extend_from_slice(&word.to_le_bytes());
        if self.block.len() >= 4096 {
            self.hash.update(&self.block);
            self.block.clear();
        }
    }

    fn words(&mut self, words: impl IntoIterator<Item = u64>) {
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

    fn numbers(&mut self, numbers: &[f64]) {
        self.words(numbers.iter().map(|n| n.to_bits()));
    }

    fn maybe(&mut self, number: Option<f64>) {
        self.word(u64::from(number.is_some()));
        self.number(number.unwrap_or(0.0));
    }

    fn key(&mut self, key: &Key) {
        self.words([key.asker, u64::from(key.handler), key.other, u64::from(key.nth)]);
    }

    fn columns(&mut self, c: &Columns) {
        self.word(c.len() as u64);
        self.column(&c.id);
        self.word(c.maker.usual().to_word());
        self.lazy(&c.maker);
        self.column(&c.number);
        for column in [&c.made_open, &c.made_in_all, &c.still] {
            self.lazy(column);
        }
        [&c.serial, &c.luck, &c.born].into_iter().for_each(|column| self.column(column));
        let lazy = [&c.batch, &c.wave, &c.rests_since, &c.slept, &c.made_ended];
        lazy.into_iter().for_each(|column| self.lazy(column));
        self.word(u64::from(c.bits.stored().is_some()));
        c.bits.stored().into_iter().for_each(|bits| self.column(bits));
        for column in [&c.x, &c.y, &c.vx, &c.vy, &c.heading] {
            self.column(column);
        }
        [&c.spin, &c.health].into_iter().for_each(|column| self.lazy(column));
        self.word(u64::from(c.down.stored().is_some()));
        self.words(c.down.stored().into_iter().flatten().map(|d| u64::from(*d)));
        let tracks = c.tracks.iter().flat_map(|t| t.all());
        for column in c.vars.iter().chain(&c.clocks).chain(tracks) {
            self.column(column);
        }
    }

    fn birth(&mut self, b: &BirthRequest) {
        self.key(&b.key);
        self.words([b.due, u64::from(b.index), u64::from(b.count), u64::from(b.kind.0)]);
        self.words([b.maker.id.to_word(), b.luck, b.before, b.batch, b.wave]);
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
            PlaceRequest::Spot(group, at) => self.words([3, u64::from(group.0), u64::from(at)]),
            PlaceRequest::AnySpot(group) => self.words([4, u64::from(group.0)]),
            PlaceRequest::Anywhere => self.word(5),
            PlaceRequest::InZone(zone) => self.words([7, u64::from(zone.0)]),
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
        self.words(b.vars.iter().flat_map(|(at, word)| [u64::from(*at), *word]));
        if let Some(extras) = &b.extras {
            self.numbers(&[extras.push.0, extras.push.1, extras.push_along]);
            let attached = extras.attached.map_or(2, u64::from);
            let flags = [extras.inactive, extras.keeps_velocity].map(u64::from);
            self.words([attached, flags[0], flags[1], extras.filters.len() as u64]);
        }
    }
}

pub(super) fn digest(state: &State) -> u64 {
    let mut d = Digest { hash: Xxh3::new(), block: Vec::with_capacity(4200) };
    d.words([state.tick, state.seed, state.born_in_all]);
    d.numbers(&state.knobs);
    d.words([state.input.held, state.input.pressed, state.input.released]);
    for (x, y) in state.input.places.iter().chain([&state.view]) {
        d.numbers(&[*x, *y]);
    }
    state.kinds.iter().for_each(|columns| d.columns(columns));
    state.births.iter().for_each(|birth| d.birth(birth));
    for letter in state.letters.iter() {
        d.key(&letter.key);
        d.words([u64::from(letter.message.0), letter.from.id.to_word()]);
        d.words(state.letters.values(letter).iter().copied());
        d.words(state.letters.addressees(letter).iter().map(|id| id.to_word()));
    }
    for health in &state.health {
        d.key(&health.key);
        d.words([health.target.to_word(), health.by.id.to_word(), health.loss.to_bits()]);
    }
    for end in &state.ends {
        d.key(&end.key);
        d.words([end.target.to_word(), end.cause as u64, end.by.id.to_word()]);
        end.births.iter().for_each(|birth| d.birth(birth));
    }
    for push in &state.pushes {
        d.key(&push.key);
        d.words([push.target.to_word(), push.by.0.to_bits(), push.by.1.to_bits()]);
    }
    for request in &state.activations {
        d.key(&request.key);
        d.words([request.target.to_word(), u64::from(request.on)]);
    }
    for request in &state.attaching {
        d.key(&request.key);
        let to = request.to.map_or(0, |to| to.owner.to_word());
        d.words([request.target.to_word(), to]);
    }
    for (id, attachment) in &state.attached {
        let flags = u64::from(attachment.mount) << 1 | u64::from(attachment.outlives);
        d.words([id.to_word(), attachment.owner.to_word(), flags]);
    }
    for trace in &state.traces {
        d.numbers(&[trace.from.0, trace.from.1, trace.to.0, trace.to.1]);
        d.words([trace.since, trace.until]);
        d.maybe(trace.radius);
    }
    if let Some(solids) = &state.solids {
        d.words(solids.words());
    }
    for wait in &state.waits {
        let ids = [wait.due, wait.entity.to_word(), u64::from(wait.handler), u64::from(wait.at)];
        d.words(ids);
        d.words(wait.words.iter().copied());
    }
    for contact in &state.contacts {
        let ids = [contact.elder.to_word(), contact.younger.to_word(), u64::from(contact.born_so)];
        d.words(ids);
    }
    for (id, wave) in &state.waves {
        d.words([*id, u64::from(wave.live), u64::from(wave.unborn)]);
    }
    for totals in &state.totals {
        d.words([totals.born, totals.peak, totals.peak_tick]);
        d.words(totals.ended);
    }
    for totals in &state.mail_totals {
        d.words([totals.sent, totals.heard, totals.unheard]);
    }
    d.hash.update(&d.block);
    d.hash.digest()
}
