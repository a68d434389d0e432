//! The tick: a checked program becomes a deterministic run.
//!
//! A program is compiled once to register code ([`code`]). An [`Engine`] plays a [`state::State`]
//! forward tick by tick, in the [`phase`]s of a tick, running handlers for blocks of entities at
//! once ([`vm`]). What happened comes out as [`event::Event`]s. The same program, seed, knobs and
//! input give the same states to the last bit: chance has no running state ([`luck`]), angles and
//! roots come from a portable implementation ([`angle`]), and no order that could differ reaches a
//! result. [`carry`] takes a state over to an edited program.
//!
//! # Glossary
//!
//! | word | meaning |
//! |---|---|
//! | kind, entity | a class of entities and its members; the pond is the first kind, with one member |
//! | row, column | the place of an entity among its kind, oldest first; one field of all members |
//! | slot | where an [`EntityId`] points: the kind and row of the entity, by generation |
//! | site | a handler or statement of the text, for counting and for telling the line |
//! | head, turn | what stands before a handler's body; the group of handlers a phase runs together |
//! | firing | one run of a handler for one entity |
//! | block, lane | up to 256 firings that run together; one of them |
//! | lane mask | which lanes of a block an instruction is carried out for |
//! | round | the firings of a handler that can run together because each entity is in them once |
//! | outbox | what the firings of a phase ask for, in the order of the roll when the phase closes |
//! | roll | the order of all entities by birth, which decides where order matters |
//! | letter | one message to one addressee, not yet delivered; a mailbox holds those for one handler |
//! | request | something that was asked for and is carried out later: a birth, damage, an end, a push |
//! | trace | the firings of one tick, for whoever takes it apart |
//! | event | what happened, with tick, phase, entity and site |
//! | draw | a random number: a hash of seed, tick, handler and entity |
//!
//! ```
//! use tickpond_sim::Engine;
//!
//! let text = "pond \"Rain\" { arena 10 x 10 }\nplace drop at (5, 5)\nkind drop { after 1 s { end self } }";
//! let program = tickpond_lang::compile(text).program.unwrap();
//! let mut engine = Engine::new(program);
//! let mut state = engine.open(1, &mut Vec::new());
//! for _ in 0..60 {
//!     engine.step(&mut state, &[], &mut Vec::new());
//! }
//! assert_eq!(state.live(), 0);
//! ```

pub mod angle;
pub mod carry;
mod cells;
pub mod code;
pub mod engine;
pub mod event;
mod firing;
mod holds;
mod index;
pub mod luck;
pub mod phase;
pub mod space;
pub mod state;
mod sweep;
mod tick;
pub mod trace;
pub mod vm;
mod wide;

pub use engine::{Engine, InputChange};
pub use event::{Event, Guard, Phase, Stopped, What, Who};
pub use holds::Holds;
pub use state::{EntityId, State};
pub use trace::{Asked, Firings};
