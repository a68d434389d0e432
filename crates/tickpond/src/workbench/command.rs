//! What the simulation can be told.

use std::path::PathBuf;
use std::sync::Arc;

use tickpond_lab::Recipe;
use tickpond_lang::program::Program;

use super::one::One;
use super::stretch::Stretch;
use super::wish::Wish;

/// What the simulation can be told.
#[derive(Clone, Debug)]
pub enum Command {
    /// Another pond is opened, the document of this number: it stands paused at its start as soon as it has a
    /// program.
    Open(u64),
    /// Plays this program from the next tick on.
    Take(Arc<Program>),
    Play(bool),
    /// Plays if it is paused, and the other way around.
    PlayPause,
    /// So many ticks on, or back.
    Step(i64),
    /// To a tick that has been played.
    Seek(u64),
    /// So many ticks on, or back, among those that have been played.
    Along(i64),
    /// Plays on to a tick, or goes back to it.
    PlayTo(u64),
    /// Stays where it is, on the way to a tick.
    Halt,
    /// So many times as fast.
    Faster(f64),
    /// From the start again, with the seed so many on.
    Restart(u64),
    Key(String, bool),
    /// A pointer of the play was moved.
    Point(String, (f64, f64)),
    /// Puts one of a kind somewhere.
    Place(String, (f64, f64)),
    /// What the drawer wants to know.
    Want(Box<Wish>),
    /// Goes to the next event of a sort, or the one before.
    Find(Hunt, bool),
    /// Goes to the first tick in which an expectation failed.
    FirstBroken,
    /// A condition to pause at, added or, if it is there, switched on or off.
    PauseWhen(String),
    /// Takes a condition away.
    ForgetStop(usize),
    /// Begins to record a tape, or ends that and hands its text over under this name.
    Tape(Option<String>),
    /// Begins again with what the player does on a tape, or with nothing.
    PlayTape(Option<String>),
    /// Whether a pond opens with the tape that is marked `played`.
    PlaysTapes(bool),
    /// Whether edits are taken up where the run is.
    EditsFork(bool),
    /// Bytes the keyframes may take.
    Memory(usize),
    /// The entity to tell the story of.
    Focus(Option<One>),
    /// How many columns the time strip has.
    StripWidth(usize),
    /// Pins a value.
    Pin(String),
    /// Takes a pin away.
    Unpin(usize),
    /// Goes back to a branch.
    Branch(u64),
    /// Branches of an earlier session.
    Branches(Vec<Recipe>),
    /// Why a line of the newest text, from 1, did not run.
    WhyNot(u32),
    /// Writes a drawing of the run.
    Export([PathBuf; 2], DrawRun),
    Quit,
}

/// A drawing of the run, and what is wanted of it.
#[derive(Clone, Debug, PartialEq)]
pub struct DrawRun {
    /// Its name.
    pub what: &'static str,
    /// The kinds it shows; all if none is named.
    pub kinds: Vec<String>,
    /// Whether the run before is drawn beneath.
    pub beside: bool,
    /// The stretch that is shown.
    pub stretch: Option<Stretch>,
    /// The first tick of the ways there, for a drawing of one tick.
    pub from: Option<u64>,
}

/// Which events are gone through.
#[derive(Clone, Debug, PartialEq)]
pub enum Hunt {
    /// Those of one entity.
    Of(One),
    /// Those that meet a filter of the feed.
    Like(String),
}
