//! The register code handlers are compiled to.
//!
//! An instruction is carried out for a whole block of entities, each in a lane of its own, before
//! the next one is: see [`crate::vm`]. Every register holds 64 bits a lane: a number as its bits, a
//! truth value as 0 or 1, an identity or a kind as itself. A pair takes two registers in a row.

mod asked;

pub use asked::*;

use std::sync::Arc;

use super::traits::Traits;
use tickpond_lang::Span;
use tickpond_lang::program::{
    InState, InputId, KindId, KnobId, MailStat, MessageId, SiteId, TrackName, VarName, ZoneId,
};

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
    /// Registers 0..cleared are read before they are written, or kept over a wait: they begin at 0.
    pub cleared: Reg,
    /// What it does as a whole.
    pub traits: Traits,
    /// Whether it is code for a value.
    pub gives: bool,
    /// Whether that is a number, or several.
    pub numeric: bool,
    /// The line it stands on, if it is code for a value.
    pub site: Option<SiteId>,
    /// Where it stands, if it is code for a value without a line that is counted.
    pub span: Option<Span>,
}

impl Code {
    /// The word it gives, if that is the same for all: a number that is written out, or a knob's value.
    pub fn known(&self, knobs: &[f64]) -> Option<u64> {
        match &self.ops[..] {
            [Op::Const(to, word), Op::Done] if *to == self.result => Some(*word),
            [Op::Knob(to, knob), Op::Done] if *to == self.result => {
                Some(knobs[knob.index()].to_bits())
            }
            _ => None,
        }
    }
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
    State(TrackName),
    Active,
    Down,
    Resting,
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

impl Slot {
    /// Whether it has two words.
    pub fn is_pair(self) -> bool {
        matches!(self, Slot::Pos | Slot::Vel | Slot::Var { words: 2, .. })
    }
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

/// What an instruction works with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Operand {
    /// A word of each lane.
    Reg(Reg),
    /// One word for all.
    Word(u64),
}

impl Operand {
    /// A later word of it: of the next register, or the same.
    pub fn word(self, nth: Reg) -> Operand {
        match self {
            Operand::Reg(reg) => Operand::Reg(reg + nth),
            word => word,
        }
    }
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
    Binary(Binary, Reg, Operand, Operand),
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
        low: Operand,
        /// Upper bound.
        high: Operand,
        /// Whole numbers, both bounds included.
        whole: bool,
    },
    /// Whether an entity lives.
    Alive(Reg, Reg),
    /// The place of a pointer, a pair.
    Pointer(Reg, InputId),
    /// The middle of the view, a pair.
    View(Reg),
    /// The entity of a kind with a number; nobody if it does not live.
    Named(Reg, KindId, u32),
    /// Whether a place, a pair, is inside a zone.
    Inside(Reg, Reg, ZoneId),
    /// Whether an entity is of one of these kinds.
    IsKind(Reg, Reg, Arc<[KindId]>),
    /// A running total of a message.
    Mail(Reg, MailStat, MessageId),
    /// A running total of ends by words or credit, by place in the list of tallies.
    Tally(Reg, u32),
    /// The turn in deg from the own heading to a direction, at most a spin's share of one tick.
    TurnToward {
        /// Result.
        to: Reg,
        /// The direction in deg.
        direction: Reg,
        /// The most in deg/s.
        most: Reg,
        /// The own heading, as this handler has left it.
        heading: Reg,
    },
    /// Whom a question finds, oldest first: which list of the block, and how many were taken.
    Gather(Reg, u32),
    /// The next of a list, and whether there was one.
    Next {
        /// Result: who.
        to: Reg,
        /// Result: whether there was one.
        more: Reg,
        /// Which list, and how many were taken.
        list: Reg,
    },
    /// Goes back to the head of a loop: a step. The line is the loop's.
    Back(u32, SiteId),
    /// Ends the firing of each lane whose number in the register is not finite: the run stops for it.
    Finite(Reg),
    /// What a ray meets first: who, how far, where.
    Ray {
        /// Result, six registers: who, how far, where it ends, where it began.
        to: Reg,
        /// Where it begins, a pair.
        from: Reg,
        /// Its direction in deg.
        along: Reg,
        /// How far it goes.
        reach: Reg,
        /// What it meets, by place in the list of questions.
        query: u32,
    },
    /// Shows a ray for a time: where it began, and what it found.
    Show {
        /// What it found.
        ray: Reg,
        /// For how long.
        time: Reg,
    },
    /// A blast, by place in the list of blasts.
    Blast(u32),
    /// Asks for a change of velocity, a pair.
    Push {
        /// Who is pushed.
        target: Reg,
        /// By what.
        by: Reg,
    },
    /// Becomes a state, for a time if one is given.
    Become(InState, Option<Reg>),
    /// Asks for an attachment at a mount of this name.
    Attach {
        /// Who is attached.
        target: Reg,
        /// To whom.
        owner: Reg,
        /// The mount's name.
        mount: Arc<str>,
        /// Whether it stays when its owner ends.
        outlives: bool,
    },
    /// Asks for the end of an attachment.
    Detach(Reg),
    /// Asks for activation, or its end.
    Activate(Reg, bool),
    /// Asks for births, and keeps what tells the first of them.
    SpawnAs(u32, Reg),
    /// Goes on in the first clocks phase after the births asked for now.
    WaitBorn,
    /// The entity of a kind that was born of a request; nobody if it does not live.
    Newborn {
        /// Result.
        to: Reg,
        /// What tells it.
        token: Reg,
        /// Its kind.
        kind: Reg,
    },
    /// Asks for its own end, and for births in its place.
    Replace(u32),
    /// Sends a letter to one by chance, as the instructions behind it do, if that can be done for all lanes
    /// at once; then it goes on past them.
    SendToAny {
        /// Whom it may go to, by place in the list of questions.
        query: u32,
        /// The letter, by place in the list of sends.
        send: u32,
        /// A register that is free.
        with: Reg,
        /// The line.
        site: SiteId,
        /// Where it goes on.
        past: u32,
    },
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
