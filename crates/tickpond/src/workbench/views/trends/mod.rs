//! Charts over time.

pub(super) mod answer;
mod draw;
mod here;
mod update;

use crossterm::event::KeyCode;

use super::{Beside, Filter, Own, View};
use crate::workbench::keys::{c, k, shift};

#[cfg(test)]
pub use answer::{Chart, Drawn};
#[cfg(test)]
pub use draw::{tick_at, ticks_per_column};

pub const VIEW: View = View {
    words: "charts over time",
    beside: Beside::Nothing,
    filter: Filter::Nothing,
    answer: answer::answer,
    draw: draw::draw,
    choose: update::choose,
    enter: update::enter,
    click: update::click,
    picture: update::picture,
    drawing: update::drawing,
    commands: &[
        Own {
            keys: &[k(KeyCode::Left)],
            short: "",
            words: "chart before",
            act: |app| app.turn_trend(-1),
        },
        Own {
            keys: &[k(KeyCode::Right)],
            short: "chart",
            words: "next chart",
            act: |app| app.turn_trend(1),
        },
        Own {
            keys: &[shift(KeyCode::Left)],
            short: "",
            words: "a column back along the chart",
            act: |app| app.along(-1),
        },
        Own {
            keys: &[shift(KeyCode::Right)],
            short: "",
            words: "a column on along the chart",
            act: |app| app.along(1),
        },
        super::NEARER,
        super::WIDER,
        super::ALL_OF_IT,
        Own {
            keys: &[c('o')],
            short: "runs before",
            words: "the run before beneath, all earlier ones, or none",
            act: |app| {
                app.turn_overlay();
                Vec::new()
            },
        },
    ],
};
