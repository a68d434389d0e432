//! The phases of a tick, one file each, in their order. Each first does its own work, then runs
//! its handlers, then is closed: what the handlers wrote and asked for is put where it belongs.

mod active;
mod attach;
mod births;
mod clocks;
mod close;
mod contact;
mod cross;
mod due;
mod ends;
mod input;
mod mail;
mod motion;
mod near;
mod places;
mod record;
mod settle;
mod solver;
mod standing;
mod still;
mod sweep;
mod think;
mod touch;
mod view;
mod writes;

pub(crate) use contact::TouchScratch;
pub(crate) use due::Due;
pub(crate) use ends::Ending;
pub(crate) use mail::Boxes;
pub(crate) use solver::Solver;
pub(crate) use standing::Standing;
pub(crate) use sweep::{Shape, meet};
