//! Runs over the tick: recording, jumping in time, edits in mid-run, expectations, reports.
//!
//! A [`Case`] is what is to be played. A [`Run`] plays a pond, records it ([`record`]), judges its expectations ([`judge`]) and keeps
//! keyframes ([`keyframes`]), so that any tick can be reached again exactly. A [`Player`] plays one
//! forward into sinks and keeps nothing. What views ask, of a run or of anything else that happened over time, is a
//! [`Timeline`] with its [`Cast`]. [`report`] is the object `run --json` prints, [`files`] the
//! tables.
//!
//! # Glossary
//!
//! | word | meaning |
//! |---|---|
//! | case | a program with seed, knobs and input: what is to be played |
//! | run | a case that is played and recorded, and a place in it |
//! | record | counts of every tick, and events as far back as they are kept |
//! | keyframe | a saved state and its verdicts, from which later ticks are played again |
//! | segment | the ticks that one version of the text has played |
//! | past, branch | what is kept of a run that an edit, a key in the past or a restart left behind: counts to compare with, and the recipe to play it again |
//! | tape | input that is written down in a text |
//! | verdict | how an expectation stands at a tick |
//! | lane | one life in a chart of lives side by side |

pub mod apart;
mod beside;
pub mod between;
pub mod branch;
pub mod case;
pub mod cast;
pub mod counts;
pub mod files;
pub mod gauge;
pub mod incidence;
pub mod input;
pub mod judge;
pub mod keyframes;
pub mod lifelines;
pub mod lives;
pub mod moved;
pub mod naming;
pub mod odd;
pub mod options;
pub mod past;
pub mod played;
pub mod player;
pub mod probe;
pub mod record;
pub mod report;
pub mod run;
pub mod sink;
pub mod survival;
pub mod taping;
pub mod telling;
pub mod timeline;
mod typed;
pub mod values;
pub mod watching;
pub mod why;

pub use branch::{BranchError, Recipe};
pub use case::Case;
pub use cast::Cast;
pub use input::Input;
pub use judge::{Outcome, Verdict};
pub use options::{OptionsError, RunOptions, TapeChoice};
pub use past::Past;
pub use played::Played;
pub use player::Player;
pub use probe::Probe;
pub use record::Record;
pub use report::Report;
pub use run::{Edited, Run, Takes};
pub use sink::{Sink, Tick};
pub use timeline::Timeline;
