//! When handlers run: in which phase, and whether two can meet in one; whether the moment can come at all.

use crate::program::*;

/// The part of a tick in which a handler runs, or goes on behind a wait.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Phase {
    Input,
    Clocks,
    Births,
    Think,
    Contact,
    Mail,
    Settle,
    Ends,
}

/// A stretch of a handler without a wait in it.
#[derive(Clone, Copy, Debug)]
pub(super) struct Moment<'p> {
    pub handler: &'p Handler,
    /// Whether it stands behind a wait: then it is due at some tick or other.
    pub later: bool,
}

/// Calls `see` for every statement of a handler with the moment it is done at.
pub(super) fn of_handler<'p>(handler: &'p Handler, see: &mut impl FnMut(&'p Stmt, Moment<'p>)) {
    let mut later = false;
    in_block(handler, &handler.body, &mut later, see);
}

fn in_block<'p>(
    handler: &'p Handler,
    body: &'p [Stmt],
    later: &mut bool,
    see: &mut impl FnMut(&'p Stmt, Moment<'p>),
) {
    for stmt in body {
        see(stmt, Moment { handler, later: *later });
        match &stmt.kind {
            StmtKind::Wait(_) | StmtKind::WaitUntil(_) | StmtKind::SpawnAs(..) => *later = true,
            StmtKind::If { then, otherwise, .. } => {
                let mut other = *later;
                in_block(handler, then, later, see);
                in_block(handler, otherwise, &mut other, see);
                *later |= other;
            }
            StmtKind::Repeat { body, .. } | StmtKind::Each { body, .. } => {
                in_block(handler, body, later, see);
            }
            StmtKind::Wave { body, .. } => {
                in_block(handler, body, later, see);
                *later = true;
            }
            StmtKind::Ray(ray) => {
                let mut other = *later;
                in_block(handler, &ray.then, later, see);
                in_block(handler, &ray.otherwise, &mut other, see);
                *later |= other;
            }
            _ => {}
        }
    }
}

impl Moment<'_> {
    pub fn phase(&self) -> Phase {
        if self.later {
            return Phase::Clocks;
        }
        match self.handler.event {
            Event::Press(_) | Event::Release(_) | Event::WhileHeld(..) => Phase::Input,
            Event::After(_) | Event::Every(_) | Event::Routine(_) => Phase::Clocks,
            Event::Birth => Phase::Births,
            Event::EveryTick | Event::When(_) | Event::Becoming(_) | Event::Quitting(_) => {
                Phase::Think
            }
            Event::Message { .. } => Phase::Mail,
            Event::Hurt | Event::Down => Phase::Settle,
            Event::End(_) => Phase::Ends,
            Event::Touch { .. } | Event::Part(_) | Event::WhileTouching(..) | Event::Impact(..) => {
                Phase::Contact
            }
            Event::Enter(_) | Event::Leave(_) | Event::Line(..) => Phase::Contact,
            Event::TouchEdge(_) | Event::LeaveArena => Phase::Contact,
        }
    }

    /// Whether both can come in one phase of one tick for one entity.
    pub fn meets(&self, other: &Moment, program: &Program) -> bool {
        self.phase() == other.phase()
            && together(self.handler.state, other.handler.state)
            && (self.later || other.later || self.events_meet(other, program))
    }

    fn events_meet(&self, other: &Moment, program: &Program) -> bool {
        let (a, b) = (self.handler, other.handler);
        // Clocks of one state, or of none, count from one tick.
        // A knob may be turned in the run: what depends on one is not known.
        let ticks = |time: &Expr| constant(time, &[]).map(|seconds| program.ticks(seconds));
        match (&a.event, &b.event) {
            (Event::After(one), Event::After(two)) if a.state == b.state => {
                ticks(one).zip(ticks(two)).is_none_or(|(one, two)| one == two)
            }
            (Event::After(once), Event::Every(period))
            | (Event::Every(period), Event::After(once))
                if a.state == b.state =>
            {
                ticks(once).zip(ticks(period)).is_none_or(|(once, period)| once % period == 0)
            }
            // A routine begins with the first tick and has waited for nothing.
            (Event::Routine(_), Event::After(time) | Event::Every(time))
            | (Event::After(time) | Event::Every(time), Event::Routine(_)) => {
                ticks(time).is_none_or(|ticks| ticks == 1)
            }
            (Event::Line(one, at), Event::Line(two, there)) => {
                let apart = matches!(
                    (one, two),
                    (LineSide::Below, LineSide::Above)
                        | (LineSide::Above, LineSide::Below)
                        | (LineSide::Left, LineSide::Right)
                        | (LineSide::Right, LineSide::Left)
                );
                !(apart && at.kind == there.kind)
            }
            (Event::Enter(one), Event::Leave(two)) | (Event::Leave(one), Event::Enter(two)) => {
                one != two
            }
            _ => true,
        }
    }
}

/// Whether two states can be the case at once: not two of one track.
fn together(a: Option<InState>, b: Option<InState>) -> bool {
    match (a, b) {
        (Some(a), Some(b)) => a.track != b.track || a.state == b.state,
        _ => true,
    }
}

/// Why the moment of a handler cannot come, if it cannot.
pub(super) fn never_comes(program: &Program, owner: KindId, event: &Event) -> Option<String> {
    // What is fixed is not held by walls.
    if held_by_nothing(program, owner) {
        return None;
    }
    let arena = &program.arena;
    let edges = [arena.edges.left, arena.edges.right, arena.edges.low, arena.edges.high];
    match event {
        Event::LeaveArena if !edges.contains(&Edge::Open) => {
            Some("no edge of the arena is open, so nothing leaves it".into())
        }
        Event::Line(side, at) => {
            let at = constant(at, &[])?;
            let (edge, beyond) = match (side, arena.y_up) {
                (LineSide::Left, _) => (arena.edges.left, at <= arena.low.0),
                (LineSide::Right, _) => (arena.edges.right, at >= arena.high.0),
                (LineSide::Below, true) => (arena.edges.low, at <= arena.low.1),
                (LineSide::Above, true) => (arena.edges.high, at >= arena.high.1),
                (LineSide::Below, false) => (arena.edges.high, at >= arena.high.1),
                (LineSide::Above, false) => (arena.edges.low, at <= arena.low.1),
            };
            let edge = match edge {
                Edge::Open => return None,
                Edge::Wrap => "is wrapped",
                Edge::Wall => "is a wall",
            };
            beyond.then(|| format!("the edge before this line {edge}, so nothing goes over it"))
        }
        _ => None,
    }
}

/// Whether edges leave members of a kind alone.
fn held_by_nothing(program: &Program, owner: KindId) -> bool {
    let edges = program.arena.edges;
    let walled = [edges.left, edges.right, edges.low, edges.high].contains(&Edge::Wall);
    walled && program.kinds[owner.index()].matter.fixed
}
