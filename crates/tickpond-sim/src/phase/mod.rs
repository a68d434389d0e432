//! The phases of a tick, one file each, in their order. Each first does its own work, then runs
//! its handlers, then is closed: what the handlers wrote and asked for is put where it belongs.

mod active;
mod attach;
mod births;
mod clocks;
mod close;
mod contact;
mod cross;
pub(crate) mod due;
pub(crate) mod ending;
mod ends;
mod input;
mod mail;
pub(crate) mod mailboxes;
mod motion;
mod near;
mod places;
mod record;
pub(crate) mod search;
mod settle;
mod solver;
mod spawners;
pub(crate) mod standing;
mod still;
mod think;
mod touch;
mod view;
mod writes;
mod zones;
