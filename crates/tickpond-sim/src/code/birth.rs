//! Births to code: what is made, how many, where, and with what.

use tickpond_lang::program::{Birth, Expr, Filter, LocalId, Pick, Ty, Where};

use super::builder::Builder;
use super::layout::words_of;
use super::op::{FilterOp, Op, PlaceOp, SpawnOp};

impl Builder<'_> {
    pub(super) fn spawn_as(&mut self, birth: &Birth, local: LocalId) {
        let at = self.birth(birth);
        let kind = self.compiled.spawns[at as usize].kind;
        let token = self.keep(2);
        self.emit(Op::Copy(token + 1, kind));
        self.emit(Op::SpawnAs(at, token));
        self.emit(Op::WaitBorn);
        self.load_cached(false);
        let to = self.locals[local.index()];
        self.emit(Op::Newborn { to, token, kind: token + 1 });
    }

    pub(super) fn filters(&mut self, filters: &[Filter]) -> Vec<FilterOp> {
        let ops = filters.iter().map(|filter| match filter {
            Filter::NotInView(wider) => {
                FilterOp::NotInView(wider.as_ref().map(|e| self.finite_of(e)))
            }
            Filter::NotNearPlace(distance, place) => {
                let distance = self.finite_of(distance);
                FilterOp::NotNearPlace(distance, self.finite_of(place))
            }
            Filter::NotNearKinds(distance, kinds) => {
                FilterOp::NotNearKinds(self.finite_of(distance), kinds.as_slice().into())
            }
            Filter::ClearOfSolid => FilterOp::ClearOfSolid,
        });
        ops.collect()
    }

    /// Compiles a birth and gives its place in the list.
    pub(super) fn birth(&mut self, birth: &Birth) -> u32 {
        let kind = self.expr(&birth.kind);
        let maybe = |builder: &mut Self, e: &Option<Expr>| e.as_ref().map(|e| builder.finite_of(e));
        let count = maybe(self, &birth.count);
        let place = self.place(&birth.place);
        let facing = maybe(self, &birth.facing);
        let toward = maybe(self, &birth.toward);
        let speed = maybe(self, &birth.speed);
        let vel = maybe(self, &birth.vel);
        let spread = maybe(self, &birth.spread);
        let spaced = maybe(self, &birth.spaced);
        let health = maybe(self, &birth.health);
        let pushed = maybe(self, &birth.push);
        let is_pair = birth.push.as_ref().is_some_and(|e| matches!(e.ty, Ty::Pair(_)));
        let label = birth.label.as_ref().map(|label| self.text(label));
        let vars = birth.vars.iter();
        let vars = vars.map(|(name, e)| (*name, self.finite_of(e), words_of(&e.ty))).collect();
        let filters = self.filters(&birth.filters);
        let (wave, site) = (self.wave, self.site);
        self.compiled.spawns.push(SpawnOp {
            kind,
            count,
            place,
            facing,
            toward,
            speed,
            vel,
            spread,
            spaced,
            health,
            label,
            vars,
            push: pushed.filter(|_| is_pair),
            push_along: pushed.filter(|_| !is_pair),
            along: birth.along.map(|mount| mount as u32),
            inactive: birth.inactive,
            attached: birth.attached,
            keeps_velocity: birth.keeps_velocity,
            filters,
            wave,
            site,
        });
        self.compiled.spawns.len() as u32 - 1
    }

    pub(super) fn place(&mut self, place: &Where) -> PlaceOp {
        match place {
            Where::Here => PlaceOp::Here,
            Where::Point(e) => PlaceOp::Point(self.finite_of(e)),
            Where::Entity(e) => PlaceOp::Entity(self.expr(e)),
            Where::Mount(mount) => PlaceOp::Mount(*mount as u32),
            Where::Spots(group, Pick::Chance) => PlaceOp::AnySpot(*group),
            Where::Spots(group, Pick::Each) => PlaceOp::EachSpot(*group),
            Where::Spots(group, Pick::Nth(at)) => PlaceOp::Spot(*group, *at),
            Where::Anywhere => PlaceOp::Anywhere,
            Where::InZone(zone) => PlaceOp::InZone(*zone),
            Where::Around(place, distance) => {
                let place = self.finite_of(place);
                PlaceOp::Around(place, self.finite_of(distance))
            }
            Where::Ring(place, radius) => {
                let place = self.finite_of(place);
                PlaceOp::Ring(place, self.finite_of(radius))
            }
            Where::Edge(side) => PlaceOp::Edge(*side),
        }
    }
}
