//! The checked program: what the tick plays. All names are resolved, all units are base units
//! (seconds, arena units, degrees), all types have been checked.

mod expr;
mod fold;
mod stmt;
pub mod walk;

pub use expr::{
    BinaryOp, Expr, ExprKind, Field, Function, MailStat, Query, QueryKind, RayPart, Stat, Tally,
    TextPart, Ty,
};
pub use fold::constant;
pub use stmt::{Birth, Blast, Falloff, Filter, Pick, Ray, Stmt, StmtKind, Target, Where, Whom};

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
    /// A zone, by its place in [`Program::zones`].
    ZoneId,
    /// A name of a state, by its place in [`Program::state_names`].
    StateName,
    /// A name of a track of states, by its place in [`Program::track_names`]; 0 is a kind's own.
    TrackName,
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
    /// What keeps a run from going out of hand.
    pub limits: Limits,
    /// What the view shows, if the pond has one.
    pub view: Option<View>,
    /// What pulls those with weight, in u/s2.
    pub gravity: (f64, f64),
    /// Tunable values, in the order of the text.
    pub knobs: Vec<Knob>,
    /// Groups of named places.
    pub spots: Vec<Spots>,
    /// Named stretches of the arena.
    pub zones: Vec<Zone>,
    /// Names of all states of all tracks.
    pub state_names: Vec<String>,
    /// Names of all tracks; the first is empty and stands for a kind's own.
    pub track_names: Vec<String>,
    /// Input written down.
    pub tapes: Vec<Tape>,
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
    /// Whether an expectation waits for a message to be sent or heard.
    pub fn expects_mail(&self) -> bool {
        self.expects.iter().any(|expect| expect.check.is_about_mail())
    }

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

/// What keeps a run from going out of hand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Most entities that may live at once.
    pub entities: usize,
    /// Most births in a tick.
    pub births: u64,
    /// Most rounds of births in a tick.
    pub rounds: u32,
    /// Most jumps back within one firing.
    pub steps: u32,
}

impl Default for Limits {
    fn default() -> Limits {
        Limits { entities: 50_000, births: 1_000_000, rounds: 32, steps: 100_000 }
    }
}

/// The part of the arena the player sees.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct View {
    /// Half the width and half the height, in u.
    pub half: (f64, f64),
    /// Its middle at the opening.
    pub at: (f64, f64),
    /// The kind whose oldest it follows.
    pub follows: Option<KindId>,
}

/// A named stretch of the arena.
#[derive(Clone, Debug, PartialEq)]
pub struct Zone {
    /// Its name.
    pub name: String,
    /// Where it is.
    pub shape: ZoneShape,
}

/// Where a zone is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum ZoneShape {
    /// An upright box, from its corner at the smallest x and y to the opposite one.
    Box {
        /// Smallest x and y.
        low: (f64, f64),
        /// Largest x and y.
        high: (f64, f64),
    },
    /// A circle.
    Circle {
        /// Its middle.
        at: (f64, f64),
        /// Its radius in u.
        radius: f64,
    },
}

/// Input written down.
#[derive(Clone, Debug, PartialEq)]
pub struct Tape {
    /// Its name.
    pub name: String,
    /// Whether it is played unless told otherwise.
    pub played: bool,
    /// What is done, in the order of the text.
    pub steps: Vec<TapeStep>,
}

/// One line of a tape, its times in ticks.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TapeStep {
    /// Which input.
    pub input: InputId,
    /// The tick it begins in.
    pub at: u64,
    /// What is done.
    pub act: TapeAct,
}

/// What a line of a tape does.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum TapeAct {
    /// Pressed for one tick, so many times, so many ticks apart.
    Tap {
        /// How often.
        times: u32,
        /// Ticks from one to the next.
        every: u64,
    },
    /// Held up to, not with, this tick.
    Hold {
        /// The tick in which it is released.
        until: u64,
    },
    /// The pointer is moved to a place.
    Move {
        /// x and y in u.
        to: (f64, f64),
    },
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
    /// The middle.
    pub fn middle(&self) -> (f64, f64) {
        ((self.low.0 + self.high.0) / 2.0, (self.low.1 + self.high.1) / 2.0)
    }

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
    /// The key's name as written: `space`, `c`, `left`; empty for a pointer.
    pub key: String,
    /// Whether it is a pointer: a place, not a key.
    pub pointer: bool,
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
    /// What the body is like to others.
    pub matter: Matter,
    /// Whether turning leaves its velocity alone.
    pub drifts: bool,
    /// Its tracks of states: its own first, if it has one, then those of its behaviours by name.
    pub tracks: Vec<Track>,
    /// Health at birth; `None` if it has none.
    pub health: Option<Expr>,
    /// Its variables, a spawner's parameters first.
    pub vars: Vec<Var>,
    /// Its mounts.
    pub mounts: Vec<Mount>,
    /// Its handlers, in the order of the text.
    pub handlers: Vec<Handler>,
}

/// A track of states. It begins at the first.
#[derive(Clone, Debug, PartialEq)]
pub struct Track {
    /// Its name: none for a kind's own, else the behaviour's.
    pub name: TrackName,
    /// Its states, each with the place of its name in the text.
    pub states: Vec<(StateName, Span)>,
}

/// A state of a kind: the track's place in [`Kind::tracks`] and the state's in that track.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct InState {
    /// The track.
    pub track: usize,
    /// The state.
    pub state: usize,
}

/// What a body is like to others.
#[derive(Clone, Debug, PartialEq)]
pub struct Matter {
    /// Whether it pushes and is pushed; else it only notices.
    pub solid: bool,
    /// Whether nothing pushes it.
    pub fixed: bool,
    /// Whether gravity leaves it alone.
    pub weightless: bool,
    /// How much of a speed comes back from a bounce, `0.0..=1.0` as a rule.
    pub bounce: f64,
    /// Friction, 0 for none.
    pub friction: f64,
    /// Mass, 1 if not given.
    pub weight: f64,
    /// How much of its velocity it loses, per s.
    pub drag: f64,
    /// Kinds it neither touches nor pushes, ascending.
    pub passes: Vec<KindId>,
}

impl Default for Matter {
    fn default() -> Matter {
        Matter {
            solid: false,
            fixed: false,
            weightless: false,
            bounce: 0.0,
            friction: 0.5,
            weight: 1.0,
            drag: 0.0,
            passes: Vec::new(),
        }
    }
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
    /// How many of its own it keeps alive.
    pub keep: Option<(Expr, SiteId)>,
    /// Most it ever makes.
    pub at_most: Option<Expr>,
    /// The age at which it begins.
    pub from: Option<Expr>,
    /// What stops it for good.
    pub until: Option<Expr>,
    /// Whether it is switched off.
    pub muted: bool,
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

/// The shape of a kind's body.
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
        matches!(
            self,
            Event::LeaveArena
                | Event::Enter(_)
                | Event::Leave(_)
                | Event::Line(..)
                | Event::TouchEdge(_)
                | Event::When(_)
        )
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
    /// The tape it is judged on; on any run if none.
    pub tape: Option<String>,
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
    LivesAtMost(Those, Expr),
    /// Each of these that ends has lived at least so long.
    LivesAtLeast(Those, Expr),
    /// Each of these that ends does so by one of these causes.
    EndsBy(Those, Vec<Cause>),
    /// Each of these is hurt at most so many times.
    HurtAtMost(Those, Expr),
}

impl Check {
    /// Whether it waits for a message to be sent or heard.
    pub fn is_about_mail(&self) -> bool {
        let (Check::AfterWithin { event, .. } | Check::AfterFor { event, .. }) = self else {
            return false;
        };
        matches!(event, Happening::Sent(_) | Happening::Heard(_))
    }
}

/// Entities an expectation is about.
#[derive(Clone, Debug, PartialEq)]
pub struct Those {
    /// Their kinds, ascending.
    pub kinds: Vec<KindId>,
    /// What must hold of them at the end of the tick of their birth.
    pub condition: Option<Expr>,
}

/// Something that happens, for checks.
#[derive(Clone, Debug, PartialEq)]
pub enum Happening {
    /// One of these is born.
    Born(Vec<KindId>),
    /// One of these ends, by one of these causes (empty for any).
    Ends(Vec<KindId>, Vec<Cause>),
    /// One of these is hurt.
    Hurt(Vec<KindId>),
    /// A message is sent.
    Sent(MessageId),
    /// A message is heard.
    Heard(MessageId),
    /// An input is pressed.
    Press(InputId),
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
