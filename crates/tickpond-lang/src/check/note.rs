//! What the checker tells the [`Model`](crate::model::Model): each name it resolves, where it resolves it.

use super::checker::Checker;
use super::names::Symbol;
use super::scope::Scope;
use crate::diagnostic::Span;
use crate::model::Sort;
use crate::program::*;
use crate::syntax::{Node, NodeExt, Token};

impl Symbol {
    /// The sort of thing, as the model calls it.
    pub(super) fn sort(self) -> Sort {
        match self {
            Symbol::Kind(_) => Sort::Kind,
            Symbol::Spawner(_) => Sort::Spawner,
            Symbol::Tag(_) => Sort::Tag,
            Symbol::Knob(_) => Sort::Knob,
            Symbol::Spots(_) => Sort::Spots,
            Symbol::Input(_) => Sort::Input,
            Symbol::Message(_) => Sort::Message,
            Symbol::Zone(_) => Sort::Zone,
            Symbol::Behavior(_) => Sort::Behavior,
            Symbol::Function(_) | Symbol::ValueFunction(_) => Sort::Function,
            Symbol::Watch => Sort::Watch,
            Symbol::Routine => Sort::Routine,
        }
    }
}

impl Checker {
    pub(super) fn token_span(&self, token: &Token) -> Span {
        self.shifted(token.text_range().into())
    }

    /// What is declared under a name at the top of the pond; the use is noted.
    pub(super) fn symbol_at(&mut self, token: &Token) -> Option<Symbol> {
        let symbol = self.names.get(token.text())?;
        let span = self.token_span(token);
        self.note_symbol(token.text(), span);
        Some(symbol)
    }

    /// Notes that the name here is one declared at the top of the pond.
    pub(super) fn note_symbol(&mut self, name: &str, span: Span) {
        if let Some(declared) = self.names.declared_at(name) {
            self.model.refer(span, declared);
        }
    }

    /// Notes a local's name.
    pub(super) fn note_local(&mut self, span: Span, local: LocalId, scope: &Scope) {
        self.model.refer(span, scope.defined_at(local));
    }

    /// Notes a word of the language.
    pub(super) fn note_word(&mut self, span: Span, sort: Sort) {
        self.model.built_in(span, sort);
    }

    /// Notes a field: a variable of each of these kinds, or one every entity has.
    pub(super) fn note_field(&mut self, span: Span, kinds: &[KindId], field: &Field) {
        let Field::Var(name) = field else { return self.note_word(span, Sort::Field) };
        for kind in kinds {
            if let Some(declared) = self.places.declared.get(&(*kind, *name)) {
                self.model.refer(span, *declared);
            }
        }
    }

    /// Notes a mount, of whichever of these kinds have one of that name.
    pub(super) fn note_mount(&mut self, token: &Token, kinds: &[KindId]) {
        let span = self.token_span(token);
        for kind in kinds {
            if let Some(defined) = self.places.mounts.get(&(*kind, token.text().to_string())) {
                self.model.refer(span, *defined);
            }
        }
    }

    /// Notes a state where its tracks are known.
    pub(super) fn note_state(&mut self, span: Span, name: StateName, among: &[StateName]) {
        let tracks = self.program.kinds.iter().flat_map(|kind| &kind.tracks);
        let tracks = tracks.filter(|t| t.states.iter().all(|(state, _)| among.contains(state)));
        let states = tracks.flat_map(|t| &t.states).filter(|(state, _)| *state == name);
        for (_, defined) in states {
            self.model.refer(span, *defined);
        }
    }

    /// Does something without reporting what is wrong: that one mistake stays one message, and the names are known
    /// all the same.
    pub(super) fn quietly<T>(&mut self, inside: impl FnOnce(&mut Self) -> T) -> T {
        self.quiet += 1;
        let done = inside(self);
        self.quiet -= 1;
        done
    }

    /// Resolves the names of the values in a node that is wrong by itself.
    pub(super) fn look_at_values(&mut self, node: &Node, scope: &mut Scope) {
        self.quietly(|checker| {
            for value in node.exprs() {
                checker.expr(&value, scope);
            }
        });
    }
}
