//! Values that must be known before play.

use super::checker::Checker;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::syntax::Node;
use crate::syntax::SyntaxKind as S;
use crate::units::Dim;

impl Checker {
    /// A constant of the given type; reports what else it is.
    pub(super) fn constant_of(&mut self, node: Option<Node>, ty: &Ty) -> Option<f64> {
        let expr = self.expr(&node?, &mut Scope::reading(POND));
        let expr = self.wants(expr, ty);
        if expr.ty == Ty::Unknown {
            return None;
        }
        self.value_before_play(&expr)
    }

    /// A length; a bare number is in u.
    pub(super) fn constant_length(&mut self, node: Option<Node>) -> Option<f64> {
        let expr = self.expr(&node?, &mut Scope::reading(POND));
        self.model.want(expr.span, Dim::LENGTH);
        let ty =
            if expr.ty == Ty::Num(Dim::NONE) { Ty::Num(Dim::NONE) } else { Ty::Num(Dim::LENGTH) };
        let expr = self.wants(expr, &ty);
        if expr.ty == Ty::Unknown {
            return None;
        }
        self.value_before_play(&expr)
    }

    fn value_before_play(&mut self, expr: &Expr) -> Option<f64> {
        let uses_knob = !matches!(expr.kind, ExprKind::Num(_));
        match constant(expr, &[]).filter(|v| v.is_finite()) {
            Some(value) => Some(value),
            None => {
                let help = if uses_knob { "write the number itself" } else { "write a number" };
                let diagnostic = Diagnostic::new(
                    Code::WrongType,
                    expr.span,
                    "this must be known before play, so it cannot depend on a knob or the run",
                )
                .with_help(help);
                self.report(diagnostic);
                None
            }
        }
    }

    pub(super) fn constant_place(&mut self, node: Option<Node>) -> Option<(f64, f64)> {
        let node = node?;
        if node.kind() != S::PairExpr {
            let span = self.span(&node);
            self.error(Code::WrongType, span, "expected a place such as `(12, 80)`");
            return None;
        }
        let expr = self.expr(&node, &mut Scope::reading(POND));
        let expr = self.wants(expr, &Ty::PLACE);
        match &expr.kind {
            ExprKind::Pair(x, y) if expr.ty != Ty::Unknown => {
                Some((self.value_before_play(x)?, self.value_before_play(y)?))
            }
            _ => None,
        }
    }
}
