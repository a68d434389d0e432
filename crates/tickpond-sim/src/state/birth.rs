//! Births that are asked for: how many of what, where, with what, and when they are due.

use std::sync::Arc;

use tickpond_lang::program::{KindId, Side, SiteId, SpotsId, ZoneId};

use super::slots::EntityId;
use crate::event::Who;
use crate::luck;

use super::roll::Key;

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
