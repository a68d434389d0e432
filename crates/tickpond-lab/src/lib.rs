//! Runs over the tick: recording, jumping in time, edits in mid-run, expectations, reports.
//!
//! A [`Run`] plays a pond, records it ([`record`]), judges its expectations ([`judge`]) and keeps
//! keyframes ([`keyframes`]), so that any tick can be reached again exactly. [`report`] is the
//! object `run --json` prints, [`files`] the tables.

mod beside;
pub mod counts;
pub mod files;
pub mod judge;
pub mod keyframes;
pub mod lifelines;
pub mod options;
pub mod past;
pub mod probe;
pub mod record;
pub mod report;
pub mod run;
pub mod survival;
pub mod taping;

pub use judge::{Outcome, Verdict};
pub use options::{OptionsError, RunOptions, TapeChoice};
pub use past::Past;
pub use probe::Probe;
pub use record::Record;
pub use report::Report;
pub use run::{Edited, Input, Run};
