//! Lives side by side.

pub(in crate::workbench) mod answer;
mod draw;

use crossterm::event::KeyCode;
use ratatui::layout::Rect;
use tickpond_sim::Who;

use super::{Beside, Filter, Own, View};
use crate::workbench::app::{App, Effect};
use crate::workbench::command::{Command, DrawRun};
use crate::workbench::keys::shift;
use crate::workbench::stretch::Stretch;

pub(in crate::workbench) use answer::span_of;

/// Lifelines of all, if the list is not narrowed: words that narrow it are no kinds.
fn drawing(app: &App) -> Option<DrawRun> {
    let all = app.drawer.filter.is_empty();
    all.then(|| DrawRun {
        what: "lifelines",
        kinds: Vec::new(),
        beside: false,
        stretch: app.drawer.stretch,
        from: None,
    })
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
    commands: &[
        Own {
            keys: &[shift(KeyCode::Left)],
            short: "",
            words: "a column back along the lanes",
            act: |app| along(app, -1),
        },
        Own {
            keys: &[shift(KeyCode::Right)],
            short: "",
            words: "a column on along the lanes",
            act: |app| along(app, 1),
        },
        super::NEARER,
        super::WIDER,
        super::ALL_OF_IT,
    ],
};

/// The stretch that is shown if none was chosen.
pub(super) fn usual(app: &App) -> Stretch {
    let rate = app.snapshot.cast.as_ref().map_or(60.0, |cast| cast.rate);
    answer::usual(rate, app.snapshot.travel.tick, app.present_wish().columns)
}

/// So many columns along. The stretch that is shown stays where it is.
fn along(app: &mut App, way: i64) -> Vec<Effect> {
    let list = app.areas().map(|areas| app.drawer_parts(areas.drawer).0);
    let span = app.snapshot.answer.own::<answer::Lives>().map(|lives| lives.span);
    let (Some(list), Some(span)) = (list, span) else { return Vec::new() };
    app.drawer.stretch.get_or_insert(span);
    vec![Effect::Tell(Command::Along(way * draw::ticks_per_column(span, list)))]
}

fn listed(app: &App) -> Vec<Who> {
    answer::lanes(&app.snapshot.answer).iter().map(|lane| lane.who).collect()
}

fn click(app: &mut App, list: Rect, (x, y): (u16, u16)) -> Vec<Effect> {
    if let Some(tick) = draw::tick_at(app, list, x) {
        let mut effects = vec![Effect::Tell(Command::Play(false))];
        let span = app.snapshot.answer.own::<answer::Lives>().map(|lives| lives.span);
        app.drawer.stretch = app.drawer.stretch.or(span);
        effects.extend(select_lane(app, list, y));
        effects.extend(app.seek(tick));
        return effects;
    }
    select_lane(app, list, y)
}

fn select_lane(app: &mut App, list: Rect, y: u16) -> Vec<Effect> {
    let row = usize::from(y.saturating_sub(list.y));
    let at = (draw::top(app, usize::from(list.height)) + row).checked_sub(1);
    let lanes = answer::lanes(&app.snapshot.answer);
    let who = at.and_then(|at| lanes.get(at)).map(|lane| lane.who);
    who.map(|who| app.select(who)).unwrap_or_default()
}
