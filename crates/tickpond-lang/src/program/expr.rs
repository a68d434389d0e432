//! Typed expressions.

use super::cause::Cause;
use super::ids::{
    InputId, KindId, KnobId, LocalId, MessageId, SpotsId, StateName, TrackName, VarName, ZoneId,
};
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
    /// One of these kinds.
    KindOf(Vec<KindId>),
    /// A state, one of these.
    State(Vec<StateName>),
    /// What a ray found: who, how far, where.
    Ray(Vec<KindId>),
    /// What an impact was like: with whom, and the relative velocity.
    Impact(Vec<KindId>),
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
            Ty::Kind | Ty::KindOf(_) => "a kind".into(),
            Ty::State(_) => "a state".into(),
            Ty::Ray(_) => "a ray".into(),
            Ty::Impact(_) => "an impact".into(),
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
            (Ty::State(_), Ty::State(_)) => true,
            (Ty::KindOf(_), Ty::Kind) => true,
            (Ty::KindOf(these), Ty::KindOf(wanted)) => these.iter().all(|k| wanted.contains(k)),
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
    /// A value bound by [`ExprKind::With`].
    Bound(u32),
    /// A body in which a bound value is known.
    With {
        /// What [`ExprKind::Bound`] calls it.
        bound: u32,
        /// The value.
        value: Box<Expr>,
        /// Where it is used.
        body: Box<Expr>,
    },
    /// A state's name.
    State(StateName),
    /// The entity of this kind with this number.
    Named(KindId, u32),
    /// Where a pointer is.
    Pointer(InputId),
    /// The middle of the view.
    View,
    /// A part of what a ray or an impact found.
    RayPart(LocalId, RayPart),
    /// Whether a place is inside a zone.
    Inside(Box<Expr>, ZoneId),
    /// Whether an entity is of one of these kinds.
    IsKind(Box<Expr>, Vec<KindId>),
    /// A running total of a message.
    Mail(MailStat, MessageId),
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
    /// A running total of ends, by words or credit.
    Tally(Tally),
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
    /// Its label, a text; its name if it has none.
    Label,
    /// The state of a track.
    State(TrackName),
    /// Whether it takes part.
    Active,
    /// Whether its health came to 0 and it stays.
    Down,
    /// Whether it has lain still for half a second.
    Resting,
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
    /// The turn from one's own heading to a direction, at most so far in a tick.
    TurnToward,
    /// The direction of a pair, in deg.
    Direction,
}

/// A question about all entities.
#[derive(Clone, Debug, PartialEq)]
pub struct Query {
    /// What is asked.
    pub what: QueryKind,
    /// The kinds it is about, ascending.
    pub kinds: Vec<KindId>,
    /// Only those the asker touches.
    pub touching: bool,
    /// The value of each, for sums and the like.
    pub value: Option<Expr>,
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
    /// One by chance, evenly, the asker left out.
    Random,
    /// The sum of a value.
    Sum,
    /// The mean of a value; 0 if there is none.
    Mean,
    /// The smallest value; 0 if there is none.
    Smallest,
    /// The largest value; 0 if there is none.
    Largest,
}

/// A part of what a ray or an impact found.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RayPart {
    /// Who was hit.
    Target,
    /// How far that is, in u.
    Length,
    /// Where, a place.
    Place,
    /// The relative velocity, of an impact.
    Velocity,
    /// The relative speed, of an impact.
    Speed,
}

/// A running total of a message.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MailStat {
    /// How many letters were sent.
    Sent,
    /// How many were heard.
    Heard,
    /// How many reached nobody, or nobody with an ear for them.
    Unheard,
}

/// Which ends a total counts.
#[derive(Clone, Debug, PartialEq)]
pub struct Tally {
    /// Of these kinds.
    pub kinds: Vec<KindId>,
    /// By these causes; any if empty.
    pub causes: Vec<Cause>,
    /// With these words.
    pub words: Option<String>,
    /// Done by these kinds; any if empty.
    pub credit: Vec<KindId>,
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
