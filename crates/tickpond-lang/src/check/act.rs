//! Statements that ask for something of others: pushes, rays, blasts, attachments, activation.

use super::checker::Checker;
use super::names::Symbol;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::tree;
use crate::units::Dim;

impl Checker {
    /// One entity, or each of a query.
    pub(super) fn whom(&mut self, node: &Node, scope: &mut Scope) -> Whom {
        match node.child(S::Target).filter(|t| tree::Target(t).is_each()) {
            Some(target) => Whom::Each(Box::new(self.each_query(&target, scope))),
            None => {
                let one = self.expr_or_unknown(node.expr(), self.span(node), scope);
                Whom::One(self.one_entity(one))
            }
        }
    }

    /// The entity a request is about; a kind's name is a slip with a certain mend.
    pub(super) fn one_entity(&mut self, one: Expr) -> Expr {
        if one.ty != Ty::Kind {
            return self.wants(one, &Ty::Entity(Vec::new()));
        }
        let span = one.span;
        let source = self.program.text.get(span.range()).unwrap_or("").to_string();
        let diagnostic =
            Diagnostic::new(Code::WrongType, span, "this is asked of entities, not of a kind")
                .with_help(format!("write `each {source}`"))
                .with_mend(span, format!("each {source}"));
        self.report(diagnostic);
        Expr { ty: Ty::Unknown, ..one }
    }

    pub(super) fn each_query(&mut self, node: &Node, scope: &mut Scope) -> Query {
        let kinds = node.child(S::KindSet).map(|set| self.kind_set(&set)).unwrap_or_default();
        self.query_parts(node, kinds, QueryKind::Any, scope)
    }

    /// The expressions behind the one that says whom.
    pub(super) fn behind_whom(&self, node: &Node) -> std::vec::IntoIter<Node> {
        let skip = usize::from(!node.child(S::Target).is_some_and(|t| tree::Target(&t).is_each()));
        node.exprs().skip(skip).collect::<Vec<_>>().into_iter()
    }

    pub(super) fn push(&mut self, node: &Node, scope: &mut Scope) -> StmtKind {
        let target = self.whom(node, scope);
        let mut rest = self.behind_whom(node);
        let by = self.expr_or_unknown(rest.next(), self.span(node), scope);
        let along = rest.next().map(|n| self.expr_of(Some(n), &Ty::Num(Dim::ANGLE), scope));
        let by = match by.ty {
            Ty::Pair(_) => self.wants(by, &Ty::Pair(Dim::SPEED)),
            _ => self.wants(by, &Ty::Num(Dim::SPEED)),
        };
        if let (Some(along), Ty::Pair(_)) = (&along, &by.ty) {
            let diagnostic =
                Diagnostic::new(Code::Twice, along.span, "a velocity has a direction already")
                    .with_help("leave out `along`, or give a speed");
            self.report(diagnostic);
        }
        if along.is_none() && matches!(by.ty, Ty::Num(_)) && scope.owner == POND {
            self.error(
                Code::OutOfPlace,
                self.span(node),
                "the pond faces nowhere: push along what?",
            );
        }
        StmtKind::Push { target, by, along }
    }

    /// `thrust 5 u/s2 along D`: a push on itself, of what comes together in one tick.
    pub(super) fn thrust(&mut self, node: &Node, scope: &mut Scope) -> Option<StmtKind> {
        let mut exprs = node.exprs();
        let by = self.expr_of(exprs.next(), &Ty::Num(Dim::ACCELERATION), scope);
        let along = exprs.next().map(|n| self.expr_of(Some(n), &Ty::Num(Dim::ANGLE), scope));
        if self.pond_cannot(node, scope, "thrust") {
            return None;
        }
        let span = by.span;
        let tick = 1.0 / self.program.rate;
        let tick = Expr { kind: ExprKind::Num(tick), ty: Ty::Num(Dim::TIME), span };
        let by = Expr {
            kind: ExprKind::Binary(BinaryOp::Multiply, by.into(), tick.into()),
            ty: Ty::Num(Dim::SPEED),
            span,
        };
        let me = Expr { kind: ExprKind::Me, ty: Ty::Entity(vec![scope.owner]), span };
        Some(StmtKind::Push { target: Whom::One(me), by, along })
    }

    pub(super) fn pond_cannot(&mut self, node: &Node, scope: &Scope, verb: &str) -> bool {
        if scope.owner == POND {
            let message = format!("the pond cannot {verb}: it is nowhere");
            let diagnostic = Diagnostic::new(Code::OutOfPlace, self.first_line(node), message)
                .with_help("move this into a kind");
            self.report(diagnostic);
        }
        scope.owner == POND
    }

    /// `head toward X`
    pub(super) fn head(&mut self, node: &Node, scope: &mut Scope) -> Option<StmtKind> {
        if self.pond_cannot(node, scope, "head anywhere") {
            return None;
        }
        let place = self.expr_or_unknown(node.expr(), self.span(node), scope);
        let place = self.as_place(place);
        let span = place.span;
        let kind = ExprKind::DirectionTo(place.into());
        Some(StmtKind::Set(Field::Heading, Expr { kind, ty: Ty::Num(Dim::ANGLE), span }))
    }

    /// `turn toward X at most 90 deg/s`
    pub(super) fn turn_toward(&mut self, node: &Node, scope: &mut Scope) -> StmtKind {
        let mut exprs = node.exprs();
        let place = self.expr_or_unknown(exprs.next(), self.span(node), scope);
        let place = self.as_place(place);
        let span = place.span;
        let most = self.expr_of(exprs.next(), &Ty::Num(Dim::SPIN), scope);
        let direction =
            Expr { kind: ExprKind::DirectionTo(place.into()), ty: Ty::Num(Dim::ANGLE), span };
        let kind = ExprKind::Call(Function::TurnToward, vec![direction, most]);
        StmtKind::Add(Field::Heading, Expr { kind, ty: Ty::Num(Dim::ANGLE), span })
    }

    pub(super) fn ray(&mut self, node: &Node, scope: &mut Scope) -> Option<StmtKind> {
        if self.pond_cannot(node, scope, "cast a ray") {
            return None;
        }
        let span = self.first_line(node);
        let from =
            node.child(S::OptAt).and_then(|n| n.expr()).map(|n| self.place_or_mount(&n, scope));
        let along = node.child(S::OptAlong)?;
        let value = self.expr_or_unknown(along.expr(), span, scope);
        let along = if tree::Along(&along).is_toward() {
            let place = self.as_place(value);
            let start = from.clone().unwrap_or_else(|| own_place(span));
            direction_from(start, place, span)
        } else {
            self.wants(value, &Ty::Num(Dim::ANGLE))
        };
        let Some(reach) = node.expr() else {
            let diagnostic = Diagnostic::new(Code::Syntax, span, "this ray has no reach")
                .with_help("write `reach 20 u` behind its direction");
            self.report(diagnostic);
            return None;
        };
        let reach = self.expr_of(Some(reach), &Ty::Num(Dim::LENGTH), scope);
        let kinds = match node.child(S::KindSet) {
            Some(set) => self.kind_set(&set),
            None => self.program.entity_kinds().map(|(id, _)| id).collect(),
        };
        let hits = self.query_parts(node, kinds.clone(), QueryKind::Any, scope);
        let depth = scope.enter();
        let bind = match node.child(S::AsName).and_then(|n| n.name()) {
            Some(token) => self.bind(&token, Ty::Ray(kinds), scope),
            None => scope.bind("", Ty::Ray(kinds), Span::default()),
        };
        let mut blocks = node.children_of(S::Block);
        let then = self.block(blocks.next(), scope);
        let otherwise = self.block(blocks.next(), scope);
        scope.leave(depth);
        Some(StmtKind::Ray(Box::new(Ray { from, along, reach, hits, bind, then, otherwise })))
    }

    /// A place, an entity's place, or a mount of one's own.
    fn place_or_mount(&mut self, node: &Node, scope: &mut Scope) -> Expr {
        let span = self.span(node);
        let name = (node.kind() == S::NameExpr).then(|| node.name()).flatten();
        let mounts = &self.program.kinds[scope.owner.index()].mounts;
        let mount = name.as_ref().and_then(|t| mounts.iter().find(|m| m.name == t.text()).cloned());
        if let (Some(name), Some(_)) = (&name, &mount) {
            self.note_mount(name, &[scope.owner]);
        }
        match mount {
            Some(mount) => mount_place(&mount, span),
            None => {
                let place = self.expr(node, scope);
                self.as_place(place)
            }
        }
    }

    pub(super) fn show(&mut self, node: &Node, scope: &mut Scope) -> Option<StmtKind> {
        let token = node.name()?;
        let time = self.expr_of(node.expr(), &Ty::Num(Dim::TIME), scope);
        match scope.find(token.text()) {
            Some((local, Ty::Ray(_))) => {
                self.note_local(self.token_span(&token), local, scope);
                Some(StmtKind::Show(local, time))
            }
            _ => {
                let span = self.shifted(token.text_range().into());
                let message = format!("`{}` is no ray", token.text());
                let diagnostic = Diagnostic::new(Code::WrongSort, span, message)
                    .with_help("name a ray: `ray … as r { show r for 0.1 s }`");
                self.report(diagnostic);
                None
            }
        }
    }

    pub(super) fn blast(&mut self, node: &Node, scope: &mut Scope) -> Option<StmtKind> {
        let span = self.first_line(node);
        let at = node.child(S::OptAt).and_then(|n| n.expr())?;
        let at = self.place_or_mount(&at, scope);
        let Some(radius) = node.child(S::WithinPart).and_then(|n| n.expr()) else {
            let diagnostic = Diagnostic::new(Code::Syntax, span, "this blast has no radius")
                .with_help("write `blast at here, radius 6 u, damage 8`");
            self.report(diagnostic);
            return None;
        };
        let radius = self.expr_of(Some(radius), &Ty::Num(Dim::LENGTH), scope);
        let part = |kind: S| node.child(kind).and_then(|n| n.expr());
        let (damage, push) = (part(S::OptHealth), part(S::OptPush));
        let damage = damage.map(|n| self.expr_of(Some(n), &Ty::Num(Dim::NONE), scope));
        let push = push.map(|n| self.expr_of(Some(n), &Ty::Num(Dim::SPEED), scope));
        if damage.is_none() && push.is_none() {
            let diagnostic = Diagnostic::new(Code::Syntax, span, "this blast does nothing")
                .with_help("give it `damage 8`, `push 12 u/s` or both");
            self.report(diagnostic);
        }
        let falloff = tree::Blast(node).falloff();
        let kinds = |checker: &mut Self, kind: S| -> Vec<KindId> {
            let parts: Vec<Node> =
                node.children_of(kind).filter_map(|n| n.child(S::KindSet)).collect();
            parts.iter().flat_map(|set| checker.kind_set(set)).collect()
        };
        let spares = kinds(self, S::NotWithin);
        let shields = kinds(self, S::ClearOf);
        let spares_maker =
            node.children_of(S::NotWithin).any(|n| tree::NotWithin(&n).is_of_maker());
        Some(StmtKind::Blast(Box::new(Blast {
            at,
            radius,
            damage,
            push,
            falloff,
            spares,
            spares_maker,
            shields,
        })))
    }

    pub(super) fn attach(&mut self, node: &Node, scope: &mut Scope) -> Option<StmtKind> {
        let target = self.expr_of(node.expr(), &Ty::Entity(Vec::new()), scope);
        let owner =
            node.child(S::Target).map(|t| self.expr_of(t.expr(), &Ty::Entity(Vec::new()), scope));
        let token = node.name()?;
        let owners = match owner.as_ref().map(|o| &o.ty) {
            Some(Ty::Entity(kinds)) => kinds.clone(),
            Some(_) => Vec::new(),
            None if scope.owner == POND => {
                let diagnostic = Diagnostic::new(
                    Code::OutOfPlace,
                    self.first_line(node),
                    "the pond has no mounts",
                )
                .with_help("say to whom: `attach E to F at MOUNT`");
                self.report(diagnostic);
                return None;
            }
            None => vec![scope.owner],
        };
        self.note_mount(&token, &owners);
        let has = |kind: &KindId| {
            self.program.kinds[kind.index()].mounts.iter().any(|m| m.name == token.text())
        };
        if !owners.is_empty() && !owners.iter().any(has) {
            let span = self.shifted(token.text_range().into());
            let name = &self.program.kinds[owners[0].index()].name;
            let message = format!("`{name}` has no mount `{}`", token.text());
            let diagnostic = Diagnostic::new(Code::UnknownName, span, message)
                .with_help(format!("give it a line `mount {} at (1 u, 0 u)`", token.text()));
            self.report(diagnostic);
        }
        Some(StmtKind::Attach {
            target,
            owner,
            mount: token.text().to_string(),
            outlives: tree::Attached(node).outlives(),
        })
    }

    pub(super) fn each(&mut self, node: &Node, scope: &mut Scope) -> StmtKind {
        let query = self.each_query(node, scope);
        let depth = scope.enter();
        let bind = match node.child(S::AsName).and_then(|n| n.name()) {
            Some(token) => self.bind(&token, Ty::Entity(query.kinds.clone()), scope),
            None => scope.bind("", Ty::Entity(query.kinds.clone()), Span::default()),
        };
        let no_wait = scope.no_wait;
        scope.no_wait.get_or_insert(
            "those are of this moment: keep one in a variable, or wait behind the block",
        );
        let body = self.block(node.child(S::Block), scope);
        scope.no_wait = no_wait;
        scope.leave(depth);
        StmtKind::Each { query, bind, body }
    }

    /// The zone a name means.
    pub(super) fn zone_named(&mut self, token: &crate::syntax::Token) -> Option<ZoneId> {
        let span = self.shifted(token.text_range().into());
        match self.symbol_at(token) {
            Some(Symbol::Zone(id)) => {
                self.names.used(token.text());
                Some(id)
            }
            Some(symbol) => {
                let message =
                    format!("expected a zone, found {} `{}`", symbol.noun(), token.text());
                self.error(Code::WrongSort, span, message);
                None
            }
            None => {
                let names = self.names.of(|s| matches!(s, Symbol::Zone(_)));
                self.unknown_name(span, token.text(), "zone", names.iter().map(String::as_str));
                None
            }
        }
    }
}

pub(super) fn own_place(span: crate::diagnostic::Span) -> Expr {
    Expr { kind: ExprKind::Own(Field::Pos), ty: Ty::PLACE, span }
}

/// The direction from one place to another.
fn direction_from(start: Expr, end: Expr, span: crate::diagnostic::Span) -> Expr {
    let offset = ExprKind::Binary(BinaryOp::Subtract, end.into(), start.into());
    let offset = Expr { kind: offset, ty: Ty::PLACE, span };
    Expr { kind: ExprKind::Call(Function::Direction, vec![offset]), ty: Ty::Num(Dim::ANGLE), span }
}

/// The place of a mount as an expression: the own place plus its offset turned by the heading.
fn mount_place(mount: &Mount, span: crate::diagnostic::Span) -> Expr {
    let number = |n: f64, dim| Expr { kind: ExprKind::Num(n), ty: Ty::Num(dim), span };
    let heading = Expr { kind: ExprKind::Own(Field::Heading), ty: Ty::Num(Dim::ANGLE), span };
    let turn = |function| {
        let kind = ExprKind::Call(function, vec![heading.clone()]);
        Expr { kind, ty: Ty::Num(Dim::NONE), span }
    };
    let binary = |op, a: Expr, b: Expr| Expr {
        kind: ExprKind::Binary(op, a.into(), b.into()),
        ty: Ty::Num(Dim::LENGTH),
        span,
    };
    let (x, y) = mount.at;
    let times =
        |n: f64, function| binary(BinaryOp::Multiply, number(n, Dim::LENGTH), turn(function));
    let along = binary(BinaryOp::Subtract, times(x, Function::Cos), times(y, Function::Sin));
    let across = binary(BinaryOp::Add, times(x, Function::Sin), times(y, Function::Cos));
    let offset = Expr { kind: ExprKind::Pair(along.into(), across.into()), ty: Ty::PLACE, span };
    Expr {
        kind: ExprKind::Binary(BinaryOp::Add, own_place(span).into(), offset.into()),
        ty: Ty::PLACE,
        span,
    }
}
