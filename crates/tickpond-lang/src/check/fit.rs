//! Whether a value is of the type and in the unit that is wanted, and what to do if not.

use super::checker::Checker;
use super::{expr, names};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::units::Dim;

impl Checker {
    /// Reports a value of the wrong type or unit and says what would fit.
    pub(super) fn wants(&mut self, expr: Expr, wanted: &Ty) -> Expr {
        if let Ty::Num(dim) = wanted {
            self.model.want(expr.span, *dim);
        }
        if expr.ty.fits(wanted) {
            return expr;
        }
        if let Some(expr) = expr::with_unit_of(&expr, wanted) {
            return expr;
        }
        if let (ExprKind::Kind(kind), Ty::KindOf(these)) = (&expr.kind, wanted)
            && these.contains(kind)
        {
            return Expr { ty: wanted.clone(), ..expr };
        }
        let diagnostic = self.mismatch(&expr, wanted);
        self.report(diagnostic);
        Expr { ty: Ty::Unknown, ..expr }
    }

    fn mismatch(&self, expr: &Expr, wanted: &Ty) -> Diagnostic {
        let text = &self.program.text;
        let source = text.get(expr.span.range()).unwrap_or("");
        let by_unit = matches!((&expr.ty, wanted), (Ty::Num(_), Ty::Num(_)))
            || matches!((&expr.ty, wanted), (Ty::Pair(_), Ty::Pair(_)));
        let code = if by_unit { Code::WrongUnit } else { Code::WrongType };
        let message = match &expr.ty {
            Ty::Kind | Ty::KindOf(_) if matches!(wanted, Ty::KindOf(_)) => {
                let these = if let Ty::KindOf(these) = wanted { these.as_slice() } else { &[] };
                let name = |k: &KindId| format!("`{}`", self.program.kinds[k.index()].name);
                let wanted = match these {
                    [one] => name(one),
                    _ => format!("one of {}", names::listed(these.iter().map(name))),
                };
                format!("expected {wanted}, found the kind `{source}`")
            }
            Ty::Num(dim) | Ty::Pair(dim) if by_unit && *dim != Dim::NONE => format!(
                "expected {}, found {}: `{source}` is in `{dim}`",
                wanted.noun(),
                expr.ty.noun()
            ),
            _ => format!("expected {}, found {}", wanted.noun(), expr.ty.noun()),
        };
        let diagnostic = Diagnostic::new(code, expr.span, message);
        match (&expr.ty, wanted) {
            (Ty::Num(Dim::NONE), Ty::Num(dim)) if matches!(expr.kind, ExprKind::Num(_)) => {
                // A share is a plain number, but `10 % u/s` is no speed.
                let with_unit = format!("{} {dim}", source.trim().trim_end_matches(['%', ' ']));
                diagnostic.with_help(format!("write `{with_unit}`")).with_mend(expr.span, with_unit)
            }
            (_, Ty::Num(_)) if matches!(expr.kind, ExprKind::Knob(_)) => {
                self.knob_of_wrong_unit(diagnostic, expr, wanted)
            }
            (Ty::Num(_), Ty::Num(Dim::NONE)) if matches!(expr.kind, ExprKind::Num(_)) => {
                let bare = crate::units::parted(source).digits.to_string();
                diagnostic.with_help(format!("write `{bare}`")).with_mend(expr.span, bare)
            }
            (Ty::Num(from), Ty::Num(Dim::NONE)) => {
                diagnostic.with_help(format!("divide by `1 {from}` to get a plain number"))
            }
            (Ty::Num(Dim::LENGTH), Ty::Num(Dim::SPEED)) => {
                diagnostic.with_help("a speed is a length per second: write `u/s`")
            }
            (Ty::Num(Dim::SPEED), Ty::Num(Dim::LENGTH)) => {
                diagnostic.with_help("multiply the speed by a time to get a length")
            }
            (Ty::Entity(_), Ty::Truth) => {
                diagnostic.with_help("ask `… is alive`, or bind it: `if … as name { }`")
            }
            (Ty::Entity(_), Ty::Pair(Dim::LENGTH)) => {
                diagnostic.with_help(format!("its place is `{source}.pos`"))
            }
            (_, Ty::Num(dim)) if *dim != Dim::NONE => {
                diagnostic.with_help(format!("write a number with the unit `{dim}`"))
            }
            _ => diagnostic,
        }
    }

    /// Points at the knob: most often its unit is what was forgotten.
    fn knob_of_wrong_unit(&self, diagnostic: Diagnostic, expr: &Expr, wanted: &Ty) -> Diagnostic {
        let ExprKind::Knob(id) = expr.kind else { return diagnostic };
        let knob = &self.program.knobs[id.index()];
        let label = format!("`{}` gets its unit here", knob.name);
        let help = match (wanted, knob.dim) {
            (Ty::Num(dim), Dim::NONE) => {
                let value = self.program.text.get(knob.value_span.range()).unwrap_or("").trim();
                let value = value.trim_end_matches(['%', ' ']);
                format!("give the knob a unit: `{value} {dim}`")
            }
            _ => format!("the knob would have to be {}", wanted.noun()),
        };
        diagnostic.with_label(knob.value_span, label).with_help(help)
    }
}
