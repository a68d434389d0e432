//! The code of kinds, handlers, spawners and conditions.

use tickpond_lang::Span;
use tickpond_lang::program::*;

use super::op::{Code, FilterCode, Reg, Word};
use crate::state::{HeldAt, Widths};

/// A condition taken apart, to tell which part of it is to blame.
#[derive(Clone, Debug)]
pub enum Part {
    /// All of these.
    All(Vec<Part>),
    /// One of these.
    Any(Vec<Part>),
    /// Not this.
    Not(Box<Part>),
    /// A comparison of two values.
    Compared {
        /// Whether it holds.
        holds: Code,
        /// What stands on its left, its value and type.
        left: (Span, Code, Ty),
        /// What stands on its right.
        right: (Span, Code, Ty),
        /// Whether it is `==`, without `+-`.
        is_equality: bool,
        /// Where all of it stands.
        span: Span,
        /// Those it reads by name, such as `midge#7`.
        reads: Vec<(KindId, u32)>,
    },
    /// Anything else that holds or does not, and those it reads by name.
    Plain(Code, Span, Vec<(KindId, u32)>),
}

impl Part {
    /// Whether any of it reads one by name: who is not there can be no proof.
    pub fn reads_any(&self) -> bool {
        match self {
            Part::All(parts) | Part::Any(parts) => parts.iter().any(Part::reads_any),
            Part::Not(inner) => inner.reads_any(),
            Part::Compared { reads, .. } | Part::Plain(_, _, reads) => !reads.is_empty(),
        }
    }
}

/// Those whose fields an expression reads by name.
pub(super) fn read_by_name(e: &Expr) -> Vec<(KindId, u32)> {
    let mut reads = Vec::new();
    tickpond_lang::program::walk::inside(e, &mut |e| {
        if let ExprKind::Of(of, _) = &e.kind
            && let ExprKind::Named(kind, number) = of.kind
        {
            reads.push((kind, number));
        }
    });
    reads
}

/// The code of a kind.
#[derive(Clone, Debug)]
pub struct KindCode {
    /// Words and clocks.
    pub widths: Widths,
    /// Hash of the name.
    pub name_hash: u64,
    /// The variables' first values: word, how many words, code.
    pub vars: Vec<(u16, u8, Code)>,
    /// Health at birth.
    pub health: Option<Code>,
    /// Handlers in the order of the roll: by head. Muted ones are left out.
    pub handlers: Vec<HandlerCode>,
    /// The messages it hears, ascending, and the places of the handlers that hear them.
    pub hears: Vec<(MessageId, usize)>,
    /// Whether anything asks where its members were before they moved: touch, or a zone.
    pub looks_back: bool,
    /// Whether anything waits for its members to leave the arena.
    pub leaves: bool,
    /// Whether its members have a body that turns: then it is noted how they faced before they moved.
    pub turns: bool,
    /// Whether something waits for its states to begin or end: only then it is noted which were seen.
    pub tells_states: bool,
    /// What a spawner does.
    pub spawner: Option<SpawnerCode>,
}

impl KindCode {
    /// The places of the handlers that hear a message, in the order of the roll.
    pub fn hearing(&self, message: MessageId) -> impl Iterator<Item = usize> + '_ {
        let first = self.hears.partition_point(|(heard, _)| *heard < message);
        self.hears[first..].iter().take_while(move |(m, _)| *m == message).map(|(_, at)| *at)
    }
}

/// A handler's code.
#[derive(Clone, Debug)]
pub struct HandlerCode {
    /// When it runs.
    pub event: Event,
    /// What it does.
    pub code: Code,
    /// What its draws are keyed by: kind and head.
    pub hash: u64,
    /// Its site.
    pub site: SiteId,
    /// First register of each local.
    pub locals: Vec<Reg>,
    /// The words kept in registers from the start, for firings in a row: register and word.
    pub cached: Vec<(Reg, Word)>,
    /// Whether it can wait.
    pub waits: bool,
    /// Its period, for clocks and held keys; else the value its head waits for: a condition, the
    /// coordinate of a line, a speed.
    pub period: Option<Code>,
    /// What must hold of the other party.
    pub filter: Option<FilterCode>,
    /// Its clock.
    pub clock: Option<u16>,
    /// The bits that tell whether what it waits for held before.
    pub held: Option<HeldAt>,
    /// The state it belongs to.
    pub state: Option<InState>,
    /// Whether it may be started again while it waits.
    pub overlapping: bool,
    /// Whether it hears its message while inactive, and only then.
    pub while_inactive: bool,
    /// The cause of the ends it asks for.
    pub cause: Cause,
    /// Whether nothing else that runs in its phase reads or writes what it writes: then that can take
    /// hold at once.
    pub alone: bool,
}

impl HandlerCode {
    /// The first register of a local.
    pub fn register(&self, local: LocalId) -> Reg {
        self.locals[local.index()]
    }
}

/// What a spawner does.
#[derive(Clone, Debug)]
pub struct SpawnerCode {
    /// Asks for the birth; local 0 is how many there is room for.
    pub make: HandlerCode,
    /// The period or the delay.
    pub period: Option<Code>,
    /// The rhythm, for its sort.
    pub rhythm: Rhythm,
    /// Most alive.
    pub keep_at_most: Option<Code>,
    /// How many it keeps alive, and the line that says so.
    pub keep: Option<(Code, SiteId)>,
    /// Most in all.
    pub at_most: Option<Code>,
    /// The age at which it begins.
    pub from: Option<Code>,
    /// What stops it for good.
    pub until: Option<Code>,
    /// Its clock.
    pub clock: u16,
}
