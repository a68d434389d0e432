//! What happened, newest at the bottom.

mod draw;
mod update;

use super::{Beside, Filter, View};

pub use draw::role_of;

pub const VIEW: View = View {
    words: "what happened",
    beside: Beside::Story,
    filter: Filter::Events,
    // The feed is part of every snapshot.
    answer: |_, _| {},
    draw: draw::draw,
    choose: update::choose,
    enter: update::enter,
    click: update::click,
    picture: super::by_name,
    drawing: super::no_drawing,
    commands: &[],
};
