//! Going through the charts, and along one.

use ratatui::layout::Rect;
use tickpond_lab::run::MOST_PASTS;

use super::answer::Drawn;
use super::draw::{tick_at, ticks_per_column};
use crate::workbench::app::{App, Effect};
use crate::workbench::command::Command;
use crate::workbench::command::DrawRun;
use crate::workbench::stretch;
use crate::workbench::views::DrawerView;
use crate::workbench::wish::Trend;

pub fn choose(app: &mut App, by: isize) -> Vec<Effect> {
    let drawn = app.snapshot.answer.own::<Drawn>();
    let names = drawn.map_or(0, |drawn| drawn.chart.names);
    app.drawer.series =
        (app.drawer.series as isize + by.signum()).rem_euclid(names as isize + 1) as usize;
    Vec::new()
}

pub fn enter(app: &mut App) -> Vec<Effect> {
    app.follow_here()
}

pub fn click(app: &mut App, list: Rect, (x, _): (u16, u16)) -> Vec<Effect> {
    let Some(tick) = tick_at(app, list, x) else { return Vec::new() };
    let mut effects = vec![Effect::Tell(Command::Play(false))];
    effects.extend(app.seek(tick));
    effects
}

pub fn picture(app: &App) -> String {
    app.drawer.trend.name().replace(' ', "-")
}

/// The drawing of the run that shows what the chart shows. Of one series alone only a kind's count has one.
pub fn drawing(app: &App) -> Option<DrawRun> {
    let what = match app.drawer.trend {
        Trend::Counts => "counts",
        Trend::States => "states",
        Trend::Watches => "watches",
        Trend::Causes => "ends",
        Trend::Lives => "lifetimes",
        Trend::Rates => return None,
    };
    let kinds = match (app.drawer.series, app.drawer.trend) {
        (0, _) => Vec::new(),
        (_, Trend::Counts | Trend::Lives) => {
            let drawn = app.snapshot.answer.own::<Drawn>()?;
            vec![drawn.chart.series.iter().find_map(|series| series.kind.clone())?]
        }
        _ => return None,
    };
    let (beside, stretch) = (app.drawer.overlay > 0, app.drawer.stretch);
    Some(DrawRun { what, kinds, beside, stretch, from: None })
}

impl App {
    /// So many charts on.
    pub(super) fn turn_trend(&mut self, by: isize) -> Vec<Effect> {
        self.drawer.trend = Trend::on(self.drawer.trend, by);
        self.drawer.series = 0;
        Vec::new()
    }

    /// As many ticks as a column of the chart stands for.
    pub(super) fn along(&mut self, way: i64) -> Vec<Effect> {
        let list = self.areas().map(|areas| self.drawer_parts(areas.drawer).0);
        match list.and_then(|list| ticks_per_column(self, list)) {
            Some(ticks) => vec![Effect::Tell(Command::Along(way * ticks))],
            None => {
                self.said.message =
                    Some(("time does not run along this chart: ← and →".into(), false));
                Vec::new()
            }
        }
    }

    /// A stretch of time that is shorter, or longer.
    pub(in crate::workbench::views) fn change_stretch(&mut self, wider: bool) -> Vec<Effect> {
        let (tick, head) = (self.snapshot.travel.tick, self.snapshot.travel.head);
        let usual = match self.drawer.view {
            DrawerView::Lifelines => super::super::lifelines::usual(self),
            _ => (0, head),
        };
        let now = self.drawer.stretch.map_or(usual, |now| stretch::around(now, tick));
        self.drawer.stretch = match (wider, self.drawer.view) {
            (false, _) => Some(stretch::nearer(now, tick)),
            (true, DrawerView::Lifelines) => {
                Some(stretch::wider(now, tick, head).unwrap_or((0, head)))
            }
            (true, _) => stretch::wider(now, tick, head),
        };
        Vec::new()
    }

    /// One earlier run beneath the charts, all that are kept, or none.
    pub(super) fn turn_overlay(&mut self) {
        self.drawer.overlay = match self.drawer.overlay {
            0 => 1,
            1 => MOST_PASTS,
            _ => 0,
        };
        let words = match self.drawer.overlay {
            0 => "no earlier run beneath",
            1 => "the run before beneath",
            _ => "all earlier runs beneath, as many as are kept",
        };
        self.said.message = Some((words.into(), false));
    }

    /// To the next of the lines that made or ended something where the chart's cursor is.
    fn follow_here(&mut self) -> Vec<Effect> {
        let Some(drawn) = self.snapshot.answer.own::<Drawn>() else { return Vec::new() };
        let here = &drawn.here;
        let lines: Vec<u32> = here.lines.iter().filter_map(|line| line.line).collect();
        let Some(count) = std::num::NonZeroUsize::new(lines.len()) else {
            let words = match self.snapshot.play.playing {
                true => "pause first: then the lines of this moment are known",
                false => "nothing was born or ended here by a line: , and . step",
            };
            self.said.message = Some((words.into(), false));
            return Vec::new();
        };
        let at = if self.drawer.here_at.0 == here.ticks {
            (self.drawer.here_at.1 + 1) % count
        } else {
            0
        };
        self.drawer.here_at = (here.ticks, at);
        self.go_to_line(Some(lines[at]), None)
    }
}
