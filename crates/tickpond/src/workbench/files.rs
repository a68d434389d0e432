//! Saving, exporting and quitting, and the questions that go with them.

use std::path::PathBuf;

use super::answers::Trend;
use super::app::{App, DrawerView, Effect};
use super::keys::Place;
use super::prompt::Prompt;
use super::sim::Command;

impl App {
    pub(super) fn ask_name(&mut self, quits: bool) {
        let name = self.path.as_ref().map_or(self.name.clone(), |p| p.display().to_string());
        self.prompt = Some(Prompt::SaveAs(name, quits));
    }

    pub(super) fn save(&mut self, quits: bool) -> Vec<Effect> {
        match self.path.clone() {
            Some(path) => vec![Effect::Save(path)],
            None => {
                self.ask_name(quits);
                Vec::new()
            }
        }
    }

    /// Notes that the text is in a file now.
    pub fn saved(&mut self, path: PathBuf) {
        self.name = path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
        self.message = Some((format!("saved {}", path.display()), false));
        self.path = Some(path);
        self.script.buffer.mark_saved();
    }

    /// Writes the view the person is in: the chart of counts as a chart, others as they stand.
    pub(super) fn export(&mut self) -> Vec<Effect> {
        let view = match self.place {
            Place::Script => "script".to_string(),
            Place::Arena => "arena".into(),
            Place::Drawer if self.draws_counts() => "counts".into(),
            Place::Drawer => self.drawer.name().to_lowercase(),
        };
        let base = self.path.clone().unwrap_or_else(|| PathBuf::from(&self.name));
        let stem = base.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
        let paths =
            ["svg", "pdf"].map(|ending| base.with_file_name(format!("{stem}-{view}.{ending}")));
        if self.place == Place::Drawer && self.draws_counts() {
            return vec![Effect::Tell(Command::Export(paths.to_vec()))];
        }
        vec![Effect::Picture(self.place, paths.to_vec())]
    }

    fn draws_counts(&self) -> bool {
        self.drawer == DrawerView::Trends && self.trend == Trend::Counts
    }

    pub(super) fn quit(&mut self) -> Vec<Effect> {
        if self.script.buffer.is_saved() {
            return vec![Effect::Quit];
        }
        self.prompt = Some(Prompt::Quit);
        Vec::new()
    }
}
