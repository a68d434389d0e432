//! What things are before anything is said of them.

use crate::diagnostic::Span;
use crate::program::*;

pub(crate) fn empty_kind(name: &str, name_span: Span, role: Role) -> Kind {
    Kind {
        name: name.to_string(),
        name_span,
        role,
        tags: Vec::new(),
        look: Look::default(),
        body: Body::None,
        matter: Matter::default(),
        drifts: false,
        tracks: Vec::new(),
        health: None,
        vars: Vec::new(),
        mounts: Vec::new(),
        handlers: Vec::new(),
    }
}

pub(crate) fn default_arena() -> Arena {
    let open = Edge::Open;
    Arena {
        low: (0.0, 0.0),
        high: (160.0, 90.0),
        y_up: true,
        edges: Edges { left: open, right: open, low: open, high: open },
        margin: 0.0,
        bounce: 0.0,
        friction: Matter::default().friction,
    }
}
