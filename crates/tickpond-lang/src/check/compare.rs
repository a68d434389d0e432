//! Comparisons: of what is alike, in or out of order, and how far numbers may be apart to be equal.

use super::checker::Checker;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::program::{BinaryOp, Expr, ExprKind, Ty};
use crate::units::Dim;

impl Checker {
    /// Whether a comparison can be one with `+-`; else reports why not.
    fn takes_tolerance(&mut self, op: BinaryOp, a: &Expr, b: &Expr, tolerance: &Expr) -> bool {
        let span = Span { start: a.span.start, end: tolerance.span.end };
        if !matches!(a.ty, Ty::Num(_) | Ty::Pair(_) | Ty::Unknown) {
            let message = format!("`+-` says how far numbers may be apart, not {}", a.ty.noun());
            let diagnostic = Diagnostic::new(Code::WrongType, span, message)
                .with_help("leave it out: they are equal, or they are not");
            self.report(diagnostic);
            return false;
        }
        let (sign, shift) = match op {
            BinaryOp::Equal | BinaryOp::NotEqual => return true,
            BinaryOp::Less => ("<", "+"),
            BinaryOp::LessEqual => ("<=", "+"),
            BinaryOp::Greater => (">", "-"),
            _ => (">=", "-"),
        };
        let text = |expr: &Expr| self.program.text.get(expr.span.range()).unwrap_or("").trim();
        let help = format!(
            "use it with `==` or `!=`, or write `{} {sign} {} {shift} {}`",
            text(a),
            text(b),
            text(tolerance)
        );
        let message = format!("`+-` goes with `==` and `!=`, not with `{sign}`");
        self.report(Diagnostic::new(Code::WrongType, span, message).with_help(help));
        false
    }

    pub(super) fn comparison(
        &mut self,
        op: BinaryOp,
        a: Expr,
        b: Expr,
        tolerance: Option<Expr>,
    ) -> ExprKind {
        let Some((a, b)) = self.alike(op, a, b) else { return ExprKind::Truth(false) };
        if let Some(tolerance) = tolerance {
            if !self.takes_tolerance(op, &a, &b, &tolerance) {
                return ExprKind::Truth(false);
            }
            let wanted = match &a.ty {
                Ty::Pair(dim) => Ty::Num(*dim),
                other => other.clone(),
            };
            // As in a place of bare numbers, a bare tolerance is in u.
            let bare = a.ty == Ty::PLACE && tolerance.ty == Ty::Num(Dim::NONE);
            let tolerance = if bare { tolerance } else { self.wants(tolerance, &wanted) };
            let span = Span { start: a.span.start, end: tolerance.span.end };
            let near = ExprKind::Near(a.into(), b.into(), tolerance.into());
            return match op {
                BinaryOp::NotEqual => {
                    ExprKind::Not(Expr { kind: near, ty: Ty::Truth, span }.into())
                }
                _ => near,
            };
        }
        let equality = matches!(op, BinaryOp::Equal | BinaryOp::NotEqual);
        if matches!(a.ty, Ty::Num(_) | Ty::Unknown) || equality && a.ty != Ty::Text {
            return ExprKind::Binary(op, a.into(), b.into());
        }
        let span = Span { start: a.span.start, end: b.span.end };
        let diagnostic = match a.ty {
            Ty::Text => Diagnostic::new(Code::WrongType, span, "texts are shown, not compared")
                .with_help("tell them apart by a kind, a state or a variable"),
            _ => {
                let message = format!("{} is neither more nor less than another", a.ty.noun());
                let diagnostic = Diagnostic::new(Code::WrongType, span, message);
                match a.ty {
                    Ty::Pair(_) => diagnostic
                        .with_help("compare one side of them, `.x` or `.y`, or a `length(…)`"),
                    _ => diagnostic.with_help("write `==` or `!=`"),
                }
            }
        };
        self.report(diagnostic);
        ExprKind::Truth(false)
    }
}
