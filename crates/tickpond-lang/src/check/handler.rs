//! Handlers, spawner rules, routines, placements, watches: everything with a body or a value.

use super::Checker;
use super::names::Symbol;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::units::Dim;

impl Checker {
    /// Third pass: what is done. Everything that can be named is known by now.
    pub(super) fn bodies(&mut self, items: &[Node]) {
        for item in items.iter().filter(|n| n.kind() == S::Watch) {
            self.watch(item);
        }
        for item in items {
            match item.kind() {
                S::Kind | S::Spawner => {
                    let Some(id) = self.kind_of_item(item) else { continue };
                    if item.kind() == S::Spawner {
                        self.spawner_rule(item, id);
                    }
                    for node in item.children_of(S::Handler) {
                        self.handler(&node, id);
                    }
                }
                S::Handler => self.handler(item, POND),
                S::Routine => self.routine(item),
                S::Place => self.place(item),
                S::Expect => self.expectation(item),
                _ => {}
            }
        }
    }

    fn watch(&mut self, item: &Node) {
        let Some(token) = item.name() else { return };
        let value = self.expr_or_unknown(item.expr(), self.span(item), &mut Scope::reading(POND));
        if !matches!(value.ty, Ty::Num(_) | Ty::Truth | Ty::Unknown) {
            let message = format!("a watch is a number or a condition, not {}", value.ty.noun());
            self.error(Code::WrongType, value.span, message);
        }
        self.program.watches.push(Watch { name: token.text().into(), value });
    }

    fn place(&mut self, item: &Node) {
        let Some(token) = item.name() else { return };
        let mut scope = Scope::handler(POND);
        let kind = self.kind_to_make(&token, &scope);
        let is_entity = match kind.kind {
            ExprKind::Kind(id) => matches!(self.program.kinds[id.index()].role, Role::Entity),
            _ => false,
        };
        if is_entity && kind.ty != Ty::Unknown && item.child(S::OptAt).is_none() {
            let message = format!("`{}` is placed nowhere", token.text());
            let diagnostic = Diagnostic::new(Code::Syntax, self.first_line(item), message)
                .with_help(format!("write `place {} at (80, 45)`", token.text()));
            self.report(diagnostic);
        }
        let birth = self.birth(item, kind, &mut scope);
        let site = self.site(self.first_line(item), POND, false);
        self.program.places.push(Placed { birth, site });
    }

    fn routine(&mut self, item: &Node) {
        let Some(token) = item.name() else { return };
        let mut scope = Scope::handler(POND);
        let body = self.block(item.child(S::Block), &mut scope);
        let site = self.site(self.first_line(item), POND, true);
        let span = self.span(item);
        self.program.kinds[POND.index()].handlers.push(Handler {
            event: Event::Routine(token.text().to_string()),
            head: format!("routine {}", token.text()),
            locals: scope.locals,
            body,
            muted: false,
            site,
            span,
        });
    }

    fn spawner_rule(&mut self, item: &Node, id: KindId) {
        let lines =
            [S::MakesLine, S::EveryLine, S::KeepLine, S::AgainLine, S::TotalLine, S::BatchLine];
        self.once(item, &lines);
        let mut scope = Scope::handler(id);
        let Some(makes) = item.child(S::MakesLine) else {
            if !self.has_errors() {
                let name = self.program.kinds[id.index()].name.clone();
                let span = self.program.kinds[id.index()].name_span;
                let message = format!("the spawner `{name}` does not say what it makes");
                let diagnostic = Diagnostic::new(Code::Syntax, span, message)
                    .with_help("add a line such as `makes midge at reeds`");
                self.report(diagnostic);
            }
            return;
        };
        let Some(token) = makes.name() else { return };
        let kind = self.kind_to_make(&token, &scope);
        let mut birth = self.birth(&makes, kind, &mut scope);
        let number = Ty::Num(Dim::NONE);
        let value = |line: S| item.child(line).and_then(|n| n.expr());
        birth.count = value(S::BatchLine).map(|n| self.expr_of(Some(n), &number, &mut scope));
        let keep_at_most = value(S::KeepLine).map(|n| self.expr_of(Some(n), &number, &mut scope));
        let at_most = value(S::TotalLine).map(|n| self.expr_of(Some(n), &number, &mut scope));
        let rhythm = self.rhythm(item, &mut scope);
        let site = self.site(self.first_line(&makes), id, true);
        let rule = SpawnerRule { birth, site, rhythm, keep_at_most, at_most };
        self.program.kinds[id.index()].role = Role::Spawner(Box::new(rule));
    }

    fn rhythm(&mut self, item: &Node, scope: &mut Scope) -> Rhythm {
        let time = Ty::Num(Dim::TIME);
        match (item.child(S::EveryLine), item.child(S::AgainLine)) {
            (Some(every), Some(again)) => {
                let diagnostic = Diagnostic::new(
                    Code::Twice,
                    self.span(&again),
                    "a spawner makes `every` so often or `again` after an end, not both",
                )
                .with_label(self.span(&every), "the other rhythm is here")
                .with_help("keep one of the two");
                self.report(diagnostic);
                Rhythm::Once
            }
            (Some(every), None) => Rhythm::Every {
                period: self.expr_of(every.expr(), &time, scope),
                at_once: every.has_word("once"),
            },
            (None, Some(again)) => Rhythm::AgainAfterEnd(self.expr_of(again.expr(), &time, scope)),
            (None, None) => Rhythm::Once,
        }
    }

    fn handler(&mut self, node: &Node, owner: KindId) {
        let Some(head) = node.children().find(|n| n.kind() != S::Block && n.kind() != S::Broken)
        else {
            return;
        };
        let mut scope = Scope::handler(owner);
        let event = self.event(&head, &mut scope);
        if let Some(Event::End(_)) = event {
            scope.no_wait = Some("an entity that ends has no later tick: move the wait elsewhere");
        }
        let body = self.block(node.child(S::Block), &mut scope);
        let Some(event) = event else { return };
        let head_text = single_spaced(&head.text().to_string());
        let span = self.span(&head);
        self.head_twice(owner, &head_text, span);
        let site = self.site(self.first_line(&head), owner, true);
        let whole = self.span(node);
        self.program.kinds[owner.index()].handlers.push(Handler {
            event,
            head: head_text,
            locals: scope.locals,
            body,
            muted: node.has_word("off"),
            site,
            span: whole,
        });
    }

    fn head_twice(&mut self, owner: KindId, head: &str, span: crate::Span) {
        let handlers = &self.program.kinds[owner.index()].handlers;
        let Some(first) = handlers.iter().find(|h| h.head == head) else { return };
        let first = self.program.sites[first.site.index()].span;
        let diagnostic =
            Diagnostic::new(Code::SameHead, span, format!("`{head}` stands twice in one body"))
                .with_label(first, "the first is here")
                .with_help("put both bodies into one handler: then their order is clear");
        self.report(diagnostic);
    }

    fn event(&mut self, head: &Node, scope: &mut Scope) -> Option<Event> {
        let time = Ty::Num(Dim::TIME);
        let entity_only =
            matches!(head.kind(), S::OnBirth | S::OnEnd | S::OnHurt | S::OnTouch | S::OnLeaveArena);
        if entity_only && scope.owner == POND {
            let diagnostic = Diagnostic::new(
                Code::OutOfPlace,
                self.span(head),
                "this never happens to the pond",
            )
            .with_help("move it into a kind");
            self.report(diagnostic);
            return None;
        }
        Some(match head.kind() {
            S::OnBirth => Event::Birth,
            S::After => Event::After(self.expr_of(head.expr(), &time, scope)),
            S::Every => Event::Every(self.expr_of(head.expr(), &time, scope)),
            S::EveryTick => Event::EveryTick,
            S::OnLeaveArena => Event::LeaveArena,
            S::OnHurt => {
                self.needs_health(head, scope.owner);
                Event::Hurt
            }
            S::OnEnd => Event::End(self.causes(head.child(S::ByCauses))),
            S::OnTouch => self.touch(head, scope)?,
            S::OnPress => Event::Press(self.input_of(&head.name()?)?),
            S::OnRelease => Event::Release(self.input_of(&head.name()?)?),
            S::WhileHeld => {
                let period = self.expr_of(head.expr(), &time, scope);
                Event::WhileHeld(self.input_of(&head.name()?)?, period)
            }
            S::OnMessage => self.on_message(head, scope)?,
            _ => return None,
        })
    }

    fn needs_health(&mut self, head: &Node, owner: KindId) {
        let kind = &self.program.kinds[owner.index()];
        if kind.health.is_none() {
            let message = format!("`{}` has no health, so it is never hurt", kind.name);
            let diagnostic = Diagnostic::new(Code::NoSuchField, self.span(head), message)
                .with_help("give the kind a line `health 3`");
            self.report(diagnostic);
        }
    }

    fn touch(&mut self, head: &Node, scope: &mut Scope) -> Option<Event> {
        let set = head.child(S::KindSet)?;
        let kinds = self.kind_set(&set);
        let name = head.child(S::AsName).and_then(|n| n.name());
        let other = name.map(|token| self.bind(&token, Ty::Entity(kinds.clone()), scope));
        if kinds.is_empty() {
            return None;
        }
        let bodiless = |id: &KindId| self.program.kinds[id.index()].body == Body::None;
        let without = if bodiless(&scope.owner) {
            Some(self.program.kinds[scope.owner.index()].name.clone())
        } else {
            let only_bodiless = kinds.iter().all(bodiless);
            only_bodiless.then(|| self.program.kinds[kinds[0].index()].name.clone())
        };
        if let Some(name) = without {
            let message = format!("`{name}` has no body, so this touch cannot happen");
            let diagnostic = Diagnostic::new(Code::Impossible, self.span(head), message)
                .with_help("give the kind a line such as `body circle 0.5 u, sensor`");
            self.report(diagnostic);
        }
        Some(Event::Touch {
            first: head.has_word("first"),
            kinds,
            but_maker: set.has_word("but"),
            other,
        })
    }

    fn input_of(&mut self, token: &Token) -> Option<InputId> {
        let span = self.shifted(token.text_range().into());
        match self.names.get(token.text()) {
            Some(Symbol::Input(id)) => {
                self.names.used(token.text());
                Some(id)
            }
            Some(symbol) => {
                let message =
                    format!("expected an input, found {} `{}`", symbol.noun(), token.text());
                self.error(Code::WrongSort, span, message);
                None
            }
            None => {
                let names = self.names.of(|s| matches!(s, Symbol::Input(_)));
                self.unknown_name(span, token.text(), "input", names.iter().map(String::as_str));
                None
            }
        }
    }

    fn on_message(&mut self, head: &Node, scope: &mut Scope) -> Option<Event> {
        let token = head.name()?;
        let names: Vec<Token> = head
            .child(S::Params)
            .iter()
            .flat_map(|p| p.children_of(S::Param).filter_map(|n| n.name()).collect::<Vec<_>>())
            .collect();
        let from = head.child(S::FromName).and_then(|n| n.name());
        let known = match self.names.get(token.text()) {
            Some(Symbol::Message(id)) => Some(id),
            _ => {
                let span = self.shifted(token.text_range().into());
                let mut names = self.names.of(|s| matches!(s, Symbol::Message(_)));
                names.extend(["birth", "end", "touch", "press", "leave", "hurt"].map(String::from));
                let candidates = names.iter().map(String::as_str);
                self.unknown_name(span, token.text(), "event or message", candidates);
                None
            }
        };
        let params = known.map(|id| self.program.messages[id.index()].params.clone());
        let types = params.clone().unwrap_or_default();
        if known.is_some() && names.len() > types.len() {
            let message = format!("`{}` carries {} values", token.text(), types.len());
            self.error(Code::WrongCount, self.span(head), message);
        }
        let locals = names
            .iter()
            .enumerate()
            .map(|(i, name)| {
                let ty = types.get(i).map_or(Ty::Unknown, |(_, ty)| ty.clone());
                self.bind(name, ty, scope)
            })
            .collect();
        let everyone = self.program.kinds.iter().enumerate().skip(1);
        let everyone = everyone.map(|(i, _)| KindId(i as u32)).collect();
        let from = from.map(|name| self.bind(&name, Ty::Entity(everyone), scope));
        Some(Event::Message { message: known?, params: locals, from })
    }
}

/// A text with each run of white space turned into one blank.
fn single_spaced(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}
