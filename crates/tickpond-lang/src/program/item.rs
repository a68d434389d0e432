//! Knobs, spots, inputs and messages.

use super::expr::Ty;
use crate::diagnostic::Span;
use crate::units::Dim;

/// A tunable value.
#[derive(Clone, Debug, PartialEq)]
pub struct Knob {
    /// Its name.
    pub name: String,
    /// What it measures.
    pub dim: Dim,
    /// The value in the text, in base units.
    pub value: f64,
    /// The unit as written in the text; empty for a bare number.
    pub unit: String,
    /// How many base units that unit is.
    pub factor: f64,
    /// Smallest and largest value, in base units.
    pub range: Option<(f64, f64)>,
    /// What it is for.
    pub help: String,
    /// Where its value stands in the text.
    pub value_span: Span,
}

impl Knob {
    /// A value in base units as a number of the unit in the text.
    pub fn in_unit(&self, base: f64) -> f64 {
        // Division brings back a decimal that multiplication by the factor had made inexact.
        base / self.factor
    }
}

/// A group of places.
#[derive(Clone, Debug, PartialEq)]
pub struct Spots {
    /// Its name.
    pub name: String,
    /// The places: x, y in u and, if given, a facing in deg.
    pub spots: Vec<Spot>,
}

/// One place of a group.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spot {
    /// x and y in u.
    pub at: (f64, f64),
    /// Facing in deg, if given.
    pub facing: Option<f64>,
    /// Where it stands in the text.
    pub span: Span,
}

/// Something the player can press.
#[derive(Clone, Debug, PartialEq)]
pub struct Input {
    /// Its name.
    pub name: String,
    /// The key's name as written: `space`, `c`, `left`; empty for a pointer.
    pub key: String,
    /// Whether it is a pointer: a place, not a key.
    pub pointer: bool,
}

/// A message and the values it carries.
#[derive(Clone, Debug, PartialEq)]
pub struct Message {
    /// Its name.
    pub name: String,
    /// Names and types of its values.
    pub params: Vec<(String, Ty)>,
}
