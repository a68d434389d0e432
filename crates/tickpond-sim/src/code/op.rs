//! The register code handlers are compiled to.
//!
//! An instruction is carried out for a whole block of entities, each in a lane of its own, before
//! the next one is: see [`crate::vm`]. Every register holds 64 bits a lane: a number as its bits, a
//! truth value as 0 or 1, an identity or a kind as itself. A pair takes two registers in a row.

use std::sync::Arc;

use tickpond_lang::program::{Cause, KindId, KnobId, MessageId, Side, SiteId, SpotsId, VarName};
use tickpond_lang::units::Dim;

/// A register.
pub type Reg = u16;

/// A piece of code and how many registers it needs.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Code {
    /// The instructions; the last is [`Op::Done`].
    pub ops: Vec<Op>,
    /// Registers 0..regs are used.
    pub regs: Reg,
    /// The register with the result, if it is code for a value.
    pub result: Reg,
}

/// One word of an entity that can be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, reason = "each is the column it is named after")]
pub enum Word {
    X,
    Y,
    Vx,
    Vy,
    Heading,
    Speed,
    Spin,
    Health,
    Age,
    Maker,
    Id,
    /// A variable, and which of its words.
    Var(VarName, u8),
}

/// What an entity can write of its own.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, reason = "each is the field it is named after")]
pub enum Slot {
    Pos,
    Vel,
    Heading,
    Speed,
    Spin,
    /// A variable: how many words it has, and whether they are numbers.
    Var {
        name: VarName,
        words: u8,
        numeric: bool,
    },
}

/// Instructions with one operand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each is the operation it is named after")]
pub enum Unary {
    Negate,
    Not,
    Abs,
    Floor,
    Round,
    Sqrt,
    Sin,
    Cos,
}

/// Instructions with two operands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each is the operation it is named after")]
pub enum Binary {
    Add,
    Subtract,
    Multiply,
    Divide,
    Min,
    Max,
    Less,
    LessEqual,
    Equal,
    SameWord,
    And,
    Or,
    Hypot,
}

/// An instruction. The first register is the one written.
#[derive(Clone, Debug, PartialEq)]
pub enum Op {
    /// A constant word.
    Const(Reg, u64),
    /// A knob's value.
    Knob(Reg, KnobId),
    /// A copy.
    Copy(Reg, Reg),
    /// A word of the entity in the lane.
    Own(Reg, Word),
    /// The same, or what an earlier firing of this handler in this phase made of it.
    Cached(Reg, Word),
    /// A word of another entity; 0 if that is gone.
    Of(Reg, Reg, Word),
    /// A word of the pond's variable.
    PondVar(Reg, VarName, u8),
    /// One operand.
    Unary(Unary, Reg, Reg),
    /// Two operands.
    Binary(Binary, Reg, Reg, Reg),
    /// Direction of a pair in deg; the own heading for the zero pair.
    Direction(Reg, Reg),
    /// The pair turned by (to - from) deg.
    Swing {
        /// Result, a pair.
        to: Reg,
        /// The pair.
        vector: Reg,
        /// Old angle.
        old: Reg,
        /// New angle.
        new: Reg,
    },
    /// The unit pair of an angle.
    UnitVector(Reg, Reg),
    /// From one place to another, the shortest way where an axis wraps.
    Offset {
        /// Result, a pair.
        to: Reg,
        /// From, a pair.
        start: Reg,
        /// To, a pair.
        end: Reg,
    },
    /// A draw between two bounds.
    Random {
        /// Result.
        to: Reg,
        /// Lower bound.
        low: Reg,
        /// Upper bound.
        high: Reg,
        /// Whole numbers, both bounds included.
        whole: bool,
    },
    /// Whether an entity lives.
    Alive(Reg, Reg),
    /// A question about all entities, by its place in [`Program::queries`](super::Compiled).
    Query(Reg, u32),
    /// A running total.
    Stat(Reg, u32),
    /// Members of a wave alive or unborn.
    WaveCount(Reg, Reg),
    /// Members of a wave not yet born.
    WaveUnborn(Reg, Reg),
    /// A new wave.
    WaveNew(Reg),
    /// Goes on elsewhere.
    Jump(u32),
    /// Goes on elsewhere if the truth value is false.
    JumpIfNot(Reg, u32),
    /// A statement begins.
    Stmt(SiteId),
    /// Writes a field.
    Set(Slot, Reg),
    /// Adds to a field.
    Add(Slot, Reg),
    /// Asks for births, by place in the list of births.
    Spawn(u32),
    /// Asks for a loss of health.
    Damage {
        /// Whom.
        target: Reg,
        /// How much.
        amount: Reg,
        /// Who gets the credit.
        credit: Option<Reg>,
        /// Whether it is healing.
        heals: bool,
    },
    /// Asks for an end.
    End(Reg, Option<Arc<str>>),
    /// Sends a message, by place in the list of sends.
    Send(u32),
    /// Says something.
    Say(Arc<[TextOp]>),
    /// Goes on in the clocks phase so many seconds later.
    Wait(Reg),
    /// The end.
    Done,
}

/// A part of a text.
#[derive(Clone, Debug, PartialEq)]
pub enum TextOp {
    /// As it stands.
    Words(Arc<str>),
    /// A number with its unit.
    Number(Reg, Dim),
    /// Two numbers with their unit.
    Pair(Reg, Dim),
    /// `true` or `false`.
    Truth(Reg),
    /// A kind's name.
    Kind(Reg),
    /// An entity's name.
    Entity(Reg),
}

/// A birth, with the registers its values are in.
#[derive(Clone, Debug, PartialEq)]
pub struct SpawnOp {
    /// The kind.
    pub kind: Reg,
    /// How many.
    pub count: Option<Reg>,
    /// Where.
    pub place: PlaceOp,
    /// Facing in deg.
    pub facing: Option<Reg>,
    /// Place to face.
    pub toward: Option<Reg>,
    /// Speed.
    pub speed: Option<Reg>,
    /// Velocity.
    pub vel: Option<Reg>,
    /// Spread in deg.
    pub spread: Option<Reg>,
    /// Time from one to the next.
    pub spaced: Option<Reg>,
    /// Health.
    pub health: Option<Reg>,
    /// Label.
    pub label: Option<Arc<[TextOp]>>,
    /// Variables.
    pub vars: Vec<(VarName, Reg, u8)>,
    /// The register with the wave it belongs to.
    pub wave: Option<Reg>,
    /// The line.
    pub site: SiteId,
}

/// Where something is born.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum PlaceOp {
    /// Where the asker is now.
    Here,
    /// At a place.
    Point(Reg),
    /// At an entity.
    Entity(Reg),
    /// At a mount of the asker.
    Mount(u32),
    /// At a spot, counted from 0.
    Spot(SpotsId, u32),
    /// At a spot by chance.
    AnySpot(SpotsId),
    /// One at every spot.
    EachSpot(SpotsId),
    /// Anywhere.
    Anywhere,
    /// Along an edge.
    Edge(Side),
}

/// A message, with the registers its values are in.
#[derive(Clone, Debug, PartialEq)]
pub struct SendOp {
    /// Which.
    pub message: MessageId,
    /// Its words.
    pub values: Vec<Reg>,
    /// To whom.
    pub to: SendTo,
    /// The line.
    pub site: SiteId,
}

/// To whom a message goes.
#[derive(Clone, Debug, PartialEq)]
pub enum SendTo {
    /// The pond.
    Pond,
    /// All.
    All,
    /// One entity.
    One(Reg),
    /// All a query finds.
    Each(u32),
}

/// A question about all entities.
#[derive(Clone, Debug, PartialEq)]
pub struct QueryOp {
    /// What is asked.
    pub what: tickpond_lang::program::QueryKind,
    /// The kinds, ascending.
    pub kinds: Vec<KindId>,
    /// Distance, and the place it is from (a pair).
    pub within: Option<(Reg, Reg)>,
    /// The place nearness is measured from (a pair).
    pub from: Option<Reg>,
    /// The condition on a candidate, and what it takes over: (outer, inner) registers.
    pub condition: Option<(Code, Vec<(Reg, Reg)>)>,
}

/// A running total.
#[derive(Clone, Debug, PartialEq)]
pub struct StatOp {
    /// Which.
    pub stat: tickpond_lang::program::Stat,
    /// The kinds.
    pub kinds: Vec<KindId>,
    /// The causes; empty for any.
    pub causes: Vec<Cause>,
}
