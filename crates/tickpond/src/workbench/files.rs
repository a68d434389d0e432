//! Saving, exporting and quitting, and the questions that go with them.

use std::path::PathBuf;

use super::app::{App, Effect};
use super::command::{Command, DrawRun};
use super::keys::Place;
use super::prompt::{After, Prompt, RECORDING};
use super::saving::free;

/// Minutes of play that are not let go of without a question.
const LONG_RUN: f64 = 10.0;

impl App {
    pub(super) fn ask_name(&mut self, after: After) {
        let name =
            self.file.path.as_ref().map_or(self.file.name.clone(), |p| p.display().to_string());
        self.over.prompt = Some(Prompt::SaveAs(name, after));
    }

    pub(super) fn save(&mut self, after: After) -> Vec<Effect> {
        match self.file.path.clone() {
            Some(path) => vec![Effect::Save { path, over: false, after }],
            None => {
                self.ask_name(after);
                Vec::new()
            }
        }
    }

    /// Notes that the text is in a file now.
    pub fn saved(&mut self, path: PathBuf) {
        self.file.name =
            path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
        self.said.message = Some((format!("saved {}", path.display()), false));
        self.file.path = Some(path);
        self.script.buffer.mark_saved();
    }

    /// Writes the view the person is in: as a drawing of the run where there is one that shows the same, else as it
    /// stands on the screen. Never over a picture that is there: the names are numbered.
    pub(super) fn export(&mut self) -> Vec<Effect> {
        let view = match (self.bands.place, self.drawer.view) {
            (Place::Script, _) => "script".to_string(),
            (Place::Arena, _) => "arena".into(),
            (Place::Drawer, view) => (view.entry().picture)(self),
        };
        let base = self.file.path.clone().unwrap_or_else(|| PathBuf::from(&self.file.name));
        let stem = base.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
        let paths =
            ["svg", "pdf"].map(|ending| base.with_file_name(format!("{stem}-{view}.{ending}")));
        let paths = free(paths);
        let drawing = match self.bands.place {
            Place::Script => None,
            Place::Arena => self.arena_drawing(),
            Place::Drawer => (self.drawer.view.entry().drawing)(self),
        };
        match drawing {
            Some(drawing) => vec![Effect::Tell(Command::Export(paths, drawing))],
            None => vec![Effect::Picture(self.bands.place, paths)],
        }
    }

    /// The arena as a drawing, if all of it is on the screen.
    fn arena_drawing(&self) -> Option<DrawRun> {
        let camera = &self.arena.camera;
        let whole = camera.nearer <= 1.0 && camera.centre.is_none();
        let second = self.snapshot.cast.as_ref().map_or(60, |cast| cast.rate as u64);
        let from = self.snapshot.travel.tick.saturating_sub(second);
        whole.then(|| DrawRun {
            what: "arena",
            kinds: Vec::new(),
            beside: false,
            stretch: None,
            from: self.arena.layers.trails.then_some(from),
        })
    }

    /// Quits, unless something would be lost: then that is asked about first.
    pub(super) fn quit(&mut self) -> Vec<Effect> {
        if !self.script.buffer.is_saved() {
            self.put_prompt(Prompt::Unsaved(After::Quit));
            return Vec::new();
        }
        let rate = self.snapshot.cast.as_ref().map_or(60.0, |p| p.rate);
        let minutes = self.snapshot.travel.head as f64 / rate / 60.0;
        let lost = match self.snapshot.play.recording {
            Some(_) => RECORDING.to_string(),
            None if minutes >= LONG_RUN => format!("{minutes:.0} minutes were played"),
            None => return vec![Effect::Quit],
        };
        self.put_prompt(Prompt::LoseRun(lost, After::Quit));
        Vec::new()
    }
}
