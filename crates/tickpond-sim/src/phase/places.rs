//! Finds the place of a birth: what moves is looked up now, and a random place has to meet its conditions.

use tickpond_lang::program::{KindId, Side, ZoneShape};

use crate::sweep::{Shape, meet};

use crate::angle;
use crate::engine::Engine;
use crate::luck;
use crate::space;
use crate::state::{Birth, BirthRequest, EntityId, FilterRequest, PlaceRequest, State};

/// Most tries for a place that meets the conditions of a birth.
const MOST_TRIES: u64 = 64;

/// A place, and its facing if it has one.
pub(super) type Found = (f64, f64, Option<f64>);

impl Engine {
    /// Where a birth takes place; `None` if no choice meets its conditions.
    pub(super) fn resolve(&self, state: &State, one: Birth<'_>) -> Option<Found> {
        let birth = one.request;
        let filters: &[FilterRequest] = birth.extras.as_ref().map_or(&[], |e| &e.filters);
        let first = self.place_at(state, one, 0);
        if filters.is_empty() || self.meets(state, one, filters, first) {
            return Some(first);
        }
        if let PlaceRequest::AnySpot(group) = birth.place {
            // Evenly among those that meet them.
            let spots = &self.compiled.program.spots[group.index()].spots;
            let fit: Vec<Found> = spots
                .iter()
                .map(|spot| (spot.at.0, spot.at.1, spot.facing))
                .filter(|found| self.meets(state, one, filters, *found))
                .collect();
            let draw = luck::unit(luck::hash(&[one.luck, 1]));
            let at = (draw * fit.len() as f64) as usize;
            return fit.get(at.min(fit.len().saturating_sub(1))).copied();
        }
        if !birth.place.is_chosen() {
            return None;
        }
        (1..MOST_TRIES)
            .map(|nth| self.place_at(state, one, nth))
            .find(|found| self.meets(state, one, filters, *found))
    }

    /// Whether a body in this place meets all conditions.
    pub(super) fn meets(
        &self,
        state: &State,
        one: Birth<'_>,
        filters: &[FilterRequest],
        (x, y, facing): Found,
    ) -> bool {
        let birth = one.request;
        let program = &self.compiled.program;
        let body = &program.kinds[birth.kind.index()].body;
        let reach = body.reach();
        let from_here = |to: (f64, f64)| space::offset(&program.arena, (x, y), to);
        let far = |to: (f64, f64), distance: f64| {
            let (dx, dy) = from_here(to);
            libm::hypot(dx, dy) - reach >= distance
        };
        filters.iter().all(|filter| match filter {
            FilterRequest::NotInView(wider) => program.view.is_none_or(|view| {
                let (dx, dy) = from_here(state.view);
                let room = wider + reach;
                dx.abs() > view.half.0 + room || dy.abs() > view.half.1 + room
            }),
            FilterRequest::NotNearPlace(distance, px, py) => far((*px, *py), *distance),
            FilterRequest::NotNearKinds(distance, kinds) => kinds.iter().all(|kind| {
                let columns = &state.kinds[kind.index()];
                let near = ((x, y), distance + reach);
                self.standing.all_near(*kind, columns, near, |row| {
                    far((columns.x[row], columns.y[row]), *distance)
                })
            }),
            FilterRequest::ClearOfSolid => {
                let heading = self.heading_at(one, (x, y, facing), heading_of_maker(state, birth));
                let shape = Shape::of(body, heading);
                (0u32..).zip(&state.kinds).zip(&program.kinds).all(|((at, columns), kind)| {
                    let near = ((x, y), reach + kind.body.reach());
                    !kind.matter.solid
                        || self.standing.all_near(KindId(at), columns, near, |row| {
                            let other = Shape::of(&kind.body, columns.heading[row]);
                            let (dx, dy) = from_here((columns.x[row], columns.y[row]));
                            !columns.is_active(row)
                                || meet(shape, other, (dx, dy), (dx, dy)).is_none()
                        })
                })
            }
        })
    }

    /// The place of a birth, and the facing of that place if it has one; `nth` counts the tries.
    pub(super) fn place_at(&self, state: &State, one: Birth<'_>, nth: u64) -> Found {
        let birth = one.request;
        let program = &self.compiled.program;
        let arena = &program.arena;
        let draw = |at: u64| luck::unit(luck::hash(&[one.luck, at + nth * 2]));
        let spot = |group: usize, at: usize| {
            let spot = program.spots[group].spots[at];
            (spot.at.0, spot.at.1, spot.facing)
        };
        let (x, y, facing) = match birth.place {
            PlaceRequest::Point(x, y) => (x, y, None),
            PlaceRequest::Entity(id, x, y, heading) => {
                let (x, y, heading) = whereabouts(state, id).unwrap_or((x, y, heading));
                (x, y, Some(heading))
            }
            PlaceRequest::Mount(id, mount, x, y, heading) => {
                let (x, y, heading) = whereabouts(state, id).unwrap_or((x, y, heading));
                let mounts = &program.kinds[birth.maker.kind.index()].mounts;
                let mount = &mounts[mount as usize];
                let (dx, dy) = angle::turned(mount.at.0, mount.at.1, heading);
                (x + dx, y + dy, Some(heading + mount.facing))
            }
            PlaceRequest::Spot(group, at) => spot(group.index(), at as usize),
            PlaceRequest::AnySpot(group) => {
                let count = program.spots[group.index()].spots.len();
                let at = (draw(0) * count as f64) as usize;
                spot(group.index(), at.min(count - 1))
            }
            PlaceRequest::InZone(zone) => match program.zones[zone.index()].shape {
                ZoneShape::Box { low, high } => {
                    (low.0 + draw(0) * (high.0 - low.0), low.1 + draw(1) * (high.1 - low.1), None)
                }
                ZoneShape::Circle { at, radius } => {
                    let (dx, dy) = in_disc(draw(0), draw(1), radius);
                    (at.0 + dx, at.1 + dy, None)
                }
            },
            PlaceRequest::Around(x, y, distance) => {
                let (dx, dy) = in_disc(draw(0), draw(1), distance);
                (x + dx, y + dy, None)
            }
            PlaceRequest::Ring(x, y, radius) => {
                let (sin, cos) = angle::sin_cos(draw(0) * 360.0);
                (x + cos * radius, y + sin * radius, None)
            }
            PlaceRequest::Anywhere => {
                let (width, height) = arena.size();
                (arena.low.0 + draw(0) * width, arena.low.1 + draw(1) * height, None)
            }
            PlaceRequest::Edge(side) => {
                let (width, height) = arena.size();
                let top = if arena.y_up { arena.high.1 } else { arena.low.1 };
                let bottom = if arena.y_up { arena.low.1 } else { arena.high.1 };
                let (along_x, along_y) =
                    (arena.low.0 + draw(0) * width, arena.low.1 + draw(0) * height);
                match side {
                    Side::Left => (arena.low.0, along_y, None),
                    Side::Right => (arena.high.0, along_y, None),
                    Side::Top => (along_x, top, None),
                    Side::Bottom => (along_x, bottom, None),
                }
            }
        };
        let (wrap_x, wrap_y) = space::wraps(arena);
        let x = if wrap_x { space::wrapped(x, arena.low.0, arena.high.0) } else { x };
        let y = if wrap_y { space::wrapped(y, arena.low.1, arena.high.1) } else { y };
        (x, y, facing)
    }
}

/// A place evenly over a disc, from two draws.
fn in_disc(a: f64, b: f64, radius: f64) -> (f64, f64) {
    let (sin, cos) = angle::sin_cos(a * 360.0);
    let distance = radius * libm::sqrt(b);
    (cos * distance, sin * distance)
}

fn whereabouts(state: &State, id: EntityId) -> Option<(f64, f64, f64)> {
    let (kind, row) = state.find(id)?;
    let columns = &state.kinds[kind.index()];
    Some((columns.x[row], columns.y[row], columns.heading[row]))
}

/// Where the maker of a birth faces now, or faced when it asked.
pub(super) fn heading_of_maker(state: &State, birth: &BirthRequest) -> Option<f64> {
    let asked = birth.maker_heading?;
    let maker = state.find(birth.maker.id);
    Some(maker.map_or(asked, |(kind, row)| state.kinds[kind.index()].heading[row]))
}
