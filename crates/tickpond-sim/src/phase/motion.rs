//! Velocities move, spins turn, edges wrap or hold.

use tickpond_lang::program::{Arena, Body, Edge, Kind, Role};

use super::cross::{Bounds, extents};
use super::writes::turn;
use crate::angle;
use crate::engine::Engine;
use crate::event::{Event, Guard, Stopped};
use crate::space;
use crate::state::{Clock, Columns, STRETCH, State};
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
            columns.old_heading.clear();
            if code.turns {
                columns.old_heading.note(&columns.heading);
            }
            if kind.matter.solid && !kind.matter.fixed {
                // The solver moves it; only where it was is noted here.
                columns.old_x.note(&columns.x);
                columns.old_y.note(&columns.y);
                forget_stretches(columns);
                continue;
            }
            pull(columns, kind, program.gravity, step);
            spin(columns, step, kind.drifts);
            let bounds = Bounds::of_body(&program.arena, &kind.body).filter(|_| code.leaves);
            let fine = advance(columns, step, (code.looks_back, bounds), &program.arena);
            // What is fixed moves only as its own velocity says.
            if !kind.matter.fixed {
                walls(columns, &program.arena, &kind.body);
            }
            if !fine {
                let tick = state.tick;
                state.stopped.get_or_insert(Stopped::once(Guard::NotFinite, tick, None));
            }
        }
        if state.solids.is_some() {
            self.solve(state);
        }
        self.carry_attached(state);
        if !state.attached.is_empty() {
            state.kinds.iter_mut().for_each(forget_stretches);
        }
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
        if columns.is_active(row) {
            columns.vx[row] = (columns.vx[row] + pull.0) * slower + 0.0;
            columns.vy[row] = (columns.vy[row] + pull.1) * slower + 0.0;
        }
    }
}

/// Turns what spins, and its velocity with it unless it drifts.
fn spin(columns: &mut Columns, step: f64, drifts: bool) {
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
}

/// Moves every row, over the seam where the arena wraps, and notes what anything asks for: where it was,
/// whether it is inside bounds; false if one would have left all numbers behind, which then stays.
fn advance(
    columns: &mut Columns,
    step: f64,
    (looks_back, bounds): (bool, Option<Bounds>),
    arena: &Arena,
) -> bool {
    let (wrap_x, wrap_y) = space::wraps(arena);
    columns.old_x.clear();
    columns.old_y.clear();
    forget_stretches(columns);
    let rests = columns.rests_since.stored().filter(|_| columns.resting_count > 0);
    let mut all_fine = true;
    let stretches = columns.x.chunks_mut(STRETCH).zip(columns.y.chunks_mut(STRETCH));
    let speeds = columns.vx.chunks(STRETCH).zip(columns.vy.chunks(STRETCH));
    for (nth, ((xs, ys), (vxs, vys))) in stretches.zip(speeds).enumerate() {
        if looks_back {
            // Here, as long as they are at hand: many do not stay in the cache.
            columns.old_x.note_more(xs);
            columns.old_y.note_more(ys);
            columns.farthest.note_more(&[fastest(vxs, vys) * step]);
        }
        if !stand_still(vxs, vys) {
            all_fine &= match rests.map(|rests| &rests[nth * STRETCH..]) {
                None => move_all(xs, ys, (vxs, vys), step, |_| false),
                Some(rests) => move_all(xs, ys, (vxs, vys), step, |at| rests[at] != Clock::NEVER),
            };
        }
        if wrap_x {
            wrap(xs, arena.low.0, arena.high.0);
        }
        if wrap_y {
            wrap(ys, arena.low.1, arena.high.1);
        }
        if let Some(bounds) = bounds {
            columns.inside.note_more(&[bounds.hold(xs, ys)]);
        }
    }
    all_fine
}

/// Forgets what is known of whole stretches: it does not hold of those that are moved in another way.
fn forget_stretches(columns: &mut Columns) {
    columns.inside.clear();
    columns.farthest.clear();
}

/// The largest speed along an axis.
fn fastest(vxs: &[f64], vys: &[f64]) -> f64 {
    wide(
        #[inline(always)]
        move || {
            // Beside one another: one alone would wait for each comparison before the next.
            let mut most = [0.0; 16];
            for (vxs, vys) in vxs.chunks(16).zip(vys.chunks(16)) {
                for (most, (vx, vy)) in most.iter_mut().zip(vxs.iter().zip(vys)) {
                    let speed = if vx.abs() > vy.abs() { vx.abs() } else { vy.abs() };
                    *most = if speed > *most { speed } else { *most };
                }
            }
            most.into_iter().fold(0.0, f64::max)
        },
    )
}

/// Whether none of these moves: many kinds never do.
fn stand_still(vxs: &[f64], vys: &[f64]) -> bool {
    // Of those that do move, one look is enough.
    if vxs.first().is_some_and(|vx| *vx != 0.0) || vys.first().is_some_and(|vy| *vy != 0.0) {
        return false;
    }
    wide(
        #[inline(always)]
        move || vxs.iter().zip(vys).fold(true, |all, (vx, vy)| all & (*vx == 0.0) & (*vy == 0.0)),
    )
}

/// Moves all rows that do not rest, side by side; whether all come to finite numbers. The others stay.
fn move_all(
    xs: &mut [f64],
    ys: &mut [f64],
    (vxs, vys): (&[f64], &[f64]),
    step: f64,
    rests: impl Fn(usize) -> bool,
) -> bool {
    wide(
        #[inline(always)]
        move || {
            let count = xs.len();
            let (ys, vxs, vys) = (&mut ys[..count], &vxs[..count], &vys[..count]);
            let mut all_fine = true;
            for at in 0..count {
                let (new_x, new_y) = (xs[at] + vxs[at] * step + 0.0, ys[at] + vys[at] * step + 0.0);
                let fine = new_x.is_finite() & new_y.is_finite();
                let moves = fine & !rests(at);
                xs[at] = if moves { new_x } else { xs[at] };
                ys[at] = if moves { new_y } else { ys[at] };
                all_fine &= fine;
            }
            all_fine
        },
    )
}

/// Holds bodies inside where the arena has walls.
fn walls(columns: &mut Columns, arena: &Arena, body: &Body) {
    let e = arena.edges;
    let across = (e.left == Edge::Wall, e.right == Edge::Wall);
    let up = (e.low == Edge::Wall, e.high == Edge::Wall);
    if !(across.0 || across.1 || up.0 || up.1) {
        return;
    }
    // Who was put behind a wall comes back at once, from however far.
    columns.farthest.clear();
    let (low, high) = (arena.low, arena.high);
    if let Body::Box { upright: false, .. } = body {
        // How far each reaches depends on where it faces.
        for row in 0..columns.len() {
            let reach = extents(body, columns.heading[row]);
            let (x, vx) = (&mut columns.x[row], &mut columns.vx[row]);
            hold_one(x, vx, across, (low.0 + reach.0, high.0 - reach.0));
            let (y, vy) = (&mut columns.y[row], &mut columns.vy[row]);
            hold_one(y, vy, up, (low.1 + reach.1, high.1 - reach.1));
        }
        return;
    }
    let reach = extents(body, 0.0);
    hold(&mut columns.x, &mut columns.vx, across, (low.0 + reach.0, high.0 - reach.0));
    hold(&mut columns.y, &mut columns.vy, up, (low.1 + reach.1, high.1 - reach.1));
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
        hold_one(place, speed, walls, bounds);
    }
}

fn hold_one(place: &mut f64, speed: &mut f64, walls: (bool, bool), bounds: (f64, f64)) {
    if walls.0 && *place < bounds.0 {
        *place = bounds.0;
        *speed = speed.max(0.0);
    }
    if walls.1 && *place > bounds.1 {
        *place = bounds.1;
        *speed = speed.min(0.0);
    }
}
