//! Who is in the roster, and in which order.

use std::collections::HashSet;

use tickpond_lab::naming::name_of;
use tickpond_lab::{Probe, Run};
use tickpond_sim::{EntityId, Who};

use super::Wish;
use crate::workbench::snapshot::Seen;

/// What the roster is sorted by.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub enum Sort {
    /// Kind by kind, oldest first.
    #[default]
    Name,
    Health,
    Age,
    Place,
    Speed,
    Maker,
}

impl Sort {
    pub const ALL: [Sort; 6] =
        [Sort::Name, Sort::Health, Sort::Age, Sort::Place, Sort::Speed, Sort::Maker];

    pub fn name(self) -> &'static str {
        match self {
            Sort::Name => "name",
            Sort::Health => "health",
            Sort::Age => "age",
            Sort::Place => "place",
            Sort::Speed => "speed",
            Sort::Maker => "maker",
        }
    }

    /// The one after it, around.
    pub fn next(self) -> Sort {
        let at = Sort::ALL.iter().position(|s| *s == self).unwrap_or(0);
        Sort::ALL[(at + 1) % Sort::ALL.len()]
    }
}

/// A typed filter, made ready: a question in the pond's language if it is one, else words.
#[derive(Default)]
pub struct Question {
    typed: String,
    /// The text the question was compiled for.
    version: Option<std::sync::Arc<str>>,
    probe: Option<Probe>,
    /// Those who meet the question.
    met: Option<HashSet<EntityId>>,
    pub trouble: Option<String>,
}

impl Question {
    /// Makes ready for a filter, and finds those who meet it now.
    pub fn ask(&mut self, run: &Run, typed: &str) {
        let program = run.program();
        let same = self.version.as_ref().is_some_and(|v| std::sync::Arc::ptr_eq(v, &program.text));
        if !same || self.typed != typed {
            self.typed = typed.to_string();
            self.version = Some(program.text.clone());
            self.probe = None;
            self.trouble = None;
            // A condition is meant to be one; a word may be the name of a kind or a part of a name.
            let is_question = typed.contains(" where ");
            if is_question {
                match Probe::of_entities(program, typed) {
                    Ok(probe) => self.probe = Some(probe),
                    Err(words) => self.trouble = Some(words),
                }
            }
        }
        self.met = self.probe.as_mut().map(|probe| {
            let state = run.state();
            let those = probe.those(state);
            let ids = those.into_iter().flat_map(|(kind, rows)| {
                rows.into_iter().map(move |row| state.kinds[kind.index()].id[row as usize])
            });
            ids.collect()
        });
    }

    /// Whether one is to be seen.
    pub fn is_wanted(&self, run: &Run, who: Who) -> bool {
        if let Some(met) = &self.met {
            return met.contains(&who.id);
        }
        // Nothing is hidden because of a question that makes no sense yet.
        if self.trouble.is_some() || self.typed.is_empty() {
            return true;
        }
        let name = name_of(run.program(), who);
        self.typed.split_whitespace().any(|word| name.contains(word))
    }
}

/// The roster's rows, as places among the entities.
pub fn order(run: &Run, wish: &Wish, question: &Question, entities: &[Seen]) -> Vec<usize> {
    let all = question.met.is_none() && wish.filter.is_empty();
    let mut rows: Vec<usize> = (0..entities.len())
        .filter(|at| all || question.is_wanted(run, entities[*at].who))
        .collect();
    let number = |at: &usize| {
        let seen = &entities[*at];
        match wish.sort {
            Sort::Health => seen.health.unwrap_or(f64::INFINITY),
            Sort::Age => seen.age,
            Sort::Place => seen.at.0,
            Sort::Speed => seen.speed,
            _ => 0.0,
        }
    };
    match wish.sort {
        Sort::Name => {}
        Sort::Maker => {
            rows.sort_by_key(|at| entities[*at].maker.map(|m| (m.kind, m.number)));
        }
        // Stable: those alike stay in the order of their births.
        _ => rows.sort_by(|a, b| number(a).total_cmp(&number(b))),
    }
    if wish.reversed {
        rows.reverse();
    }
    rows
}
