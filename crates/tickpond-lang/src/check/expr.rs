//! Expressions: what a name means, and whether the units agree.

use super::names::Symbol;
use super::scope::Scope;
use super::{Checker, unquote};
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::parse::parse_expression;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::units::{self, Dim};

/// A number token in its two parts: the digits and, without blanks around it, the unit.
pub(super) fn split_number(text: &str) -> (&str, &str) {
    let digits = text.find(|c: char| !(c.is_ascii_digit() || c == '_' || c == '.'));
    let (number, unit) = text.split_at(digits.unwrap_or(text.len()));
    (number, unit.trim())
}

/// A pair of bare numbers where a place is wanted is one in u.
pub(super) fn with_unit_of(expr: &Expr, wanted: &Ty) -> Option<Expr> {
    match (&expr.kind, &expr.ty, wanted) {
        (ExprKind::Pair(..), Ty::Pair(Dim::NONE), Ty::Pair(Dim::LENGTH)) => {
            Some(Expr { ty: Ty::PLACE, ..expr.clone() })
        }
        _ => None,
    }
}

impl Checker {
    /// The typed form of an expression; [`Ty::Unknown`] after a mistake.
    pub(super) fn expr(&mut self, node: &Node, scope: &mut Scope) -> Expr {
        let span = self.span(node);
        let (kind, ty) = match node.kind() {
            S::NumberExpr => self.number(node),
            S::TextExpr => self.text(node, scope),
            S::ParenExpr => return self.expr_or_unknown(node.expr(), span, scope),
            S::PairExpr => self.pair(node, scope),
            S::NameExpr => self.name_expr(node, scope),
            S::FieldExpr => self.field_expr(node, scope),
            S::UnaryExpr => self.unary(node, scope),
            S::BinaryExpr => self.binary(node, scope),
            S::CallExpr => self.call(node, scope),
            S::QueryExpr => self.query_expr(node, scope),
            S::RandomExpr => self.random(node, scope),
            S::AnyAngle => self.any_angle(span, scope),
            S::DirectionTo | S::DistanceTo => self.toward(node, scope),
            S::AliveExpr => {
                let entity = self.expr_or_unknown(node.expr(), span, scope);
                let entity = self.wants(entity, &Ty::Entity(Vec::new()));
                let alive = ExprKind::Alive(Box::new(entity));
                if node.has_word("gone") {
                    let alive = Expr { kind: alive, ty: Ty::Truth, span };
                    (ExprKind::Not(Box::new(alive)), Ty::Truth)
                } else {
                    (alive, Ty::Truth)
                }
            }
            _ => (ExprKind::Num(0.0), Ty::Unknown),
        };
        Expr { kind, ty, span }
    }

    /// The expression, or one of unknown type where the parser found none.
    pub(super) fn expr_or_unknown(
        &mut self,
        node: Option<Node>,
        span: Span,
        scope: &mut Scope,
    ) -> Expr {
        match node {
            Some(node) => self.expr(&node, scope),
            None => Expr { kind: ExprKind::Num(0.0), ty: Ty::Unknown, span },
        }
    }

    /// The expression, which must be of this type.
    pub(super) fn expr_of(&mut self, node: Option<Node>, ty: &Ty, scope: &mut Scope) -> Expr {
        let expr = self.expr_or_unknown(node, Span::default(), scope);
        self.wants(expr, ty)
    }

    fn number(&mut self, node: &Node) -> (ExprKind, Ty) {
        let Some(token) = node.token(S::Number) else { return unknown() };
        let (digits, unit) = split_number(token.text());
        let number: f64 = digits.replace('_', "").parse().unwrap_or(f64::INFINITY);
        if !number.is_finite() || number > 1.0e15 {
            let span = self.shifted(token.text_range().into());
            self.error(Code::OutOfRange, span, "this number is above 1_000_000_000_000_000");
            return unknown();
        }
        match units::find(unit) {
            None => (ExprKind::Num(number), Ty::Num(Dim::NONE)),
            Some(unit) if unit.is_ticks() => {
                (ExprKind::Num(number / self.program.rate), Ty::Num(Dim::TIME))
            }
            Some(unit) => (ExprKind::Num(number * unit.factor), Ty::Num(unit.dim)),
        }
    }

    /// A text: its words, and the values in its braces.
    fn text(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(token) = node.token(S::Text) else { return unknown() };
        (ExprKind::Text(self.text_parts(&token, scope)), Ty::Text)
    }

    pub(super) fn text_parts(&mut self, token: &Token, scope: &mut Scope) -> Vec<TextPart> {
        let raw = token.text();
        let base = u32::from(token.text_range().start()) + self.offset;
        let inner_end = if raw.len() > 1 && raw.ends_with('"') { raw.len() - 1 } else { raw.len() };
        let mut parts = Vec::new();
        let mut at = 1.min(inner_end);
        while at < inner_end {
            let rest = &raw[at..inner_end];
            let open = rest.find('{').unwrap_or(rest.len());
            if open > 0 {
                parts.push(TextPart::Words(unquote(&rest[..open])));
            }
            if open == rest.len() {
                break;
            }
            let value = &rest[open + 1..];
            let Some(close) = value.find('}') else {
                let start = base + (at + open) as u32;
                let diagnostic = Diagnostic::new(
                    Code::OpenBracket,
                    Span { start, end: start + 1 },
                    "this `{` in the text is never closed",
                )
                .with_help("close it with `}`");
                self.report(diagnostic);
                break;
            };
            let value_at = at + open + 1;
            parts.push(self.text_value(&value[..close], base + value_at as u32, scope));
            at = value_at + close + 1;
        }
        parts
    }

    fn text_value(&mut self, source: &str, base: u32, scope: &mut Scope) -> TextPart {
        let parsed = parse_expression(source);
        let outer = std::mem::replace(&mut self.offset, base);
        for diagnostic in &parsed.diagnostics {
            let mut diagnostic = diagnostic.clone();
            diagnostic.span = self.shifted(diagnostic.span);
            diagnostic.mend = None;
            self.report(diagnostic);
        }
        let span = Span { start: base, end: base + source.len() as u32 };
        let expr = match parsed.root().expr() {
            Some(node) if parsed.diagnostics.is_empty() => self.expr(&node, scope),
            _ => Expr { kind: ExprKind::Num(0.0), ty: Ty::Unknown, span },
        };
        self.offset = outer;
        TextPart::Value(expr)
    }

    fn pair(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let parts: Vec<Expr> = node.exprs().map(|n| self.expr(&n, scope)).collect();
        let Ok([a, b]) = <[Expr; 2]>::try_from(parts) else { return unknown() };
        if let Some(unit) = node.child(S::PairUnit) {
            let unit = units::find(&unit.text().to_string());
            let a = self.wants(a, &Ty::Num(Dim::NONE));
            let b = self.wants(b, &Ty::Num(Dim::NONE));
            let Some(unit) = unit else { return unknown() };
            let scaled = |e: Expr| {
                let (span, ty) = (e.span, Ty::Num(unit.dim));
                let kind = match e.kind {
                    ExprKind::Num(n) => ExprKind::Num(n * unit.factor),
                    _ => multiply(e, unit.factor),
                };
                Expr { kind, ty, span }
            };
            return (ExprKind::Pair(scaled(a).into(), scaled(b).into()), Ty::Pair(unit.dim));
        }
        let dim = match &a.ty {
            Ty::Num(dim) => *dim,
            Ty::Unknown => return unknown(),
            _ => {
                self.wants(a, &Ty::Num(Dim::LENGTH));
                return unknown();
            }
        };
        // `(4 u, 0)` is clear: nothing is nothing in any unit.
        let zero =
            |e: &Expr| matches!(e.kind, ExprKind::Num(n) if n == 0.0) && e.ty == Ty::Num(Dim::NONE);
        let dim = if zero(&a)
            && let Ty::Num(other) = b.ty
        {
            other
        } else {
            dim
        };
        let a = if zero(&a) { a } else { self.wants(a, &Ty::Num(dim)) };
        let b = if zero(&b) { b } else { self.wants(b, &Ty::Num(dim)) };
        if a.ty == Ty::Unknown || b.ty == Ty::Unknown {
            return unknown();
        }
        (ExprKind::Pair(a.into(), b.into()), Ty::Pair(dim))
    }

    // Names.

    fn name_expr(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(token) = node.name() else { return unknown() };
        let name = token.text();
        let span = self.span(node);
        if let Some((id, ty)) = scope.find(name) {
            return (ExprKind::Local(id), ty);
        }
        if let Some(kinds) = scope.candidates.clone()
            && let Some(found) = self.field_of(&kinds, name)
        {
            return (ExprKind::Its(found.0), found.1);
        }
        match name {
            "true" => return (ExprKind::Truth(true), Ty::Truth),
            "false" => return (ExprKind::Truth(false), Ty::Truth),
            "self" | "here" | "maker" => return self.own_word(name, span, scope),
            "pond" => {
                let message = "the pond is no entity; it only hears messages: `send … to pond`";
                self.error(Code::OutOfPlace, span, message);
                return unknown();
            }
            _ => {}
        }
        if let Some((field, ty)) = self.field_of(&[scope.owner], name) {
            return (ExprKind::Own(field), ty);
        }
        self.symbol_expr(name, span, scope)
    }

    fn own_word(&mut self, name: &str, span: Span, scope: &Scope) -> (ExprKind, Ty) {
        if scope.owner == POND {
            let message = format!("`{name}` means an entity, and the pond is none");
            let diagnostic = Diagnostic::new(Code::OutOfPlace, span, message)
                .with_help("move this into a kind, or name the entity");
            self.report(diagnostic);
            return unknown();
        }
        let everyone = || self.program.entity_kinds().map(|(id, _)| id).collect();
        match name {
            "self" => (ExprKind::Me, Ty::Entity(vec![scope.owner])),
            "here" => (ExprKind::Own(Field::Pos), Ty::PLACE),
            _ => (ExprKind::Own(Field::Maker), Ty::Entity(everyone())),
        }
    }

    fn symbol_expr(&mut self, name: &str, span: Span, scope: &Scope) -> (ExprKind, Ty) {
        match self.symbol(name) {
            Some(Symbol::Knob(id)) if id.index() < self.program.knobs.len() => {
                self.names.used(name);
                (ExprKind::Knob(id), Ty::Num(self.program.knobs[id.index()].dim))
            }
            Some(Symbol::Kind(id) | Symbol::Spawner(id)) => {
                self.names.used(name);
                (ExprKind::Kind(id), Ty::Kind)
            }
            Some(Symbol::Watch) => {
                let watch = self.program.watches.iter().find(|w| w.name == name);
                match watch.map(|w| w.value.clone()) {
                    Some(value) => (value.kind, value.ty),
                    None => {
                        let message = format!("the watch `{name}` is declared further down");
                        let diagnostic = Diagnostic::new(Code::OutOfPlace, span, message)
                            .with_help("move it above this line");
                        self.report(diagnostic);
                        unknown()
                    }
                }
            }
            Some(Symbol::Spots(_)) => {
                let message = format!("`{name}` is a group of spots, not one place");
                let diagnostic = Diagnostic::new(Code::WrongSort, span, message)
                    .with_help(format!("write `{name}.1` for its first spot"));
                self.report(diagnostic);
                unknown()
            }
            Some(symbol) => {
                let message = format!("expected a value, found {} `{name}`", symbol.noun());
                self.error(Code::WrongSort, span, message);
                unknown()
            }
            None => self.pond_var(name, span, scope),
        }
    }

    fn pond_var(&mut self, name: &str, span: Span, scope: &Scope) -> (ExprKind, Ty) {
        let names = &self.program.var_names;
        let var_name = names.iter().position(|n| n == name).map(|at| VarName(at as u32));
        if let Some(var) = var_name.and_then(|n| self.program.var_of(POND, n)) {
            return (ExprKind::PondVar(var.name), var.ty.clone());
        }
        let mut candidates = self.names.of(|s| {
            matches!(s, Symbol::Knob(_) | Symbol::Kind(_) | Symbol::Spawner(_) | Symbol::Watch)
        });
        candidates.extend(scope.names());
        candidates.extend(self.field_names(&[scope.owner]));
        candidates.extend(scope.candidates.iter().flat_map(|kinds| self.field_names(kinds)));
        self.unknown_name(span, name, "value", candidates.iter().map(String::as_str));
        unknown()
    }

    // Fields.

    /// The field with this name that all these kinds have, and its type.
    pub(super) fn field_of(&self, kinds: &[KindId], name: &str) -> Option<(Field, Ty)> {
        let number = |field, dim| Some((field, Ty::Num(dim)));
        let kind_of = |id: &KindId| &self.program.kinds[id.index()];
        let entities = kinds.iter().all(|id| !matches!(kind_of(id).role, Role::Pond));
        if entities {
            match name {
                "pos" => return Some((Field::Pos, Ty::PLACE)),
                "vel" => return Some((Field::Vel, Ty::Pair(Dim::SPEED))),
                "heading" => return number(Field::Heading, Dim::ANGLE),
                "speed" => return number(Field::Speed, Dim::SPEED),
                "spin" => return number(Field::Spin, Dim::SPIN),
                "age" => return number(Field::Age, Dim::TIME),
                "health" if kinds.iter().any(|id| kind_of(id).health.is_some()) => {
                    return number(Field::Health, Dim::NONE);
                }
                "name" => return Some((Field::Name, Ty::Text)),
                "maker" => {
                    let everyone = self.program.entity_kinds().map(|(id, _)| id).collect();
                    return Some((Field::Maker, Ty::Entity(everyone)));
                }
                _ => {}
            }
        }
        let at = self.program.var_names.iter().position(|n| n == name)?;
        let var_name = VarName(at as u32);
        let mut types = kinds.iter().map(|id| self.program.var_of(*id, var_name).map(|v| &v.ty));
        let first = types.next()??.clone();
        types.all(|ty| ty == Some(&first)).then_some((Field::Var(var_name), first))
    }

    /// Names of all fields these kinds have, for near misses.
    pub(super) fn field_names(&self, kinds: &[KindId]) -> Vec<String> {
        const BUILT_IN: [&str; 9] =
            ["pos", "vel", "heading", "speed", "spin", "health", "age", "maker", "name"];
        let built_in = BUILT_IN.iter().map(|n| n.to_string());
        let vars = kinds.iter().flat_map(|id| &self.program.kinds[id.index()].vars);
        let vars = vars.map(|v| self.program.var_names[v.name.index()].clone());
        built_in.chain(vars).filter(|n| self.field_of(kinds, n).is_some()).collect()
    }

    fn field_expr(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(base_node) = node.expr() else { return unknown() };
        if let Some(number) = node.token(S::Number) {
            return self.spot_expr(&base_node, &number);
        }
        let Some(token) = node.name() else { return unknown() };
        let base = self.expr(&base_node, scope);
        match base.ty.clone() {
            Ty::Pair(dim) => match token.text() {
                "x" => (ExprKind::Part(base.into(), 0), Ty::Num(dim)),
                "y" => (ExprKind::Part(base.into(), 1), Ty::Num(dim)),
                _ => {
                    let diagnostic = Diagnostic::new(
                        Code::NoSuchField,
                        self.shifted(token.text_range().into()),
                        format!("{} has `x` and `y`, not `{}`", base.ty.noun(), token.text()),
                    );
                    self.report(diagnostic);
                    unknown()
                }
            },
            Ty::Entity(kinds) => self.entity_field(base, &kinds, &token),
            Ty::Unknown => unknown(),
            other => {
                let message = format!("{} has no fields", other.noun());
                self.error(Code::NoSuchField, self.span(node), message);
                unknown()
            }
        }
    }

    fn entity_field(&mut self, base: Expr, kinds: &[KindId], token: &Token) -> (ExprKind, Ty) {
        if let Some((field, ty)) = self.field_of(kinds, token.text()) {
            let kind = match base.kind {
                ExprKind::Me => ExprKind::Own(field),
                ExprKind::It => ExprKind::Its(field),
                _ => ExprKind::Of(base.into(), field),
            };
            return (kind, ty);
        }
        let who = match kinds {
            [one] => format!("`{}`", self.program.kinds[one.index()].name),
            _ => "not every entity this can be".to_string(),
        };
        let verb = if kinds.len() == 1 { "has no" } else { "has a" };
        let near = self.field_names(kinds);
        let near = super::names::near_miss(token.text(), near.iter().map(String::as_str));
        let span = self.shifted(token.text_range().into());
        let message = format!("{who} {verb} field `{}`", token.text());
        let mut diagnostic = Diagnostic::new(Code::NoSuchField, span, message);
        if let Some(near) = near {
            diagnostic =
                diagnostic.with_help(format!("did you mean `{near}`?")).with_mend(span, near);
        }
        self.report(diagnostic);
        unknown()
    }

    fn spot_expr(&mut self, base: &Node, number: &Token) -> (ExprKind, Ty) {
        let span = self.span(base);
        let group = base.name().and_then(|t| self.names.get(t.text()).map(|s| (t, s)));
        let Some((token, Symbol::Spots(id))) = group else {
            self.error(Code::WrongSort, span, "only a spot group has numbered places");
            return unknown();
        };
        self.names.used(token.text());
        match self.spot_number(id, number) {
            Some(at) => (ExprKind::Spot(id, at), Ty::PLACE),
            None => unknown(),
        }
    }

    /// A spot's number in the text counts from 1; the result from 0.
    pub(super) fn spot_number(&mut self, id: SpotsId, number: &Token) -> Option<u32> {
        let count = self.program.spots[id.index()].spots.len() as u32;
        let at: u32 = number.text().trim().parse().unwrap_or(0);
        if (1..=count).contains(&at) {
            return Some(at - 1);
        }
        let name = &self.program.spots[id.index()].name;
        let message = format!("`{name}` has {count} spots, numbered from 1");
        let span = self.shifted(number.text_range().into());
        self.error(Code::OutOfRange, span, message);
        None
    }

    // Operators.

    fn unary(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let span = self.span(node);
        let inner = self.expr_or_unknown(node.expr(), span, scope);
        if node.has_word("not") {
            let inner = self.wants(inner, &Ty::Truth);
            return (ExprKind::Not(inner.into()), Ty::Truth);
        }
        match inner.ty.clone() {
            // A negative number is as constant as a positive one.
            Ty::Num(_) if matches!(inner.kind, ExprKind::Num(_)) => match inner.kind {
                ExprKind::Num(n) => (ExprKind::Num(-n), inner.ty),
                _ => unknown(),
            },
            ty @ (Ty::Num(_) | Ty::Pair(_)) => (ExprKind::Negate(inner.into()), ty),
            Ty::Unknown => unknown(),
            _ => {
                self.wants(inner, &Ty::Num(Dim::NONE));
                unknown()
            }
        }
    }

    fn binary(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let mut operands: Vec<Expr> = node.exprs().map(|n| self.expr(&n, scope)).collect();
        let Some(op) = operator(node) else { return unknown() };
        if operands.len() < 2 {
            return unknown();
        }
        let tolerance = (operands.len() == 3).then(|| operands.pop()).flatten();
        let b = operands.pop().unwrap_or_else(nothing);
        let a = operands.pop().unwrap_or_else(nothing);
        if a.ty == Ty::Unknown || b.ty == Ty::Unknown {
            let ty = if is_comparison(op) { Ty::Truth } else { Ty::Unknown };
            return (ExprKind::Truth(false), ty);
        }
        let span = self.span(node);
        match op {
            BinaryOp::And | BinaryOp::Or => {
                let a = self.wants(a, &Ty::Truth);
                let b = self.wants(b, &Ty::Truth);
                (ExprKind::Binary(op, a.into(), b.into()), Ty::Truth)
            }
            BinaryOp::Multiply | BinaryOp::Divide => self.product(op, a, b, span),
            BinaryOp::Add | BinaryOp::Subtract => match self.alike(op, a, b) {
                Some((a, b)) if matches!(a.ty, Ty::Num(_) | Ty::Pair(_)) => {
                    let ty = a.ty.clone();
                    (ExprKind::Binary(op, a.into(), b.into()), ty)
                }
                Some((a, _)) => {
                    let message = format!("{} cannot be reckoned with", a.ty.noun());
                    self.error(Code::WrongType, a.span, message);
                    unknown()
                }
                None => unknown(),
            },
            _ => (self.comparison(op, a, b, tolerance), Ty::Truth),
        }
    }

    fn product(&mut self, op: BinaryOp, a: Expr, b: Expr, span: Span) -> (ExprKind, Ty) {
        let combine = |a: Dim, b: Dim| {
            if op == BinaryOp::Multiply { a.times(b) } else { a.over(b) }
        };
        let ty = match (&a.ty, &b.ty) {
            (Ty::Num(x), Ty::Num(y)) => combine(*x, *y).map(Ty::Num),
            (Ty::Pair(x), Ty::Num(y)) => combine(*x, *y).map(Ty::Pair),
            (Ty::Num(x), Ty::Pair(y)) if op == BinaryOp::Multiply => combine(*x, *y).map(Ty::Pair),
            _ => {
                let verb = if op == BinaryOp::Multiply { "multiplied by" } else { "divided by" };
                let message = format!("{} cannot be {verb} {}", a.ty.noun(), b.ty.noun());
                self.error(Code::WrongType, span, message);
                return unknown();
            }
        };
        match ty {
            Some(ty) => (ExprKind::Binary(op, a.into(), b.into()), ty),
            None => {
                self.error(Code::WrongUnit, span, "this unit has a power out of all measure");
                unknown()
            }
        }
    }

    /// Both sides, if they are of one type; else an error that names both.
    fn alike(&mut self, op: BinaryOp, a: Expr, b: Expr) -> Option<(Expr, Expr)> {
        if a.ty.fits(&b.ty) {
            return Some((a, b));
        }
        if let Some(b) = with_unit_of(&b, &a.ty) {
            return Some((a, b));
        }
        if let Some(a) = with_unit_of(&a, &b.ty) {
            return Some((a, b));
        }
        let verb = match op {
            BinaryOp::Add => "added to",
            BinaryOp::Subtract => "subtracted from",
            _ => "compared with",
        };
        let by_unit = matches!((&a.ty, &b.ty), (Ty::Num(_), Ty::Num(_)));
        let code = if by_unit { Code::WrongUnit } else { Code::WrongType };
        let message = format!("{} cannot be {verb} {}", b.ty.noun(), a.ty.noun());
        let span = Span { start: a.span.start, end: b.span.end };
        let mut diagnostic = Diagnostic::new(code, span, message)
            .with_label(a.span, format!("this is {}", a.ty.noun()))
            .with_label(b.span, format!("this is {}", b.ty.noun()));
        if let (Ty::Num(dim), ExprKind::Num(_), Ty::Num(Dim::NONE)) = (&a.ty, &b.kind, &b.ty) {
            let source = self.program.text.get(b.span.range()).unwrap_or("").to_string();
            let with_unit = format!("{source} {dim}");
            diagnostic =
                diagnostic.with_help(format!("write `{with_unit}`")).with_mend(b.span, with_unit);
        } else if matches!((&a.ty, &b.ty), (Ty::Pair(_), Ty::Num(_)) | (Ty::Num(_), Ty::Pair(_))) {
            diagnostic =
                diagnostic.with_help("take one side of the pair: `.x`, `.y`, or its `length(…)`");
        }
        self.report(diagnostic);
        None
    }

    fn comparison(&mut self, op: BinaryOp, a: Expr, b: Expr, tolerance: Option<Expr>) -> ExprKind {
        let Some((a, b)) = self.alike(op, a, b) else { return ExprKind::Truth(false) };
        if let Some(tolerance) = tolerance {
            let wanted = match &a.ty {
                Ty::Pair(dim) => Ty::Num(*dim),
                other => other.clone(),
            };
            let tolerance = self.wants(tolerance, &wanted);
            return ExprKind::Near(a.into(), b.into(), tolerance.into());
        }
        let equality = matches!(op, BinaryOp::Equal | BinaryOp::NotEqual);
        if matches!(a.ty, Ty::Num(_) | Ty::Unknown) || equality && a.ty != Ty::Text {
            return ExprKind::Binary(op, a.into(), b.into());
        }
        let message = format!("{} is neither more nor less than another", a.ty.noun());
        self.error(Code::WrongType, Span { start: a.span.start, end: b.span.end }, message);
        ExprKind::Truth(false)
    }

    // Chance and directions.

    fn random(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let mut bounds = node.exprs();
        let span = self.span(node);
        let (low, high) = (bounds.next(), bounds.next());
        let low = self.expr_or_unknown(low, span, scope);
        let high = self.expr_or_unknown(high, span, scope);
        if !self.chance_allowed(span, scope) {
            return unknown();
        }
        let Ty::Num(dim) = low.ty else {
            if low.ty != Ty::Unknown {
                self.wants(low, &Ty::Num(Dim::NONE));
            }
            return unknown();
        };
        let high = self.wants(high, &Ty::Num(dim));
        if let (ExprKind::Num(a), ExprKind::Num(b)) = (&low.kind, &high.kind)
            && a > b
        {
            let diagnostic = Diagnostic::new(Code::OutOfRange, span, "this range is upside down")
                .with_help("write the smaller bound first");
            self.report(diagnostic);
        }
        let source = |e: &Expr| self.program.text.get(e.span.range()).unwrap_or("").to_string();
        let bare_whole = |e: &Expr| {
            matches!(e.kind, ExprKind::Num(n) if n.fract() == 0.0) && !source(e).contains('.')
        };
        let whole = dim == Dim::NONE && bare_whole(&low) && bare_whole(&high);
        (ExprKind::Random { low: low.into(), high: high.into(), whole }, Ty::Num(dim))
    }

    fn any_angle(&mut self, span: Span, scope: &Scope) -> (ExprKind, Ty) {
        if !self.chance_allowed(span, scope) {
            return unknown();
        }
        let bound =
            |n: f64| Box::new(Expr { kind: ExprKind::Num(n), ty: Ty::Num(Dim::ANGLE), span });
        let random = ExprKind::Random { low: bound(0.0), high: bound(360.0), whole: false };
        (random, Ty::Num(Dim::ANGLE))
    }

    fn chance_allowed(&mut self, span: Span, scope: &Scope) -> bool {
        if scope.is_handler && scope.candidates.is_none() {
            return true;
        }
        let diagnostic = Diagnostic::new(Code::OutOfPlace, span, "nothing is drawn by chance here")
            .with_help("draw it in a handler and keep it in a variable");
        self.report(diagnostic);
        false
    }

    fn toward(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let span = self.span(node);
        let place = self.expr_or_unknown(node.expr(), span, scope);
        let place = self.as_place(place);
        if scope.owner == POND && place.ty != Ty::Unknown {
            self.own_word("here", span, scope);
            return unknown();
        }
        if node.kind() == S::DirectionTo {
            (ExprKind::DirectionTo(place.into()), Ty::Num(Dim::ANGLE))
        } else {
            (ExprKind::DistanceTo(place.into()), Ty::Num(Dim::LENGTH))
        }
    }

    /// A place as it is, or the place of an entity.
    pub(super) fn as_place(&mut self, expr: Expr) -> Expr {
        match expr.ty {
            Ty::Entity(_) => {
                let span = expr.span;
                let kind = match expr.kind {
                    ExprKind::Me => ExprKind::Own(Field::Pos),
                    ExprKind::It => ExprKind::Its(Field::Pos),
                    _ => ExprKind::Of(expr.into(), Field::Pos),
                };
                Expr { kind, ty: Ty::PLACE, span }
            }
            _ => self.wants(expr, &Ty::PLACE),
        }
    }
}

pub(super) fn unknown() -> (ExprKind, Ty) {
    (ExprKind::Num(0.0), Ty::Unknown)
}

fn nothing() -> Expr {
    Expr { kind: ExprKind::Num(0.0), ty: Ty::Unknown, span: Span::default() }
}

fn multiply(expr: Expr, factor: f64) -> ExprKind {
    let span = expr.span;
    let factor = Expr { kind: ExprKind::Num(factor), ty: Ty::Num(Dim::NONE), span };
    ExprKind::Binary(BinaryOp::Multiply, expr.into(), factor.into())
}

fn is_comparison(op: BinaryOp) -> bool {
    !matches!(op, BinaryOp::Add | BinaryOp::Subtract | BinaryOp::Multiply | BinaryOp::Divide)
}

fn operator(node: &Node) -> Option<BinaryOp> {
    let tokens = node.children_with_tokens().filter_map(|e| e.into_token());
    tokens.into_iter().find_map(|t| {
        Some(match t.kind() {
            S::Plus => BinaryOp::Add,
            S::Minus => BinaryOp::Subtract,
            S::Star => BinaryOp::Multiply,
            S::Slash => BinaryOp::Divide,
            // The parser has complained of `=`, and it was meant so.
            S::Equal | S::Assign => BinaryOp::Equal,
            S::NotEqual => BinaryOp::NotEqual,
            S::Less => BinaryOp::Less,
            S::LessEqual => BinaryOp::LessEqual,
            S::Greater => BinaryOp::Greater,
            S::GreaterEqual => BinaryOp::GreaterEqual,
            S::Keyword if t.text() == "and" => BinaryOp::And,
            S::Keyword if t.text() == "or" => BinaryOp::Or,
            _ => return None,
        })
    })
}
