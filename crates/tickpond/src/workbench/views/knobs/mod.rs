//! Numbers to turn.

mod draw;
mod update;

use crossterm::event::KeyCode;
use ratatui::layout::Rect;

use super::{Beside, Filter, Own, View};
use crate::workbench::app::{App, Effect};
use crate::workbench::keys::{c, k, shift};

pub const VIEW: View = View {
    words: "numbers to turn",
    beside: Beside::Nothing,
    filter: Filter::Nothing,
    // The numbers are those of the text.
    answer: |_, _| {},
    draw: draw::draw,
    choose,
    enter,
    click,
    picture: super::by_name,
    drawing: super::no_drawing,
    commands: &[
        Own {
            keys: &[k(KeyCode::Left)],
            short: "less",
            words: "a step down",
            act: |app| app.turn_knob(-1.0),
        },
        Own {
            keys: &[k(KeyCode::Right)],
            short: "more",
            words: "a step up",
            act: |app| app.turn_knob(1.0),
        },
        Own {
            keys: &[shift(KeyCode::Left)],
            short: "",
            words: "ten steps down",
            act: |app| app.turn_knob(-10.0),
        },
        Own {
            keys: &[shift(KeyCode::Right)],
            short: "",
            words: "ten steps up",
            act: |app| app.turn_knob(10.0),
        },
        Own { keys: &[c('v')], short: "type", words: "type a value", act: App::ask_knob },
    ],
};

fn choose(app: &mut App, by: isize) -> Vec<Effect> {
    app.drawer.knob_at = super::moved(app.drawer.knob_at, by, app.known.tunables.len());
    Vec::new()
}

fn enter(app: &mut App) -> Vec<Effect> {
    let line = app.known.tunables.get(app.drawer.knob_at).map(|tunable| tunable.line);
    app.go_to_line(line, None)
}

fn click(app: &mut App, list: Rect, (_, y): (u16, u16)) -> Vec<Effect> {
    let row = usize::from(y.saturating_sub(list.y));
    let at = (draw::top(app, usize::from(list.height)) + row).saturating_sub(1);
    app.drawer.knob_at = at.min(app.known.tunables.len().saturating_sub(1));
    Vec::new()
}
