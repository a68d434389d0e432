//! One tick taken apart.

pub(super) mod answer;
mod draw;

use ratatui::layout::Rect;

use super::{Beside, Filter, View};
use crate::workbench::app::{App, Effect};
use crate::workbench::command::DrawRun;

pub const VIEW: View = View {
    words: "this tick taken apart",
    beside: Beside::Nothing,
    filter: Filter::Nothing,
    answer: answer::answer,
    draw: draw::draw,
    choose,
    enter,
    click,
    picture: super::by_name,
    drawing: |_| {
        Some(DrawRun { what: "tick", kinds: Vec::new(), beside: false, stretch: None, from: None })
    },
    commands: &[],
};

fn choose(app: &mut App, by: isize) -> Vec<Effect> {
    let count = answer::lines(&app.snapshot.answer).len();
    app.drawer.top = super::moved(app.drawer.top, by, count);
    Vec::new()
}

fn enter(app: &mut App) -> Vec<Effect> {
    let lines = answer::lines(&app.snapshot.answer);
    let line = lines.get(app.drawer.top).and_then(|line| line.line());
    app.go_to_line(line, None)
}

fn click(app: &mut App, list: Rect, (_, y): (u16, u16)) -> Vec<Effect> {
    let row = usize::from(y.saturating_sub(list.y));
    let last = answer::lines(&app.snapshot.answer).len().saturating_sub(1);
    app.drawer.top = (draw::top(app, usize::from(list.height)) + row).min(last);
    Vec::new()
}
