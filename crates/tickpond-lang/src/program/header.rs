//! What the header says: arena, edges, limits, view; and zones.

use super::ids::KindId;

/// What keeps a run from going out of hand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Most entities that may live at once.
    pub entities: usize,
    /// Most births in a tick.
    pub births: u64,
    /// Most rounds of births in a tick.
    pub rounds: u32,
    /// Most steps within one firing: how often its loops go back.
    pub steps: u32,
    /// Most steps in a tick, of all firings together.
    pub steps_in_all: u64,
    /// Most births that are asked for and still to come.
    pub waiting: u64,
    /// Most letters in a tick, one for each addressee.
    pub letters: u64,
    /// Most requests in a tick: damage, pushes, ends and all else that is asked for.
    pub requests: u64,
    /// Most bytes of text in a tick: what is said, and labels of births.
    pub text: u64,
    /// Most looks in a tick: how many are looked at by questions, as they are asked.
    pub looks: u64,
    /// Most pairs of bodies that touch at once.
    pub touches: u64,
}

impl Limits {
    /// The limits of a pond that sets but this one: the others grow with it.
    pub fn for_entities(entities: usize) -> Limits {
        let for_each = |count: u64| count * (entities as u64).max(50_000);
        Limits {
            entities,
            births: 1_000_000,
            rounds: 32,
            steps: 100_000,
            steps_in_all: for_each(200),
            waiting: for_each(10),
            letters: for_each(20),
            requests: for_each(20),
            text: for_each(100),
            looks: for_each(10_000),
            touches: for_each(10),
        }
    }
}

impl Default for Limits {
    fn default() -> Limits {
        Limits::for_entities(50_000)
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
    /// How much of a speed comes back from its walls, `0.0..=1.0`.
    pub bounce: f64,
    /// The friction of its walls.
    pub friction: f64,
}

impl Arena {
    /// The middle.
    pub fn middle(&self) -> (f64, f64) {
        ((self.low.0 + self.high.0) / 2.0, (self.low.1 + self.high.1) / 2.0)
    }

    /// Its middle as it is written, for examples of a place: `(80, 45)`.
    pub fn example(&self) -> String {
        let (x, y) = self.middle();
        format!("({}, {})", x.round(), y.round())
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
