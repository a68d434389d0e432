//! Values that are known before play.

use super::expr::{BinaryOp, Expr, ExprKind, Ty};

/// The value of an expression of numbers and knobs, in base units; `None` if it needs a run.
///
/// `knobs` are the knobs' values in the order of the program.
pub fn constant(expr: &Expr, knobs: &[f64]) -> Option<f64> {
    match &expr.kind {
        // An error was told of it already: it stands for no number.
        _ if expr.ty == Ty::Unknown => None,
        ExprKind::Num(value) => Some(*value),
        ExprKind::Knob(knob) => knobs.get(knob.index()).copied(),
        ExprKind::Negate(inner) => Some(-constant(inner, knobs)?),
        ExprKind::Binary(op, a, b) => {
            let (a, b) = (constant(a, knobs)?, constant(b, knobs)?);
            match op {
                BinaryOp::Add => Some(a + b),
                BinaryOp::Subtract => Some(a - b),
                BinaryOp::Multiply => Some(a * b),
                BinaryOp::Divide => Some(a / b),
                _ => None,
            }
        }
        _ => None,
    }
}
