//! Saving, and what another program did to the file meanwhile.

use std::path::{Path, PathBuf};

use similar::{ChangeTag, TextDiff};

use super::app::App;
use super::menu::Menu;
use super::offer::Asks;
use super::places;
use super::prompt::{After, Prompt};
use crate::failure::Failure;
use crate::reading::read_bytes;
use crate::writing::{write_new, write_whole};

/// Most lines of a difference that are shown.
const MOST_SHOWN: usize = 200;

impl App {
    /// Takes in what is in the file now; true if the screen has changed.
    pub fn meet_file(&mut self, theirs: Vec<u8>) -> bool {
        if self.file.on_disk.as_ref() == Some(&theirs) {
            // It may have been another in between.
            let asked = self.over.offers.len();
            self.drop_disk_offer();
            return asked != self.over.offers.len();
        }
        if theirs == self.file_text().into_bytes() {
            // The same was typed there.
            self.drop_disk_offer();
            self.file.on_disk = Some(theirs);
            self.script.buffer.mark_saved();
            return true;
        }
        let Ok(text) = String::from_utf8(theirs) else {
            let words = "another program has put something into the file that is no UTF-8 text";
            self.said.message = Some((words.into(), true));
            return true;
        };
        if self.script.buffer.is_saved() {
            self.take_theirs(&text);
            self.say_first("the file was changed by another program: taken up, Ctrl+Z goes back");
        } else {
            self.put_offer(Asks::Disk(text));
        }
        true
    }

    /// Puts the file's text in place of the one here, which can be brought back.
    pub(super) fn take_theirs(&mut self, theirs: &str) {
        self.drop_disk_offer();
        self.set_line_ends(theirs);
        self.script.buffer.put_all(&theirs.replace("\r\n", "\n"));
        self.script.buffer.mark_saved();
        self.file.on_disk = Some(theirs.as_bytes().to_vec());
    }

    /// Shows in which lines the file differs from the text here.
    pub(super) fn show_difference(&mut self, theirs: &str) {
        let (ours, theirs) = (self.script.buffer.text(), theirs.replace("\r\n", "\n"));
        let diff = TextDiff::configure()
            .timeout(std::time::Duration::from_millis(200))
            .diff_lines(&ours, &theirs);
        let mut lines = Vec::new();
        for group in diff.grouped_ops(1) {
            for change in group.iter().flat_map(|op| diff.iter_changes(op)) {
                let (sign, at) = match change.tag() {
                    ChangeTag::Delete => ("here, ", change.old_index()),
                    ChangeTag::Insert => ("theirs, ", change.new_index()),
                    ChangeTag::Equal => ("both, ", change.old_index()),
                };
                let line = at.map_or(0, |at| at + 1);
                lines.push(format!("{sign}line {line}: {}", change.value().trim_end()));
            }
            lines.push(String::new());
        }
        let more = lines.len().saturating_sub(MOST_SHOWN);
        lines.truncate(MOST_SHOWN);
        if more > 0 {
            lines.push(format!("… {more} more lines"));
        }
        let title = "What differs".to_string();
        self.over.menu = Some(Menu::Page { title, lines, top: 0, is_difference: true });
    }
}

/// Writes the text to a file; true if that is done. What is there and was not read from here is not written over
/// unless that is wanted: then the person is asked. Trouble is told, and the old file is as it was.
pub fn save(app: &mut App, path: &Path, over: bool, after: After) -> bool {
    let is_own = app.file.path.as_deref().is_some_and(|own| crate::same::is_same(own, path));
    let text = app.file_text().into_bytes();
    let there = path.symlink_metadata().is_ok();
    if let Some(there) = std::fs::metadata(path).ok().filter(|there| !there.is_file()) {
        let what = if there.is_dir() { "a folder" } else { "no file" };
        app.said.message = Some((format!("cannot write {}: it is {what}", path.display()), true));
        return false;
    }
    if is_own && there && !over {
        match read_bytes(path) {
            Ok(theirs) if app.file.on_disk.as_ref() != Some(&theirs) && theirs != text => {
                match String::from_utf8(theirs) {
                    Ok(theirs) => {
                        app.put_offer(Asks::Disk(theirs));
                        let words = "not saved: another program has changed the file since";
                        app.said.message = Some((words.into(), true));
                    }
                    Err(_) => app.put_prompt(Prompt::Over(path.to_path_buf(), after)),
                }
                return false;
            }
            _ => {}
        }
    } else if there && !over {
        app.put_prompt(Prompt::Over(path.to_path_buf(), after));
        return false;
    }
    let written = if there { write_whole(path, &text) } else { write_new(path, &text) };
    match written {
        Ok(()) => {
            places::remember_pond(path);
            app.file.on_disk = Some(text);
            app.saved(path.to_path_buf());
            true
        }
        Err(error) => {
            let failure = Failure::writing(path, &error);
            app.said.message = Some((failure.words.replace('\n', "; "), true));
            false
        }
    }
}

/// Names that are free: those, or the same with the first number that makes them so.
pub fn free(paths: [PathBuf; 2]) -> [PathBuf; 2] {
    let numbered = |number: usize| {
        paths.clone().map(|path| match number {
            1 => path,
            _ => {
                let stem = path.file_stem().map(|s| s.to_string_lossy().into_owned());
                let end = path.extension().map(|s| s.to_string_lossy().into_owned());
                let (stem, end) = (stem.unwrap_or_default(), end.unwrap_or_default());
                path.with_file_name(format!("{stem}-{number}.{end}"))
            }
        })
    };
    let is_free = |paths: &[PathBuf; 2]| paths.iter().all(|p| p.symlink_metadata().is_err());
    (1..10_000).map(numbered).find(is_free).unwrap_or(paths)
}
