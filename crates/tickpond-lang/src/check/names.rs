//! One space of names for everything a pond declares.

use std::cell::Cell;
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
    /// Where each watch that has been checked stands among the program's.
    watches: BTreeMap<String, usize>,
    /// How many names have been looked at for what might have been meant.
    looked_at: Cell<usize>,
}

/// Most names that are looked at in one text for what might have been meant: with as many unknown names as
/// known ones the cost would grow with the square of them.
const MOST_LOOKED_AT: usize = 200_000;

impl Names {
    /// What a name stands for.
    pub fn get(&self, name: &str) -> Option<Symbol> {
        self.symbols.get(name).map(|(symbol, _)| *symbol)
    }

    /// Where a name is defined.
    pub fn declared_at(&self, name: &str) -> Option<Span> {
        self.symbols.get(name).map(|(_, span)| *span)
    }

    /// Defines a name.
    pub fn declare(&mut self, name: &str, symbol: Symbol, span: Span) {
        self.symbols.insert(name.to_string(), (symbol, span));
    }

    /// Notes where a watch stands; the first of a name counts.
    pub fn watch(&mut self, name: &str, at: usize) {
        self.watches.entry(name.to_string()).or_insert(at);
    }

    /// The place of the watch of this name among all.
    pub fn watch_at(&self, name: &str) -> Option<usize> {
        self.watches.get(name).copied()
    }

    /// Notes that a name is used.
    pub fn used(&mut self, name: &str) {
        self.used.insert(name.to_string());
    }

    /// Whether a name is used anywhere.
    pub fn is_used(&self, name: &str) -> bool {
        self.used.contains(name)
    }

    /// Whether so many names may be looked at for what might have been meant; they count as looked at.
    pub fn may_look_at(&self, count: usize) -> bool {
        self.looked_at.set(self.looked_at.get().saturating_add(count));
        self.looked_at.get() <= MOST_LOOKED_AT
    }

    /// The names of the symbols that pass, in alphabetical order; none if too many were looked at already.
    pub fn of(&self, passes: impl Fn(Symbol) -> bool) -> Vec<String> {
        if !self.may_look_at(self.symbols.len()) {
            return Vec::new();
        }
        let all = self.symbols.iter();
        all.filter(|(_, (symbol, _))| passes(*symbol)).map(|(name, _)| name.clone()).collect()
    }

    /// All names with what they stand for and where, in alphabetical order.
    pub fn all(&self) -> impl Iterator<Item = (&str, Symbol, Span)> {
        self.symbols.iter().map(|(name, (symbol, span))| (name.as_str(), *symbol, *span))
    }
}

/// A list in words, of the first dozen if it is long.
pub(crate) fn listed(names: impl ExactSizeIterator<Item = String>) -> String {
    const MOST: usize = 12;
    let more = names.len().saturating_sub(MOST);
    let first: Vec<String> = names.take(MOST).collect();
    let more = if more > 0 { format!(" and {more} more") } else { String::new() };
    first.join(", ") + &more
}
