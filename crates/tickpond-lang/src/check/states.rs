//! Tracks of states: what they hold, and which state a name means.

use super::checker::Checker;
use super::names::listed;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::model::Sort;
use crate::near::near_miss;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};

impl Checker {
    pub(super) fn state_name(&mut self, name: &str) -> StateName {
        let names = &mut self.program.state_names;
        StateName(super::checker::place_of(&mut self.places.states, names, name))
    }

    pub(super) fn track_name(&mut self, name: &str) -> TrackName {
        let names = &mut self.program.track_names;
        let at = names.iter().position(|n| n == name).unwrap_or_else(|| {
            names.push(name.to_string());
            names.len() - 1
        });
        TrackName(at as u32)
    }

    /// Adds the track an item or a behaviour declares to a kind.
    pub(super) fn add_track(&mut self, item: &Node, name: &str, id: KindId) {
        let Some(line) = item.child(S::StatesLine) else { return };
        let mut states: Vec<(StateName, crate::diagnostic::Span)> = Vec::new();
        let mut known: std::collections::HashMap<StateName, crate::diagnostic::Span> =
            Default::default();
        for token in line.names() {
            let span: crate::diagnostic::Span = token.text_range().into();
            let state = self.state_name(token.text());
            self.model.define(token.text(), Sort::State, span, None);
            if let Some(first) = known.get(&state) {
                let message = format!("the state `{}` stands twice", token.text());
                let diagnostic = Diagnostic::new(Code::Twice, span, message)
                    .with_label(*first, "the first is here");
                self.report(diagnostic);
            } else {
                known.insert(state, span);
                states.push((state, span));
            }
        }
        if states.is_empty() {
            let span = self.span(&line);
            self.error(Code::Impossible, span, "a track of states needs at least one state");
            return;
        }
        let name = self.track_name(name);
        self.program.kinds[id.index()].tracks.push(Track { name, states });
    }

    /// The state a name means: of the behaviour it stands in, else of the kind's own track; with a
    /// track before it, of that.
    pub(super) fn state_of(
        &mut self,
        track: Option<&Token>,
        token: &Token,
        scope: &Scope,
    ) -> Option<InState> {
        let span = self.shifted(token.text_range().into());
        if let Some(track) = track {
            self.symbol_at(track);
        }
        let own = match (&track, &scope.part) {
            (Some(track), _) => track.text().to_string(),
            (None, Some(part)) => part.name.clone(),
            (None, None) => String::new(),
        };
        let kind = &self.program.kinds[scope.owner.index()];
        let names = &self.program;
        let named =
            |track: &Track, wanted: &str| names.track_names[track.name.0 as usize] == wanted;
        let at = kind.tracks.iter().position(|t| named(t, &own)).or_else(|| {
            // A behaviour without states of its own speaks of its kind's.
            let inside = track.is_none() && scope.part.is_some();
            inside.then(|| kind.tracks.iter().position(|t| named(t, ""))).flatten()
        });
        let Some(at) = at else {
            let name = kind.name.clone();
            let (span, message, help) = match track {
                Some(track) => (
                    self.shifted(track.text_range().into()),
                    format!("`{name}` has no track of states `{}`", track.text()),
                    "give the kind a line `uses …` with that behaviour".to_string(),
                ),
                None => (
                    span,
                    format!("`{name}` has no states"),
                    format!("give it a line such as `states {{ idle, {} }}`", token.text()),
                ),
            };
            self.report(Diagnostic::new(Code::UnknownName, span, message).with_help(help));
            return None;
        };
        let names = || {
            let states = kind.tracks[at].states.iter();
            states.map(|(s, _)| self.program.state_names[s.0 as usize].as_str())
        };
        let name = self.places.states.get(token.text()).map(|at| StateName(*at));
        let known = kind.tracks[at].states.iter();
        if let Some(state) = known.clone().position(|(s, _)| Some(*s) == name) {
            self.model.refer(span, kind.tracks[at].states[state].1);
            return Some(InState { track: at, state });
        }
        let message = format!("there is no state `{}` here", token.text());
        let mut diagnostic = Diagnostic::new(Code::UnknownName, span, message);
        let may_look = self.names.may_look_at(names().len());
        match near_miss(token.text(), names().filter(|_| may_look)) {
            Some(near) => {
                diagnostic =
                    diagnostic.with_help(format!("did you mean `{near}`?")).with_mend(span, near);
            }
            None => {
                let states = listed(names().map(String::from));
                diagnostic = diagnostic.with_help(format!("its states are {states}"));
            }
        }
        self.report(diagnostic);
        None
    }

    pub(super) fn become_state(&mut self, node: &Node, scope: &mut Scope) -> Option<StmtKind> {
        let time =
            node.expr().map(|n| self.expr_of(Some(n), &Ty::Num(crate::units::Dim::TIME), scope));
        let mut names = node.names();
        let (first, second) = (names.next()?, names.next());
        let state = match &second {
            Some(state) => self.state_of(Some(&first), state, scope)?,
            None => self.state_of(None, &first, scope)?,
        };
        Some(StmtKind::Become { state, time })
    }

    /// `state == chase`: the name on the one side is a state of what is on the other.
    pub(super) fn state_operand(&mut self, node: &Node, states: &[StateName]) -> Expr {
        let span = self.span(node);
        let unknown = Expr { kind: ExprKind::Num(0.0), ty: Ty::Unknown, span };
        let Some(token) = (node.kind() == S::NameExpr).then(|| node.name()).flatten() else {
            return unknown;
        };
        let known: Vec<String> =
            states.iter().map(|s| self.program.state_names[s.0 as usize].clone()).collect();
        match known.iter().position(|n| n == token.text()) {
            Some(at) => {
                self.note_state(span, states[at], states);
                Expr { kind: ExprKind::State(states[at]), ty: Ty::State(states.to_vec()), span }
            }
            None => {
                let names = known.iter().map(String::as_str);
                self.unknown_name(span, token.text(), "state", names);
                unknown
            }
        }
    }

    /// The states of a track of these kinds, if any of them has it.
    pub(super) fn states_of_track(&self, kinds: &[KindId], track: &str) -> Option<Vec<StateName>> {
        let mut states: Vec<StateName> = kinds
            .iter()
            .flat_map(|k| &self.program.kinds[k.index()].tracks)
            .filter(|t| self.program.track_names[t.name.0 as usize] == track)
            .flat_map(|t| t.states.iter().map(|(s, _)| *s))
            .collect();
        states.sort();
        states.dedup();
        (!states.is_empty()).then_some(states)
    }
}
