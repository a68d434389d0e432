//! Values that were pinned, each with its line over time.

mod draw;

use crossterm::event::KeyCode;
use ratatui::layout::Rect;
use tickpond_lab::gauge::named;
use tickpond_sim::{EntityId, Who};

use super::{Beside, Filter, Own, View};
use crate::workbench::app::{App, Effect};
use crate::workbench::command::Command;
use crate::workbench::keys::{c, k};
use crate::workbench::one::One;

pub use draw::COLUMNS;

pub const VIEW: View = View {
    words: "values that were pinned",
    beside: Beside::Nothing,
    filter: Filter::Nothing,
    // Pins are part of every snapshot.
    answer: |_, _| {},
    draw: draw::draw,
    choose,
    enter,
    click,
    picture: super::by_name,
    drawing: super::no_drawing,
    commands: &[
        Own {
            keys: &[k(KeyCode::Delete), c('x')],
            short: "take away",
            words: "take a pin away",
            act: remove,
        },
        super::NEARER,
        super::WIDER,
        super::ALL_OF_IT,
    ],
};

fn choose(app: &mut App, by: isize) -> Vec<Effect> {
    app.drawer.pin_at = super::moved(app.drawer.pin_at, by, app.snapshot.pins.len());
    Vec::new()
}

/// To the line of the one it names, who is selected; of a watch to its own line.
fn enter(app: &mut App) -> Vec<Effect> {
    let typed = app.snapshot.pins.get(app.drawer.pin_at).map(|pin| pin.typed.clone());
    let (Some(typed), Some(cast)) = (typed, app.snapshot.cast.clone()) else {
        return Vec::new();
    };
    if let Some((kind, number)) = named(&typed).first() {
        let who =
            cast.kind_named(kind).map(|kind| Who { kind, number: *number, id: EntityId::NONE });
        let mut effects = app.select_one(who.and_then(|who| One::of(&cast, who)));
        effects.extend(app.follow_selected());
        return effects;
    }
    let begins = format!("watch {typed} ");
    let line = app.snapshot.script.text.lines().position(|line| line.starts_with(&begins));
    match line {
        Some(line) => app.go_to_line(Some(line as u32 + 1), None),
        None => {
            app.said.message = Some(("an expression of its own has no line".into(), false));
            Vec::new()
        }
    }
}

fn remove(app: &mut App) -> Vec<Effect> {
    let at = app.drawer.pin_at;
    if at >= app.snapshot.pins.len() {
        app.said.message = Some(("nothing is pinned: P pins a value".into(), false));
        return Vec::new();
    }
    app.drawer.pin_at = at.min(app.snapshot.pins.len().saturating_sub(2));
    vec![Effect::Tell(Command::Unpin(at))]
}

fn click(app: &mut App, list: Rect, (_, y): (u16, u16)) -> Vec<Effect> {
    let row = usize::from(y.saturating_sub(list.y));
    let at = (draw::top(app, usize::from(list.height)) + row).saturating_sub(1);
    app.drawer.pin_at = at.min(app.snapshot.pins.len().saturating_sub(1));
    Vec::new()
}
