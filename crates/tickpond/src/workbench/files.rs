//! Saving, exporting and quitting, and the questions that go with them.

use std::path::PathBuf;

use crossterm::event::{KeyCode, KeyEvent};

use super::app::{App, Effect, Prompt};
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

    pub(super) fn export(&mut self) -> Vec<Effect> {
        let base = self.path.clone().unwrap_or_else(|| PathBuf::from(&self.name));
        let stem = base.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
        let paths =
            ["svg", "pdf"].map(|ending| base.with_file_name(format!("{stem}-counts.{ending}")));
        vec![Effect::Tell(Command::Export(paths.to_vec()))]
    }

    pub(super) fn quit(&mut self) -> Vec<Effect> {
        if self.script.buffer.is_saved() {
            return vec![Effect::Quit];
        }
        self.prompt = Some(Prompt::Quit);
        Vec::new()
    }

    pub(super) fn answer(&mut self, key: KeyEvent) -> Vec<Effect> {
        let Some(prompt) = self.prompt.take() else { return Vec::new() };
        match (prompt, key.code) {
            (_, KeyCode::Esc) => Vec::new(),
            (Prompt::Quit, KeyCode::Char('s')) => {
                let mut effects = self.save(true);
                if self.prompt.is_none() {
                    effects.push(Effect::Quit);
                }
                effects
            }
            (Prompt::Quit, KeyCode::Char('d')) => vec![Effect::Quit],
            (Prompt::SaveAs(name, quits), KeyCode::Enter) if !name.trim().is_empty() => {
                let mut effects = vec![Effect::Save(PathBuf::from(name.trim()))];
                if quits {
                    effects.push(Effect::Quit);
                }
                effects
            }
            (Prompt::SaveAs(mut name, quits), code) => {
                match code {
                    KeyCode::Char(c) => name.push(c),
                    KeyCode::Backspace => {
                        name.pop();
                    }
                    _ => {}
                }
                self.prompt = Some(Prompt::SaveAs(name, quits));
                Vec::new()
            }
            (prompt, _) => {
                self.prompt = Some(prompt);
                Vec::new()
            }
        }
    }
}
