//! Lives side by side.

pub(super) mod answer;
mod draw;

use ratatui::layout::Rect;
use tickpond_sim::Who;

use super::{Beside, Filter, View};
use crate::workbench::app::{App, Effect};
use crate::workbench::command::DrawRun;

/// Lifelines of all, if the list is not narrowed: words that narrow it are no kinds.
fn drawing(app: &App) -> Option<DrawRun> {
    let all = app.drawer.filter.is_empty();
    all.then(|| DrawRun { what: "lifelines", kinds: Vec::new(), beside: false })
}

pub const VIEW: View = View {
    words: "lives side by side",
    beside: Beside::Story,
    filter: Filter::Entities,
    answer: answer::answer,
    draw: draw::draw,
    choose: |app, by| app.choose_listed(by, listed),
    enter: App::follow_selected,
    click,
    picture: super::by_name,
    drawing,
    commands: &[],
};

fn listed(app: &App) -> Vec<Who> {
    answer::lanes(&app.snapshot.answer).iter().map(|lane| lane.who).collect()
}

fn click(app: &mut App, list: Rect, (_, y): (u16, u16)) -> Vec<Effect> {
    let row = usize::from(y.saturating_sub(list.y));
    let at = (draw::top(app, usize::from(list.height)) + row).checked_sub(1);
    let lanes = answer::lanes(&app.snapshot.answer);
    let who = at.and_then(|at| lanes.get(at)).map(|lane| lane.who);
    who.map(|who| app.select(who)).unwrap_or_default()
}
