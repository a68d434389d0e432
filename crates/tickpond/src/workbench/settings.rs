//! What a person has chosen once: a TOML file in the usual place.

use std::path::PathBuf;

use etcetera::{BaseStrategy, choose_base_strategy};
use serde::{Deserialize, Serialize};

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

    /// The choices on disk, and what is wrong with them. Wrong ones are left alone, and the usual ones
    /// hold.
    pub fn read() -> (Settings, Option<String>) {
        let Some(path) = Settings::path() else { return (Settings::default(), None) };
        let Ok(text) = std::fs::read_to_string(&path) else { return (Settings::default(), None) };
        match Settings::parse(&text) {
            Ok(settings) => (settings, None),
            Err(words) => (Settings::default(), Some(format!("{}: {words}", path.display()))),
        }
    }

    /// The choices in a text.
    ///
    /// # Errors
    /// What is wrong, in one line.
    pub fn parse(text: &str) -> Result<Settings, String> {
        let settings: Settings =
            toml::from_str(text).map_err(|e| e.to_string().trim().replace('\n', " "))?;
        if !(16..=1_048_576).contains(&settings.memory_mib) {
            return Err("memory-mib: a number from 16 to 1048576 is wanted".into());
        }
        Ok(settings)
    }

    /// Keeps them. Not being able to is told, and loses nothing else.
    ///
    /// # Errors
    /// What the system reports.
    pub fn write(&self) -> Result<(), String> {
        let path = Settings::path().ok_or("there is no place for settings")?;
        let folder = path.parent().unwrap_or(&path);
        std::fs::create_dir_all(folder).map_err(|e| e.to_string())?;
        let text = toml::to_string(self).map_err(|e| e.to_string())?;
        std::fs::write(&path, text).map_err(|e| format!("{}: {e}", path.display()))
    }
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
        assert_eq!(Settings::parse(text), Ok(wanted));
    }

    #[rstest]
    #[case("theme = \"pink\"", "pink")]
    #[case("colour = true", "colour")]
    #[case("memory-mib = 3", "16")]
    #[case("theme = ", "")]
    fn what_is_wrong_is_told(#[case] text: &str, #[case] words: &str) {
        let error = Settings::parse(text).unwrap_err();
        assert!(error.contains(words) && !error.contains('\n'), "{error}");
    }

    #[rstest]
    fn what_is_written_is_read() {
        for theme in Theme::ALL {
            let settings = Settings { theme, pointer: false, ..Settings::default() };
            let text = toml::to_string(&settings).unwrap();
            assert_eq!(Settings::parse(&text), Ok(settings));
        }
    }
}
