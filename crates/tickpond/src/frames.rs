//! Frames of the workbench without a terminal, for benches.

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use tickpond_lab::{Run, RunOptions};

use crate::workbench::{Document, FrameApp};

/// A workbench over a run that was played before.
pub struct Frames {
    app: FrameApp,
    run: Run,
    screen: Rect,
}

impl Frames {
    /// Plays a pond for so many ticks and opens the workbench on it, in so many columns and rows.
    ///
    /// # Panics
    /// If the text does not compile: it is the bench's own.
    pub fn new(text: &str, ticks: u64, (width, height): (u16, u16)) -> Frames {
        let compiled = tickpond_lang::compile(text);
        let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
        let mut run = match Run::new(Arc::clone(&program), RunOptions::default()) {
            Ok(run) => run,
            Err(error) => panic!("{error}"),
        };
        run.play_to(ticks);
        let document = Document { path: None, name: "bench.pond".into(), text: text.into() };
        let screen = Rect::new(0, 0, width, height);
        Frames { app: FrameApp::new(document, screen), run, screen }
    }

    /// How many live at the end.
    pub fn live(&self) -> usize {
        self.run.state().live()
    }

    /// The names of the drawer's views, in their order.
    pub fn views() -> Vec<&'static str> {
        FrameApp::views()
    }

    /// Chooses a view of the drawer.
    pub fn show(&mut self, view: usize) {
        self.app.show(view);
    }

    /// What the simulation's thread does for a frame: a snapshot with what the drawer asks for.
    pub fn snapshot(&mut self) {
        self.app.snapshot(&mut self.run);
    }

    /// What the screen's thread does for a frame: draws all bands.
    pub fn draw(&mut self) -> Buffer {
        let mut cells = Buffer::empty(self.screen);
        self.app.draw(&mut cells);
        cells
    }

    /// The arena in pixels, for terminals that can show them: so many to a cell; how many bytes these are.
    pub fn picture(&self, cell: (u16, u16)) -> usize {
        self.app.picture(cell)
    }

    /// Goes to a tick.
    pub fn seek(&mut self, tick: u64) {
        self.run.seek(tick);
    }
}
