//! What a person has chosen once: a TOML file in the usual place.

use std::io::ErrorKind;
use std::path::PathBuf;

use etcetera::{BaseStrategy, choose_base_strategy};
use serde::{Deserialize, Serialize};
use toml_edit::{DocumentMut, Item, Value};

use crate::reading::read_text;
use crate::writing::write_whole;

/// Themes a person can choose.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Theme {
    /// Middle tones that can be read on dark and on light ground.
    #[default]
    Dark,
    /// Deeper tones for light ground.
    Light,
    /// Few and strong colours.
    HighContrast,
    /// Weight, underline and reversal alone.
    NoColour,
}

impl Theme {
    pub const ALL: [Theme; 4] = [Theme::Dark, Theme::Light, Theme::HighContrast, Theme::NoColour];

    pub fn name(self) -> &'static str {
        match self {
            Theme::Dark => "dark",
            Theme::Light => "light",
            Theme::HighContrast => "high contrast",
            Theme::NoColour => "no colour",
        }
    }

    /// The one after it, around.
    pub fn next(self) -> Theme {
        let at = Theme::ALL.iter().position(|t| *t == self).unwrap_or(0);
        Theme::ALL[(at + 1) % Theme::ALL.len()]
    }
}

/// What becomes of the run when the text changes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Edits {
    /// It goes on from the present tick.
    #[default]
    Fork,
    /// It is played anew from the opening up to the present tick.
    Restart,
}

/// The choices.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, rename_all = "kebab-case", deny_unknown_fields)]
pub struct Settings {
    pub theme: Theme,
    pub edits: Edits,
    /// Most memory for the way back, in MiB.
    pub memory_mib: usize,
    /// Whether the pointer is used.
    pub pointer: bool,
}

impl Default for Settings {
    fn default() -> Settings {
        Settings {
            theme: Theme::default(),
            edits: Edits::default(),
            memory_mib: 2048,
            pointer: true,
        }
    }
}

impl Settings {
    /// Where they are kept.
    pub fn path() -> Option<PathBuf> {
        let strategy = choose_base_strategy().ok()?;
        Some(strategy.config_dir().join("tickpond").join("settings.toml"))
    }

    /// The choices on disk, and what is wrong with them. What is wrong is left alone, and what is right holds.
    pub fn read() -> (Settings, Option<String>) {
        let Some(path) = Settings::path() else { return (Settings::default(), None) };
        let at = |words: String| Some(format!("{}: {words}", path.display()));
        match read_text(&path) {
            Ok(text) => {
                let (settings, wrong) = Settings::parse(&text);
                (settings, wrong.and_then(at))
            }
            Err(error) if error.kind() == ErrorKind::NotFound => (Settings::default(), None),
            Err(error) => (Settings::default(), at(error.to_string())),
        }
    }

    /// The choices in a text, and what is wrong with others in it, in one line.
    pub fn parse(text: &str) -> (Settings, Option<String>) {
        let document: DocumentMut = match text.parse() {
            Ok(document) => document,
            Err(error) => {
                let words = error.to_string().trim().replace('\n', " ");
                return (Settings::default(), Some(words));
            }
        };
        let mut settings = Settings::default();
        let mut wrong = Vec::new();
        for (key, item) in document.iter() {
            // One at a time: what is wrong with one says nothing about the others.
            let alone = format!("{key} = {}", item.to_string().trim());
            let read = match is_known(key) {
                true => toml::from_str::<Settings>(&alone)
                    .map_err(|e| format!("{key}: {}", e.message().replace('\n', " "))),
                false => Err(format!("{key} is no setting: {}", KEYS.join(", "))),
            };
            match (read, key) {
                (Ok(read), "theme") => settings.theme = read.theme,
                (Ok(read), "edits") => settings.edits = read.edits,
                (Ok(read), "pointer") => settings.pointer = read.pointer,
                (Ok(read), _) if (16..=1_048_576).contains(&read.memory_mib) => {
                    settings.memory_mib = read.memory_mib;
                }
                (Ok(_), _) => wrong.push(format!("{key}: a number from 16 to 1048576 is wanted")),
                (Err(words), _) => wrong.push(words),
            }
        }
        (settings, (!wrong.is_empty()).then(|| wrong.join("; ")))
    }

    /// A text with these choices in it: those that differ from what it says are put there, all else stays, what is
    /// wrong and what nobody knows among it.
    ///
    /// # Errors
    /// What is wrong, if it is no TOML.
    pub fn put_into(&self, text: &str) -> Result<String, String> {
        let mut document: DocumentMut =
            text.parse().map_err(|e: toml_edit::TomlError| e.message().to_string())?;
        let said = Settings::parse(text).0;
        if said.theme != self.theme {
            put(&mut document, "theme", word(&self.theme).into());
        }
        if said.edits != self.edits {
            put(&mut document, "edits", word(&self.edits).into());
        }
        if said.memory_mib != self.memory_mib {
            put(&mut document, "memory-mib", (self.memory_mib as i64).into());
        }
        if said.pointer != self.pointer {
            put(&mut document, "pointer", self.pointer.into());
        }
        Ok(document.to_string())
    }

    /// Keeps them. Not being able to is told, and loses nothing else.
    ///
    /// # Errors
    /// What the system reports, or that the file is no TOML: then it stays as it is.
    pub fn write(&self) -> Result<(), String> {
        let path = Settings::path().ok_or("there is no place for settings")?;
        let at = |words: String| format!("{}: {words}", path.display());
        let text = match read_text(&path) {
            Ok(text) => text,
            Err(error) if error.kind() == ErrorKind::NotFound => String::new(),
            Err(error) => return Err(at(error.to_string())),
        };
        let text = self.put_into(&text).map_err(at)?;
        let folder = path.parent().unwrap_or(&path);
        std::fs::create_dir_all(folder).map_err(|e| e.to_string())?;
        write_whole(&path, text.as_bytes()).map_err(|e| at(e.to_string()))
    }
}

/// The names of all settings.
const KEYS: [&str; 4] = ["theme", "edits", "memory-mib", "pointer"];

fn is_known(key: &str) -> bool {
    KEYS.contains(&key)
}

/// Gives a key a value; what is said beside it stays.
fn put(document: &mut DocumentMut, key: &str, mut new: Value) {
    if let Some(old) = document.get(key).and_then(Item::as_value) {
        *new.decor_mut() = old.decor().clone();
    }
    document[key] = Item::Value(new);
}

/// A choice as it is written.
fn word(choice: &impl Serialize) -> String {
    let json = serde_json::to_value(choice).unwrap_or_default();
    json.as_str().unwrap_or_default().to_string()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("", Settings::default())]
    #[case("theme = \"light\"", Settings { theme: Theme::Light, ..Settings::default() })]
    #[case("edits = \"restart\"\nmemory-mib = 64", Settings { edits: Edits::Restart, memory_mib: 64, ..Settings::default() })]
    fn what_is_not_said_is_as_usual(#[case] text: &str, #[case] wanted: Settings) {
        assert_eq!(Settings::parse(text), (wanted, None));
    }

    #[rstest]
    #[case("theme = \"pink\"", "pink")]
    #[case("colour = true", "colour is no setting")]
    #[case("memory-mib = 3", "16")]
    #[case("theme = ", "")]
    fn what_is_wrong_is_told(#[case] text: &str, #[case] words: &str) {
        let (settings, wrong) = Settings::parse(text);
        let wrong = wrong.expect("something to be told");
        assert!(wrong.contains(words) && !wrong.contains('\n'), "{wrong}");
        assert_eq!(settings, Settings::default());
    }

    #[rstest]
    fn one_wrong_choice_costs_no_other() {
        let text = "theme = \"pink\"\nedits = \"restart\"\nmemory-mib = 64\n";
        let (settings, wrong) = Settings::parse(text);
        assert_eq!((settings.edits, settings.memory_mib), (Edits::Restart, 64));
        assert!(wrong.unwrap().contains("theme"));
    }

    #[rstest]
    fn a_choice_is_put_among_what_is_there() {
        let text = "# mine\ntheme = \"light\" # by day\nedits = \"wrong\"\n\n[later]\nkey = 1\n";
        let settings = Settings { theme: Theme::NoColour, ..Settings::parse(text).0 };
        let new = settings.put_into(text).unwrap();
        assert_eq!(new, text.replace("\"light\"", "\"no-colour\""));
        assert!(settings.put_into("theme = ").is_err(), "what is no TOML stays as it is");
    }

    #[rstest]
    fn what_is_written_is_read() {
        for theme in Theme::ALL {
            let settings =
                Settings { theme, pointer: false, memory_mib: 99, edits: Edits::Restart };
            let text = settings.put_into("").unwrap();
            assert_eq!(Settings::parse(&text), (settings, None), "{text}");
        }
    }
}
