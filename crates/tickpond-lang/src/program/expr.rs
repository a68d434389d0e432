//! Typed expressions.

use super::{Cause, KindId, KnobId, LocalId, SpotsId, VarName};
use crate::diagnostic::Span;
use crate::units::Dim;

/// The type of a value.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Ty {
    /// A number with a unit, or a bare one.
    Num(Dim),
    /// True or false.
    Truth,
    /// A text.
    Text,
    /// Two numbers of one unit: a place, a velocity, an offset.
    Pair(Dim),
    /// A kind.
    Kind,
    /// An entity of one of these kinds, or none.
    Entity(Vec<KindId>),
    /// The births of a wave.
    Wave,
    /// Not known because of a mistake already reported; agrees with everything.
    Unknown,
}

impl Ty {
    /// A place or an offset.
    pub const PLACE: Ty = Ty::Pair(Dim::LENGTH);

    /// What a person calls such a value, with its article.
    pub fn noun(&self) -> String {
        match self {
            Ty::Num(dim) => dim.noun(),
            Ty::Truth => "a condition".into(),
            Ty::Text => "a text".into(),
            Ty::Pair(Dim::LENGTH) => "a place".into(),
            Ty::Pair(Dim::SPEED) => "a velocity".into(),
            Ty::Pair(Dim::NONE) => "a pair of plain numbers".into(),
            Ty::Pair(dim) => format!("a pair in `{dim}`"),
            Ty::Kind => "a kind".into(),
            Ty::Entity(_) => "an entity".into(),
            Ty::Wave => "a wave".into(),
            Ty::Unknown => "something unknown".into(),
        }
    }

    /// Whether a value of this type may stand where `wanted` is wanted.
    pub fn fits(&self, wanted: &Ty) -> bool {
        match (self, wanted) {
            (Ty::Unknown, _) | (_, Ty::Unknown) => true,
            (Ty::Entity(_), Ty::Entity(_)) => true,
            _ => self == wanted,
        }
    }
}

/// A typed expression.
#[derive(Clone, Debug, PartialEq)]
pub struct Expr {
    /// What it is.
    pub kind: ExprKind,
    /// The type of its value.
    pub ty: Ty,
    /// Where it stands.
    pub span: Span,
}

/// The sorts of expressions.
#[derive(Clone, Debug, PartialEq)]
pub enum ExprKind {
    /// A number in base units.
    Num(f64),
    /// True or false.
    Truth(bool),
    /// A kind.
    Kind(KindId),
    /// A knob's value of now.
    Knob(KnobId),
    /// A local.
    Local(LocalId),
    /// The pond's own variable.
    PondVar(VarName),
    /// Two numbers.
    Pair(Box<Expr>, Box<Expr>),
    /// The first or second number of a pair.
    Part(Box<Expr>, u8),
    /// The entity whose handler it is.
    Me,
    /// A field of that entity.
    Own(Field),
    /// The candidate of a query.
    It,
    /// A field of the candidate of a query.
    Its(Field),
    /// A field of another entity.
    Of(Box<Expr>, Field),
    /// A place of a group, counted from 0.
    Spot(SpotsId, u32),
    /// Minus.
    Negate(Box<Expr>),
    /// Not.
    Not(Box<Expr>),
    /// Two operands.
    Binary(BinaryOp, Box<Expr>, Box<Expr>),
    /// Equal but for a tolerance: value, wanted, tolerance.
    Near(Box<Expr>, Box<Expr>, Box<Expr>),
    /// A built-in function.
    Call(Function, Vec<Expr>),
    /// Evenly between two bounds; whole numbers if both bounds are bare whole numbers.
    Random {
        /// Lower bound, included.
        low: Box<Expr>,
        /// Upper bound; included for whole numbers.
        high: Box<Expr>,
        /// Whether whole numbers are drawn.
        whole: bool,
    },
    /// Direction from here to a place, in deg.
    DirectionTo(Box<Expr>),
    /// Distance from here to a place, in u.
    DistanceTo(Box<Expr>),
    /// Whether an entity is still there.
    Alive(Box<Expr>),
    /// A question about all entities.
    Query(Box<Query>),
    /// A running total.
    Stat(Stat, Vec<KindId>, Vec<Cause>),
    /// Living members of a wave, those not yet born included.
    WaveCount(Box<Expr>),
    /// A text with values in it.
    Text(Vec<TextPart>),
}

/// A part of a text.
#[derive(Clone, Debug, PartialEq)]
pub enum TextPart {
    /// As it stands.
    Words(String),
    /// A value.
    Value(Expr),
}

/// What an entity has.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Field {
    /// Place, a pair in u.
    Pos,
    /// Velocity, a pair in u/s.
    Vel,
    /// Where it faces, in deg.
    Heading,
    /// Length of the velocity in u/s.
    Speed,
    /// How fast it turns, in deg/s.
    Spin,
    /// Health, a bare number.
    Health,
    /// Time since its birth, in s.
    Age,
    /// Who spawned it.
    Maker,
    /// Its name, a text.
    Name,
    /// A variable.
    Var(VarName),
}

/// Operators with two operands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each is the operator it is named after")]
pub enum BinaryOp {
    Add,
    Subtract,
    Multiply,
    Divide,
    Equal,
    NotEqual,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    And,
    Or,
}

/// Built-in functions.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Function {
    /// The smaller of two.
    Min,
    /// The larger of two.
    Max,
    /// Without its sign.
    Abs,
    /// The next lower whole number.
    Floor,
    /// The nearest whole number, halves away from zero.
    Round,
    /// The root.
    Sqrt,
    /// The sine of an angle.
    Sin,
    /// The cosine of an angle.
    Cos,
    /// The length of a pair.
    Length,
    /// Distance between two places or entities, in u.
    Distance,
}

/// A question about all entities.
#[derive(Clone, Debug, PartialEq)]
pub struct Query {
    /// What is asked.
    pub what: QueryKind,
    /// The kinds it is about, ascending.
    pub kinds: Vec<KindId>,
    /// Only those at most so far from a place (default: here).
    pub within: Option<(Expr, Option<Expr>)>,
    /// Only those of which this holds.
    pub condition: Option<Expr>,
}

/// What is asked.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum QueryKind {
    /// How many.
    Count,
    /// The nearest to here, oldest first among equals, the asker left out.
    Nearest,
    /// Whether there is one.
    Any,
}

/// A running total.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stat {
    /// How many were ever born.
    Born,
    /// How many have ended, by given causes or any.
    Ended,
    /// Most that ever lived at once.
    Peak,
}
