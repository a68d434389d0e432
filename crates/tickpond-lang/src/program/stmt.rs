//! Typed statements.

use super::expr::{Expr, Field, Query, TextPart};
use super::header::Side;
use super::ids::{InState, KindId, LocalId, MessageId, SiteId, SpotsId, VarName, ZoneId};

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
    /// `spawn … as h`: goes on in the next clocks phase.
    SpawnAs(Box<Birth>, LocalId),
    /// `replace self with …`
    Replace(Box<Birth>),
    /// `become state for time`
    Become {
        /// Which state of which track.
        state: InState,
        /// For how long; for good if not given.
        time: Option<Expr>,
    },
    /// `push target by velocity`, or by a speed along a direction
    Push {
        /// Who is pushed.
        target: Whom,
        /// A velocity, or a speed.
        by: Expr,
        /// The direction of a speed; the asker's heading if not given.
        along: Option<Expr>,
    },
    /// `ray …`
    Ray(Box<Ray>),
    /// `show ray for time`
    Show(LocalId, Expr),
    /// `blast …`
    Blast(Box<Blast>),
    /// `attach target to owner at mount`
    Attach {
        /// Who is attached.
        target: Expr,
        /// To whom; to the asker if not given.
        owner: Option<Expr>,
        /// The mount's name.
        mount: String,
        /// Whether it stays when its owner ends.
        outlives: bool,
    },
    /// `detach target`
    Detach(Whom),
    /// `activate target`, `deactivate target`
    Activate(Whom, bool),
    /// `each query as name { … }`
    Each {
        /// Whom.
        query: Query,
        /// The local that holds each in turn.
        bind: LocalId,
        /// What is done for each.
        body: Vec<Stmt>,
    },
    /// `damage target by amount credit whom`
    Damage {
        /// Who is hurt.
        target: Whom,
        /// How much, a bare number.
        amount: Expr,
        /// Who gets the credit; the asker if not given.
        credit: Option<Expr>,
    },
    /// `heal target by amount`
    Heal {
        /// Who is healed.
        target: Whom,
        /// How much, a bare number.
        amount: Expr,
    },
    /// `end target because "words"`
    End {
        /// Who ends.
        target: Whom,
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

impl StmtKind {
    /// Whom it asks something of, if it is a request that can be about each of many.
    pub fn whom(&self) -> Option<&Whom> {
        match self {
            StmtKind::Damage { target, .. }
            | StmtKind::Heal { target, .. }
            | StmtKind::End { target, .. }
            | StmtKind::Push { target, .. } => Some(target),
            StmtKind::Detach(target) | StmtKind::Activate(target, _) => Some(target),
            _ => None,
        }
    }
}

/// Whom a request is about.
#[derive(Clone, Debug, PartialEq)]
pub enum Whom {
    /// One entity.
    One(Expr),
    /// Each a query finds; those are fixed when it is asked.
    Each(Box<Query>),
}

/// A ray and what it does.
#[derive(Clone, Debug, PartialEq)]
pub struct Ray {
    /// Where it begins; here if not given.
    pub from: Option<Expr>,
    /// Its direction in deg.
    pub along: Expr,
    /// How far it goes, in u.
    pub reach: Expr,
    /// What it meets.
    pub hits: Query,
    /// The local that holds what it found.
    pub bind: LocalId,
    /// When it hits.
    pub then: Vec<Stmt>,
    /// When it hits nothing.
    pub otherwise: Vec<Stmt>,
}

/// A blast.
#[derive(Clone, Debug, PartialEq)]
pub struct Blast {
    /// Its middle.
    pub at: Expr,
    /// How far it goes, in u.
    pub radius: Expr,
    /// Damage at its middle.
    pub damage: Option<Expr>,
    /// Push at its middle, in u/s.
    pub push: Option<Expr>,
    /// How it weakens on the way.
    pub falloff: Falloff,
    /// Kinds it leaves alone.
    pub spares: Vec<KindId>,
    /// Whether it leaves the asker's maker alone.
    pub spares_maker: bool,
    /// Kinds whose bodies stop it.
    pub shields: Vec<KindId>,
}

/// How a blast weakens from its middle to its rim.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Falloff {
    /// Not at all.
    Even,
    /// By the distance, to nothing at the rim.
    Straight,
    /// By the square of what is left of the way.
    Square,
}

/// A condition on the place of a birth. It is about the whole body.
#[derive(Clone, Debug, PartialEq)]
pub enum Filter {
    /// Not in the view, widened by a length.
    NotInView(Option<Expr>),
    /// Not so near to a place.
    NotNearPlace(Expr, Expr),
    /// Not so near to any of these kinds.
    NotNearKinds(Expr, Vec<KindId>),
    /// Not over a solid body.
    ClearOfSolid,
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
    /// A velocity added, or a speed added along the facing.
    pub push: Option<Expr>,
    /// The mount of the maker it faces along, which is found when it is born.
    pub along: Option<usize>,
    /// Whether it begins inactive.
    pub inactive: bool,
    /// Whether it is attached to its maker at the mount it is born at, and if so whether it outlives it.
    pub attached: Option<bool>,
    /// Whether it keeps the velocity of what it replaces.
    pub keeps_velocity: bool,
    /// Conditions on the place.
    pub filters: Vec<Filter>,
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
    /// Anywhere in a zone.
    InZone(ZoneId),
    /// At most so far from a place.
    Around(Expr, Expr),
    /// So far from a place.
    Ring(Expr, Expr),
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
