//! The workbench without its terminal and thread: a snapshot and a frame on demand.

use std::sync::Arc;

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_lab::{Run, Timeline};

use super::answers::{Known, answer};
use super::app::{App, Document, Effect};
use super::arena::parts;
use super::befell::Befell;
use super::command::Command;
use super::keys::Place;
use super::one::One;
use super::palette::Palette;
use super::settings::Theme;
use super::snapshot::{self, Snapshot};
use super::views::DrawerView;
use super::{layout, pixels, screen};

/// A workbench that is drawn on demand.
pub struct FrameApp {
    app: App,
    known: Known,
    befell: Befell,
}

impl FrameApp {
    pub fn new(document: Document, area: Rect) -> FrameApp {
        let mut app = App::new(document, false);
        app.bands.place = Place::Drawer;
        app.resize(area);
        app.compile();
        FrameApp { app, known: Known::default(), befell: Befell::default() }
    }

    pub fn views() -> Vec<&'static str> {
        DrawerView::ALL.map(DrawerView::name).to_vec()
    }

    pub fn show(&mut self, view: usize) {
        self.app.drawer.view = DrawerView::ALL[view];
    }

    pub fn snapshot(&mut self, run: &mut Run) {
        let columns = self.app.areas().map_or(100, |a| layout::strip_columns(a.strip).width);
        let focus = run.state().kinds.iter().enumerate().skip(1).find(|(_, c)| !c.is_empty());
        let focus = focus.and_then(|(k, _)| {
            let who = run.state().who_at(tickpond_lang::program::KindId(k as u32), 0);
            One::of(run.cast(), who)
        });
        let mut seen = Snapshot::of(run, usize::from(columns), focus.as_ref(), &mut self.befell);
        self.app.focus = focus;
        let wish = self.app.wish().into_iter().find_map(|effect| match effect {
            Effect::Tell(Command::Want(wish)) => Some(*wish),
            _ => None,
        });
        let wish = wish.unwrap_or_else(|| self.app.present_wish());
        // As while it plays: a tick is taken apart only when the run stands still.
        seen.answer = answer(run, &wish, &mut self.known, &seen.scene.entities, false);
        seen.feed = snapshot::feed(run, &wish.feed);
        self.app.observe(Arc::new(seen));
    }

    pub fn draw(&mut self, cells: &mut Cells) {
        let area = self.app.bands.screen;
        screen::draw(&self.app, area, cells, &Palette::of(Theme::Dark));
    }

    /// The arena in pixels, so many to a cell, and how many bytes these are.
    pub fn picture(&self, cell: (u16, u16)) -> usize {
        let areas = self.app.areas();
        let (area, _) = areas.map(|areas| parts(layout::body(areas.arena))).unwrap_or_default();
        pixels::picture_of(&self.app, area, cell).map_or(0, |picture| picture.data().len())
    }
}
