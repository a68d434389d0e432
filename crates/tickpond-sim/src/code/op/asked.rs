//! What instructions ask for: births, places, messages, questions, blasts, texts.

use std::sync::Arc;

use tickpond_lang::program::*;
use tickpond_lang::units::Dim;

use super::{Code, Reg};

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
    /// An entity's label; its name if it has none.
    Label(Reg),
    /// A state's name.
    State(Reg),
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
    /// Velocity added, a pair.
    pub push: Option<Reg>,
    /// Speed added along the facing.
    pub push_along: Option<Reg>,
    /// The mount of the maker it faces along.
    pub along: Option<u32>,
    /// Whether it begins inactive.
    pub inactive: bool,
    /// Whether it is attached, and if so whether it outlives its owner.
    pub attached: Option<bool>,
    /// Whether it keeps the velocity of what it replaces.
    pub keeps_velocity: bool,
    /// Conditions on the place.
    pub filters: Vec<FilterOp>,
    /// The register with the wave it belongs to.
    pub wave: Option<Reg>,
    /// The line.
    pub site: SiteId,
}

/// A condition on the place of a birth.
#[derive(Clone, Debug, PartialEq)]
pub enum FilterOp {
    /// Not in the view, widened by so much.
    NotInView(Option<Reg>),
    /// Not so near to a place, a pair.
    NotNearPlace(Reg, Reg),
    /// Not so near to any of these kinds.
    NotNearKinds(Reg, Arc<[KindId]>),
    /// Not over a solid body.
    ClearOfSolid,
}

/// A blast, with the registers its values are in.
#[derive(Clone, Debug, PartialEq)]
pub struct BlastOp {
    /// Its middle, a pair.
    pub at: Reg,
    /// How far it goes.
    pub radius: Reg,
    /// Damage at its middle.
    pub damage: Option<Reg>,
    /// Push at its middle.
    pub push: Option<Reg>,
    /// How it weakens.
    pub falloff: Falloff,
    /// By kind: whether it is left alone.
    pub spares: Vec<bool>,
    /// Whether the asker's maker is left alone.
    pub spares_maker: bool,
    /// Kinds whose bodies stop it.
    pub shields: Vec<KindId>,
}

/// A condition on another party, for handlers: what it takes over from the asker, and the code.
#[derive(Clone, Debug, PartialEq)]
pub struct FilterCode {
    /// Run for the asker; it leaves what is taken over in its registers.
    pub outer: Code,
    /// What is taken over: (outer, inner) registers.
    pub captures: Vec<(Reg, Reg)>,
    /// Run for the other.
    pub inner: Code,
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
    /// Anywhere in a zone.
    InZone(ZoneId),
    /// At most so far from a place.
    Around(Reg, Reg),
    /// So far from a place.
    Ring(Reg, Reg),
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
    /// Only those the asker touches.
    pub touching: bool,
    /// The value of each, for sums and the like.
    pub value: Option<Code>,
    /// The condition on a candidate, and what it takes over: (outer, inner) registers.
    pub condition: Option<(Code, Vec<(Reg, Reg)>)>,
}

impl QueryOp {
    /// Whether it is asked of all of its kinds, wherever they are and whomever they touch.
    pub fn is_of_all(&self) -> bool {
        self.within.is_none() && !self.touching
    }

    /// Whether its condition holds of the same whoever asks; without one it does.
    pub fn condition_is_fixed(&self) -> bool {
        self.condition.as_ref().is_none_or(|(code, takes)| takes.is_empty() && code.traits.is_fixed)
    }
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
    /// Of several kinds together: which of [`State::peaks`](crate::State::peaks).
    pub peak: Option<usize>,
}
