//! The phases of a tick, one file each, in their order. Each first does its own work, then runs
//! its handlers, then is closed: what the handlers wrote and asked for is put where it belongs.

mod births;
mod clocks;
mod close;
mod contact;
mod ends;
mod input;
mod mail;
mod motion;
mod record;
mod settle;
mod sweep;
mod think;

pub(crate) use contact::TouchScratch;
