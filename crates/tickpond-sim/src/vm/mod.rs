//! Runs register code for a block of entities at once.
//!
//! Each lane is one firing. An instruction is carried out for all lanes that are at it before the
//! next one is. Where lanes part at a branch, those with the lower place in the code go first, and
//! lanes that meet again go on together; code from blocks always meets again behind its branches.
//! Nothing a lane does can be seen by another: it reads the state of the phase's start and its own
//! registers, and everything it wants goes into the [`Outbox`].

mod act;
mod ask;
mod block;
mod chosen;
mod draws;
mod find;
mod lanes;
mod mail;
mod outbox;
mod overlay;
mod query;
mod ray;
mod reach;
mod run;
mod step;
mod text;
mod words;
mod world;

pub(crate) use act::related;
pub use block::Block;
pub use lanes::{LANES, Words};
pub use outbox::{Become, Fault, Outbox, Writes};
pub use run::{run, run_handler};
pub use text::number_text;
pub use world::{Origin, World};
