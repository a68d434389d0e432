//! Values that are known before play.

use super::{BinaryOp, Expr, ExprKind};

/// The value of an expression of numbers and knobs, in base units; `None` if it needs a run.
///
/// `knobs` are the knobs' values in the order of the program.
pub fn constant(expr: &Expr, knobs: &[f64]) -> Option<f64> {
    match &expr.kind {
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
