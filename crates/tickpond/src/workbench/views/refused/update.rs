//! Going through the refusals.

use ratatui::layout::Rect;

use super::answer::Refused;
use super::draw::top;
use crate::workbench::app::{App, Effect};
use crate::workbench::command::Command;
use crate::workbench::views::moved;

pub fn choose(app: &mut App, by: isize) -> Vec<Effect> {
    let count = app.snapshot.answer.own::<Refused>().map_or(0, |refused| refused.rows.len());
    app.drawer.top = moved(app.drawer.top, by, count);
    Vec::new()
}

/// To the line that asked, and to who did.
pub fn enter(app: &mut App) -> Vec<Effect> {
    let refused = app.snapshot.answer.own::<Refused>();
    let Some(row) = refused.and_then(|refused| refused.rows.get(app.drawer.top)).cloned() else {
        return Vec::new();
    };
    let mut effects = app.select_one(row.one);
    effects.extend(app.go_to_line(row.line, None));
    effects
}

pub fn click(app: &mut App, list: Rect, (_, y): (u16, u16)) -> Vec<Effect> {
    let row = usize::from(y.saturating_sub(list.y));
    let count = app.snapshot.answer.own::<Refused>().map_or(0, |refused| refused.rows.len());
    app.drawer.top = (top(app, usize::from(list.height)) + row).min(count.saturating_sub(1));
    Vec::new()
}

pub fn before(app: &mut App) -> Vec<Effect> {
    let tick = app.snapshot.answer.own::<Refused>().and_then(|refused| refused.before);
    to(app, tick, "before")
}

pub fn after(app: &mut App) -> Vec<Effect> {
    let tick = app.snapshot.answer.own::<Refused>().and_then(|refused| refused.after);
    to(app, tick, "after")
}

fn to(app: &mut App, tick: Option<u64>, side: &str) -> Vec<Effect> {
    let Some(tick) = tick else {
        app.said.message =
            Some((format!("nothing is on record that was refused {side} this"), false));
        return Vec::new();
    };
    app.drawer.top = 0;
    let mut effects = vec![Effect::Tell(Command::Play(false))];
    effects.extend(app.seek(tick));
    effects
}
