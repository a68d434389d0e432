//! The workbench: one full-screen program around the loop change, play, look, ask why.
//!
//! [`app`] holds the state and is the only code that changes it; [`screen`] and the views draw it;
//! [`sim`] plays on a thread of its own and hands out [`snapshot`]s. [`keys`] is the one table of
//! commands, [`layout`] the one place where sizes come from, [`palette`] the one for styles. The
//! terminal is touched in [`terminal`] alone.

mod acts;
mod anatomy;
mod answers;
mod app;
mod arena;
mod befell;
#[cfg(test)]
mod chart_tests;
mod checks;
mod choice;
mod controls;
mod drawer;
mod feed;
mod files;
mod fitted;
#[cfg(test)]
mod flow_tests;
mod frame;
mod history;
mod keeper;
mod keys;
mod knobs;
mod layout;
mod lifelines;
mod menu;
mod minder;
#[cfg(test)]
mod model_tests;
mod one;
mod overlay;
mod palette;
mod picture;
mod places;
mod placing;
mod pointer;
mod prompt;
mod recovery;
mod roster;
mod saving;
mod screen;
mod script;
mod settings;
mod silhouette;
mod sim;
mod snapshot;
mod stack;
mod stops;
#[cfg(test)]
mod storm_tests;
mod strip;
mod terminal;
#[cfg(test)]
mod tests;
#[cfg(test)]
mod told_tests;
mod trends;
mod waiting;

pub use app::Document;
pub use frame::FrameApp;
pub use minder::{mind, signal_of};
pub use places::remember_pond;
pub use terminal::{Ended, run};
