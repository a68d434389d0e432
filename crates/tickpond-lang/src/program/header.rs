//! What the header says: arena, edges, limits, view; and zones.

use super::KindId;

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
