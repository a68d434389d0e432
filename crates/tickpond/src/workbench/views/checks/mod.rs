//! What stopped the run, what must hold, what the checker found, and where the play pauses.

mod draw;
mod update;

use crossterm::event::KeyCode;
use ratatui::layout::Rect;

use super::{Beside, Filter, Own, View};
use crate::workbench::app::{App, Effect};
use crate::workbench::keys::{c, k};

pub const VIEW: View = View {
    words: "what must hold, findings, pauses",
    beside: Beside::Nothing,
    filter: Filter::Nothing,
    // Verdicts and remarks are part of every snapshot and text.
    answer: |_, _| {},
    draw: draw::draw,
    choose,
    enter: App::follow_check,
    click,
    picture: super::by_name,
    drawing: super::no_drawing,
    commands: &[
        Own {
            keys: &[c('a')],
            short: "mend",
            words: "put right what a finding is about",
            act: |app| {
                app.apply_mend();
                Vec::new()
            },
        },
        Own {
            keys: &[k(KeyCode::Delete), c('x')],
            short: "",
            words: "take a pause away",
            act: App::remove_stop,
        },
    ],
};

fn choose(app: &mut App, by: isize) -> Vec<Effect> {
    app.drawer.check_at = super::moved(app.drawer.check_at, by, app.check_rows());
    Vec::new()
}

fn click(app: &mut App, list: Rect, (_, y): (u16, u16)) -> Vec<Effect> {
    let row = usize::from(y.saturating_sub(list.y));
    let at = draw::top(app, usize::from(list.height)) + row;
    app.drawer.check_at = at.min(app.check_rows().saturating_sub(1));
    Vec::new()
}
