//! What the keys do while a list lies over the screen.

use std::path::PathBuf;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::app::{App, Effect};
use super::command::Command;
use super::commands::TABLE;
use super::keys::{self, Action};
use super::menu::{Entry, Menu, Opening};
use super::prompt::{After, Prompt};
use super::prompts::type_into;
use super::snapshot::Branch;

/// Lines of a page that one key turns.
const PAGE: usize = 10;

/// The commands whose words or keys hold all that is typed, in the order of the table.
pub fn fitting(typed: &str) -> Vec<&'static keys::Row> {
    let words: Vec<String> = typed.to_lowercase().split_whitespace().map(str::to_string).collect();
    let mut rows: Vec<&keys::Row> = TABLE
        .iter()
        .filter(|row| {
            let told = format!("{} {}", row.words, keys::names(row)).to_lowercase();
            words.iter().all(|word| told.contains(word.as_str()))
        })
        .collect();
    // A word that begins a command's words is meant more likely.
    let begins = |row: &keys::Row| {
        let told = row.words.to_lowercase();
        words
            .iter()
            .any(|w| told.split(|c: char| !c.is_alphanumeric()).any(|t| t.starts_with(w.as_str())))
    };
    let is_key = |row: &keys::Row| {
        row.keys.iter().any(|key| keys::name(*key).to_lowercase() == typed.trim().to_lowercase())
    };
    rows.sort_by_key(|row| (!is_key(row), !begins(row)));
    rows
}

/// The ponds that fit what is typed.
pub fn fitting_entries<'e>(entries: &'e [Entry], typed: &str) -> Vec<&'e Entry> {
    let typed = typed.to_lowercase();
    let fits = |entry: &&Entry| {
        entry.name.to_lowercase().contains(&typed) || entry.idea.to_lowercase().contains(&typed)
    };
    entries.iter().filter(fits).collect()
}

impl App {
    /// Takes in a key while a list is open.
    pub(super) fn menu_key(&mut self, key: KeyEvent) -> Vec<Effect> {
        let Some(menu) = self.over.menu.take() else { return Vec::new() };
        if key.code == KeyCode::Esc {
            return Vec::new();
        }
        let plain = key.modifiers.difference(KeyModifiers::SHIFT).is_empty();
        match menu {
            Menu::Commands { mut typed, chosen } => {
                let count = fitting(&typed).len();
                match key.code {
                    KeyCode::Enter => {
                        let action = fitting(&typed).get(chosen).map(|row| row.action);
                        return action.map(|a| self.act(a)).unwrap_or_default();
                    }
                    code => {
                        let chosen = moved(code, chosen, count);
                        let changed = type_into(&mut typed, code, plain);
                        let chosen = if changed { 0 } else { chosen };
                        self.over.menu = Some(Menu::Commands { typed, chosen });
                    }
                }
            }
            Menu::Ponds { mut typed, chosen, entries, is_start } => match key.code {
                KeyCode::Enter => {
                    let fits = fitting_entries(&entries, &typed);
                    let what = match fits.get(chosen) {
                        Some(entry) => entry.what.clone(),
                        None => Opening::File(PathBuf::from(typed.trim())),
                    };
                    return self.open(what);
                }
                code => {
                    let count = fitting_entries(&entries, &typed).len();
                    let chosen = moved(code, chosen, count);
                    let changed = type_into(&mut typed, code, plain);
                    let chosen = if changed { 0 } else { chosen };
                    self.over.menu = Some(Menu::Ponds { typed, chosen, entries, is_start });
                    self.look_ahead();
                }
            },
            Menu::Tapes { names, chosen } => match key.code {
                KeyCode::Enter => {
                    return self.end_run(After::Tape(names.get(chosen).cloned()));
                }
                code => {
                    let chosen = moved(code, chosen, names.len() + 1);
                    self.over.menu = Some(Menu::Tapes { names, chosen });
                }
            },
            Menu::Branches { rows, chosen } => match key.code {
                KeyCode::Enter => {
                    let number = rows.get(chosen).map(|(number, _)| *number);
                    return number.map(|n| Effect::Tell(Command::Branch(n))).into_iter().collect();
                }
                code => {
                    let chosen = moved(code, chosen, rows.len());
                    self.over.menu = Some(Menu::Branches { rows, chosen });
                }
            },
            Menu::Words { span, found, chosen } => match key.code {
                KeyCode::Enter | KeyCode::Tab => {
                    if let Some(candidate) = found.get(chosen) {
                        self.script.buffer.put(span.range(), &candidate.text);
                        let end = span.start + candidate.text.len() as u32;
                        self.script.buffer.go_to_byte(end);
                    }
                }
                KeyCode::Up | KeyCode::Down | KeyCode::PageUp | KeyCode::PageDown => {
                    let chosen = moved(key.code, chosen, found.len());
                    self.over.menu = Some(Menu::Words { span, found, chosen });
                }
                // Typing goes on in the text, and narrows the list.
                KeyCode::Char(c) if plain && (c.is_alphanumeric() || c == '_') => {
                    self.type_key(key);
                    self.complete();
                }
                KeyCode::Backspace => {
                    self.type_key(key);
                    self.complete();
                }
                _ => return self.key(key, self.waiting.now),
            },
            Menu::Page { title, lines, top, is_difference } => {
                let top = match key.code {
                    KeyCode::Down => top + 1,
                    KeyCode::PageDown | KeyCode::Char(' ') => top + PAGE,
                    KeyCode::Up => top.saturating_sub(1),
                    KeyCode::PageUp => top.saturating_sub(PAGE),
                    KeyCode::Enter => return Vec::new(),
                    // What is read is closed by whatever comes next, which does what it always does.
                    _ => return self.key(key, self.waiting.now),
                };
                let top = top.min(lines.len().saturating_sub(1));
                self.over.menu = Some(Menu::Page { title, lines, top, is_difference });
            }
        }
        Vec::new()
    }

    /// Lists the tapes of the text that plays.
    pub(super) fn ask_tape(&mut self) {
        let names = self.snapshot.play.tapes.clone();
        if names.is_empty() {
            let words = "the text has no tape: T records one, T again puts it there";
            self.said.message = Some((words.into(), false));
            return;
        }
        self.over.menu = Some(Menu::Tapes { names, chosen: 0 });
    }

    /// Lists the branches, the newest first.
    pub(super) fn list_branches(&mut self) {
        let rate = self.snapshot.cast.as_ref().map_or(60.0, |cast| cast.rate);
        let row = |branch: &Branch| {
            let recipe = &branch.recipe;
            let seconds = recipe.head as f64 / rate;
            let keys: usize = recipe.keys.values().map(Vec::len).sum();
            let did = match keys {
                0 => String::new(),
                1 => ", 1 key or move".into(),
                _ => format!(", {keys} keys and moves"),
            };
            (branch.number, format!("{}: {seconds:.2} s{did}", branch.words))
        };
        let rows: Vec<_> = self.snapshot.branches.iter().rev().map(row).collect();
        if rows.is_empty() {
            return self.tell_no_branch();
        }
        self.over.menu = Some(Menu::Branches { rows, chosen: 0 });
    }

    /// Back to what was left behind last.
    pub(super) fn newest_branch(&mut self) -> Vec<Effect> {
        match self.snapshot.branches.last() {
            Some(branch) => vec![Effect::Tell(Command::Branch(branch.number))],
            None => {
                self.tell_no_branch();
                Vec::new()
            }
        }
    }

    fn tell_no_branch(&mut self) {
        let words =
            "no branch: an edit, a key in the past or a new start leaves the run before as one";
        self.said.message = Some((words.into(), false));
    }

    /// Opens another pond, unless this one is not saved: then that is asked about first.
    pub(super) fn open(&mut self, what: Opening) -> Vec<Effect> {
        if what == Opening::Stay {
            return Vec::new();
        }
        if !self.script.buffer.is_saved() {
            self.put_prompt(Prompt::Unsaved(After::Open(what)));
            return Vec::new();
        }
        self.end_run(After::Open(what))
    }

    /// Shows what could stand at the cursor.
    pub(super) fn complete(&mut self) {
        let document = self.document();
        let (span, found) =
            tickpond_ide::complete::candidates(&document, self.script.buffer.cursor_byte());
        if found.is_empty() {
            self.over.menu = None;
            self.said.message = Some(("nothing that begins so is known here".into(), false));
            return;
        }
        self.over.menu = Some(Menu::Words { span, found, chosen: 0 });
    }

    /// Whether a command can be carried out from a list though its keys belong elsewhere.
    pub(super) fn go_where(&mut self, action: Action) {
        use super::keys::{Place, When};
        let row = TABLE.iter().find(|row| row.action == action);
        match row.map(|row| row.when) {
            // It is done at the cursor; the keys stay where they are.
            Some(When::Script) if self.bands.place != Place::Script => {
                let (line, column) = self.script.buffer.cursor();
                self.look_at(line, column);
            }
            Some(When::Arena) => self.bands.place = Place::Arena,
            Some(When::In(view)) => {
                self.drawer.view = view;
                self.bands.place = Place::Drawer;
            }
            Some(When::Away | When::Entities) if self.bands.place == Place::Script => {
                self.bands.place = Place::Arena;
            }
            _ => {}
        }
    }
}

fn moved(code: KeyCode, chosen: usize, count: usize) -> usize {
    let last = count.saturating_sub(1);
    match code {
        KeyCode::Up => chosen.saturating_sub(1),
        KeyCode::Down => (chosen + 1).min(last),
        KeyCode::PageUp => chosen.saturating_sub(8),
        KeyCode::PageDown => (chosen + 8).min(last),
        _ => chosen.min(last),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("tape", Action::RecordTape)]
    #[case("rename", Action::Rename)]
    #[case("expect fail", Action::FirstBroken)]
    #[case("ctrl+s", Action::Save)]
    #[case("", Action::PlayPause)]
    fn part_of_the_words_finds_a_command(#[case] typed: &str, #[case] wanted: Action) {
        assert_eq!(fitting(typed)[0].action, wanted);
    }

    #[rstest]
    fn nothing_fits_nonsense() {
        assert!(fitting("qqqq").is_empty());
    }
}
