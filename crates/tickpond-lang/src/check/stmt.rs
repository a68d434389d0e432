//! Statements.

use super::checker::Checker;
use super::names::Symbol;
use super::quoted::text_of;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::model::Sort;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::tree;
use crate::units::Dim;

impl Checker {
    /// The statements of a block, with a scope of their own.
    pub(super) fn block(&mut self, block: Option<Node>, scope: &mut Scope) -> Vec<Stmt> {
        let Some(block) = block else { return Vec::new() };
        let span = self.span(&block);
        self.deeper(span, super::checker::BLOCK_LEVELS, |checker| checker.block_here(&block, scope))
            .unwrap_or_default()
    }

    fn block_here(&mut self, block: &Node, scope: &mut Scope) -> Vec<Stmt> {
        let depth = scope.enter();
        let mut stmts = Vec::new();
        for node in block.children() {
            if node.kind() == S::CallStmt {
                stmts.extend(self.call_stmt(&node, scope).unwrap_or_default());
            } else {
                stmts.extend(self.stmt(&node, scope));
            }
        }
        scope.leave(depth);
        stmts
    }

    fn stmt(&mut self, node: &Node, scope: &mut Scope) -> Option<Stmt> {
        let number = Ty::Num(Dim::NONE);
        let anyone = Ty::Entity(Vec::new());
        let mut exprs = node.exprs();
        let kind = match node.kind() {
            S::AssignStmt => self.assign(node, scope)?,
            S::TurnStmt if tree::Along(node).is_toward() => {
                if self.pond_cannot(node, scope, "turn") {
                    return None;
                }
                self.turn_toward(node, scope)
            }
            S::HeadStmt => self.head(node, scope)?,
            S::BecomeStmt => self.become_state(node, scope)?,
            S::PushStmt => self.push(node, scope),
            S::ThrustStmt => self.thrust(node, scope)?,
            S::RayStmt => self.ray(node, scope)?,
            S::ShowStmt => self.show(node, scope)?,
            S::BlastStmt => self.blast(node, scope)?,
            S::AttachStmt => self.attach(node, scope)?,
            S::DetachStmt => StmtKind::Detach(self.whom(node, scope)),
            S::ActivateStmt => {
                let on = tree::Switch(node).is_on();
                StmtKind::Activate(self.whom(node, scope), on)
            }
            S::EachStmt => self.each(node, scope),
            S::ReplaceStmt => {
                if self.pond_cannot(node, scope, "be replaced") {
                    return None;
                }
                StmtKind::Replace(Box::new(self.spawn(node, scope)?))
            }
            S::SpawnStmt if node.child(S::AsName).is_some() => {
                self.wait_allowed(node, scope);
                let birth = self.spawn(node, scope)?;
                let kinds = match (&birth.kind.kind, &birth.kind.ty) {
                    (ExprKind::Kind(id), _) => vec![*id],
                    (_, Ty::KindOf(these)) => these.clone(),
                    _ => self.program.entity_kinds().map(|(id, _)| id).collect(),
                };
                let token = node.child(S::AsName).and_then(|n| n.name())?;
                let local = self.bind(&token, Ty::Entity(kinds), scope);
                StmtKind::SpawnAs(Box::new(birth), local)
            }
            S::TurnStmt => {
                if scope.owner == POND {
                    self.error(Code::OutOfPlace, self.span(node), "the pond cannot turn");
                    return None;
                }
                StmtKind::Add(
                    Field::Heading,
                    self.expr_of(exprs.next(), &Ty::Num(Dim::ANGLE), scope),
                )
            }
            S::SpawnStmt => StmtKind::Spawn(Box::new(self.spawn(node, scope)?)),
            S::DamageStmt => {
                let target = self.whom(node, scope);
                let mut rest = self.behind_whom(node);
                let amount = self.expr_of(rest.next(), &number, scope);
                let credit = rest.next().map(|n| self.expr_of(Some(n), &anyone, scope));
                StmtKind::Damage { target, amount, credit }
            }
            S::HealStmt => {
                let target = self.whom(node, scope);
                let mut rest = self.behind_whom(node);
                StmtKind::Heal { target, amount: self.expr_of(rest.next(), &number, scope) }
            }
            S::EndStmt => StmtKind::End {
                target: self.whom(node, scope),
                because: text_of(node).unwrap_or_default(),
            },
            S::SendStmt => self.send(node, scope)?,
            S::IfStmt => self.if_else(node, scope),
            S::RepeatStmt => self.repeat(node, scope),
            S::WaitStmt => {
                self.wait_allowed(node, scope);
                StmtKind::Wait(self.expr_of(exprs.next(), &Ty::Num(Dim::TIME), scope))
            }
            S::WaitUntilStmt => {
                self.wait_allowed(node, scope);
                StmtKind::WaitUntil(self.expr_of(exprs.next(), &Ty::Truth, scope))
            }
            S::WaveStmt => self.wave(node, scope),
            S::SayStmt => {
                let token = node.token(S::Text)?;
                StmtKind::Say(self.text_parts(&token, scope))
            }
            S::LetStmt => {
                let token = node.name()?;
                let value = self.expr_or_unknown(exprs.next(), self.span(node), scope);
                if value.ty == Ty::Text {
                    self.error(Code::WrongType, value.span, "a text cannot be kept, only said");
                }
                if matches!(value.ty, Ty::Ray(_) | Ty::Impact(_)) {
                    let message = format!("{} has one name", value.ty.noun());
                    self.error(Code::WrongType, value.span, message);
                }
                let local = self.bind(&token, value.ty.clone(), scope);
                StmtKind::Let(local, value)
            }
            _ => return None,
        };
        let site = self.site(self.first_line(node), scope.owner, false);
        Some(Stmt { kind, site })
    }

    /// The span of a node, up to the end of its first line.
    pub(super) fn first_line(&self, node: &Node) -> Span {
        let span = self.span(node);
        let text = self.program.text.get(span.range()).unwrap_or("");
        let line = text.lines().next().unwrap_or("").trim_end();
        Span { start: span.start, end: span.start + line.len() as u32 }
    }

    /// A new local; a name that already stands for something else is an error.
    pub(super) fn bind(&mut self, token: &Token, ty: Ty, scope: &mut Scope) -> LocalId {
        let name = token.text();
        let taken = match self.symbol(name) {
            Some(symbol) => Some(symbol.noun()),
            None if self.own_field(scope, name).is_some() => Some("a field of this kind,"),
            None => None,
        };
        if let Some(noun) = taken {
            let span = token.text_range().into();
            let message = format!("`{name}` is already the name of {noun} here");
            let message = message.replace("kind, here", "kind");
            let diagnostic = Diagnostic::new(Code::NameClash, self.shifted(span), message)
                .with_help("choose another name");
            self.report(diagnostic);
        }
        let span = self.token_span(token);
        self.model.define(name, Sort::Local, span, Some(ty.clone()));
        scope.bind(name, ty, span)
    }

    fn assign(&mut self, node: &Node, scope: &mut Scope) -> Option<StmtKind> {
        let token = node.name()?;
        // What is not to be set is one slip: its value is looked at when that is mended.
        let Some((field, ty)) = self.assigned_field(&token, scope) else {
            self.look_at_values(node, scope);
            return None;
        };
        let mut value = self.expr_of(node.expr(), &ty, scope);
        self.holds_only(&value, &ty, token.text());
        let minus = node.token(S::MinusAssign).is_some();
        let adds = minus || node.token(S::PlusAssign).is_some();
        if adds && !matches!(ty, Ty::Num(_) | Ty::Pair(_) | Ty::Unknown) {
            let message = format!("nothing can be added to {}", ty.noun());
            self.error(Code::WrongType, self.span(node), message);
        }
        if minus {
            let span = value.span;
            value = Expr { ty: value.ty.clone(), kind: ExprKind::Negate(value.into()), span };
        }
        Some(if adds { StmtKind::Add(field, value) } else { StmtKind::Set(field, value) })
    }

    /// A variable that holds an entity holds those of the kinds of its first value.
    pub(super) fn holds_only(&mut self, value: &Expr, wanted: &Ty, name: &str) {
        let (Ty::Entity(these), Ty::Entity(held)) = (&value.ty, wanted) else { return };
        let Some(other) = these.iter().find(|kind| !held.contains(kind)) else { return };
        if held.is_empty() {
            return;
        }
        let of = |kind: &KindId| format!("`{}`", self.program.kinds[kind.index()].name);
        let held = super::names::listed(held.iter().map(of));
        let message = format!("`{name}` holds one of {held}, and this may be a {}", of(other));
        let diagnostic = Diagnostic::new(Code::WrongType, value.span, message).with_help(
            "a variable holds the kinds of its first value; `vars { prey: frog or midge }` says which it may hold",
        );
        self.report(diagnostic);
    }

    fn assigned_field(&mut self, token: &Token, scope: &Scope) -> Option<(Field, Ty)> {
        let name = token.text();
        let span = self.shifted(token.text_range().into());
        let not_yours = |message: String, help: &str| {
            Diagnostic::new(Code::NotYours, span, message).with_help(help)
        };
        let diagnostic = if scope.find(name).is_some() {
            not_yours(
                format!("`{name}` is a local, and a local keeps its value"),
                "use a variable of the kind: `vars { … }`",
            )
        } else if let Some((field, ty)) = self.own_field(scope, name) {
            self.note_field(span, &[scope.owner], &field);
            match field {
                Field::State(_) => {
                    not_yours("a state is not assigned".into(), "write `become` and the state")
                }
                Field::Active => not_yours(
                    "this is not assigned".into(),
                    "write `activate self` or `deactivate self`",
                ),
                Field::Age
                | Field::Maker
                | Field::Name
                | Field::Label
                | Field::Down
                | Field::Resting => not_yours(
                    format!("`{name}` can be read, not set"),
                    "keep a value of your own in `vars { … }`",
                ),
                Field::Health => not_yours(
                    "health is changed by damage and healing only".into(),
                    "write `damage self by …` or `heal self by …`",
                ),
                _ => return Some((field, ty)),
            }
        } else if let Some(symbol) = self.symbol_at(token) {
            not_yours(
                format!("{} `{name}` cannot be set from a script", symbol.noun()),
                "only an entity's own fields and variables change",
            )
        } else if self.field_of(&[POND], name).is_some() {
            not_yours(
                format!("`{name}` belongs to the pond, and only the pond sets it"),
                "send the pond a message, and set it there",
            )
        } else {
            let fields = self.field_names(&[scope.owner]);
            self.unknown_name(span, name, "field or variable", fields.iter().map(String::as_str));
            return None;
        };
        self.report(diagnostic);
        None
    }

    fn spawn(&mut self, node: &Node, scope: &mut Scope) -> Option<Birth> {
        let first = node.expr()?;
        // With a name behind it the value is a count, without one it must be the kind itself.
        let (kind, count) = match node.name() {
            Some(token) if self.is_option_misspelt(&first, &token, scope) => {
                self.look_at_values(node, scope);
                return None;
            }
            Some(token) => {
                let count = self.expr_of(Some(first), &Ty::Num(Dim::NONE), scope);
                if constant(&count, &[]).is_some_and(|n| n < 0.0 || n.fract() != 0.0) {
                    let message = "a count is a whole number, 0 or more";
                    self.error(Code::OutOfRange, count.span, message);
                }
                (self.kind_to_make(&token, scope), Some(count))
            }
            None => match (first.kind(), first.name()) {
                (S::NameExpr, Some(token)) => (self.kind_to_make(&token, scope), None),
                _ => {
                    let diagnostic = Diagnostic::new(
                        Code::Syntax,
                        self.span(&first),
                        "expected the kind to spawn",
                    )
                    .with_help("write `spawn midge` or `spawn 3 midge`");
                    self.report(diagnostic);
                    return None;
                }
            },
        };
        self.no_pond_place(node, scope);
        let birth = self.birth(node, kind, scope);
        Some(Birth { count, ..birth })
    }

    /// `spawn midge anywere`: reports a word behind the kind that is no kind.
    fn is_option_misspelt(&mut self, first: &Node, token: &Token, scope: &Scope) -> bool {
        let kind = (first.kind() == S::NameExpr).then(|| first.name()).flatten();
        let is_kind = |token: &Token| {
            matches!(self.names.get(token.text()), Some(Symbol::Kind(_) | Symbol::Spawner(_)))
                && scope.find(token.text()).is_none()
        };
        if !kind.is_some_and(|kind| is_kind(&kind)) || is_kind(token) {
            return false;
        }
        let span = self.shifted(token.text_range().into());
        let words = crate::parse::option_words();
        let message = format!("`{}` means nothing here", token.text());
        let diagnostic = Diagnostic::new(Code::Syntax, span, message);
        let near = crate::near::near_miss(token.text(), words.iter().copied());
        self.report(match near {
            Some(near) => {
                diagnostic.with_help(format!("did you mean `{near}`?")).with_mend(span, near)
            }
            None => diagnostic
                .with_help("behind the kind stands a place, such as `at here` or `anywhere`"),
        });
        true
    }

    /// The pond is nowhere, so what it spawns needs a place.
    fn no_pond_place(&mut self, node: &Node, scope: &Scope) {
        if scope.owner == POND && node.child(S::OptAt).is_none() {
            let diagnostic = Diagnostic::new(
                Code::OutOfPlace,
                self.first_line(node),
                "the pond is nowhere, so what it spawns needs a place",
            )
            .with_help(format!(
                "add `at {}`, `at` a spot group, or `anywhere`",
                self.program.arena.example()
            ));
            self.report(diagnostic);
        }
    }

    fn send(&mut self, node: &Node, scope: &mut Scope) -> Option<StmtKind> {
        let token = node.name()?;
        let target = node.child(S::Target)?;
        let to = self.target(&target, scope);
        let message = match self.symbol_at(&token) {
            Some(Symbol::Message(id)) => id,
            other => {
                let span = self.shifted(token.text_range().into());
                match other {
                    Some(symbol) => {
                        let message = format!(
                            "expected a message, found {} `{}`",
                            symbol.noun(),
                            token.text()
                        );
                        self.error(Code::WrongSort, span, message);
                    }
                    None => {
                        let names = self.names.of(|s| matches!(s, Symbol::Message(_)));
                        let names = names.iter().map(String::as_str);
                        self.unknown_name(span, token.text(), "message", names);
                    }
                }
                self.look_at_arguments(node, scope);
                return None;
            }
        };
        let args: Vec<Node> =
            node.child(S::Args).iter().flat_map(|a| a.exprs().collect::<Vec<_>>()).collect();
        let params = self.program.messages[message.index()].params.clone();
        if args.len() != params.len() {
            let text = format!(
                "`{}` carries {} value{}, found {}",
                token.text(),
                params.len(),
                if params.len() == 1 { "" } else { "s" },
                args.len()
            );
            self.error(Code::WrongCount, self.first_line(node), text);
            self.look_at_arguments(node, scope);
        }
        let values = args
            .into_iter()
            .zip(&params)
            .map(|(n, (_, ty))| self.expr_of(Some(n), ty, scope))
            .collect();
        Some(StmtKind::Send { message, values, to })
    }

    fn target(&mut self, node: &Node, scope: &mut Scope) -> Target {
        if tree::Target(node).is_pond() {
            return Target::Pond;
        }
        if tree::Target(node).is_all() {
            return Target::All;
        }
        if tree::Target(node).is_each() {
            let kinds = node.child(S::KindSet).map(|set| self.kind_set(&set)).unwrap_or_default();
            return Target::Each(Box::new(self.query_parts(node, kinds, QueryKind::Any, scope)));
        }
        let span = self.span(node);
        let one = self.expr_or_unknown(node.expr(), span, scope);
        if one.ty == Ty::Kind {
            let source = self.program.text.get(span.range()).unwrap_or("").to_string();
            let diagnostic =
                Diagnostic::new(Code::WrongType, span, "a message goes to entities, not to a kind")
                    .with_help(format!("write `to each {source}`"))
                    .with_mend(span, format!("each {source}"));
            self.report(diagnostic);
            return Target::All;
        }
        Target::One(self.wants(one, &Ty::Entity(Vec::new())))
    }

    fn if_else(&mut self, node: &Node, scope: &mut Scope) -> StmtKind {
        let condition = self.expr_or_unknown(node.expr(), self.span(node), scope);
        let name = node.child(S::AsName).and_then(|n| n.name());
        let depth = scope.enter();
        let (condition, bind) = match name {
            Some(token) => {
                let ty = condition.ty.clone();
                let condition = self.wants(condition, &Ty::Entity(Vec::new()));
                let bind = self.bind(&token, ty, scope);
                (condition, Some(bind))
            }
            None => (self.wants(condition, &Ty::Truth), None),
        };
        let mut blocks = node.children_of(S::Block);
        let then = self.block(blocks.next(), scope);
        scope.leave(depth);
        let otherwise = match node.child(S::IfStmt) {
            Some(nested) => self.stmt(&nested, scope).into_iter().collect(),
            None => self.block(blocks.next(), scope),
        };
        StmtKind::If { condition, bind, then, otherwise }
    }

    fn repeat(&mut self, node: &Node, scope: &mut Scope) -> StmtKind {
        let times = node.expr().map(|n| self.expr_of(Some(n), &Ty::Num(Dim::NONE), scope));
        let depth = scope.enter();
        let name = node.child(S::AsName).and_then(|n| n.name());
        let counter = name.map(|token| self.bind(&token, Ty::Num(Dim::NONE), scope));
        let body = self.block(node.child(S::Block), scope);
        scope.leave(depth);
        if times.is_none() && !body.iter().any(always_waits) {
            let diagnostic = Diagnostic::new(
                Code::EndlessLoop,
                self.first_line(node),
                "this repeats for ever without waiting",
            )
            .with_help("put a `wait` on every way through it, or say how often: `repeat 3 times`");
            self.report(diagnostic);
        }
        StmtKind::Repeat { times, counter, body }
    }

    fn wave(&mut self, node: &Node, scope: &mut Scope) -> StmtKind {
        self.wait_allowed(node, scope);
        // The wave can be asked about behind its block, so its name is bound outside.
        let name = node.child(S::AsName).and_then(|n| n.name());
        let bind = match name {
            Some(token) => self.bind(&token, Ty::Wave, scope),
            None => scope.bind("", Ty::Wave, Span::default()),
        };
        let body = self.block(node.child(S::Block), scope);
        StmtKind::Wave { bind, body }
    }

    fn wait_allowed(&mut self, node: &Node, scope: &Scope) {
        if let Some(reason) = scope.no_wait {
            let diagnostic =
                Diagnostic::new(Code::OutOfPlace, self.first_line(node), "nothing can wait here")
                    .with_help(reason);
            self.report(diagnostic);
        }
    }
}

/// Whether every way through the statement waits.
fn always_waits(stmt: &Stmt) -> bool {
    match &stmt.kind {
        StmtKind::Wait(_)
        | StmtKind::WaitUntil(_)
        | StmtKind::Wave { .. }
        | StmtKind::SpawnAs(..) => true,
        StmtKind::Ray(ray) => {
            ray.then.iter().any(always_waits) && ray.otherwise.iter().any(always_waits)
        }
        StmtKind::If { then, otherwise, .. } => {
            then.iter().any(always_waits) && otherwise.iter().any(always_waits)
        }
        StmtKind::Repeat { times: None, body, .. } => body.iter().any(always_waits),
        StmtKind::Repeat { times: Some(times), body, .. } => {
            constant(times, &[]).is_some_and(|n| n >= 1.0) && body.iter().any(always_waits)
        }
        _ => false,
    }
}
