//! Velocities move, spins turn, edges wrap or hold.

use tickpond_lang::program::{Arena, Body, Edge, Kind, Role};

use super::writes::turn;
use crate::angle;
use crate::engine::Engine;
use crate::event::{Event, Guard, Stopped};
use crate::space;
use crate::state::{Columns, NEVER, State};
use crate::wide::wide;

impl Engine {
    pub(crate) fn motion(&mut self, state: &mut State, events: &mut Vec<Event>) {
        self.pushes(state);
        self.attachments(state, events);
        let program = self.compiled.program.clone();
        let step = 1.0 / program.rate;
        let compiled = self.compiled.clone();
        for ((columns, kind), code) in
            state.kinds.iter_mut().zip(&program.kinds).zip(&compiled.kinds)
        {
            if matches!(kind.role, Role::Pond) || columns.is_empty() {
                continue;
            }
            if kind.matter.solid && !kind.matter.fixed {
                // The solver moves it; only where it was is noted here.
                columns.old_x.note(&columns.x);
                columns.old_y.note(&columns.y);
                continue;
            }
            pull(columns, kind, program.gravity, step);
            if code.looks_back {
                columns.old_x.note(&columns.x);
                columns.old_y.note(&columns.y);
            }
            let fine = advance(columns, step, kind.drifts);
            edges(columns, &program.arena, &kind.body);
            if !fine {
                let tick = state.tick;
                let guard = Guard::NotFinite;
                state.stopped.get_or_insert(Stopped { guard, tick, site: None, times: 1 });
            }
        }
        if state.solids.is_some() {
            self.solve(state);
        }
        self.carry_attached(state);
        self.put_view(state);
    }
}

/// Gravity and drag of what has a body and is no solid: the same formulas as the solver's.
fn pull(columns: &mut Columns, kind: &Kind, gravity: (f64, f64), step: f64) {
    let matter = &kind.matter;
    let falls = gravity != (0.0, 0.0)
        && kind.body != Body::None
        && matches!(kind.role, Role::Entity)
        && !matter.weightless
        && !matter.fixed;
    if !falls && matter.drag == 0.0 {
        return;
    }
    let pull = if falls { (gravity.0 * step, gravity.1 * step) } else { (0.0, 0.0) };
    let slower = 1.0 / (1.0 + matter.drag * step);
    for row in 0..columns.len() {
        if columns.rests_since[row] == NEVER {
            columns.vx[row] = (columns.vx[row] + pull.0) * slower + 0.0;
            columns.vy[row] = (columns.vy[row] + pull.1) * slower + 0.0;
        }
    }
}

/// How many rows are moved together.
const STRETCH: usize = 256;

/// Moves every row; false if one would have left all numbers behind, which then stays.
fn advance(columns: &mut Columns, step: f64, drifts: bool) -> bool {
    if columns.spin.stored().is_some_and(|spins| spins.iter().any(|spin| *spin != 0.0)) {
        for row in 0..columns.len() {
            let spin = columns.spin[row];
            if spin != 0.0 && columns.is_active(row) {
                if !drifts {
                    turn(columns, row, spin * step);
                }
                columns.heading[row] = angle::normal(columns.heading[row] + spin * step);
            }
        }
    }
    let rests = columns.rests_since.stored().filter(|_| columns.resting_count > 0);
    let mut all_fine = true;
    let stretches = columns.x.chunks_mut(STRETCH).zip(columns.y.chunks_mut(STRETCH));
    let speeds = columns.vx.chunks(STRETCH).zip(columns.vy.chunks(STRETCH));
    for (nth, ((xs, ys), (vxs, vys))) in stretches.zip(speeds).enumerate() {
        if stand_still(vxs, vys) {
            continue;
        }
        // Where they were, for those that must not move.
        let (mut old_x, mut old_y) = ([0.0; STRETCH], [0.0; STRETCH]);
        let (old_x, old_y) = (&mut old_x[..xs.len()], &mut old_y[..ys.len()]);
        old_x.copy_from_slice(xs);
        old_y.copy_from_slice(ys);
        let fine_x = advance_axis(xs, vxs, step);
        let fine = advance_axis(ys, vys, step) && fine_x;
        all_fine &= fine;
        if rests.is_none() && fine {
            continue;
        }
        for at in 0..xs.len() {
            let rests = rests.is_some_and(|rests| rests[nth * STRETCH + at] != NEVER);
            if rests || !xs[at].is_finite() || !ys[at].is_finite() {
                (xs[at], ys[at]) = (old_x[at], old_y[at]);
            }
        }
    }
    all_fine
}

/// Whether none of these moves: many kinds never do.
fn stand_still(vxs: &[f64], vys: &[f64]) -> bool {
    wide(
        #[inline(always)]
        move || vxs.iter().zip(vys).fold(true, |all, (vx, vy)| all & (*vx == 0.0) & (*vy == 0.0)),
    )
}

/// Moves along one axis, all rows side by side; whether all are finite numbers.
fn advance_axis(places: &mut [f64], speeds: &[f64], step: f64) -> bool {
    wide(
        #[inline(always)]
        move || {
            let mut fine = true;
            for (place, speed) in places.iter_mut().zip(speeds) {
                *place = *place + speed * step + 0.0;
                fine &= place.is_finite();
            }
            fine
        },
    )
}

fn edges(columns: &mut Columns, arena: &Arena, body: &Body) {
    let (wrap_x, wrap_y) = space::wraps(arena);
    let reach = match body {
        Body::None => (0.0, 0.0),
        Body::Circle { radius } => (*radius, *radius),
        Body::Box { half, upright: true } => *half,
        Body::Box { .. } => (body.reach(), body.reach()),
    };
    let e = arena.edges;
    if wrap_x {
        wrap(&mut columns.x, arena.low.0, arena.high.0);
    } else {
        let walls = (e.left == Edge::Wall, e.right == Edge::Wall);
        hold(
            &mut columns.x,
            &mut columns.vx,
            walls,
            (arena.low.0 + reach.0, arena.high.0 - reach.0),
        );
    }
    if wrap_y {
        wrap(&mut columns.y, arena.low.1, arena.high.1);
    } else {
        let walls = (e.low == Edge::Wall, e.high == Edge::Wall);
        hold(
            &mut columns.y,
            &mut columns.vy,
            walls,
            (arena.low.1 + reach.1, arena.high.1 - reach.1),
        );
    }
}

fn wrap(places: &mut [f64], low: f64, high: f64) {
    wide(
        #[inline(always)]
        move || {
            for places in places.chunks_mut(64) {
                // Few leave in one tick.
                let inside =
                    places.iter().fold(true, |so_far, x| so_far & (*x >= low) & (*x < high));
                if !inside {
                    places.iter_mut().for_each(|x| *x = space::wrapped(*x, low, high));
                }
            }
        },
    );
}

/// A wall takes the speed into it away; along it one goes on.
fn hold(places: &mut [f64], speeds: &mut [f64], walls: (bool, bool), bounds: (f64, f64)) {
    if !walls.0 && !walls.1 {
        return;
    }
    for (place, speed) in places.iter_mut().zip(speeds) {
        if walls.0 && *place < bounds.0 {
            *place = bounds.0;
            *speed = speed.max(0.0);
        }
        if walls.1 && *place > bounds.1 {
            *place = bounds.1;
            *speed = speed.min(0.0);
        }
    }
}
