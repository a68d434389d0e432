//! The bodies of solid kinds in the rigid-body solver: all its sets, so that a saved state goes on
//! bit by bit. The solver works in single precision.

use std::collections::BTreeMap;

use rapier2d::prelude::*;
use tickpond_lang::program::{Arena, Body, Edge, Kind, Program};

use super::slots::EntityId;

/// How thick the walls of the arena are, in u: enough that nothing gets through in a tick.
const WALL: f32 = 50.0;

/// All bodies in the solver.
#[derive(Clone)]
pub struct Solids {
    pub(crate) islands: IslandManager,
    pub(crate) broad: BroadPhaseBvh,
    pub(crate) narrow: NarrowPhase,
    pub(crate) bodies: RigidBodySet,
    pub(crate) colliders: ColliderSet,
    pub(crate) joints: ImpulseJointSet,
    pub(crate) multi: MultibodyJointSet,
    pub(crate) soft: SoftBodySet,
    pub(crate) ccd: CCDSolver,
    /// The body of each solid entity.
    pub(crate) of: BTreeMap<EntityId, RigidBodyHandle>,
}

impl std::fmt::Debug for Solids {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Solids({})", self.of.len())
    }
}

impl PartialEq for Solids {
    /// Whether all bodies lie and move alike.
    fn eq(&self, other: &Solids) -> bool {
        self.words().eq(other.words())
    }
}

impl Solids {
    /// No bodies but the walls; `None` if no kind of the program is solid.
    pub(crate) fn for_program(program: &Program) -> Option<Box<Solids>> {
        program.kinds.iter().any(|k| k.matter.solid).then(|| {
            let mut solids = Box::new(Solids {
                islands: IslandManager::new(),
                broad: BroadPhaseBvh::new(),
                narrow: NarrowPhase::new(),
                bodies: RigidBodySet::new(),
                colliders: ColliderSet::new(),
                joints: ImpulseJointSet::new(),
                multi: MultibodyJointSet::new(),
                soft: SoftBodySet::new(),
                ccd: CCDSolver::new(),
                of: BTreeMap::new(),
            });
            solids.walls(&program.arena);
            solids
        })
    }

    fn walls(&mut self, arena: &Arena) {
        let (width, height) = arena.size();
        let (width, height) = (width as f32, height as f32);
        let (mx, my) = ((arena.low.0 + arena.high.0) / 2.0, (arena.low.1 + arena.high.1) / 2.0);
        let (mx, my) = (mx as f32, my as f32);
        let edges = arena.edges;
        let tall = (WALL, height / 2.0 + 2.0 * WALL);
        let wide = (width / 2.0 + 2.0 * WALL, WALL);
        let walls = [
            (edges.left, tall, (arena.low.0 as f32 - WALL, my)),
            (edges.right, tall, (arena.high.0 as f32 + WALL, my)),
            (edges.low, wide, (mx, arena.low.1 as f32 - WALL)),
            (edges.high, wide, (mx, arena.high.1 as f32 + WALL)),
        ];
        for (edge, half, at) in walls {
            if edge == Edge::Wall {
                let wall = ColliderBuilder::cuboid(half.0, half.1)
                    .translation(Vector::new(at.0, at.1))
                    .restitution(arena.bounce as f32)
                    .restitution_combine_rule(CoefficientCombineRule::Max)
                    .friction(arena.friction as f32)
                    .friction_combine_rule(CoefficientCombineRule::Average);
                self.colliders.insert(wall);
            }
        }
    }

    /// Puts a new entity's body in. `tag` comes back to the solver's hooks.
    pub(crate) fn insert(&mut self, id: EntityId, kind: &Kind, tag: u128) {
        let matter = &kind.matter;
        let body = if matter.fixed {
            RigidBodyBuilder::kinematic_position_based()
        } else {
            RigidBodyBuilder::dynamic()
                .linear_damping(matter.drag as f32)
                .gravity_scale(if matter.weightless { 0.0 } else { 1.0 })
                .ccd_enabled(true)
        };
        let (collider, upright) = match kind.body {
            Body::None => return,
            Body::Circle { radius } => (ColliderBuilder::ball(radius as f32), false),
            Body::Box { half, upright } => {
                (ColliderBuilder::cuboid(half.0 as f32, half.1 as f32), upright)
            }
        };
        let body = if upright || matter.upright { body.lock_rotations() } else { body };
        let handle = self.bodies.insert(body);
        let collider = collider
            .mass(matter.weight as f32)
            .restitution(matter.bounce as f32)
            .restitution_combine_rule(CoefficientCombineRule::Max)
            .friction(matter.friction as f32)
            .user_data(tag)
            .active_hooks(ActiveHooks::FILTER_CONTACT_PAIRS);
        self.colliders.insert_with_parent(collider, handle, &mut self.bodies);
        self.of.insert(id, handle);
    }

    /// Takes an entity's body out.
    pub(crate) fn remove(&mut self, id: EntityId) {
        if let Some(handle) = self.of.remove(&id) {
            self.bodies.remove(
                handle,
                &mut self.islands,
                &mut self.colliders,
                &mut self.joints,
                &mut self.multi,
                &mut self.soft,
                true,
            );
        }
    }

    /// Place, turn and velocity of every body, for comparing and hashing.
    pub(crate) fn words(&self) -> impl Iterator<Item = u64> + '_ {
        self.of.iter().filter_map(|(id, handle)| Some((id, self.bodies.get(*handle)?))).flat_map(
            |(id, body)| {
                let (at, vel) = (body.translation(), body.linvel());
                let pair = |a: f32, b: f32| u64::from(a.to_bits()) << 32 | u64::from(b.to_bits());
                [
                    id.to_word(),
                    pair(at.x, at.y),
                    pair(vel.x, vel.y),
                    pair(body.rotation().angle(), body.angvel()),
                    u64::from(body.is_sleeping()),
                ]
            },
        )
    }

    /// About how many bytes a copy takes.
    pub fn bytes(&self) -> usize {
        self.of.len() * 1600 + 4096
    }
}
