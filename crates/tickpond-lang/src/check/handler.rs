//! Handlers, spawner rules, routines, placements, watches: everything with a body or a value.

use super::checker::Checker;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::format::in_one_line;
use crate::model::Sort;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::tree;
use crate::units::Dim;

/// Most parts of a watch's value, those of the watches it uses among them.
const MOST_PARTS: usize = 600;

/// Most handlers of a kind that wait for something to change.
const MOST_CHANGES: usize = 4_096;

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
                    self.handlers_of(item, &Scope::handler(id));
                    self.used_handlers(id);
                    self.not_too_many_changes(id);
                    self.no_seam_for_solids(id);
                }
                S::Handler => self.handler(item, Scope::handler(POND), None),
                S::Routine => self.routine(item, Scope::handler(POND)),
                S::Place => self.place(item),
                S::Expect => self.expectation(item),
                _ => {}
            }
        }
    }

    /// The tick keeps what was so before, a bit each, for every entity.
    fn not_too_many_changes(&mut self, id: KindId) {
        let kind = &self.program.kinds[id.index()];
        let mut bits = 0;
        let too_many = |h: &&Handler| {
            bits += usize::from(h.event.change_bits());
            h.event.waits_for_change() && bits > MOST_CHANGES
        };
        let Some(first) = kind.handlers.iter().find(too_many) else { return };
        let span = self.program.sites[first.site.index()].span;
        let message = format!(
            "a kind has at most {MOST_CHANGES} handlers for zones, lines, edges and `when`; one for any edge \
             counts as four"
        );
        let diagnostic = Diagnostic::new(Code::OutOfRange, span, message)
            .with_help("put some of them into one `every tick`");
        self.report(diagnostic);
    }

    /// The solver knows no seam.
    fn no_seam_for_solids(&mut self, id: KindId) {
        let kind = &self.program.kinds[id.index()];
        let edges = self.program.arena.edges;
        let wraps = edges.left == Edge::Wrap || edges.low == Edge::Wrap;
        if kind.matter.solid && !kind.matter.fixed && wraps {
            let message =
                format!("`{}` is solid and moves, and edges that wrap are for sensors", kind.name);
            let diagnostic = Diagnostic::new(Code::Impossible, kind.name_span, message)
                .with_help("make the edges `wall` or `open`, or the body a `sensor`");
            self.report(diagnostic);
        }
    }

    /// The handlers and routines of a kind, a spawner or a behaviour.
    pub(super) fn handlers_of(&mut self, item: &Node, scope: &Scope) {
        for node in item.children() {
            match node.kind() {
                S::Handler => self.handler(&node, scope.clone(), None),
                S::Routine => self.routine(&node, scope.clone()),
                S::InState => {
                    let Some(token) = node.name() else { continue };
                    let Some(state) = self.state_of(None, &token, scope) else { continue };
                    for handler in node.children_of(S::Handler) {
                        self.handler(&handler, scope.clone(), Some(state));
                    }
                }
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
        let value = self.of_bounded_size(value);
        let name_span = self.token_span(&token);
        self.model.define(token.text(), Sort::Watch, name_span, Some(value.ty.clone()));
        self.names.watch(token.text(), self.program.watches.len());
        self.program.watches.push(Watch { name: token.text().into(), value });
    }

    /// A watch's value, which stands wherever the watch is used: of watches that use others twice each it
    /// would soon be larger than any memory.
    fn of_bounded_size(&mut self, value: Expr) -> Expr {
        let mut parts = 0;
        walk::inside(&value, &mut |_| parts += 1);
        if parts <= MOST_PARTS {
            return value;
        }
        let message = format!("with the watches it uses this has more than {MOST_PARTS} parts");
        let diagnostic = Diagnostic::new(Code::TooDeep, value.span, message)
            .with_help("let it use fewer watches that use others in their turn");
        self.report(diagnostic);
        Expr { kind: ExprKind::Num(0.0), ty: Ty::Unknown, span: value.span }
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
                .with_help(format!(
                    "write `place {} at {}`",
                    token.text(),
                    self.program.arena.example()
                ));
            self.report(diagnostic);
        }
        let birth = self.birth(item, kind, &mut scope);
        let site = self.site(self.first_line(item), POND, false);
        if tree::Item(item).is_muted() {
            self.muted_places.push(Placed { birth, site });
        } else {
            self.program.places.push(Placed { birth, site });
        }
    }

    fn routine(&mut self, item: &Node, mut scope: Scope) {
        let Some(token) = item.name() else { return };
        let name_span = self.token_span(&token);
        self.model.define(token.text(), Sort::Routine, name_span, None);
        let body = self.block(item.child(S::Block), &mut scope);
        let site = self.site(self.first_line(item), scope.owner, true);
        let span = self.span(item);
        let head = format!("routine {}", token.text());
        let muted = tree::Item(item).is_muted();
        if !muted {
            self.head_twice((&scope, None), &head, self.span(item));
        }
        self.program.kinds[scope.owner.index()].handlers.push(Handler {
            event: Event::Routine(token.text().to_string()),
            head,
            locals: scope.locals,
            body,
            part: scope.part.map(|p| p.name).unwrap_or_default(),
            state: None,
            muted,
            overlapping: false,
            while_inactive: false,
            site,
            span,
        });
    }

    fn spawner_rule(&mut self, item: &Node, id: KindId) {
        let lines = [S::MakesLine, S::EveryLine, S::AgainLine, S::TotalLine, S::BatchLine];
        self.once(item, &lines);
        self.once(item, &[S::FromLine, S::UntilLine]);
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
        let (mut keep_at_most, mut keep) = (None, None);
        for line in item.children_of(S::KeepLine) {
            let most = self.expr_of(line.expr(), &number, &mut scope);
            if tree::KeepLine(&line).is_at_most() {
                keep_at_most = Some(most);
            } else {
                let site = self.site(self.first_line(&line), id, false);
                keep = Some((most, site));
            }
        }
        if let Some(every) = item.child(S::EveryLine) {
            for node in every.children() {
                if matches!(node.kind(), S::NotWithin | S::ClearOf) {
                    let filter = self.place_filter(&node, &mut scope);
                    birth.filters.extend(filter);
                }
            }
        }
        let time = Ty::Num(Dim::TIME);
        let from = value(S::FromLine).map(|n| self.expr_of(Some(n), &time, &mut scope));
        let until = value(S::UntilLine).map(|n| self.expr_of(Some(n), &Ty::Truth, &mut scope));
        let at_most = value(S::TotalLine).map(|n| self.expr_of(Some(n), &number, &mut scope));
        let rhythm = self.rhythm(item, &mut scope);
        if let (Some((_, site)), Rhythm::AgainAfterEnd(_)) = (&keep, &rhythm) {
            let span = self.program.sites[site.index()].span;
            let message = "`again … after its end` keeps one alive already";
            let diagnostic = Diagnostic::new(Code::Twice, span, message).with_help(
                "keep one of the two: `again` for one at a time, `keep 20 alive` for a number of them",
            );
            self.report(diagnostic);
        }
        let site = self.site(self.first_line(&makes), id, true);
        let muted = tree::Item(item).is_muted();
        let rule =
            SpawnerRule { birth, site, rhythm, keep_at_most, keep, at_most, from, until, muted };
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
                at_once: tree::EveryLine(&every).begins_at_once(),
            },
            (None, Some(again)) => Rhythm::AgainAfterEnd(self.expr_of(again.expr(), &time, scope)),
            (None, None) => Rhythm::Once,
        }
    }

    fn handler(&mut self, node: &Node, mut scope: Scope, state: Option<InState>) {
        let skipped = [S::Block, S::Broken, S::WhileInactive, S::Overlapping];
        let Some(head) = node.children().find(|n| !skipped.contains(&n.kind())) else { return };
        let owner = scope.owner;
        let event = self.event(&head, &mut scope);
        if let Some(Event::End(_)) = event {
            scope.no_wait = Some("an entity that ends has no later tick: move the wait elsewhere");
        }
        let body = self.block(node.child(S::Block), &mut scope);
        let Some(event) = event else { return };
        let while_inactive = node.child(S::WhileInactive);
        if let (Some(word), false) = (&while_inactive, matches!(event, Event::Message { .. })) {
            let diagnostic = Diagnostic::new(
                Code::OutOfPlace,
                self.span(word),
                "an inactive entity hears messages and nothing else",
            )
            .with_help("put it behind `on` and a message");
            self.report(diagnostic);
        }
        let mut head_text = in_one_line(&head);
        if while_inactive.is_some() {
            head_text.push_str(" while inactive");
        }
        let span = self.span(&head);
        let muted = tree::Item(node).is_muted();
        if !muted {
            self.head_twice((&scope, state), &head_text, span);
        }
        let site = self.site(self.first_line(&head), owner, true);
        let whole = self.span(node);
        self.program.kinds[owner.index()].handlers.push(Handler {
            event,
            head: head_text,
            locals: scope.locals,
            body,
            part: scope.part.map(|p| p.name).unwrap_or_default(),
            state,
            muted,
            overlapping: node.child(S::Overlapping).is_some(),
            while_inactive: while_inactive.is_some(),
            site,
            span: whole,
        });
    }

    fn head_twice(
        &mut self,
        (scope, state): (&Scope, Option<InState>),
        head: &str,
        span: crate::diagnostic::Span,
    ) {
        let part = scope.part.as_ref().map_or("", |p| p.name.as_str());
        let key = (scope.owner, part.to_string(), state, head.to_string());
        let Some(first) = self.places.heads.get(&key).copied() else {
            self.places.heads.insert(key, span);
            return;
        };
        let diagnostic =
            Diagnostic::new(Code::SameHead, span, format!("`{head}` stands twice in one body"))
                .with_label(first, "the first is here")
                .with_help("put both bodies into one handler: then their order is clear");
        self.report(diagnostic);
    }
}
