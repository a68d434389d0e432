//! Solid bodies: copies their values to the rigid-body solver, steps it, and copies the results back. A pond without solid kinds
//! never gets here.

use std::collections::HashMap;

use rapier2d::prelude::*;
use tickpond_lang::program::{KindId, Program};

use crate::angle;
use crate::engine::Engine;
use crate::event::{Guard, Stopped};
use crate::state::{EntityId, Solids, State};
use crate::vm::related;

/// A solid lies still below this speed in u/s.
const STILL_SPEED: f64 = 0.05;
/// The fastest a solid goes, in u/s: single precision goes no further in a tick than a place can be told.
const FASTEST: f32 = 1.0e7;
/// How far from where its velocity says a fixed body must be to have been put there, in u.
const JUMP: f64 = 1.0e-3;
/// And below this spin in deg/s.
const STILL_SPIN: f64 = 3.0;

/// What the solver asks while it works: who leaves whom alone.
struct Hooks<'a> {
    program: &'a Program,
    /// Pairs that have not been apart since a birth, lower word first.
    together: std::collections::HashSet<(u64, u64)>,
    /// Maker, batch and whether it is new, by identity.
    kin: HashMap<u64, (u64, u64, bool)>,
}

impl Hooks<'_> {
    fn passes(&self, a: u128, b: u128) -> bool {
        let kind = |tag: u128| KindId((tag >> 64) as u32);
        let (ka, kb) = (kind(a), kind(b));
        let matter = |k: KindId| &self.program.kinds[k.index()].matter;
        if matter(ka).passes.contains(&kb) || matter(kb).passes.contains(&ka) {
            return true;
        }
        let (a, b) = (a as u64, b as u64);
        if self.together.contains(&(a.min(b), a.max(b))) {
            return true;
        }
        let (Some(ka), Some(kb)) = (self.kin.get(&a), self.kin.get(&b)) else { return false };
        let new = ka.2 || kb.2;
        new && (ka.0 == b || kb.0 == a || ka.1 != 0 && ka.1 == kb.1)
    }
}

impl PhysicsHooks for Hooks<'_> {
    fn filter_contact_pair(&self, context: &PairFilterContext) -> Option<SolverFlags> {
        let tag = |handle| context.colliders.get(handle).map_or(0, |c| c.user_data);
        let (a, b) = (tag(context.collider1), tag(context.collider2));
        let walls = a == 0 || b == 0;
        (walls || !self.passes(a, b)).then_some(SolverFlags::COMPUTE_RIGID_IMPULSES)
    }
}

impl Engine {
    /// Plays the solid bodies one tick. Fixed ones are carried where their own values say.
    pub(crate) fn solve(&mut self, state: &mut State) {
        let program = self.compiled.program.clone();
        let pairs = pairs_in_one_place(state, &program);
        if pairs > program.limits.touches || self.is_interrupted() {
            // The solver would list all of them: it is left out of this tick.
            let guard =
                if pairs > program.limits.touches { Guard::Touches } else { Guard::Interrupted };
            state.stopped.get_or_insert(Stopped::once(guard, state.tick, None));
            self.halted = true;
            return;
        }
        let Some(mut solids) = state.solids.take() else { return };
        self.put_in(state, &mut solids);
        let hooks = self.hooks(state, &program);
        let parameters = IntegrationParameters {
            dt: (1.0 / program.rate) as f32,
            // Scripts may ask for any speed.
            normalized_max_linear_velocity: FASTEST,
            // With the usual 4 and 1 a pile gives back up to a quarter of the speed of what falls on it.
            num_solver_iterations: 10,
            num_internal_stabilization_iterations: 2,
            ..IntegrationParameters::default()
        };
        let gravity = Vector::new(program.gravity.0 as f32, program.gravity.1 as f32);
        let pipeline = self.solver.pipeline.get_or_insert_with(|| Box::new(PhysicsPipeline::new()));
        pipeline.step(
            gravity,
            &parameters,
            &mut solids.islands,
            &mut solids.broad,
            &mut solids.narrow,
            &mut solids.bodies,
            &mut solids.colliders,
            &mut solids.joints,
            &mut solids.multi,
            &mut solids.soft,
            &mut solids.ccd,
            &hooks,
            &(),
        );
        take_out(state, &solids, &program);
        state.solids = Some(solids);
    }

    /// Puts new bodies in, and tells the solver what scripts have changed. Oldest first.
    fn put_in(&mut self, state: &State, solids: &mut Solids) {
        let program = self.compiled.program.clone();
        let step = 1.0 / program.rate;
        let mut order: Vec<(u64, usize, usize)> = Vec::new();
        for (k, columns) in state.kinds.iter().enumerate() {
            if program.kinds[k].matter.solid {
                order.extend((0..columns.len()).map(|row| (columns.serial[row], k, row)));
            }
        }
        order.sort_unstable();
        for (_, k, row) in order {
            let (columns, kind) = (&state.kinds[k], &program.kinds[k]);
            let id = columns.id[row];
            let is_new = !solids.of.contains_key(&id);
            if is_new {
                solids.insert(id, kind, (k as u128) << 64 | u128::from(id.to_word()));
            }
            let Some(body) = solids.of.get(&id).and_then(|h| solids.bodies.get_mut(*h)) else {
                continue;
            };
            let at = Vector::new(columns.x[row] as f32, columns.y[row] as f32);
            let turn = columns.heading[row].to_radians() as f32;
            let vel = Vector::new(columns.vx[row] as f32, columns.vy[row] as f32);
            let active = columns.is_active(row);
            if body.is_enabled() != active {
                body.set_enabled(active);
            }
            if kind.matter.fixed {
                // It comes from where its own velocity says. What was put elsewhere, or has just been put in,
                // has not swept what lies between.
                let came = (
                    columns.x[row] - columns.vx[row] * step,
                    columns.y[row] - columns.vy[row] * step,
                );
                let now = body.translation();
                let (dx, dy) = (f64::from(now.x) - came.0, f64::from(now.y) - came.1);
                if is_new || libm::hypot(dx, dy) > JUMP {
                    let from = Vector::new(came.0 as f32, came.1 as f32);
                    body.set_position(Pose::new(from, turn), true);
                }
                body.set_next_kinematic_position(Pose::new(at, turn));
                continue;
            }
            self.before_impact.insert(id, (columns.vx[row], columns.vy[row]));
            if body.translation() != at {
                body.set_translation(at, true);
            }
            let upright = body.is_rotation_locked();
            if !upright && !same_angle(body.rotation().angle(), columns.heading[row]) {
                body.set_rotation(Rotation::new(turn), true);
            }
            if body.linvel() != vel {
                body.set_linvel(vel, true);
            }
            // What goes far in a tick sees that far ahead, so that it pushes what moves, too.
            let ahead = (libm::hypot(columns.vx[row], columns.vy[row]) * step) as f32;
            let ahead = if ahead > kind.body.thinnest() as f32 * 0.25 { ahead * 1.1 } else { 0.0 };
            if body.soft_ccd_prediction() != ahead {
                body.set_soft_ccd_prediction(ahead);
            }
            let spin = columns.spin[row].to_radians() as f32;
            if body.angvel().to_degrees() != columns.spin[row] as f32 && body.angvel() != spin {
                body.set_angvel(spin, true);
            }
        }
    }

    fn hooks<'p>(&self, state: &State, program: &'p Program) -> Hooks<'p> {
        let together =
            state.contacts.iter().filter(|c| c.born_so || related(state, c.elder, c.younger)).map(
                |c| {
                    let (a, b) = (c.elder.to_word(), c.younger.to_word());
                    (a.min(b), a.max(b))
                },
            );
        let mut together: std::collections::HashSet<(u64, u64)> = together.collect();
        for (id, attachment) in &state.attached {
            let (a, b) = (id.to_word(), attachment.owner.to_word());
            together.insert((a.min(b), a.max(b)));
        }
        let mut kin = HashMap::new();
        for (columns, kind) in state.kinds.iter().zip(&program.kinds) {
            if kind.matter.solid {
                for row in 0..columns.len() {
                    let new = columns.first_tick(row) == state.tick;
                    let maker = columns.maker[row].to_word();
                    kin.insert(columns.id[row].to_word(), (maker, columns.batch[row], new));
                }
            }
        }
        Hooks { program, together, kin }
    }
}

/// Fewest solids in one place that are counted as a crowd: as many lie there without being pressed.
const CROWD: u64 = 64;

/// How many pairs of solids lie in one place, about: those that share a cell of a few bodies' width, where that are
/// many more than fit there. Costs the solids.
fn pairs_in_one_place(state: &State, program: &Program) -> u64 {
    let solid = |k: usize| program.kinds[k].matter.solid;
    let kinds = || state.kinds.iter().enumerate().filter(|(k, _)| solid(*k));
    let count: usize = kinds().map(|(_, columns)| columns.len()).sum();
    if (count as u64) <= CROWD {
        return 0;
    }
    // The usual size is that of most of them: one that is much larger lies beside many as it should.
    let mut sizes: Vec<(f64, usize)> =
        kinds().map(|(k, columns)| (program.kinds[k].body.reach(), columns.len())).collect();
    sizes.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut seen = 0;
    let usual = sizes.iter().find(|(_, of)| {
        seen += of;
        seen * 2 >= count
    });
    let usual = usual.map_or(1.0, |(reach, _)| *reach);
    let mut cells: HashMap<(i64, i64), u64> = HashMap::new();
    for (_, columns) in kinds().filter(|(k, _)| program.kinds[*k].body.reach() <= usual * 4.0) {
        for (x, y) in columns.x.iter().zip(columns.y.iter()) {
            let cell = |at: f64| (at / (usual * 4.0)).floor() as i64;
            *cells.entry((cell(*x), cell(*y))).or_insert(0) += 1;
        }
    }
    cells.values().filter(|count| **count > CROWD).map(|count| count * (count - 1) / 2).sum()
}

/// Whether the solver's angle in rad is what was stored of it in deg.
fn same_angle(solver: f32, stored: f64) -> bool {
    angle::normal(f64::from(solver).to_degrees()) == stored
}

/// Takes what the solver made of the moving bodies back into the columns.
fn take_out(state: &mut State, solids: &Solids, program: &Program) {
    for (columns, kind) in state.kinds.iter_mut().zip(&program.kinds) {
        if !kind.matter.solid {
            continue;
        }
        for row in 0..columns.len() {
            let id: EntityId = columns.id[row];
            let body = solids.of.get(&id).and_then(|h| solids.bodies.get(*h));
            let Some(body) = body.filter(|_| columns.is_active(row)) else { continue };
            if !kind.matter.fixed {
                let (at, vel) = (body.translation(), body.linvel());
                (columns.x[row], columns.y[row]) = (f64::from(at.x) + 0.0, f64::from(at.y) + 0.0);
                (columns.vx[row], columns.vy[row]) =
                    (f64::from(vel.x) + 0.0, f64::from(vel.y) + 0.0);
                if !body.is_rotation_locked() {
                    columns.heading[row] =
                        angle::normal(f64::from(body.rotation().angle()).to_degrees());
                    columns.spin.set(row, f64::from(body.angvel().to_degrees()) + 0.0);
                }
            }
            let speed = libm::hypot(columns.vx[row], columns.vy[row]);
            let still = speed < STILL_SPEED && columns.spin[row].abs() < STILL_SPIN;
            let ticks = if still { columns.still[row].saturating_add(1) } else { 0 };
            columns.still.set(row, ticks);
        }
    }
}
