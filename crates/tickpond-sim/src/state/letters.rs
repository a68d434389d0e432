//! Messages that are sent and not yet delivered.
//!
//! There can be as many as entities in every tick, so a [`Letter`] (one message to one addressee) has a fixed size,
//! and what few of them have (values, several addressees) is stored apart. Most messages come from a statement that
//! sends one message without values from each member of a kind to a member of a kind. Those are stored as a
//! [`Run`]: what they share once, and for each message two row numbers, sender and addressee. Row numbers change
//! when rows are removed, so a run lasts at most a tick; before that it is expanded into letters
//! ([`Letters::write_out`]).

use tickpond_lang::program::{KindId, MessageId, SiteId};

use super::columns::Columns;
use super::roll::Key;
use super::slots::EntityId;
use crate::event::Who;

/// What stands for the place of an addressee that must be looked for.
const UNKNOWN: u32 = u32::MAX;
/// What stands for nothing beside a letter.
const NOTHING: u32 = u32::MAX;

/// A message to those it is meant for.
#[derive(Clone, Copy, Debug)]
pub struct Letter {
    /// Its place in the roll.
    pub key: Key,
    /// Which message.
    pub message: MessageId,
    /// Who sent it.
    pub from: Who,
    /// What the sender brings into the chance of those who hear it.
    pub luck: u64,
    /// The line that sent it.
    pub site: SiteId,
    /// To whom, if it is one.
    to: EntityId,
    /// The kind of that one and its place there, as long as no row has moved.
    stands: (KindId, u32),
    /// Its place among what few have.
    more: u32,
}

/// Letters of one statement, each from one of a kind to one of a kind, without values.
#[derive(Clone, Debug, PartialEq)]
pub struct Run {
    /// The kind of those who send them, and their handler.
    pub from: (KindId, u32),
    /// Which message, and the line that sends it.
    pub what: (MessageId, SiteId),
    /// The kind of those they are for.
    pub to: KindId,
    /// How many they are.
    pub count: usize,
}

/// What few letters have.
#[derive(Clone, Debug, Default, PartialEq)]
struct More {
    values: Vec<u64>,
    /// To whom, oldest first, if not to one.
    to: Option<Box<[EntityId]>>,
}

/// To whom a letter goes.
pub enum To {
    /// To one, whose kind and place there are these.
    One(EntityId, (KindId, u32)),
    /// To these, oldest first.
    Many(Box<[EntityId]>),
}

impl Letter {
    /// A letter to one, whose kind and place there are known: its place in the roll, what, who sends it
    /// and the luck it brings, to whom.
    #[inline(always)]
    pub fn to_one(
        key: Key,
        (message, site): (MessageId, SiteId),
        (from, luck): (Who, u64),
        (to, stands): (EntityId, (KindId, u32)),
    ) -> Letter {
        Letter { key, message, from, luck, site, to, stands, more: NOTHING }
    }
}

/// Letters, in the order they were written.
#[derive(Clone, Debug, Default)]
pub struct Letters {
    all: Vec<Letter>,
    more: Vec<More>,
    /// Whether one was written before one that goes first in the roll.
    unsorted: bool,
    /// Runs of letters beside those, in the order they were written.
    runs: Vec<Run>,
    /// The places of those who send the letters of the runs, and of those they are for.
    ways: Vec<(u32, u32)>,
    /// The lines of letters that went over a limit, and to how many they were.
    over: Vec<(SiteId, u64)>,
}

impl Letters {
    /// How many there are.
    pub fn len(&self) -> usize {
        self.all.len() + self.ways.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.all.is_empty() && self.ways.is_empty()
    }

    /// Adds letters to a run: from which place each goes to which. They are the first their senders ask
    /// for in this firing, and are about nobody else.
    pub fn push_run(&mut self, run: Run, ways: &[(u32, u32)]) {
        debug_assert_eq!(run.count, ways.len());
        self.ways.extend_from_slice(ways);
        let same =
            |last: &&mut Run| (last.from, last.what, last.to) == (run.from, run.what, run.to);
        match self.runs.last_mut().filter(same) {
            Some(last) => last.count += run.count,
            None => self.runs.push(run),
        }
    }

    /// The runs with the ways of their letters, if all letters lie in runs that follow one another in the
    /// roll as they are.
    pub fn in_runs(&self) -> Option<impl Iterator<Item = (&Run, &[(u32, u32)])>> {
        let from = self.runs.first()?.from;
        let mut ways = &self.ways[..];
        let runs: Vec<(&Run, &[(u32, u32)])> =
            self.runs.iter().map(|run| (run, ways.split_off(..run.count).unwrap_or(&[]))).collect();
        // Of one handler the senders tell the order, if each sends but one.
        let alike = self.runs.iter().all(|run| run.from == from);
        let ordered = self.ways.is_sorted_by(|a, b| a.0 < b.0);
        (self.all.is_empty() && alike && ordered).then(|| runs.into_iter())
    }

    /// Writes the letters of the runs one by one, behind the others.
    pub fn write_out(&mut self, kinds: &[Columns]) {
        let runs = std::mem::take(&mut self.runs);
        let mut ways = std::mem::take(&mut self.ways);
        let mut left = ways.drain(..);
        for run in runs {
            let (kind, handler) = run.from;
            let (from, to) = (&kinds[kind.index()], &kinds[run.to.index()]);
            for (sender, addressee) in left.by_ref().take(run.count) {
                let (row, addressed) = (from.row_at(sender), to.row_at(addressee));
                let key = Key { asker: from.serial[row], handler, ..Key::default() };
                let who = Who { kind, number: from.number[row], id: from.id[row] };
                let to = (to.id[addressed], (run.to, addressee));
                let letter = Letter::to_one(key, run.what, (who, from.luck[row]), to);
                self.push(letter, std::iter::empty());
            }
        }
        drop(left);
        // For the memory.
        self.ways = ways;
    }

    /// Tells how many letters each line has sent, one for each addressee.
    pub fn count_lines(&self, count: &mut impl FnMut(SiteId, u64)) {
        self.all.iter().for_each(|letter| count(letter.site, self.addressees(letter).len() as u64));
        self.runs.iter().for_each(|run| count(run.what.1, run.count as u64));
        self.over.iter().for_each(|(site, letters)| count(*site, *letters));
    }

    /// Notes letters that are not sent, as a limit was gone over: they are only counted for their line.
    pub fn write_over(&mut self, site: SiteId, to: &To) {
        let letters = match to {
            To::One(..) => 1,
            To::Many(many) => many.len() as u64,
        };
        self.over.push((site, letters));
    }

    /// Room for so many more.
    pub fn reserve(&mut self, count: usize) {
        self.all.reserve(count);
    }

    /// Adds one with its values, word by word.
    #[inline(always)]
    pub fn push(&mut self, mut letter: Letter, values: impl ExactSizeIterator<Item = u64>) {
        if values.len() > 0 {
            letter.more = self.more.len() as u32;
            self.more.push(More { values: values.collect(), to: None });
        }
        self.unsorted |= self.all.last().is_some_and(|last| last.key > letter.key);
        self.all.push(letter);
    }

    /// Writes one: its place in the roll, what, who and the luck it brings, to whom, with which values.
    pub fn write(
        &mut self,
        key: Key,
        what: (MessageId, SiteId),
        from: (Who, u64),
        to: To,
        values: impl ExactSizeIterator<Item = u64>,
    ) {
        match to {
            To::One(to, stands) => self.push(Letter::to_one(key, what, from, (to, stands)), values),
            To::Many(many) => {
                let mut letter =
                    Letter::to_one(key, what, from, (EntityId::NONE, (KindId(0), UNKNOWN)));
                letter.more = self.more.len() as u32;
                self.more.push(More { values: values.collect(), to: Some(many) });
                self.push(letter, std::iter::empty());
            }
        }
    }

    /// Puts them in the order of the roll.
    pub fn sort(&mut self) {
        if std::mem::take(&mut self.unsorted) {
            self.all.sort_by_key(|letter| letter.key);
        }
    }

    /// Takes over others, behind one's own; they are empty afterwards.
    pub fn append(&mut self, others: &mut Letters) {
        if self.is_empty() {
            std::mem::swap(self, others);
            others.clear();
            return;
        }
        self.runs.append(&mut others.runs);
        self.ways.append(&mut others.ways);
        let first = self.more.len() as u32;
        let (last, next) = (self.all.last(), others.all.first());
        let crossed = last.zip(next).is_some_and(|(last, next)| last.key > next.key);
        self.unsorted |= others.unsorted || crossed;
        self.all.extend(others.all.drain(..).map(|letter| Letter {
            more: if letter.more == NOTHING { NOTHING } else { letter.more + first },
            ..letter
        }));
        self.more.append(&mut others.more);
        self.over.append(&mut others.over);
        others.clear();
    }

    /// Forgets all; the memory is kept.
    pub fn clear(&mut self) {
        self.all.clear();
        self.more.clear();
        self.runs.clear();
        self.ways.clear();
        self.over.clear();
        self.unsorted = false;
    }

    /// Keeps those a test holds for.
    pub fn retain(&mut self, keep: impl FnMut(&Letter) -> bool) {
        self.all.retain(keep);
    }

    /// All, in their order; there are no runs between ticks.
    pub fn iter(&self) -> std::slice::Iter<'_, Letter> {
        debug_assert!(self.ways.is_empty(), "runs are written out before they are looked at");
        self.all.iter()
    }

    /// All, to be changed.
    pub fn iter_mut(&mut self) -> std::slice::IterMut<'_, Letter> {
        self.all.iter_mut()
    }

    /// One by its place.
    pub fn at(&self, at: usize) -> &Letter {
        &self.all[at]
    }

    /// The values of one, word by word.
    pub fn values(&self, letter: &Letter) -> &[u64] {
        self.more_of(letter).map_or(&[], |more| &more.values)
    }

    /// To whom one goes, oldest first.
    pub fn addressees<'a>(&'a self, letter: &'a Letter) -> &'a [EntityId] {
        let many = self.more_of(letter).and_then(|more| more.to.as_deref());
        many.unwrap_or(std::slice::from_ref(&letter.to))
    }

    /// The kind and the place there of the one addressee, if they are known.
    pub fn stands(&self, letter: &Letter) -> Option<(KindId, u32)> {
        (letter.stands.1 != UNKNOWN).then_some(letter.stands)
    }

    /// Rows have moved: all addressees must be looked for.
    pub fn forget_places(&mut self) {
        debug_assert!(self.ways.is_empty(), "runs are written out before rows move");
        self.all.iter_mut().for_each(|letter| letter.stands.1 = UNKNOWN);
    }

    /// How many bytes a copy takes.
    pub(super) fn bytes(&self) -> usize {
        size_of_val(&self.all[..]) + size_of_val(&self.more[..])
    }

    fn more_of(&self, letter: &Letter) -> Option<&More> {
        self.more.get(letter.more as usize)
    }
}

impl PartialEq for Letters {
    /// What they say and to whom; not what is only kept to be quick.
    fn eq(&self, other: &Letters) -> bool {
        let said = |l: &Letter| (l.key, l.message, l.from, l.luck, l.site);
        self.len() == other.len()
            && self.iter().zip(other.iter()).all(|(a, b)| {
                said(a) == said(b)
                    && self.values(a) == other.values(b)
                    && self.addressees(a) == other.addressees(b)
            })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn written(letters: &mut Letters, asker: u64, values: &[u64], many: &[u64]) {
        let who = Who { kind: KindId(1), number: 1, id: EntityId::from_word(asker + 1) };
        let ids = |words: &[u64]| words.iter().map(|w| EntityId::from_word(*w)).collect();
        let to = match many {
            [one] => To::One(EntityId::from_word(*one), (KindId(2), *one as u32)),
            many => To::Many(ids(many)),
        };
        let key = Key { asker, ..Key::default() };
        let what = (MessageId(0), SiteId(asker as u32));
        letters.write(key, what, (who, asker * 7), to, values.iter().copied());
    }

    proptest! {
        #[test]
        fn each_keeps_its_own_through_sorting_and_appending(
            sent in prop::collection::vec(
                (0..20u64, prop::collection::vec(0..9u64, 0..3), prop::collection::vec(1..9u64, 0..3)),
                0..30,
            ),
            cut in 0..30usize,
        ) {
            let (mut first, mut second) = (Letters::default(), Letters::default());
            for (nth, (asker, values, many)) in sent.iter().enumerate() {
                let letters = if nth < cut { &mut first } else { &mut second };
                written(letters, *asker, values, many);
            }
            first.append(&mut second);
            prop_assert!(second.is_empty());
            first.sort();
            let mut wanted = sent.clone();
            wanted.sort_by_key(|(asker, ..)| *asker);
            prop_assert_eq!(first.len(), wanted.len());
            for (letter, (asker, values, many)) in first.iter().zip(&wanted) {
                prop_assert_eq!(letter.key.asker, *asker);
                prop_assert_eq!(first.values(letter), &values[..]);
                let to: Vec<u64> = first.addressees(letter).iter().map(|id| id.to_word()).collect();
                prop_assert_eq!(&to, many);
                let stands = (many.len() == 1).then(|| (KindId(2), many[0] as u32));
                prop_assert_eq!(first.stands(letter), stands);
            }
            let same = first.clone();
            first.forget_places();
            prop_assert!(first.iter().all(|letter| first.stands(letter).is_none()));
            prop_assert!(first == same);
        }
    }
}
