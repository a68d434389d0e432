//! Expressions: what a name means, and whether the units agree.

use super::checker::Checker;
use super::quoted::unescaped;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::model::Sort;
use crate::parse::parse_expression;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::texts::open_brace;
use crate::tree;
use crate::units::{self, Dim};

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
        let deep = self
            .deeper(span, super::checker::VALUE_LEVELS, |checker| checker.expr_here(node, scope));
        deep.unwrap_or(Expr { kind: ExprKind::Num(0.0), ty: Ty::Unknown, span })
    }

    fn expr_here(&mut self, node: &Node, scope: &mut Scope) -> Expr {
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
            S::AliveExpr => self.is_so(node, scope),
            S::NamedEntity => self.named_entity(node),
            S::RandomOne => self.random_one(node, scope),
            _ => (ExprKind::Num(0.0), Ty::Unknown),
        };
        Expr { kind, ty, span }
    }

    /// `e is alive`, `e is gone`, `p is inside weir`, `e is insect`
    fn is_so(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let span = self.span(node);
        let value = self.expr_or_unknown(node.expr(), span, scope);
        if tree::IsExpr(node).is_inside() {
            let place = self.as_place(value);
            let zone = node.name().and_then(|token| self.zone_named(&token));
            return match zone {
                Some(zone) => (ExprKind::Inside(place.into(), zone), Ty::Truth),
                None => (ExprKind::Truth(false), Ty::Truth),
            };
        }
        let entity = self.wants(value, &Ty::Entity(Vec::new()));
        if let Some(set) = node.child(S::KindSet) {
            let kinds = self.kind_set(&set);
            return (ExprKind::IsKind(entity.into(), kinds), Ty::Truth);
        }
        let alive = ExprKind::Alive(Box::new(entity));
        if tree::IsExpr(node).is_gone() {
            let alive = Expr { kind: alive, ty: Ty::Truth, span };
            (ExprKind::Not(Box::new(alive)), Ty::Truth)
        } else {
            (alive, Ty::Truth)
        }
    }

    /// `midge#3`
    fn named_entity(&mut self, node: &Node) -> (ExprKind, Ty) {
        let (Some(token), Some(number)) = (node.name(), node.token(S::Number)) else {
            return unknown();
        };
        let kinds = self.kinds_named(&token);
        let number_span = self.shifted(number.text_range().into());
        let number: u32 = number.text().trim().parse().unwrap_or(0);
        if number == 0 {
            self.error(Code::OutOfRange, number_span, "entities are numbered from 1");
            return unknown();
        }
        match kinds[..] {
            [kind] => (ExprKind::Named(kind, number), Ty::Entity(vec![kind])),
            [] => unknown(),
            _ => {
                let span = self.shifted(token.text_range().into());
                let message = format!("`{}` is a tag; name the kind", token.text());
                self.error(Code::WrongSort, span, message);
                unknown()
            }
        }
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
        let written = units::parted(token.text());
        let number = written.number().unwrap_or(f64::INFINITY);
        if !number.is_finite() || number > 1.0e15 {
            let span = self.shifted(token.text_range().into());
            self.error(Code::OutOfRange, span, "this number is above 1_000_000_000_000_000");
            return unknown();
        }
        match written.in_base(self.program.rate) {
            Some((number, dim)) => (ExprKind::Num(number), Ty::Num(dim)),
            None => unknown(),
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
            let open = open_brace(rest).unwrap_or(rest.len());
            if open > 0 {
                parts.push(TextPart::Words(unescaped(&rest[..open])));
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
            for token in unit.names() {
                self.note_word(self.token_span(&token), Sort::Word);
            }
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

    // Operators.

    fn unary(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let span = self.span(node);
        let inner = self.expr_or_unknown(node.expr(), span, scope);
        if tree::UnaryExpr(node).is_not() {
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
        let Some(op) = operator(node) else { return unknown() };
        let mut operands = self.operands(node, op, scope);
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

    fn operands(&mut self, node: &Node, op: BinaryOp, scope: &mut Scope) -> Vec<Expr> {
        let nodes: Vec<Node> = node.exprs().collect();
        let equality = matches!(op, BinaryOp::Equal | BinaryOp::NotEqual);
        let is_state = |node: &Node| {
            let name = (node.kind() == S::NameExpr).then(|| node.name()).flatten();
            name.is_some_and(|t| self.program.state_names.iter().any(|s| s == t.text()))
        };
        if equality && nodes.len() == 2 {
            let first_is_name = is_state(&nodes[0]) && !is_state(&nodes[1]);
            let (a, b) = if first_is_name { (1, 0) } else { (0, 1) };
            let value = self.expr(&nodes[a], scope);
            return match &value.ty {
                Ty::State(states)
                    if nodes[b].kind() == S::NameExpr && !self.is_own(&nodes[b], scope) =>
                {
                    let states = states.clone();
                    let other = self.state_operand(&nodes[b], &states);
                    if first_is_name { vec![other, value] } else { vec![value, other] }
                }
                _ => {
                    let other = self.expr(&nodes[b], scope);
                    if first_is_name { vec![other, value] } else { vec![value, other] }
                }
            };
        }
        nodes.iter().map(|n| self.expr(n, scope)).collect()
    }

    /// Whether a name is a local or a field, so that it is no state's name.
    fn is_own(&self, node: &Node, scope: &Scope) -> bool {
        node.name().is_some_and(|t| {
            scope.find(t.text()).is_some() || self.own_field(scope, t.text()).is_some()
        })
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
    pub(super) fn alike(&mut self, op: BinaryOp, a: Expr, b: Expr) -> Option<(Expr, Expr)> {
        if let (Ty::Num(of_a), Ty::Num(of_b)) = (&a.ty, &b.ty) {
            self.model.want(a.span, *of_b);
            self.model.want(b.span, *of_a);
        }
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
            let source = self.program.text.get(b.span.range()).unwrap_or("");
            let source = source.trim().trim_end_matches(['%', ' ']);
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
            S::Keyword => tree::joining(&t)?,
            _ => return None,
        })
    })
}
