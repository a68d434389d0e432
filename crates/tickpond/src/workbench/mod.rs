//! The workbench: one full-screen program around the loop change, play, look, ask why.
//!
//! [`app`] holds the state, grouped in [`held`]. Above it stands what changes it: [`input`] for keys, [`acts`] and
//! [`script_acts`] for commands, [`choice`], [`menus`], [`prompts`], [`pointer`], [`saving`]. [`views`] has a folder for
//! each view of the drawer and the table that lists them. [`screen`] draws. [`sim`] plays on a thread of its own; it is
//! told [`command`]s and hands out [`snapshot`]s, with an [`answer`] to the [`wish`] of the view that is shown.
//! [`commands`] is the one table of commands, [`layout`] the one place where sizes come from, [`palette`] the one for
//! styles. The terminal is touched in [`terminal`] alone.

mod acts;
mod answer;
mod answers;
mod app;
mod arena;
mod befell;
#[cfg(test)]
mod chart_tests;
mod choice;
mod command;
mod commands;
mod controls;
mod dressed;
mod files;
mod fitted;
#[cfg(test)]
mod flow_tests;
mod frame;
mod guide;
mod held;
mod history;
mod in_turn;
mod input;
mod inquiry;
mod keeper;
mod keys;
mod layout;
mod marked;
mod menu;
mod menus;
mod minder;
#[cfg(test)]
mod model_tests;
#[cfg(test)]
mod more_tests;
mod offer;
#[cfg(test)]
mod offer_tests;
mod offers;
mod one;
mod overlay;
mod palette;
mod picture;
mod pins;
mod pixels;
mod places;
mod placing;
mod pointer;
mod preview;
mod prompt;
mod prompts;
mod question;
mod recovery;
mod saving;
mod screen;
mod script;
mod script_acts;
mod settings;
mod silhouette;
mod sim;
mod snapshot;
mod stack;
mod status;
mod stops;
#[cfg(test)]
mod storm_tests;
mod stretch;
mod strip;
mod terminal;
#[cfg(test)]
mod tests;
mod tint;
mod tinting;
#[cfg(test)]
mod told_tests;
mod typed;
mod views;
mod waiting;
mod wake;
mod wish;

pub use app::Document;
pub use frame::FrameApp;
pub use minder::{mind, signal_of};
pub use places::remember_pond;
pub use terminal::{Ended, run};
