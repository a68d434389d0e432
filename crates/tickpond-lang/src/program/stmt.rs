//! Typed statements.

use super::expr::{Expr, Field, Query, TextPart};
use super::{LocalId, MessageId, Side, SiteId, SpotsId, VarName};

/// A statement.
#[derive(Clone, Debug, PartialEq)]
pub struct Stmt {
    /// What it does.
    pub kind: StmtKind,
    /// For counting and for telling the line.
    pub site: SiteId,
}

/// The sorts of statements.
#[derive(Clone, Debug, PartialEq)]
pub enum StmtKind {
    /// `field = value`
    Set(Field, Expr),
    /// `field += value`; for the heading also `turn by value`.
    Add(Field, Expr),
    /// `let name = value`
    Let(LocalId, Expr),
    /// `spawn …`
    Spawn(Box<Birth>),
    /// `damage target by amount credit whom`
    Damage {
        /// Who is hurt.
        target: Expr,
        /// How much, a bare number.
        amount: Expr,
        /// Who gets the credit; the asker if not given.
        credit: Option<Expr>,
    },
    /// `heal target by amount`
    Heal {
        /// Who is healed.
        target: Expr,
        /// How much, a bare number.
        amount: Expr,
    },
    /// `end target because "words"`
    End {
        /// Who ends.
        target: Expr,
        /// The words; empty if not given.
        because: String,
    },
    /// `send message(values) to target`
    Send {
        /// Which message.
        message: MessageId,
        /// Its values.
        values: Vec<Expr>,
        /// To whom.
        to: Target,
    },
    /// `if condition as name { … } else { … }`
    If {
        /// A truth value, or an entity that may be none.
        condition: Expr,
        /// The local that holds that entity.
        bind: Option<LocalId>,
        /// When it holds.
        then: Vec<Stmt>,
        /// When it does not.
        otherwise: Vec<Stmt>,
    },
    /// `repeat n times as i { … }`
    Repeat {
        /// How often; `None` for ever.
        times: Option<Expr>,
        /// The local that counts 1, 2, 3.
        counter: Option<LocalId>,
        /// What is repeated.
        body: Vec<Stmt>,
    },
    /// `wait time`
    Wait(Expr),
    /// `wait until condition`
    WaitUntil(Expr),
    /// `wave as w { … }`: goes on when its last is born.
    Wave {
        /// The local that holds the wave.
        bind: LocalId,
        /// What spawns it.
        body: Vec<Stmt>,
    },
    /// `say "text"`
    Say(Vec<TextPart>),
}

/// To whom a message goes.
#[derive(Clone, Debug, PartialEq)]
pub enum Target {
    /// The pond.
    Pond,
    /// All entities and the pond.
    All,
    /// One entity.
    One(Expr),
    /// Each of a query's kinds, within its distance, of which its condition holds.
    Each(Box<Query>),
}

/// What is born, how many, where and how.
#[derive(Clone, Debug, PartialEq)]
pub struct Birth {
    /// The kind.
    pub kind: Expr,
    /// How many; one if not given.
    pub count: Option<Expr>,
    /// Where.
    pub place: Where,
    /// Facing in deg; the place's, then the maker's, then 0, if not given.
    pub facing: Option<Expr>,
    /// The place to face.
    pub toward: Option<Expr>,
    /// Speed along the facing.
    pub speed: Option<Expr>,
    /// Velocity.
    pub vel: Option<Expr>,
    /// The angle over which several are spread evenly.
    pub spread: Option<Expr>,
    /// The time from one birth to the next.
    pub spaced: Option<Expr>,
    /// Health, instead of the kind's.
    pub health: Option<Expr>,
    /// Label.
    pub label: Option<Vec<TextPart>>,
    /// Values of its variables.
    pub vars: Vec<(VarName, Expr)>,
}

/// Where something is born.
#[derive(Clone, Debug, PartialEq)]
pub enum Where {
    /// Where the asker is; for what is placed, the arena's middle.
    Here,
    /// At a place.
    Point(Expr),
    /// Where an entity is when the birth is placed.
    Entity(Expr),
    /// At a mount of the asker, by its place in the kind's mounts.
    Mount(usize),
    /// At spots of a group.
    Spots(SpotsId, Pick),
    /// Anywhere in the arena.
    Anywhere,
    /// Somewhere along an edge.
    Edge(Side),
}

/// Which spots of a group.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pick {
    /// One by chance, evenly.
    Chance,
    /// One birth at every spot.
    Each,
    /// This one, counted from 0.
    Nth(u32),
}
