//! Who is alive, and the story of the selected one.

mod answer;
mod draw;

use ratatui::layout::Rect;
use tickpond_sim::Who;

use super::{Beside, Filter, Own, View};
use crate::workbench::app::{App, Effect};
use crate::workbench::keys::c;

#[cfg(test)]
pub use answer::Rows;
pub use draw::draw_story;
#[cfg(test)]
pub use draw::rows;

pub const VIEW: View = View {
    words: "who is alive",
    beside: Beside::Story,
    filter: Filter::Entities,
    answer: answer::answer,
    draw: draw::draw,
    choose: |app, by| app.choose_listed(by, listed),
    enter: App::follow_selected,
    click,
    picture: super::by_name,
    drawing: super::no_drawing,
    commands: &[
        Own { keys: &[c('s')], short: "sort", words: "sort by the next column", act: sort },
        Own { keys: &[c('S')], short: "", words: "sort the other way around", act: reverse },
    ],
};

fn listed(app: &App) -> Vec<Who> {
    draw::rows(&app.snapshot).map(|seen| seen.who).collect()
}

fn click(app: &mut App, list: Rect, (_, y): (u16, u16)) -> Vec<Effect> {
    let row = usize::from(y.saturating_sub(list.y));
    let at = (draw::top(app, usize::from(list.height)) + row).checked_sub(1);
    let who = at.and_then(|at| draw::rows(&app.snapshot).nth(at)).map(|seen| seen.who);
    who.map(|who| app.select(who)).unwrap_or_default()
}

fn sort(app: &mut App) -> Vec<Effect> {
    app.drawer.sort = app.drawer.sort.next();
    app.said.message = Some((format!("sorted by {}", app.drawer.sort.name()), false));
    Vec::new()
}

fn reverse(app: &mut App) -> Vec<Effect> {
    app.drawer.reversed = !app.drawer.reversed;
    Vec::new()
}
