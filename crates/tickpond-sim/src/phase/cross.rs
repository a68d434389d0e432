//! Entering and leaving zones, crossing lines, touching edges, leaving the arena: conditions that hold now and did not after the
//! last tick. An entity that is born inside a zone counts as entering it.

use smallvec::SmallVec;
use tickpond_lang::program::{Arena, Body, Edge, Event as When, KindId, LineSide, Side};

use super::zones::{WORD, in_and_out};
use crate::code::Turn;
use crate::engine::Engine;
use crate::event::Phase;
use crate::state::{Columns, HeldAt, STRETCH, State};
use crate::wide::wide;

/// How near to an edge a body is at it, in u; solids keep a little room.
const AT_EDGE: f64 = 1.0e-6;
const SOLID_AT_EDGE: f64 = 0.03;

impl Engine {
    /// The rows that crossed something in this tick, by handler.
    pub(super) fn crossed(&mut self, state: &mut State) -> Vec<((KindId, usize), Vec<u32>)> {
        let mut crossed = Vec::new();
        for job in self.jobs(state, Phase::Contact, Turn::Cross) {
            let rows = self.crossed_by(state, job);
            if !rows.is_empty() {
                crossed.push((job, rows));
            }
        }
        crossed
    }

    fn crossed_by(&mut self, state: &mut State, job: (KindId, usize)) -> Vec<u32> {
        let compiled = self.compiled.clone();
        let program = &compiled.program;
        let handler = &compiled.kinds[job.0.index()].handlers[job.1];
        let Some(held) = handler.held else { return Vec::new() };
        if matches!(handler.event, When::LeaveArena)
            && let Some(bounds) =
                Bounds::of_body(&program.arena, &program.kinds[job.0.index()].body)
        {
            return left_arena(bounds, &mut state.kinds[job.0.index()], held);
        }
        if let When::Enter(zone) | When::Leave(zone) = handler.event {
            let enters = matches!(handler.event, When::Enter(_));
            let zone = &program.zones[zone.index()].shape;
            return in_and_out(&program.arena, zone, &mut state.kinds[job.0.index()], held, enters);
        }
        let rows = Engine::rows(state, job.0);
        let lines = match (&handler.event, &handler.period) {
            (When::Line(..), Some(at)) => self.values(state, Phase::Contact, job.0, at, &rows, 1),
            _ => Vec::new(),
        };
        let kind = &program.kinds[job.0.index()];
        let columns = &mut state.kinds[job.0.index()];
        let mut crossed = Vec::new();
        for (nth, row) in rows.into_iter().enumerate() {
            let at = row as usize;
            // What holds, a bit for each thing that is waited for.
            let is_so = match &handler.event {
                When::Line(side, _) => {
                    let line = lines.get(nth).map_or(0.0, |w| f64::from_bits(w[0]));
                    u64::from(is_beyond(&program.arena, *side, line, columns, at))
                }
                When::TouchEdge(side) => {
                    let gap = if kind.matter.solid { SOLID_AT_EDGE } else { AT_EDGE };
                    let edges = at_edges(&program.arena, &kind.body, gap, columns, at);
                    side.map_or(edges, |side| edges >> side as u64 & 1)
                }
                When::LeaveArena => {
                    let reach = extents(&kind.body, columns.heading[at]);
                    let bounds = Bounds::of(&program.arena, reach);
                    u64::from(bounds.outside(columns.x[at], columns.y[at]))
                }
                _ => 0,
            };
            let new = is_so & !held.of(&columns.bits, at);
            held.set(&mut columns.bits, at, is_so);
            // One that comes to a second edge while it is at another has come to one.
            if new != 0 {
                crossed.push(row);
            }
        }
        crossed
    }
}

/// Where the arena ends for a kind.
#[derive(Clone, Copy)]
pub(super) struct Bounds {
    low: (f64, f64),
    high: (f64, f64),
}

impl Bounds {
    /// For all of a kind; `None` if how far each reaches depends on where it faces.
    pub(super) fn of_body(arena: &Arena, body: &Body) -> Option<Bounds> {
        let turns = matches!(body, Body::Box { upright: false, .. });
        (!turns).then(|| Bounds::of(arena, extents(body, 0.0)))
    }

    /// For bodies that reach so far across and up, in u: an open edge, its margin, and a body's length.
    fn of(arena: &Arena, reach: (f64, f64)) -> Bounds {
        let past = (arena.margin + reach.0, arena.margin + reach.1);
        let bound = |edge: Edge, at: f64, none: f64| if edge == Edge::Open { at } else { none };
        let e = arena.edges;
        Bounds {
            low: (
                bound(e.left, arena.low.0 - past.0, f64::NEG_INFINITY),
                bound(e.low, arena.low.1 - past.1, f64::NEG_INFINITY),
            ),
            high: (
                bound(e.right, arena.high.0 + past.0, f64::INFINITY),
                bound(e.high, arena.high.1 + past.1, f64::INFINITY),
            ),
        }
    }

    /// Whether all of these places are inside.
    pub(super) fn hold(self, xs: &[f64], ys: &[f64]) -> bool {
        wide(
            #[inline(always)]
            move || {
                let places = xs.iter().zip(ys);
                !places.fold(false, |any, (x, y)| any | self.outside(*x, *y))
            },
        )
    }

    #[inline(always)]
    fn outside(&self, x: f64, y: f64) -> bool {
        (x < self.low.0) | (x > self.high.0) | (y < self.low.1) | (y > self.high.1)
    }
}

/// Rows of which something changed: which of them were inside and are not, or the other way about, and
/// which are outside; a bit for each.
struct Changes {
    first: usize,
    changed: u64,
    outside: u64,
}

/// The rows in which something changed. Of most stretches none is outside, or was: they are passed over.
fn changes(bounds: Bounds, columns: &Columns, held: HeldAt) -> SmallVec<[Changes; 8]> {
    let mut found = SmallVec::new();
    let old = columns.bits[held.word].stored();
    for first in (0..columns.len()).step_by(STRETCH) {
        let are_inside = columns.inside.get(first / STRETCH) == Some(&true);
        if !are_inside || old.is_some() {
            let rows = first..columns.len().min(first + STRETCH);
            let old = old.map_or(&[][..], |old| &old[rows.clone()]);
            let places = (&columns.x[rows.clone()], &columns.y[rows]);
            changes_in(bounds, places, (old, held.low), first, &mut found);
        }
    }
    found
}

/// The same for one stretch, which begins with the row `first`.
fn changes_in(
    bounds: Bounds,
    (xs, ys): (&[f64], &[f64]),
    (old, bit): (&[u64], u8),
    first: usize,
    found: &mut SmallVec<[Changes; 8]>,
) {
    wide(
        #[inline(always)]
        || {
            for (nth, (xs, ys)) in xs.chunks(WORD).zip(ys.chunks(WORD)).enumerate() {
                let places = xs.iter().zip(ys);
                let any = places.fold(false, |any, (x, y)| any | bounds.outside(*x, *y));
                let from = (nth * WORD).min(old.len());
                let old = &old[from..(from + WORD).min(old.len())];
                let was_any = old.iter().fold(0, |any, old| any | old) >> bit & 1 == 1;
                if any | was_any {
                    let (mut outside, mut was) = (0, 0);
                    for (at, (x, y)) in xs.iter().zip(ys).enumerate() {
                        outside |= u64::from(bounds.outside(*x, *y)) << at;
                    }
                    if was_any {
                        for (at, old) in old.iter().enumerate() {
                            was |= (old >> bit & 1) << at;
                        }
                    }
                    if outside != was {
                        let first = first + nth * WORD;
                        found.push(Changes { first, changed: outside ^ was, outside });
                    }
                }
            }
        },
    );
}

/// The rows that are outside an open edge now and were not before. The cost of the many that stay
/// inside is that of comparing two numbers each.
fn left_arena(bounds: Bounds, columns: &mut Columns, held: HeldAt) -> Vec<u32> {
    let mut left = Vec::new();
    for Changes { first, mut changed, outside } in changes(bounds, columns, held) {
        while changed != 0 {
            let at = changed.trailing_zeros();
            changed &= changed - 1;
            let row = first + at as usize;
            if !columns.is_active(row) {
                continue;
            }
            let is_outside = outside >> at & 1;
            held.set(&mut columns.bits, row, is_outside);
            if is_outside == 1 {
                left.push(row as u32);
            }
        }
    }
    left
}

fn is_beyond(arena: &Arena, side: LineSide, line: f64, columns: &Columns, row: usize) -> bool {
    let (x, y) = (columns.x[row], columns.y[row]);
    match (side, arena.y_up) {
        (LineSide::Left, _) => x < line,
        (LineSide::Right, _) => x > line,
        (LineSide::Below, true) | (LineSide::Above, false) => y < line,
        _ => y > line,
    }
}

/// How far a body that faces in a direction reaches from its place, across and up, in u.
pub(super) fn extents(body: &Body, heading: f64) -> (f64, f64) {
    match *body {
        Body::Box { half, upright: true } => half,
        Body::Box { half, .. } => {
            let (sin, cos) = crate::angle::sin_cos(heading);
            let (sin, cos) = (sin.abs(), cos.abs());
            (half.0 * cos + half.1 * sin, half.0 * sin + half.1 * cos)
        }
        _ => (body.reach(), body.reach()),
    }
}

/// The edges a body is at, a bit for each in the order of [`Side`].
fn at_edges(arena: &Arena, body: &Body, gap: f64, columns: &Columns, row: usize) -> u64 {
    let (x, y) = (columns.x[row], columns.y[row]);
    let (rx, ry) = extents(body, columns.heading[row]);
    let low_y = y - ry <= arena.low.1 + gap;
    let high_y = y + ry >= arena.high.1 - gap;
    let (bottom, top) = if arena.y_up { (low_y, high_y) } else { (high_y, low_y) };
    let left = x - rx <= arena.low.0 + gap;
    let right = x + rx >= arena.high.0 - gap;
    let sides =
        [(Side::Left, left), (Side::Right, right), (Side::Top, top), (Side::Bottom, bottom)];
    sides.into_iter().map(|(side, at)| u64::from(at) << side as u64).sum()
}
