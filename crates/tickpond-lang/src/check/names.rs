//! One space of names for everything a pond declares.

use std::collections::{BTreeMap, BTreeSet};

use crate::diagnostic::Span;
use crate::program::{InputId, KindId, KnobId, MessageId, SpotsId, TagId, ZoneId};

/// What a name stands for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Symbol {
    Kind(KindId),
    Spawner(KindId),
    Tag(TagId),
    Knob(KnobId),
    Spots(SpotsId),
    Input(InputId),
    Message(MessageId),
    Zone(ZoneId),
    /// By its place among the checker's behaviours.
    Behavior(usize),
    /// By its place among the checker's functions.
    Function(usize),
    /// By its place among the checker's functions that give a value.
    ValueFunction(usize),
    Watch,
    Routine,
}

impl Symbol {
    /// The sort of thing, with its article.
    pub fn noun(self) -> &'static str {
        match self {
            Symbol::Kind(_) => "the kind",
            Symbol::Spawner(_) => "the spawner",
            Symbol::Tag(_) => "the tag",
            Symbol::Knob(_) => "the knob",
            Symbol::Spots(_) => "the spot group",
            Symbol::Input(_) => "the input",
            Symbol::Message(_) => "the message",
            Symbol::Zone(_) => "the zone",
            Symbol::Behavior(_) => "the behaviour",
            Symbol::Function(_) | Symbol::ValueFunction(_) => "the function",
            Symbol::Watch => "the watch",
            Symbol::Routine => "the routine",
        }
    }
}

/// The names declared at the top of the pond, and which of them are used.
#[derive(Default)]
pub(crate) struct Names {
    symbols: BTreeMap<String, (Symbol, Span)>,
    used: BTreeSet<String>,
}

impl Names {
    pub fn get(&self, name: &str) -> Option<Symbol> {
        self.symbols.get(name).map(|(symbol, _)| *symbol)
    }

    pub fn declared_at(&self, name: &str) -> Option<Span> {
        self.symbols.get(name).map(|(_, span)| *span)
    }

    pub fn declare(&mut self, name: &str, symbol: Symbol, span: Span) {
        self.symbols.insert(name.to_string(), (symbol, span));
    }

    pub fn used(&mut self, name: &str) {
        self.used.insert(name.to_string());
    }

    pub fn is_used(&self, name: &str) -> bool {
        self.used.contains(name)
    }

    /// The names of the symbols that pass, in alphabetical order.
    pub fn of(&self, passes: impl Fn(Symbol) -> bool) -> Vec<String> {
        let all = self.symbols.iter();
        all.filter(|(_, (symbol, _))| passes(*symbol)).map(|(name, _)| name.clone()).collect()
    }

    /// All names with what they stand for and where, in alphabetical order.
    pub fn all(&self) -> impl Iterator<Item = (&str, Symbol, Span)> {
        self.symbols.iter().map(|(name, (symbol, span))| (name.as_str(), *symbol, *span))
    }
}

/// The candidate a person most likely meant, if one is near enough.
pub(crate) fn near_miss<'a>(
    name: &str,
    candidates: impl Iterator<Item = &'a str>,
) -> Option<String> {
    // Over-long names are no slips of the finger, and the distance costs the square of the length.
    if name.len() > 64 {
        return None;
    }
    let allowed = (name.chars().count() / 3).clamp(1, 3);
    let near = candidates
        .filter(|c| c.len() <= 64)
        .map(|c| (strsim::damerau_levenshtein(&name.to_lowercase(), &c.to_lowercase()), c))
        .filter(|(distance, c)| *distance <= allowed && *c != name);
    near.min().map(|(_, c)| c.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::dropped_letter("mige", Some("midge"))]
    #[case::swapped("herno", Some("heron"))]
    #[case::plural("frogs", Some("frog"))]
    #[case::nothing_near("dragonfly", None)]
    fn a_near_miss_is_found(#[case] name: &str, #[case] near: Option<&str>) {
        let candidates = ["frog", "heron", "midge"];
        assert_eq!(near_miss(name, candidates.into_iter()).as_deref(), near);
    }
}
