//! Chance and directions.

use super::checker::Checker;
use super::expr::unknown;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::units::Dim;

impl Checker {
    pub(super) fn random(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
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

    pub(super) fn any_angle(&mut self, span: Span, scope: &Scope) -> (ExprKind, Ty) {
        if !self.chance_allowed(span, scope) {
            return unknown();
        }
        let bound =
            |n: f64| Box::new(Expr { kind: ExprKind::Num(n), ty: Ty::Num(Dim::ANGLE), span });
        let random = ExprKind::Random { low: bound(0.0), high: bound(360.0), whole: false };
        (random, Ty::Num(Dim::ANGLE))
    }

    pub(super) fn chance_allowed(&mut self, span: Span, scope: &Scope) -> bool {
        if scope.is_handler && scope.candidates.is_none() {
            return true;
        }
        let diagnostic = Diagnostic::new(Code::OutOfPlace, span, "nothing is drawn by chance here")
            .with_help("draw it in a handler and keep it in a variable");
        self.report(diagnostic);
        false
    }

    pub(super) fn toward(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
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
