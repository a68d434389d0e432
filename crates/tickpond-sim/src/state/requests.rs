//! What was asked for and is not yet carried out.

use std::sync::Arc;

use tickpond_lang::program::{Cause, KindId, Side, SiteId, SpotsId, ZoneId};

use super::slots::EntityId;
use crate::event::{Phase, Who};
use crate::luck;

/// Where a request stands in the roll: the asker, its handler, the other party, the statement.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug, Default, Hash)]
pub struct Key {
    /// How many were born before the asker.
    pub asker: u64,
    /// The handler's place among those of its kind, by head.
    pub handler: u32,
    /// How many were born before the other party; of those it touches, the how many-th it met.
    pub other: u64,
    /// Which request of this firing.
    pub nth: u32,
}

/// Where something is to be born; what moves is found at the birth.
#[derive(Clone, Copy, PartialEq, Debug)]
pub enum PlaceRequest {
    /// At a place.
    Point(f64, f64),
    /// Where this entity is, or last was (place and heading).
    Entity(EntityId, f64, f64, f64),
    /// At a mount of this entity, or where that last was.
    Mount(EntityId, u32, f64, f64, f64),
    /// At a spot, counted from 0.
    Spot(SpotsId, u32),
    /// At a spot by chance.
    AnySpot(SpotsId),
    /// Anywhere in the arena.
    Anywhere,
    /// Anywhere in a zone.
    InZone(ZoneId),
    /// At most so far from a place.
    Around(f64, f64, f64),
    /// So far from a place.
    Ring(f64, f64, f64),
    /// Somewhere along an edge.
    Edge(Side),
}

impl PlaceRequest {
    /// Whether the place is chosen at the birth, so that a condition can be met by another choice.
    pub fn is_chosen(&self) -> bool {
        matches!(
            self,
            PlaceRequest::AnySpot(_)
                | PlaceRequest::Anywhere
                | PlaceRequest::InZone(_)
                | PlaceRequest::Around(..)
                | PlaceRequest::Ring(..)
                | PlaceRequest::Edge(_)
        )
    }
}

/// A condition on the place of a birth, its values fixed.
#[derive(Clone, PartialEq, Debug)]
pub enum FilterRequest {
    /// Not in the view, widened by so much.
    NotInView(f64),
    /// Not so near to a place.
    NotNearPlace(f64, f64, f64),
    /// Not so near to any of these kinds.
    NotNearKinds(f64, Arc<[KindId]>),
    /// Not over a solid body.
    ClearOfSolid,
}

/// What a birth is at: the rest of it.
#[derive(Clone, PartialEq, Debug, Default)]
pub struct BirthExtras {
    /// A velocity added in u/s.
    pub push: (f64, f64),
    /// A speed added along the facing in u/s.
    pub push_along: f64,
    /// The mount of the maker it faces along, found when it is born.
    pub along: Option<u32>,
    /// Whether somebody waits for the first of them to be born, by `spawn … as`.
    pub named: bool,
    /// Whether it begins inactive.
    pub inactive: bool,
    /// Whether it is attached to its maker, and if so whether it outlives it.
    pub attached: Option<bool>,
    /// Whether it keeps the velocity of what it replaces.
    pub keeps_velocity: bool,
    /// Conditions on the place.
    pub filters: Vec<FilterRequest>,
}

/// The line of what was placed by hand: there is none.
pub const BY_HAND: SiteId = SiteId(u32::MAX);

/// Births that were asked for at once and are due together, alike but for their turn and their luck.
#[derive(Clone, PartialEq, Debug)]
pub struct BirthRequest {
    /// The tick it is due in.
    pub due: u64,
    /// Its place in the roll.
    pub key: Key,
    /// Which of its statement's the first of them is, from 0.
    pub index: u32,
    /// How many they are.
    pub count: u32,
    /// What is born.
    pub kind: KindId,
    /// Who asked.
    pub maker: Who,
    /// Where the maker faced when it asked, in deg, if it is somewhere.
    pub maker_heading: Option<f64>,
    /// What their chance is drawn from; see [`BirthRequest::each`].
    pub luck: u64,
    /// How many ticks lie between one and the next; 0 for all at once.
    pub spaced: u64,
    /// How many births of the kind the same handler and asker asked for before them in its tick.
    pub before: u64,
    /// The request it belongs to.
    pub batch: u64,
    /// The wave it belongs to; 0 if none.
    pub wave: u64,
    /// Where.
    pub place: PlaceRequest,
    /// Facing in deg.
    pub facing: Option<f64>,
    /// What their facings are spread over, in deg, and how many share it.
    pub spread: (f64, u32),
    /// The place to face.
    pub toward: Option<(f64, f64)>,
    /// Speed along the facing in u/s.
    pub speed: Option<f64>,
    /// Velocity in u/s.
    pub vel: Option<(f64, f64)>,
    /// Health.
    pub health: Option<f64>,
    /// Label.
    pub label: Option<Arc<str>>,
    /// Words of its variables, by place in the kind's columns.
    pub vars: Vec<(u32, u64)>,
    /// What few births ask for; none if nothing.
    pub extras: Option<Box<BirthExtras>>,
    /// The line that asked.
    pub site: SiteId,
}

/// One of the births of a request.
#[derive(Clone, Copy)]
pub(crate) struct Birth<'a> {
    /// The request.
    pub request: &'a BirthRequest,
    /// What its chance is drawn from.
    pub luck: u64,
    /// What is added to its facing, in deg.
    pub turn: f64,
    /// Which of its statement's it is, from 0.
    pub index: u32,
}

impl BirthRequest {
    /// Whether its place is chosen under conditions, and so after those that are given.
    pub(crate) fn is_chosen(&self) -> bool {
        self.place.is_chosen() && self.extras.as_ref().is_some_and(|e| !e.filters.is_empty())
    }

    /// The births it asks for, in their order.
    pub(crate) fn each(&self) -> impl Iterator<Item = Birth<'_>> {
        (0..self.count).map(|at| Birth {
            request: self,
            luck: luck::fold(self.luck, self.before + u64::from(at)),
            turn: share_of(self.spread.0, self.index + at, self.spread.1),
            index: self.index + at,
        })
    }

    /// The first of the births as a request of its own, and the others, if there are any.
    pub(crate) fn split_first(mut self) -> (BirthRequest, Option<BirthRequest>) {
        if self.count <= 1 {
            return (self, None);
        }
        let rest = BirthRequest {
            index: self.index + 1,
            count: self.count - 1,
            before: self.before + 1,
            due: self.due.saturating_add(self.spaced),
            ..self.clone()
        };
        self.count = 1;
        (self, Some(rest))
    }

    /// The same births as requests of one each.
    pub(crate) fn singly(self) -> impl Iterator<Item = BirthRequest> {
        let mut left = Some(self);
        std::iter::from_fn(move || {
            let (one, rest) = left.take()?.split_first();
            left = rest;
            Some(one)
        })
    }
}

/// The turn of one of several that are spread: over the full turn evenly all around, over less from
/// one end to the other.
fn share_of(spread: f64, index: u32, in_all: u32) -> f64 {
    let (index, in_all) = (f64::from(index), f64::from(in_all));
    if spread.abs() >= 360.0 {
        spread * index / in_all
    } else if in_all > 1.0 {
        spread * (index / (in_all - 1.0) - 0.5)
    } else {
        0.0
    }
}

/// A change of velocity.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct PushRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Who is pushed.
    pub target: EntityId,
    /// The change in u/s.
    pub by: (f64, f64),
    /// The line that asked.
    pub site: SiteId,
}

/// Activation or its end.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct ActiveRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Who is meant.
    pub target: EntityId,
    /// Whether it is activated.
    pub on: bool,
    /// Who asked.
    pub by: Who,
    /// The line that asked.
    pub site: SiteId,
}

/// An attachment to be made or undone.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct AttachRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Who is attached.
    pub target: EntityId,
    /// To whom and how; undone if none.
    pub to: Option<Attachment>,
    /// Who asked.
    pub by: Who,
    /// The line that asked.
    pub site: SiteId,
}

/// How an entity hangs on another.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Attachment {
    /// On whom.
    pub owner: EntityId,
    /// At which of its kind's mounts.
    pub mount: u32,
    /// Whether it stays when its owner ends.
    pub outlives: bool,
}

/// A ray or the reach of a blast that is shown for a while.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Trace {
    /// Where a ray begins; the middle of a blast.
    pub from: (f64, f64),
    /// Where a ray ends; the middle of a blast.
    pub to: (f64, f64),
    /// How far a blast reaches, in u; `None` for a ray.
    pub radius: Option<f64>,
    /// The tick it was cast in.
    pub since: u64,
    /// The tick from which it is no longer shown.
    pub until: u64,
}

/// Damage or healing.
#[derive(Clone, PartialEq, Debug)]
pub struct HealthRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Whom it meets.
    pub target: EntityId,
    /// How much health is lost; healing is negative.
    pub loss: f64,
    /// Who gets the credit.
    pub by: Who,
    /// The line that asked.
    pub site: SiteId,
}

/// An end.
#[derive(Clone, PartialEq, Debug)]
pub struct EndRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Who ends.
    pub target: EntityId,
    /// The phase it was asked in.
    pub phase: Phase,
    /// Why.
    pub cause: Cause,
    /// The words behind `because`.
    pub words: Option<Arc<str>>,
    /// Who asked, or gets the credit.
    pub by: Who,
    /// The line that asked.
    pub site: SiteId,
    /// What takes its place, if this is the end that counts.
    pub births: Vec<BirthRequest>,
    /// The velocity those keep, if it is not the one at the end.
    pub kept_velocity: Option<(f64, f64)>,
}

/// A handler that waits.
#[derive(Clone, PartialEq, Debug)]
pub struct Wait {
    /// When it goes on.
    pub due: u64,
    /// Whose handler.
    pub entity: EntityId,
    /// How many were born before that entity.
    pub serial: u64,
    /// Its place among the kind's compiled handlers.
    pub handler: u32,
    /// Where in the code it goes on.
    pub at: u32,
    /// The registers it keeps.
    pub words: Vec<u64>,
}

/// A handler that runs while two touch.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Touching {
    /// The kind of the one whose handler it is.
    pub kind: KindId,
    /// The handler's place in the roll of its kind.
    pub handler: u32,
    /// How many were born before the one.
    pub me: u64,
    /// How many were born before the other.
    pub other: u64,
}

/// Two that touch: the elder and the younger by birth.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Contact {
    /// The elder's place in the order of births.
    pub elder_serial: u64,
    /// The younger's place in the order of births.
    pub younger_serial: u64,
    /// The elder.
    pub elder: EntityId,
    /// The younger.
    pub younger: EntityId,
    /// The elder's kind.
    pub elder_kind: KindId,
    /// The younger's kind.
    pub younger_kind: KindId,
    /// Whether they overlap since one was born of the other, and have not been apart yet.
    pub born_so: bool,
    /// The tick in which they met.
    pub began: u64,
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::ring(360.0, 4, &[0.0, 90.0, 180.0, 270.0])]
    #[case::fan(60.0, 3, &[-30.0, 0.0, 30.0])]
    #[case::one(60.0, 1, &[0.0])]
    fn a_spread_is_even(#[case] spread: f64, #[case] count: u32, #[case] turns: &[f64]) {
        let shares: Vec<f64> = (0..count).map(|i| share_of(spread, i, count)).collect();
        assert_eq!(shares, turns);
    }
}
