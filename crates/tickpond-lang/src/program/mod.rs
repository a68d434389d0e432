//! The checked program: what the tick plays. All names are resolved, all units are base units
//! (seconds, arena units, degrees), all types have been checked.

mod cause;
mod event;
mod expect;
mod expr;
mod fold;
mod header;
mod ids;
mod item;
mod kind;
mod stmt;
mod tape;
pub mod walk;

pub use cause::Cause;
pub use event::{Event, Handler, LineSide, Local, Other};
pub use expect::{Check, Expect, Happening, Those, Watch};
pub use expr::{
    BinaryOp, Expr, ExprKind, Field, Function, MailStat, Query, QueryKind, RayPart, Stat, Tally,
    TextPart, Ty,
};
pub use fold::constant;
pub use header::{Arena, Edge, Edges, Limits, Side, View, Zone, ZoneShape};
pub use ids::{
    InState, InputId, KindId, KnobId, LocalId, MessageId, POND, SiteId, SpotsId, StateName, TagId,
    TrackName, VarName, ZoneId,
};
pub use item::{Input, Knob, Message, Spot, Spots};
pub use kind::{Body, Kind, Look, Matter, Mount, Placed, Rhythm, Role, SpawnerRule, Track, Var};
pub use stmt::{Birth, Blast, Falloff, Filter, Pick, Ray, Stmt, StmtKind, Target, Where, Whom};
pub use tape::{Tape, TapeAct, TapeStep};

use std::sync::Arc;

use crate::diagnostic::Span;
use crate::lines::{LineCol, LineIndex};

/// A whole pond, ready to be played.
#[derive(Clone, Debug, PartialEq)]
pub struct Program {
    /// The text it came from.
    pub text: Arc<str>,
    /// Where the text's lines begin.
    pub lines: LineIndex,
    /// The title in the header.
    pub title: String,
    /// The arena.
    pub arena: Arena,
    /// Ticks per second, 1..=1000.
    pub rate: f64,
    /// What keeps a run from going out of hand.
    pub limits: Limits,
    /// How many ticks a run takes if nothing else is said.
    pub lasts: Option<u64>,
    /// What the view shows, if the pond has one.
    pub view: Option<View>,
    /// What pulls those with weight, in u/s2.
    pub gravity: (f64, f64),
    /// Tunable values, in the order of the text.
    pub knobs: Vec<Knob>,
    /// Groups of named places.
    pub spots: Vec<Spots>,
    /// Named stretches of the arena.
    pub zones: Vec<Zone>,
    /// Names of all states of all tracks.
    pub state_names: Vec<String>,
    /// Names of all tracks; the first is empty and stands for a kind's own.
    pub track_names: Vec<String>,
    /// Input written down.
    pub tapes: Vec<Tape>,
    /// What the player can do.
    pub inputs: Vec<Input>,
    /// The messages.
    pub messages: Vec<Message>,
    /// Names of all tags.
    pub tags: Vec<String>,
    /// Names of all variables of all kinds.
    pub var_names: Vec<String>,
    /// [`POND`] first, then kinds and spawners in the order of the text.
    pub kinds: Vec<Kind>,
    /// What is there at tick 0.
    pub places: Vec<Placed>,
    /// Values recorded on every tick.
    pub watches: Vec<Watch>,
    /// The expectations.
    pub expects: Vec<Expect>,
    /// Every handler and statement, for counting and for telling the line.
    pub sites: Vec<Site>,
}

impl Program {
    /// Whether an expectation waits for a message to be sent or heard.
    pub fn expects_mail(&self) -> bool {
        self.expects.iter().any(|expect| expect.check.is_about_mail())
    }

    /// Line and column of a site.
    pub fn place_of(&self, site: SiteId) -> LineCol {
        self.lines.line_col(&self.text, self.sites[site.index()].span.start)
    }

    /// The line of a site, from 1.
    pub fn line_of(&self, site: SiteId) -> u32 {
        self.lines.line(self.sites[site.index()].span.start)
    }

    /// The kind with this name.
    pub fn kind_named(&self, name: &str) -> Option<KindId> {
        let at = self.kinds.iter().skip(1).position(|k| k.name == name)?;
        Some(KindId(at as u32 + 1))
    }

    /// The kinds whose members are counted and drawn: neither the pond nor spawners.
    pub fn entity_kinds(&self) -> impl Iterator<Item = (KindId, &Kind)> {
        let all = self.kinds.iter().enumerate().map(|(i, k)| (KindId(i as u32), k));
        all.filter(|(_, k)| matches!(k.role, Role::Entity))
    }

    /// The kind's variable with this name.
    pub fn var_of(&self, kind: KindId, name: VarName) -> Option<&Var> {
        self.kinds[kind.index()].vars.iter().find(|v| v.name == name)
    }

    /// How many ticks a time comes to: rounded to the nearest, never under one.
    pub fn ticks(&self, seconds: f64) -> u64 {
        ticks(seconds, self.rate)
    }
}

/// How many ticks `seconds` come to at `rate` per second: rounded to the nearest, never under one.
pub fn ticks(seconds: f64, rate: f64) -> u64 {
    // `as` takes a number out of range to the nearest end, and what is no number to 0.
    ((seconds * rate + 0.5).floor() as u64).max(1)
}

/// A handler or a statement in the text.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Site {
    /// Its first line's stretch of the text.
    pub span: Span,
    /// The kind it belongs to.
    pub kind: KindId,
    /// Whether it is a handler's head.
    pub is_handler: bool,
}
