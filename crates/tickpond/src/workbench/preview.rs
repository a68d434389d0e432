//! A look at a pond that comes with the program, before it is opened: its arena after a few seconds.

use std::sync::Arc;

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_lab::{Run, RunOptions, TapeChoice};

use super::app::App;
use super::arena::draw::draw as draw_arena;
use super::arena::looks::Looks;
use super::arena::{Camera, Layers};
use super::befell::Befell;
use super::held::Preview;
use super::menu::{Menu, Opening};
use super::menus::fitting_entries;
use super::palette::{Palette, Role};
use super::snapshot::Snapshot;
use super::tint::Tint;
use super::wake::Wake;

/// Seconds that are played before the look.
const SECONDS: f64 = 5.0;

/// The arena of a text after a few seconds, with its tape; none if it does not play.
pub fn of_text(text: &str) -> Option<Snapshot> {
    let program = tickpond_lang::compile(text).program?;
    let options = RunOptions { tape: TapeChoice::Played, ..RunOptions::default() };
    let ticks = (program.rate * SECONDS) as u64;
    let mut run = Run::new(program, options).ok()?;
    let mut wake = Wake::default();
    wake.note(&run);
    while run.tick() < ticks && run.state().stopped.is_none() {
        run.step();
        wake.note(&run);
    }
    let seen = Snapshot::of(&run, 10, None, &mut Befell::default());
    Some(seen.dressed(&run, 1.0, &Tint::Kind, &wake))
}

impl App {
    /// Looks at the pond that is chosen in the list, if that is one that comes with the program and was not looked at
    /// last.
    pub(super) fn look_ahead(&mut self) {
        let Some(Menu::Ponds { typed, chosen, entries, .. }) = &self.over.menu else { return };
        let fits = fitting_entries(entries, typed);
        let Some(Opening::Shipped(file)) = fits.get(*chosen).map(|entry| &entry.what) else {
            self.over.preview = None;
            return;
        };
        if self.over.preview.as_ref().is_some_and(|known| known.file == *file) {
            return;
        }
        let seen = crate::ponds::shipped(file).and_then(|pond| of_text(pond.text));
        self.over.preview = seen.map(|snapshot| Preview { file, snapshot: Arc::new(snapshot) });
    }
}

/// Draws it.
pub fn draw(preview: &Preview, area: Rect, cells: &mut Cells, palette: &Palette) {
    let Some(cast) = preview.snapshot.cast.clone() else { return };
    let camera = Camera::default();
    let looks = Looks {
        camera: &camera,
        layers: Layers::default(),
        focus: None,
        cross: None,
        measured_from: None,
    };
    draw_arena(&preview.snapshot, &cast, &looks, area, cells, palette);
    let words = format!(" {}: after {SECONDS} s ", cast.title);
    let width = usize::from(area.width);
    let words = super::fitted::fitted(&words, width);
    cells.set_stringn(area.x, area.y, words, width, palette.style(Role::Strong));
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn every_shipped_pond_has_somebody_to_look_at() {
        for pond in crate::ponds::SHIPPED {
            let seen = of_text(pond.text).unwrap_or_else(|| panic!("{} does not play", pond.file));
            assert!(!seen.scene.entities.is_empty(), "{}: nobody is there", pond.file);
        }
    }
}
