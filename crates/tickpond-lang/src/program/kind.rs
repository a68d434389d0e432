//! Kinds: what they are made of, and what makes them.

use super::event::Handler;
use super::expr::{Expr, Ty};
use super::ids::{KindId, SiteId, StateName, TagId, TrackName, VarName};
use super::stmt::Birth;
use crate::diagnostic::Span;

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

/// What a body is like to others.
#[derive(Clone, Debug, PartialEq)]
pub struct Matter {
    /// Whether it pushes and is pushed; else it only notices.
    pub solid: bool,
    /// Whether nothing pushes it.
    pub fixed: bool,
    /// Whether nothing that pushes it turns it.
    pub upright: bool,
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
            upright: false,
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
    /// The smallest distance from the position to the body's rim, in u.
    pub fn thinnest(&self) -> f64 {
        match *self {
            Body::None => 0.0,
            Body::Circle { radius } => radius,
            Body::Box { half, .. } => half.0.min(half.1),
        }
    }

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
