//! What was asked for in this tick and came to nothing.

pub(super) mod answer;
mod draw;
mod update;

use crossterm::event::KeyCode;

use super::{Beside, Filter, Own, View};
use crate::workbench::keys::k;

pub const VIEW: View = View {
    words: "what was asked for in this tick and refused",
    beside: Beside::Nothing,
    filter: Filter::Nothing,
    answer: answer::answer,
    draw: draw::draw,
    choose: update::choose,
    enter: update::enter,
    click: update::click,
    picture: super::by_name,
    drawing: super::no_drawing,
    commands: &[
        Own {
            keys: &[k(KeyCode::Left)],
            short: "before",
            words: "to the tick before in which something was refused",
            act: update::before,
        },
        Own {
            keys: &[k(KeyCode::Right)],
            short: "after",
            words: "to the next tick in which something was refused",
            act: update::after,
        },
    ],
};

#[cfg(test)]
mod tests;
