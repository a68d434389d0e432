//! Answers that the questions of a phase have in common, computed when they are first needed: where everyone is, who meets a
//! condition that does not read the asker, who touches whom.
//!
//! All handlers of a phase read the state of its start, so an answer is valid for all of them. It is dropped before the state
//! changes.

mod places;

use std::collections::HashMap;
use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};

use smallvec::SmallVec;
use tickpond_lang::program::{Arena, KindId};

pub(crate) use places::Places;

use crate::code::Compiled;
use crate::state::{Chains, EntityId, State};

/// With fewer members a kind is walked through.
const FEW: usize = 64;
/// How many questions are answered by a walk through all before it pays to put them in cells.
const FEW_QUESTIONS: usize = 16;

/// How many newborn are looked for among all before it pays to note where each is.
const FEW_LOOKED_FOR: usize = 4;

/// What the questions of a phase have in common.
pub struct Index {
    kinds: Vec<OfKind>,
    answers: Vec<Answer>,
    touching: OnceLock<HashMap<EntityId, SmallVec<[EntityId; 4]>>>,
    chains: OnceLock<Chains>,
    /// Whether there is anything to be forgotten.
    used: AtomicBool,
}

#[derive(Default)]
struct OfKind {
    questions: AtomicUsize,
    places: OnceLock<Places>,
    /// How often the first of a request was looked for, and the row of each.
    looked_for: AtomicUsize,
    firsts: OnceLock<HashMap<u64, u32>>,
}

/// What is known of the answer to a question, by its place among the questions of the program.
#[derive(Default)]
pub(crate) struct Answer {
    /// How often it was asked.
    pub asked: AtomicUsize,
    /// The answer, if it is the same for all that ask.
    pub word: OnceLock<u64>,
    /// Of whom its condition holds, if that is the same for all that ask; `None` if that cannot be told beforehand.
    pub holding: OnceLock<Option<Holding>>,
}

/// Of whom a condition holds: by kind, in the order of the question's kinds.
pub(crate) type Holding = Vec<HoldingRows>;

/// Of which rows a condition holds.
pub(crate) struct HoldingRows {
    /// By row.
    pub holds: Vec<bool>,
    /// The rows, ascending.
    pub rows: Vec<u32>,
}

impl Index {
    /// An index of nothing yet.
    pub fn new(compiled: &Compiled) -> Index {
        Index {
            kinds: compiled.kinds.iter().map(|_| OfKind::default()).collect(),
            answers: compiled.queries.iter().map(|_| Answer::default()).collect(),
            touching: OnceLock::new(),
            chains: OnceLock::new(),
            used: AtomicBool::new(false),
        }
    }

    /// Forgets all of it. Costs nothing if nothing was asked.
    pub fn forget(&mut self) {
        if !std::mem::take(self.used.get_mut()) {
            return;
        }
        for kind in &mut self.kinds {
            *kind.questions.get_mut() = 0;
            kind.places.take();
            *kind.looked_for.get_mut() = 0;
            kind.firsts.take();
        }
        for answer in &mut self.answers {
            *answer.asked.get_mut() = 0;
            answer.word.take();
            answer.holding.take();
        }
        self.touching.take();
        self.chains.take();
    }

    /// Where the members of a kind are, if so many questions were asked that it pays; one that would cost as much as
    /// several others weighs more.
    pub(crate) fn places(
        &self,
        state: &State,
        arena: &Arena,
        kind: KindId,
        weight: usize,
    ) -> Option<&Places> {
        let of = &self.kinds[kind.index()];
        let columns = &state.kinds[kind.index()];
        if columns.len() < FEW {
            return None;
        }
        if let Some(places) = of.places.get() {
            return Some(places);
        }
        self.used.store(true, Ordering::Relaxed);
        if of.questions.fetch_add(weight, Ordering::Relaxed) < FEW_QUESTIONS {
            return None;
        }
        Some(of.places.get_or_init(|| Places::of(arena, (&columns.x, &columns.y))))
    }

    /// The row of the first that was born of a request, by the request's number, if there is one.
    pub(crate) fn first_of(&self, state: &State, kind: KindId, batch: u64) -> Option<usize> {
        let first = &state.kinds[kind.index()].first;
        let of = &self.kinds[kind.index()];
        self.used.store(true, Ordering::Relaxed);
        if of.looked_for.fetch_add(1, Ordering::Relaxed) < FEW_LOOKED_FOR {
            // It was born in the tick before as a rule: it stands near the end.
            return first.stored()?.iter().rposition(|known| *known == batch);
        }
        let firsts = of.firsts.get_or_init(|| {
            let stored = first.stored().into_iter().flatten();
            (0..).zip(stored).map(|(row, batch)| (*batch, row)).collect()
        });
        firsts.get(&batch).map(|row| *row as usize)
    }

    /// What is known of the answer to a question that is asked once more.
    pub(crate) fn answer(&self, query: u32) -> &Answer {
        self.used.store(true, Ordering::Relaxed);
        &self.answers[query as usize]
    }

    /// What hangs on what.
    pub(crate) fn chains(&self, state: &State) -> &Chains {
        self.used.store(true, Ordering::Relaxed);
        self.chains.get_or_init(|| Chains::of(&state.attached))
    }

    /// Those an entity touches.
    pub(crate) fn touched(&self, state: &State, me: EntityId) -> &[EntityId] {
        self.used.store(true, Ordering::Relaxed);
        let all = self.touching.get_or_init(|| {
            let mut all: HashMap<EntityId, SmallVec<[EntityId; 4]>> = HashMap::new();
            for contact in state.contacts.iter().filter(|c| !c.born_so) {
                all.entry(contact.elder).or_default().push(contact.younger);
                all.entry(contact.younger).or_default().push(contact.elder);
            }
            all
        });
        all.get(&me).map_or(&[], |touched| touched)
    }
}
