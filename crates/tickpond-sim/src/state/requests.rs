//! What was asked for and is not yet carried out.

use std::sync::Arc;

use tickpond_lang::program::{Cause, SiteId};

use super::birth::BirthRequest;
use super::roll::Key;
use super::slots::EntityId;
use crate::event::{Phase, Who};

/// A change of velocity.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct PushRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Who is pushed.
    pub target: EntityId,
    /// The change in u/s.
    pub by: (f64, f64),
    /// The line that asked.
    pub site: SiteId,
}

/// Activation or its end.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct ActiveRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Who is meant.
    pub target: EntityId,
    /// Whether it is activated.
    pub on: bool,
    /// Who asked.
    pub by: Who,
    /// The line that asked.
    pub site: SiteId,
}

/// An attachment to be made or undone.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct AttachRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Who is attached.
    pub target: EntityId,
    /// To whom and how; undone if none.
    pub to: Option<Attachment>,
    /// Who asked.
    pub by: Who,
    /// The line that asked.
    pub site: SiteId,
}

/// How an entity hangs on another.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Attachment {
    /// On whom.
    pub owner: EntityId,
    /// At which of its kind's mounts.
    pub mount: u32,
    /// Whether it stays when its owner ends.
    pub outlives: bool,
}

/// A ray or the reach of a blast that is shown for a while.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Trace {
    /// Where a ray begins; the middle of a blast.
    pub from: (f64, f64),
    /// Where a ray ends; the middle of a blast.
    pub to: (f64, f64),
    /// How far a blast reaches, in u; `None` for a ray.
    pub radius: Option<f64>,
    /// The tick it was cast in.
    pub since: u64,
    /// The tick from which it is no longer shown.
    pub until: u64,
}

/// Damage or healing.
#[derive(Clone, PartialEq, Debug)]
pub struct HealthRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Whom it meets.
    pub target: EntityId,
    /// How much health is lost; healing is negative.
    pub loss: f64,
    /// Who gets the credit.
    pub by: Who,
    /// The line that asked.
    pub site: SiteId,
}

/// An end.
#[derive(Clone, PartialEq, Debug)]
pub struct EndRequest {
    /// Its place in the roll.
    pub key: Key,
    /// Who ends.
    pub target: EntityId,
    /// The phase it was asked in.
    pub phase: Phase,
    /// Why.
    pub cause: Cause,
    /// The words behind `because`.
    pub words: Option<Arc<str>>,
    /// Who asked, or gets the credit.
    pub by: Who,
    /// The line that asked.
    pub site: SiteId,
    /// What takes its place, if this is the end that counts.
    pub births: Vec<BirthRequest>,
    /// The velocity those keep, if it is not the one at the end.
    pub kept_velocity: Option<(f64, f64)>,
}

/// A handler that waits.
#[derive(Clone, PartialEq, Debug)]
pub struct Wait {
    /// When it goes on.
    pub due: u64,
    /// Whose handler.
    pub entity: EntityId,
    /// How many were born before that entity.
    pub serial: u64,
    /// Its place among the kind's compiled handlers.
    pub handler: u32,
    /// Where in the code it goes on.
    pub at: u32,
    /// The registers it keeps.
    pub words: Vec<u64>,
}
