//! Knobs: a value, its unit, and the range it may be turned in.

use super::checker::Checker;
use super::quoted::text_of;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::model::Sort;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::units::{self, Dim};

impl Checker {
    pub(super) fn knob(&mut self, item: &Node, token: &Token) {
        let mut scope = Scope::reading(POND);
        let value_node = item.expr();
        let value = value_node.as_ref().map(|n| self.expr(n, &mut scope));
        let span = value.as_ref().map_or(Span::default(), |v| v.span);
        let (dim, number) = match &value {
            Some(v) => match (&v.ty, constant(v, &self.knob_values())) {
                (Ty::Num(dim), Some(number)) => (*dim, number),
                (Ty::Unknown, _) => (Dim::NONE, 0.0),
                _ => {
                    let diagnostic = Diagnostic::new(
                        Code::WrongType,
                        span,
                        "a knob is a number, with a unit if it has one",
                    );
                    self.report(diagnostic);
                    (Dim::NONE, 0.0)
                }
            },
            None => (Dim::NONE, 0.0),
        };
        let (unit, factor) = self.unit_written(value_node.as_ref(), dim);
        let range = item.child(S::KnobRange).and_then(|r| self.knob_range(&r, dim, factor));
        if let Some((low, high)) = range
            && !(low..=high).contains(&number)
        {
            let message = format!("`{}` begins outside its own range", token.text());
            let help = match unit.is_empty() {
                true => "widen the range or change the value".to_string(),
                false => format!(
                    "the range is in `{unit}`, as the value is: widen it or change the value"
                ),
            };
            let diagnostic = Diagnostic::new(Code::OutOfRange, span, message).with_help(help);
            self.report(diagnostic);
        }
        let name_span = self.token_span(token);
        self.model.define(token.text(), Sort::Knob, name_span, Some(Ty::Num(dim)));
        self.program.knobs.push(Knob {
            name: token.text().into(),
            dim,
            value: number,
            unit,
            factor,
            range,
            help: text_of(item).unwrap_or_default(),
            value_span: span,
        });
    }

    /// The unit of the first number in a value, as written; else the base unit.
    fn unit_written(&self, value: Option<&Node>, dim: Dim) -> (String, f64) {
        let number = value
            .into_iter()
            .flat_map(|v| v.descendants_with_tokens().filter_map(|e| e.into_token()));
        let mut numbers = number.filter(|t| t.kind() == S::Number);
        let first = numbers.next().map(|t| units::parted(t.text()).unit.to_string());
        match first.as_deref().and_then(units::find) {
            Some(unit) if unit.dim == dim && !unit.is_ticks() => {
                (unit.name.to_string(), unit.factor)
            }
            _ => (dim.to_string(), 1.0),
        }
    }

    /// Bounds without a unit are in the unit of the value.
    fn knob_range(&mut self, range: &Node, dim: Dim, factor: f64) -> Option<(f64, f64)> {
        let mut bounds = Vec::new();
        for node in range.exprs() {
            let bound = self.expr(&node, &mut Scope::reading(POND));
            let value = constant(&bound, &self.knob_values());
            let bare = !has_unit(&node);
            match (&bound.ty, value) {
                (Ty::Num(Dim::NONE), Some(value)) if bare => bounds.push(value * factor),
                (Ty::Num(d), Some(value)) if *d == dim => bounds.push(value),
                (Ty::Unknown, _) => return None,
                _ => {
                    self.wants(bound, &Ty::Num(dim));
                    return None;
                }
            }
        }
        let [low, high] = bounds[..] else { return None };
        if low > high {
            let span = self.span(range);
            self.error(Code::OutOfRange, span, "this range is upside down");
            return None;
        }
        Some((low, high))
    }
}

/// Whether a number in a value is written with a unit.
fn has_unit(value: &Node) -> bool {
    let numbers = value.descendants_with_tokens().filter_map(|e| e.into_token());
    let mut numbers = numbers.filter(|t| t.kind() == S::Number);
    numbers.any(|t| !units::parted(t.text()).unit.is_empty())
}
