//! The plain data a snapshot is made of.

use std::sync::Arc;

use tickpond_lab::cast::Cast;
use tickpond_lab::judge::Outcome;
use tickpond_lab::{Recipe, Takes};
use tickpond_lang::program::{Cause, KindId};
use tickpond_sim::{Phase, What, Who};

use crate::workbench::answer::Answer;
use crate::workbench::one::One;
use crate::workbench::pins::PinAt;
use crate::workbench::silhouette::Strip;
use crate::workbench::tint::{TintKey, Tone};

/// Most lines of the feed that are handed to the screen.
pub(super) const FEED_LINES: usize = 600;
/// Most events that are looked at for those lines.
pub(super) const FEED_LOOKS: usize = 300_000;
/// Most events of the selected entity that are handed to the screen.
pub(super) const STORY_LINES: usize = 200;

/// A moment of the run as the screen shows it.
#[derive(Clone, Debug, Default)]
pub struct Snapshot {
    /// The number of the document whose run this is of.
    pub document: u64,
    pub travel: Travel,
    pub play: Play,
    /// Who plays, and on what ground; `None` before the first program.
    pub cast: Option<Arc<Cast>>,
    pub scene: Scene,
    pub strip: Strip,
    pub feed: Vec<FeedLine>,
    pub script: Script,
    pub checks: Vec<CheckLine>,
    pub selected: Selected,
    /// What a guard that stopped the run has to say.
    pub stopped: Option<StopLine>,
    /// What became of the last request.
    pub notice: Option<Notice>,
    /// What was asked for and fills a page.
    pub page: Option<Page>,
    /// What the drawer asked for.
    pub answer: Answer,
    /// Conditions the play pauses at.
    pub stops: Vec<StopAt>,
    /// Values that are pinned.
    pub pins: Vec<PinAt>,
    /// What was left behind and can be gone back to, the oldest first.
    pub branches: Vec<Branch>,
    /// The text of a branch that was gone back to.
    pub gone_back: Option<GoneBack>,
}

/// A run that was left behind.
#[derive(Clone, Debug, PartialEq)]
pub struct Branch {
    /// Its number.
    pub number: u64,
    /// By what it was left: `3, before gap = 0.4 s at 12.30 s`.
    pub words: String,
    /// The last tick it shares with the run that took its place.
    pub parted: u64,
    /// What it takes to play it again.
    pub recipe: Arc<Recipe>,
}

/// The text that plays since a branch was gone back to.
#[derive(Clone, Debug, PartialEq)]
pub struct GoneBack {
    /// Counts how often one was.
    pub number: u64,
    pub text: Arc<str>,
}

/// Where in its time the run is.
#[derive(Clone, Debug, Default)]
pub struct Travel {
    /// The tick that is shown.
    pub tick: u64,
    /// The last tick that has been played.
    pub head: u64,
    /// The tick that is gone to.
    pub goal: Option<u64>,
    /// Whether an edit parted this run from the one before.
    pub edited: bool,
    /// How many keyframes there are, and how many bytes they take.
    pub memory: (usize, usize),
    /// Where all of the run's memory goes.
    pub takes: Takes,
}

/// How the run is played, and with which input.
#[derive(Clone, Debug)]
pub struct Play {
    pub seed: u64,
    pub playing: bool,
    /// Times real time.
    pub speed: f64,
    /// Inputs that are down.
    pub held: Vec<String>,
    /// The tick a tape is recorded from.
    pub recording: Option<u64>,
    /// The names of the tapes of the newest text.
    pub tapes: Vec<String>,
    /// The name of the tape that is played.
    pub plays: Option<String>,
    /// The text of the tape that was recorded last.
    pub tape: Option<String>,
}

impl Default for Play {
    fn default() -> Play {
        Play {
            seed: 0,
            playing: false,
            speed: 1.0,
            held: Vec::new(),
            recording: None,
            tapes: Vec::new(),
            plays: None,
            tape: None,
        }
    }
}

/// What there is to see in the arena.
#[derive(Clone, Debug, Default)]
pub struct Scene {
    /// Those alive, kind by kind, oldest first; the pond left out.
    pub entities: Vec<Seen>,
    /// How many of each kind live, without looking at each.
    pub counts: Vec<usize>,
    /// What was just born or ended.
    pub marks: Vec<Mark>,
    /// Rays that are shown: from, to, and the share of their time that is left.
    pub traces: Vec<Trace>,
    /// The middle of the pond's view.
    pub view: (f64, f64),
    /// Where each was in the last second.
    pub trails: Vec<Trail>,
    /// Whether there are too many for trails.
    pub no_trails: bool,
    /// What the tones of the entities mean.
    pub tint: TintKey,
}

/// Where one was in the last second.
#[derive(Clone, Debug, PartialEq)]
pub struct Trail {
    pub kind: KindId,
    /// Places from the oldest on, each with the seconds since, and whether it was reached from the one before by
    /// moving and not by a jump.
    pub places: Vec<(f64, f64, f64, bool)>,
}

/// The text as the run knows it.
#[derive(Clone, Debug, Default)]
pub struct Script {
    /// The newest text: from the next tick on it plays, and the lines told of are its lines.
    pub text: Arc<str>,
    /// How often lines of it ran up to this tick: those on which something can, from 1.
    pub ran: Vec<(u32, u64)>,
}

/// What the person has selected.
#[derive(Clone, Debug, Default)]
pub struct Selected {
    /// Whom the story is of: who was selected when this was made.
    pub focus: Option<One>,
    pub story: Option<Story>,
}

/// A condition the play pauses at.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct StopAt {
    pub typed: String,
    pub on: bool,
    /// Why it cannot be asked.
    pub trouble: Option<String>,
    /// When it last became true, in ticks.
    pub met: Option<u64>,
}

/// A ray or the reach of a blast that is shown for a while.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Trace {
    pub from: (f64, f64),
    pub to: (f64, f64),
    /// How far a blast reaches, in u.
    pub radius: Option<f64>,
    /// The share of its time that is left, `0.0..=1.0`.
    pub left: f64,
}

/// A short word of the simulation to the person; the number tells a new one from an old one.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Notice {
    pub number: u64,
    pub words: String,
    pub is_trouble: bool,
}

/// An answer that fills a page; the number tells a new one from an old one.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Page {
    pub number: u64,
    pub title: String,
    pub lines: Vec<String>,
}

/// A living entity.
#[derive(Clone, Debug, PartialEq)]
pub struct Seen {
    pub who: Who,
    pub at: (f64, f64),
    pub heading: f64,
    pub speed: f64,
    pub health: Option<f64>,
    pub age: f64,
    pub maker: Option<Who>,
    /// Whether it takes part.
    pub active: bool,
    /// What its colour is.
    pub tone: Tone,
    /// Seconds since it was hurt, if that was a moment ago.
    pub hurt: Option<f64>,
}

/// A line of the feed.
#[derive(Clone, Debug, PartialEq)]
pub struct FeedLine {
    pub tick: u64,
    pub phase: Phase,
    pub what: What,
    pub who: Who,
    /// Its name in the text that played then; `None` for the pond.
    pub one: Option<One>,
    pub words: String,
    pub line: Option<u32>,
}

/// An expectation and how it stands.
#[derive(Clone, Debug, PartialEq)]
pub struct CheckLine {
    pub words: String,
    /// Its line in the newest text, if it still has one.
    pub line: Option<u32>,
    pub outcome: Outcome,
    pub failed: Option<u64>,
    /// What was seen when it failed.
    pub saw: Option<Arc<str>>,
}

/// A guard that stopped the run.
#[derive(Clone, Debug, PartialEq)]
pub struct StopLine {
    pub tick: u64,
    pub words: String,
    /// Whose fault it was, if it was one's.
    pub entity: Option<String>,
    /// The lines that did most of it, none twice.
    pub lines: Vec<u32>,
    /// The limit that was reached, as the header sets it.
    pub limit: Option<String>,
}

impl StopLine {
    /// What happened, to whom, and where.
    pub fn told(&self) -> String {
        let entity = self.entity.iter().map(|name| format!(", {name}"));
        let lines: Vec<String> = self.lines.iter().map(u32::to_string).collect();
        let lines = match lines.len() {
            0 => None,
            1 => Some(format!(", line {}", lines[0])),
            _ => Some(format!(", lines {}", lines.join(", "))),
        };
        let limit = self.limit.iter().map(|limit| format!(" (limit {limit})"));
        std::iter::once(self.words.clone()).chain(entity).chain(lines).chain(limit).collect()
    }
}

/// The selected entity: its values if it lives, and its history.
#[derive(Clone, Debug, PartialEq)]
pub struct Story {
    pub name: String,
    pub alive: bool,
    /// Name and value.
    pub values: Vec<(String, String)>,
    /// Its events, oldest first, up to the present tick.
    pub events: Vec<FeedLine>,
    /// The line that made it.
    pub born_line: Option<u32>,
    /// The line that ended it.
    pub end_line: Option<u32>,
    /// Who made it.
    pub maker: Option<One>,
    /// When it was born, if that is on record.
    pub born_tick: Option<u64>,
    /// When it ended, if that is on record.
    pub end_tick: Option<u64>,
    /// The last time it was hurt: tick and line.
    pub hurt: Option<(u64, Option<u32>)>,
}

/// A birth or an end a moment ago.
#[derive(Clone, Debug, PartialEq)]
pub struct Mark {
    pub at: (f64, f64),
    /// `None` for a birth.
    pub cause: Option<Cause>,
    /// The share of its time that is left, `0.0..=1.0`.
    pub left: f64,
}
