//! Questions at the bottom of the screen.

use std::path::PathBuf;

use super::menu::Opening;

/// What a typed line is for.
#[derive(Clone, Debug, PartialEq)]
pub enum Ask {
    /// A moment to go to.
    Time,
    /// A condition to pause at.
    PauseWhen,
    /// What narrows the roster and the lifelines.
    Filter,
    /// What narrows the feed.
    FeedFilter,
    /// What is searched.
    Find,
    /// What every match of the first is replaced by.
    ReplaceBy(String),
    /// The new name of the one under the cursor.
    Rename,
    /// A value for the chosen knob.
    KnobValue,
    /// The name of the tape.
    TapeName,
    /// A value to pin.
    Pin,
    /// What is put at a place.
    PlaceWhat((f64, f64)),
}

impl Ask {
    /// What is asked.
    pub fn words(&self) -> String {
        match self {
            Ask::Time => "Go to (12.5 s, 740 ticks, +2 s, -10 ticks)".into(),
            Ask::PauseWhen => "Pause when (such as count(drop) > 40)".into(),
            Ask::Filter => "Show (part of a name, or: midge where health < 2)".into(),
            Ask::FeedFilter => "Show (ended, midge#3, line:81, -touched …)".into(),
            Ask::Find => "Search".into(),
            Ask::ReplaceBy(what) => format!("Replace every {what:?} by"),
            Ask::Rename => "New name".into(),
            Ask::KnobValue => "Value".into(),
            Ask::Pin => "Pin (frog#1.health, count(midge) / 2, a watch)".into(),
            Ask::TapeName => "Name of the tape".into(),
            Ask::PlaceWhat((x, y)) => {
                format!("At ({x:.1}, {y:.1}) a KIND (+KIND in the text) or a spot GROUP")
            }
        }
    }
}

/// What would be lost with a recording.
pub(super) const RECORDING: &str = "A tape is being recorded (T ends it)";

/// What is done next.
#[derive(Clone, Debug, PartialEq)]
pub enum After {
    Stay,
    Quit,
    Open(Opening),
    /// From the start again, with the seed so many on.
    Restart(u64),
    /// From the start with a tape, or without one.
    Tape(Option<String>),
}

/// How far a question has come that is answered by one key.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Asked {
    /// Since when it is shown, in seconds.
    pub since: f64,
    /// A choice that loses something: it is made with Enter.
    pub chosen: Option<char>,
    /// Whether the last key was no answer.
    pub unheard: bool,
}

/// A question at the bottom of the screen, which a command of the person brought up.
#[derive(Clone, Debug, PartialEq)]
pub enum Prompt {
    /// Under which name to save.
    SaveAs(String, After),
    /// Something of this name is there: write over it or not.
    Over(PathBuf, After),
    /// Unsaved text: save it, let go of it or stay. What is done then.
    Unsaved(After),
    /// What would be lost though the text is saved, and what is done then.
    LoseRun(String, After),
    /// A line to be typed.
    Line(Ask, String),
    /// Which layers of the arena are drawn.
    Layers,
}

impl Prompt {
    /// Whether one key answers it; else a line is typed, or several keys switch something.
    pub fn is_choice(&self) -> bool {
        matches!(self, Prompt::Over(..) | Prompt::Unsaved(_) | Prompt::LoseRun(..))
    }

    /// Whether what this key stands for loses something.
    pub fn loses(&self, c: char) -> bool {
        match self {
            Prompt::Over(..) => c == 'o',
            Prompt::Unsaved(_) | Prompt::LoseRun(..) => c == 'd',
            _ => false,
        }
    }
}
