//! Handlers, what calls them, and causes of ends.

use super::cause::Cause;
use super::expr::{Expr, Ty};
use super::header::Side;
use super::ids::{InState, InputId, KindId, LocalId, MessageId, SiteId, ZoneId};
use super::stmt::Stmt;
use crate::diagnostic::Span;

/// When something is done, and what.
#[derive(Clone, Debug, PartialEq)]
pub struct Handler {
    /// When.
    pub event: Event,
    /// The head line as text, single-spaced: it names the handler in ties and in chance.
    pub head: String,
    /// Types and names of its locals, event values among them.
    pub locals: Vec<Local>,
    /// What is done.
    pub body: Vec<Stmt>,
    /// The behaviour it comes from; empty for the kind's own.
    pub part: String,
    /// The state it belongs to.
    pub state: Option<InState>,
    /// Whether it is switched off.
    pub muted: bool,
    /// Whether it may be started again while it waits.
    pub overlapping: bool,
    /// Whether it hears its message while inactive, and only then.
    pub while_inactive: bool,
    /// For counting its firings.
    pub site: SiteId,
    /// Head and body.
    pub span: Span,
}

/// A value that lives as long as one firing of a handler.
#[derive(Clone, Debug, PartialEq)]
pub struct Local {
    /// Its name.
    pub name: String,
    /// Its type.
    pub ty: Ty,
    /// Where it gets its name; empty if the text gives it none.
    pub span: Span,
}

/// The moment a handler waits for.
#[derive(Clone, Debug, PartialEq)]
pub enum Event {
    /// It was born.
    Birth,
    /// So long after its birth.
    After(Expr),
    /// Again and again.
    Every(Expr),
    /// On every tick.
    EveryTick,
    /// It began to touch one of these.
    Touch {
        /// Whether only the earliest of a tick counts.
        first: bool,
        /// Whom.
        other: Other,
    },
    /// It no longer touches one of these.
    Part(Other),
    /// It touches one of these: at once, and then every period as long as it does.
    WhileTouching(Other, Expr),
    /// It began to touch one of these faster than a speed.
    Impact(Other, Expr),
    /// It came into a zone.
    Enter(ZoneId),
    /// It went out of a zone.
    Leave(ZoneId),
    /// It went over a line.
    Line(LineSide, Expr),
    /// Its body came to an edge of the arena, or to this one.
    TouchEdge(Option<Side>),
    /// A condition has just become true.
    When(Expr),
    /// A state has begun.
    Becoming(InState),
    /// A state is over.
    Quitting(InState),
    /// Its health came to 0.
    Down,
    /// It is wholly past the arena's margin.
    LeaveArena,
    /// A key went down.
    Press(InputId),
    /// A key went up.
    Release(InputId),
    /// A key is down; fires at once and no sooner than the period after the last time.
    WhileHeld(InputId, Expr),
    /// A message came.
    Message {
        /// Which.
        message: MessageId,
        /// The locals that hold its values.
        params: Vec<LocalId>,
        /// The local that holds the sender.
        from: Option<LocalId>,
    },
    /// Its health went down.
    Hurt,
    /// It ends, by one of these causes; empty for any.
    End(Vec<Cause>),
    /// The pond's routine: begins at tick 1.
    Routine(String),
}

impl Event {
    /// Whether it comes when something turns true that was not so before: a place, or a condition.
    pub fn waits_for_change(&self) -> bool {
        self.change_bits() > 0
    }

    /// How many things it waits for to turn true: one for most, a side each for any edge.
    pub fn change_bits(&self) -> u8 {
        match self {
            Event::TouchEdge(None) => 4,
            Event::LeaveArena
            | Event::Enter(_)
            | Event::Leave(_)
            | Event::Line(..)
            | Event::TouchEdge(_)
            | Event::When(_) => 1,
            _ => 0,
        }
    }
}

/// Who a touch is with.
#[derive(Clone, Debug, PartialEq)]
pub struct Other {
    /// The kinds, ascending.
    pub kinds: Vec<KindId>,
    /// Whether its maker is left out for good.
    pub but_maker: bool,
    /// What must hold of the other.
    pub filter: Option<Expr>,
    /// The local that holds the other, or for an impact all there is to know of it.
    pub bind: Option<LocalId>,
}

/// The side of a line one goes over to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LineSide {
    /// Below a y, as it is seen.
    Below,
    /// Above a y, as it is seen.
    Above,
    /// Left of an x.
    Left,
    /// Right of an x.
    Right,
}
