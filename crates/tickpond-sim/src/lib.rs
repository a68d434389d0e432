//! The tick: a checked program becomes a deterministic run.
//!
//! A program is compiled once to register code ([`code`]). An [`Engine`] plays a [`state::State`]
//! forward tick by tick, in the [`phase`]s of a tick, running handlers for blocks of entities at
//! once ([`vm`]). What happened comes out as [`event::Event`]s. The same program, seed, knobs and
//! input give the same states to the last bit: chance has no running state ([`luck`]), angles and
//! roots come from a portable implementation ([`angle`]), and no order that could differ reaches a
//! result. [`carry`] takes a state over to an edited program.
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
