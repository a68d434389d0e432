//! The workbench: one full-screen program around the loop change, play, look, ask why.
//!
//! [`app`] holds the state and is the only code that changes it; [`screen`] and the views draw it;
//! [`sim`] plays on a thread of its own and hands out [`snapshot`]s. [`keys`] is the one table of
//! commands, [`layout`] the one place where sizes come from, [`palette`] the one for styles. The
//! terminal is touched in [`terminal`] alone.

mod app;
mod arena;
mod controls;
mod feed;
mod files;
#[cfg(test)]
mod flow_tests;
mod keys;
mod layout;
mod palette;
mod places;
mod pointer;
mod roster;
mod screen;
mod script;
mod sim;
mod snapshot;
mod strip;
mod terminal;
#[cfg(test)]
mod tests;

pub use app::Document;
pub use places::{last_pond, remember_pond, write_whole};
pub use terminal::run;
