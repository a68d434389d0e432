//! The checked program: what the tick plays. All names are resolved, all units are base units
//! (seconds, arena units, degrees), all types have been checked.

mod expr;
mod fold;
mod stmt;

pub use expr::{BinaryOp, Expr, ExprKind, Field, Function, Query, QueryKind, Stat, TextPart, Ty};
pub use fold::constant;
pub use stmt::{Birth, Pick, Stmt, StmtKind, Target, Where};

use std::sync::Arc;

use crate::diagnostic::Span;
use crate::lines::{LineCol, LineIndex};
use crate::units::Dim;

macro_rules! ids {
    ($($(#[$doc:meta])* $name:ident,)*) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, PartialOrd, Ord)]
        pub struct $name(pub u32);

        impl $name {
            /// The position in the list it counts.
            pub fn index(self) -> usize {
                self.0 as usize
            }
        }
    )*};
}

ids! {
    /// A kind, by its place in [`Program::kinds`].
    KindId,
    /// A tag, by its place in [`Program::tags`].
    TagId,
    /// A knob, by its place in [`Program::knobs`].
    KnobId,
    /// A spot group, by its place in [`Program::spots`].
    SpotsId,
    /// An input, by its place in [`Program::inputs`].
    InputId,
    /// A message, by its place in [`Program::messages`].
    MessageId,
    /// A name of a variable, by its place in [`Program::var_names`].
    VarName,
    /// A local of a handler, by its place in [`Handler::locals`].
    LocalId,
    /// A handler or statement, by its place in [`Program::sites`].
    SiteId,
}

/// The kind that stands for the pond itself: it has one member, born before all others.
pub const POND: KindId = KindId(0);

/// A whole pond, ready to be played.
#[derive(Clone, Debug, PartialEq)]
pub struct Program {
    /// The text it came from.
    pub text: Arc<str>,
    /// Where the text's lines begin.
    pub lines: LineIndex,
    /// The title in the header.
    pub title: String,
    /// The arena.
    pub arena: Arena,
    /// Ticks per second, 1..=1000.
    pub rate: f64,
    /// Most entities that may live at once.
    pub limit: usize,
    /// Tunable values, in the order of the text.
    pub knobs: Vec<Knob>,
    /// Groups of named places.
    pub spots: Vec<Spots>,
    /// What the player can do.
    pub inputs: Vec<Input>,
    /// The messages.
    pub messages: Vec<Message>,
    /// Names of all tags.
    pub tags: Vec<String>,
    /// Names of all variables of all kinds.
    pub var_names: Vec<String>,
    /// [`POND`] first, then kinds and spawners in the order of the text.
    pub kinds: Vec<Kind>,
    /// What is there at tick 0.
    pub places: Vec<Placed>,
    /// Values recorded on every tick.
    pub watches: Vec<Watch>,
    /// The expectations.
    pub expects: Vec<Expect>,
    /// Every handler and statement, for counting and for telling the line.
    pub sites: Vec<Site>,
}

impl Program {
    /// Line and column of a site.
    pub fn place_of(&self, site: SiteId) -> LineCol {
        self.lines.line_col(&self.text, self.sites[site.index()].span.start)
    }

    /// The line of a site, from 1.
    pub fn line_of(&self, site: SiteId) -> u32 {
        self.lines.line(self.sites[site.index()].span.start)
    }

    /// The kind with this name.
    pub fn kind_named(&self, name: &str) -> Option<KindId> {
        let at = self.kinds.iter().skip(1).position(|k| k.name == name)?;
        Some(KindId(at as u32 + 1))
    }

    /// The kinds whose members are counted and drawn: neither the pond nor spawners.
    pub fn entity_kinds(&self) -> impl Iterator<Item = (KindId, &Kind)> {
        let all = self.kinds.iter().enumerate().map(|(i, k)| (KindId(i as u32), k));
        all.filter(|(_, k)| matches!(k.role, Role::Entity))
    }

    /// The kind's variable with this name.
    pub fn var_of(&self, kind: KindId, name: VarName) -> Option<&Var> {
        self.kinds[kind.index()].vars.iter().find(|v| v.name == name)
    }

    /// How many ticks a time comes to: rounded to the nearest, never under one.
    pub fn ticks(&self, seconds: f64) -> u64 {
        ticks(seconds, self.rate)
    }
}

/// How many ticks `seconds` come to at `rate` per second: rounded to the nearest, never under one.
pub fn ticks(seconds: f64, rate: f64) -> u64 {
    // `as` takes a number out of range to the nearest end, and what is no number to 0.
    ((seconds * rate + 0.5).floor() as u64).max(1)
}

/// The arena: its extent, its axes and what its edges do.
#[derive(Clone, Debug, PartialEq)]
pub struct Arena {
    /// Smallest x and y.
    pub low: (f64, f64),
    /// Largest x and y.
    pub high: (f64, f64),
    /// Whether y grows upwards on the screen.
    pub y_up: bool,
    /// What happens at each edge.
    pub edges: Edges,
    /// How far beyond the edge an entity must be, wholly, to have left, in u.
    pub margin: f64,
}

impl Arena {
    /// Width and height.
    pub fn size(&self) -> (f64, f64) {
        (self.high.0 - self.low.0, self.high.1 - self.low.1)
    }
}

/// What the four edges do. Opposite edges wrap together or not at all.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Edges {
    /// The edge at the smallest x.
    pub left: Edge,
    /// The edge at the largest x.
    pub right: Edge,
    /// The edge at the smallest y.
    pub low: Edge,
    /// The edge at the largest y.
    pub high: Edge,
}

/// What happens at an edge.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Edge {
    /// One flies on.
    Open,
    /// One comes in again on the other side.
    Wrap,
    /// One is held.
    Wall,
}

/// A side of the arena as it is seen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "four sides")]
pub enum Side {
    Left,
    Right,
    Top,
    Bottom,
}

/// A tunable value.
#[derive(Clone, Debug, PartialEq)]
pub struct Knob {
    /// Its name.
    pub name: String,
    /// What it measures.
    pub dim: Dim,
    /// The value in the text, in base units.
    pub value: f64,
    /// The unit as written in the text; empty for a bare number.
    pub unit: String,
    /// How many base units that unit is.
    pub factor: f64,
    /// Smallest and largest value, in base units.
    pub range: Option<(f64, f64)>,
    /// What it is for.
    pub help: String,
    /// Where its value stands in the text.
    pub value_span: Span,
}

impl Knob {
    /// A value in base units as a number of the unit in the text.
    pub fn in_unit(&self, base: f64) -> f64 {
        // Division brings back a decimal that multiplication by the factor had made inexact.
        base / self.factor
    }
}

/// A group of places.
#[derive(Clone, Debug, PartialEq)]
pub struct Spots {
    /// Its name.
    pub name: String,
    /// The places: x, y in u and, if given, a facing in deg.
    pub spots: Vec<Spot>,
}

/// One place of a group.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spot {
    /// x and y in u.
    pub at: (f64, f64),
    /// Facing in deg, if given.
    pub facing: Option<f64>,
}

/// Something the player can press.
#[derive(Clone, Debug, PartialEq)]
pub struct Input {
    /// Its name.
    pub name: String,
    /// The key's name as written: `space`, `c`, `left`.
    pub key: String,
}

/// A message and the values it carries.
#[derive(Clone, Debug, PartialEq)]
pub struct Message {
    /// Its name.
    pub name: String,
    /// Names and types of its values.
    pub params: Vec<(String, Ty)>,
}

/// A template of entities, a spawner, or the pond itself.
#[derive(Clone, Debug, PartialEq)]
pub struct Kind {
    /// Its name.
    pub name: String,
    /// Where the name stands.
    pub name_span: Span,
    /// Pond, spawner or entity.
    pub role: Role,
    /// Its tags, ascending.
    pub tags: Vec<TagId>,
    /// How it is drawn.
    pub look: Look,
    /// Its body.
    pub body: Body,
    /// Health at birth; `None` if it has none.
    pub health: Option<Expr>,
    /// Its variables, a spawner's parameters first.
    pub vars: Vec<Var>,
    /// Its mounts.
    pub mounts: Vec<Mount>,
    /// Its handlers, in the order of the text.
    pub handlers: Vec<Handler>,
}

/// What a kind stands for.
#[derive(Clone, Debug, PartialEq)]
pub enum Role {
    /// The pond itself.
    Pond,
    /// Bodiless, and maker of what it makes.
    Spawner(Box<SpawnerRule>),
    /// Entities.
    Entity,
}

/// What a spawner makes and when.
#[derive(Clone, Debug, PartialEq)]
pub struct SpawnerRule {
    /// What is born, how and where.
    pub birth: Birth,
    /// Line and count of the birth.
    pub site: SiteId,
    /// The rhythm.
    pub rhythm: Rhythm,
    /// Most of its own that may live at once.
    pub keep_at_most: Option<Expr>,
    /// Most it ever makes.
    pub at_most: Option<Expr>,
}

/// When a spawner makes something.
#[derive(Clone, Debug, PartialEq)]
pub enum Rhythm {
    /// Once, at its first tick.
    Once,
    /// Again and again.
    Every {
        /// The period, read anew each time.
        period: Expr,
        /// Whether the first birth is not after one period but at once.
        at_once: bool,
    },
    /// At once, and a delay after the end of what it made last.
    AgainAfterEnd(Expr),
}

/// How a kind is drawn.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Look {
    /// One character.
    pub glyph: Option<char>,
    /// The name of a colour of the palette.
    pub colour: Option<String>,
}

/// A kind's body. All bodies of today are sensors: they notice, and never push.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Body {
    /// None: it touches nothing.
    None,
    /// A circle around the position.
    Circle {
        /// Radius in u.
        radius: f64,
    },
    /// A box around the position, turned by the heading unless upright.
    Box {
        /// Half the width and half the height in u.
        half: (f64, f64),
        /// Whether it never turns.
        upright: bool,
    },
}

impl Body {
    /// The radius in u of the circle around the position that holds the whole body.
    pub fn reach(&self) -> f64 {
        match *self {
            Body::None => 0.0,
            Body::Circle { radius } => radius,
            Body::Box { half, .. } => (half.0 * half.0 + half.1 * half.1).sqrt(),
        }
    }
}

/// A variable of a kind.
#[derive(Clone, Debug, PartialEq)]
pub struct Var {
    /// Its name.
    pub name: VarName,
    /// Its type.
    pub ty: Ty,
    /// Its value at birth.
    pub init: Expr,
    /// Where its name stands.
    pub span: Span,
}

/// A place on a body that moves and turns with it.
#[derive(Clone, Debug, PartialEq)]
pub struct Mount {
    /// Its name.
    pub name: String,
    /// x along the heading and y to its left (with y up), in u.
    pub at: (f64, f64),
    /// Facing in deg, relative to the owner's heading.
    pub facing: f64,
}

/// Something placed at tick 0.
#[derive(Clone, Debug, PartialEq)]
pub struct Placed {
    /// What, where and how.
    pub birth: Birth,
    /// Its line.
    pub site: SiteId,
}

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
    /// Whether it is switched off.
    pub muted: bool,
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
    /// It began to touch one of these kinds.
    Touch {
        /// Whether only the earliest of a tick counts.
        first: bool,
        /// The kinds, ascending.
        kinds: Vec<KindId>,
        /// Whether its maker is left out for good.
        but_maker: bool,
        /// The local that holds the other.
        other: Option<LocalId>,
    },
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

/// Why an entity ended. The order is the one that settles ties of a phase.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, PartialOrd, Ord)]
#[allow(missing_docs, reason = "docs/language.md tells what each stands for")]
pub enum Cause {
    Damage,
    Impact,
    Touch,
    Zone,
    Edge,
    Line,
    Replaced,
    Timer,
    Script,
    Owner,
    Limit,
}

impl Cause {
    /// All causes, in their order.
    pub const ALL: [Cause; 11] = [
        Cause::Damage,
        Cause::Impact,
        Cause::Touch,
        Cause::Zone,
        Cause::Edge,
        Cause::Line,
        Cause::Replaced,
        Cause::Timer,
        Cause::Script,
        Cause::Owner,
        Cause::Limit,
    ];

    /// The word for it.
    pub fn name(self) -> &'static str {
        match self {
            Cause::Damage => "damage",
            Cause::Impact => "impact",
            Cause::Touch => "touch",
            Cause::Zone => "zone",
            Cause::Edge => "edge",
            Cause::Line => "line",
            Cause::Replaced => "replaced",
            Cause::Timer => "timer",
            Cause::Script => "script",
            Cause::Owner => "owner",
            Cause::Limit => "limit",
        }
    }

    /// The cause with this name.
    pub fn named(name: &str) -> Option<Cause> {
        Cause::ALL.into_iter().find(|c| c.name() == name)
    }
}

/// A value recorded on every tick.
#[derive(Clone, Debug, PartialEq)]
pub struct Watch {
    /// Its name.
    pub name: String,
    /// Its value: a number or a truth value.
    pub value: Expr,
}

/// Something that must hold.
#[derive(Clone, Debug, PartialEq)]
pub struct Expect {
    /// The words in quotes.
    pub words: String,
    /// What must hold, and when.
    pub check: Check,
    /// Where it stands.
    pub span: Span,
}

/// What must hold, and when. Times are constant but for knobs.
#[derive(Clone, Debug, PartialEq)]
pub enum Check {
    /// On every tick.
    Always(Expr),
    /// On no tick.
    Never(Expr),
    /// At this time.
    At(Expr, Expr),
    /// At some tick up to this time.
    By(Expr, Expr),
    /// On every tick of a span; without an end, from then on.
    From(Expr, Option<Expr>, Expr),
    /// On the last tick.
    InTheEnd(Expr),
    /// After each event, at some tick of a span.
    AfterWithin {
        /// The event.
        event: Happening,
        /// Start of the span after the event.
        low: Option<Expr>,
        /// End of the span after the event.
        high: Expr,
        /// What must hold.
        holds: Expr,
    },
    /// After each event, on every tick for a time.
    AfterFor {
        /// The event.
        event: Happening,
        /// How long.
        time: Expr,
        /// What must hold.
        holds: Expr,
    },
    /// Each of these lives at most so long.
    LivesAtMost(Vec<KindId>, Expr),
    /// Each of these that ends has lived at least so long.
    LivesAtLeast(Vec<KindId>, Expr),
    /// Each of these that ends does so by one of these causes.
    EndsBy(Vec<KindId>, Vec<Cause>),
}

/// Something that happens, for checks.
#[derive(Clone, Debug, PartialEq)]
pub enum Happening {
    /// One of these is born.
    Born(Vec<KindId>),
    /// One of these ends, by one of these causes (empty for any).
    Ends(Vec<KindId>, Vec<Cause>),
    /// This turns true.
    Turns(Expr),
}

/// A handler or a statement in the text.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Site {
    /// Its first line's stretch of the text.
    pub span: Span,
    /// The kind it belongs to.
    pub kind: KindId,
    /// Whether it is a handler's head.
    pub is_handler: bool,
}
