//! What was typed to narrow a list of entities.

use std::collections::HashSet;

use tickpond_lab::{Probe, Run, Timeline};
use tickpond_sim::{EntityId, Who};

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
    pub fn ask(&mut self, run: &mut dyn Timeline, typed: &str) {
        match run.as_run() {
            Some(run) => self.ask_run(run, typed),
            // Only a run has states to ask: in anything else words are looked for.
            None => *self = Question { typed: typed.to_string(), ..Question::default() },
        }
    }

    fn ask_run(&mut self, run: &Run, typed: &str) {
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

    /// Whether nobody is left out by a question of the language.
    pub fn is_open(&self) -> bool {
        self.met.is_none()
    }

    /// Whether one is to be seen.
    pub fn is_wanted(&self, run: &dyn Timeline, who: Who) -> bool {
        if let Some(met) = &self.met {
            return met.contains(&who.id);
        }
        // Nothing is hidden because of a question that makes no sense yet.
        if self.trouble.is_some() || self.typed.is_empty() {
            return true;
        }
        let name = run.cast().name_of(who);
        self.typed.split_whitespace().any(|word| name.contains(word))
    }
}
