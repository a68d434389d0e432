//! What happened in a tick, each with where it came from.

use std::sync::Arc;

use tickpond_lang::Span;
use tickpond_lang::program::{Cause, KindId, Limits, MessageId, SiteId};

use crate::state::slots::EntityId;

/// The phases of a tick, in their order.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[allow(missing_docs, reason = "docs/language.md tells what each does")]
pub enum Phase {
    Input,
    Clocks,
    Births,
    Think,
    Move,
    Contact,
    Mail,
    Settle,
    Ends,
    Record,
}

impl Phase {
    /// The word for it.
    pub fn name(self) -> &'static str {
        match self {
            Phase::Input => "input",
            Phase::Clocks => "clocks",
            Phase::Births => "births",
            Phase::Think => "think",
            Phase::Move => "move",
            Phase::Contact => "contact",
            Phase::Mail => "mail",
            Phase::Settle => "settle",
            Phase::Ends => "ends",
            Phase::Record => "record",
        }
    }
}

/// An entity as it can be told apart for ever, alive or not.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, PartialOrd, Ord)]
pub struct Who {
    /// Its kind.
    pub kind: KindId,
    /// Its number among its kind, from 1: `midge#12` is 12.
    pub number: u32,
    /// Its identity in the run.
    pub id: EntityId,
}

/// What happened.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub enum What {
    /// It was born; the other is its maker.
    Born,
    /// It ended; the other is who did it, the value is the length of its life in ticks.
    Ended,
    /// Another cause wanted its end too, later or lower in the order.
    Outvoted,
    /// It began to touch the other.
    Touched,
    /// Damage to it was asked for by the other; the value is how much.
    Damaged,
    /// Its health went down in the tick; the value is by how much, the other did most of it.
    Hurt,
    /// It won health.
    Healed,
    /// It sent a message; the value is to how many.
    Sent,
    /// It heard a message from the other.
    Heard,
    /// It has no handler for what reached it.
    Unheard,
    /// It asked for something of one that is gone.
    Stale,
    /// It was called on while it still waited.
    Missed,
    /// It began a wave.
    Wave,
    /// It said something.
    Said,
    /// A guard refused it something.
    Refused,
    /// It no longer touches the other.
    Parted,
    /// It became another state, named by the words.
    Became,
    /// It was activated by the other.
    Activated,
    /// It was put to rest by the other.
    Deactivated,
    /// Its health came to 0, and it stays.
    Downed,
    /// It was attached to the other, or let go.
    Attached,
    /// No place for a birth met its conditions.
    NoPlace,
    /// A second after its birth it still lies over its maker.
    Crowded,
}

impl What {
    /// The word for it, as in the event files.
    pub fn name(self) -> &'static str {
        match self {
            What::Born => "born",
            What::Ended => "ended",
            What::Outvoted => "outvoted",
            What::Touched => "touched",
            What::Damaged => "damaged",
            What::Hurt => "hurt",
            What::Healed => "healed",
            What::Sent => "sent",
            What::Heard => "heard",
            What::Unheard => "unheard",
            What::Stale => "stale",
            What::Missed => "missed",
            What::Wave => "wave",
            What::Said => "said",
            What::Refused => "refused",
            What::Parted => "parted",
            What::Became => "became",
            What::Activated => "activated",
            What::Deactivated => "deactivated",
            What::Downed => "downed",
            What::Attached => "attached",
            What::NoPlace => "no place",
            What::Crowded => "crowded",
        }
    }
}

/// One thing that happened.
#[derive(Clone, PartialEq, Debug)]
pub struct Event {
    /// When.
    pub tick: u64,
    /// In which phase.
    pub phase: Phase,
    /// What.
    pub what: What,
    /// To whom.
    pub who: Who,
    /// The other party.
    pub other: Option<Who>,
    /// Why it ended.
    pub cause: Option<Cause>,
    /// Which message.
    pub message: Option<MessageId>,
    /// Words behind `because`, what was said, what was refused.
    pub words: Option<Arc<str>>,
    /// How much.
    pub value: Option<f64>,
    /// Where it was born or ended, in u.
    pub place: Option<(f64, f64)>,
    /// The line that asked for it.
    pub site: Option<SiteId>,
}

impl Event {
    /// An event with nothing but when, what and to whom.
    pub fn new(tick: u64, phase: Phase, what: What, who: Who) -> Event {
        Event {
            tick,
            phase,
            what,
            who,
            other: None,
            cause: None,
            message: None,
            words: None,
            value: None,
            place: None,
            site: None,
        }
    }
}

/// Why a run paused by itself.
#[derive(Clone, PartialEq, Debug)]
pub struct Stopped {
    /// Which guard.
    pub guard: Guard,
    /// In which tick.
    pub tick: u64,
    /// The line that did most of it.
    pub site: Option<SiteId>,
    /// How often that line asked in that tick.
    pub times: u64,
    /// The lines that did most of the rest, and how often: two at most.
    pub others: Vec<(SiteId, u64)>,
    /// Whose line it was, if it is one entity's fault.
    pub who: Option<Who>,
    /// Where in the text it was, if it is on no line that is counted, such as the first value of a variable.
    pub span: Option<Span>,
}

impl Stopped {
    /// The lines that did most of it, and how often each asked in that tick.
    pub fn lines(&self) -> impl Iterator<Item = (SiteId, u64)> + '_ {
        self.site.map(|site| (site, self.times)).into_iter().chain(self.others.iter().copied())
    }

    /// A guard that one line ran into, once.
    pub(crate) fn once(guard: Guard, tick: u64, site: Option<SiteId>) -> Stopped {
        Stopped { guard, tick, site, times: 1, others: Vec::new(), who: None, span: None }
    }

    /// A guard that these lines ran into, each so often; the first did most of it.
    pub(crate) fn by_lines(guard: Guard, tick: u64, lines: &[(SiteId, u64)]) -> Stopped {
        let (site, times) = lines.first().map_or((None, 0), |(site, times)| (Some(*site), *times));
        let others = lines.get(1..).unwrap_or(&[]).to_vec();
        Stopped { guard, tick, site, times, others, who: None, span: None }
    }
}

/// What keeps a run from going out of hand.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Hash)]
pub enum Guard {
    /// More entities than the pond's limit.
    Entities,
    /// More births in a tick than the pond allows.
    Births,
    /// Births that bring about births without end.
    BirthRounds,
    /// A firing that goes on and on.
    Steps,
    /// A result that is no finite number.
    NotFinite,
    /// More births of one request than can be asked for at once.
    AtOnce,
    /// A number of births below 0.
    LessThanNone,
    /// More births asked for and still to come than the pond's limit.
    Waiting,
    /// More letters in a tick than the pond allows.
    Letters,
    /// More requests in a tick than the pond allows.
    Requests,
    /// More steps in a tick, of all firings together, than the pond allows.
    StepsInAll,
    /// More bytes of text in a tick than the pond allows.
    Text,
    /// More looks of questions in a tick than the pond allows.
    Looks,
    /// More bodies that touch than the pond's limit.
    Touches,
    /// The tick took too long for somebody, who ended it. It is no tick of the run.
    Interrupted,
}

impl Guard {
    /// What the count of a line is of: `refused`, `steps`.
    pub fn counted(self, times: u64) -> String {
        let grouped = tickpond_lang::units::grouped(times);
        let (one, many) = match self {
            Guard::Entities | Guard::Births | Guard::Waiting => ("birth refused", "births refused"),
            Guard::BirthRounds => ("birth in that tick", "births in that tick"),
            Guard::AtOnce | Guard::LessThanNone => ("birth asked for", "births asked for"),
            Guard::Steps => ("step in one firing", "steps in one firing"),
            Guard::StepsInAll => ("step in that tick", "steps in that tick"),
            Guard::Letters => ("message in that tick", "messages in that tick"),
            Guard::Text => ("byte of text in that tick", "bytes of text in that tick"),
            Guard::Looks => ("look in that tick", "looks in that tick"),
            Guard::Touches => ("touch", "touches"),
            Guard::Requests => ("request in that tick", "requests in that tick"),
            Guard::NotFinite | Guard::Interrupted => ("time in that tick", "times in that tick"),
        };
        // What is cut off goes no further: there would have been more.
        let least = matches!(
            self,
            Guard::StepsInAll | Guard::Letters | Guard::Requests | Guard::Text | Guard::Looks
        );
        let least = if least { "at least " } else { "" };
        let sign = if self == Guard::LessThanNone { "-" } else { "" };
        format!("{least}{sign}{grouped} {}", if times == 1 { one } else { many })
    }

    /// What to do about it.
    pub fn help(self) -> &'static str {
        match self {
            Guard::Entities => "give them a way to end, or `keep at most N alive`",
            Guard::Births => "spawn fewer at once",
            Guard::BirthRounds => "put a delay before the birth",
            Guard::Steps => "repeat less often, or wait in between",
            Guard::NotFinite => {
                "look for a division by zero or the root of a negative number there"
            }
            Guard::AtOnce => "spawn fewer at once",
            Guard::LessThanNone => "ask only for a number that is 0 or more: `max(n, 0)`",
            Guard::Waiting => "spawn fewer at once, or with less time between them",
            Guard::Letters => "send to fewer, or answer a message only once",
            Guard::Requests => "ask less often, or of fewer at once",
            Guard::StepsInAll => "go through fewer at once: loops in loops add up",
            Guard::Text => "say less in a tick, or shorter texts",
            Guard::Looks => {
                "ask less often, of fewer kinds or within a distance; a question in a question is asked for each it looks at"
            }
            Guard::Touches => "spread the bodies out, or let kinds pass each other: `passes`",
            Guard::Interrupted => "the tick was given up; it is no part of the run",
        }
    }

    /// The limit it guards, as a header writes it behind `limit`; `None` if it has none.
    pub fn limit(self, limits: &Limits) -> Option<String> {
        let (limit, words) = match self {
            Guard::Entities => (limits.entities as u64, "entities"),
            Guard::Births => (limits.births, "births per tick"),
            Guard::BirthRounds => (u64::from(limits.rounds), "rounds"),
            Guard::Steps => (u64::from(limits.steps), "steps"),
            Guard::Waiting => (limits.waiting, "births waiting"),
            Guard::Letters => (limits.letters, "messages per tick"),
            Guard::Requests => (limits.requests, "requests per tick"),
            Guard::StepsInAll => (limits.steps_in_all, "steps per tick"),
            Guard::Text => (limits.text, "text per tick"),
            Guard::Looks => (limits.looks, "looks per tick"),
            Guard::Touches => (limits.touches, "touches"),
            Guard::NotFinite | Guard::AtOnce | Guard::LessThanNone | Guard::Interrupted => {
                return None;
            }
        };
        Some(format!("{} {words}", tickpond_lang::units::grouped(limit)))
    }

    /// The word for it.
    pub fn name(self) -> &'static str {
        match self {
            Guard::Entities => "entities",
            Guard::Births => "births",
            Guard::BirthRounds => "birth rounds",
            Guard::Steps => "steps",
            Guard::NotFinite => "not finite",
            Guard::AtOnce => "births at once",
            Guard::LessThanNone => "births below 0",
            Guard::Waiting => "births waiting",
            Guard::Letters => "messages",
            Guard::Requests => "requests",
            Guard::StepsInAll => "steps in a tick",
            Guard::Text => "text",
            Guard::Looks => "looks",
            Guard::Touches => "touches",
            Guard::Interrupted => "interrupted",
        }
    }

    /// What happened, in words.
    pub fn words(self) -> &'static str {
        match self {
            Guard::Entities => "the pond is full: its entity limit is reached",
            Guard::Births => "more births in a tick than the pond allows",
            Guard::BirthRounds => "births bring about births without end",
            Guard::Steps => "a handler goes on without end",
            Guard::NotFinite => "a result is no finite number",
            Guard::AtOnce => "one request asks for more than 1_000_000 births",
            Guard::LessThanNone => "a number of births is below 0",
            Guard::Waiting => "more births are asked for and still to come than the pond allows",
            Guard::Letters => "more messages in a tick than the pond allows",
            Guard::Requests => "more requests in a tick than the pond allows",
            Guard::StepsInAll => "the handlers of a tick go more steps than the pond allows",
            Guard::Text => "more bytes of text in a tick than the pond allows",
            Guard::Looks => "the questions of a tick look at more than the pond allows",
            Guard::Touches => "more bodies touch than the pond allows",
            Guard::Interrupted => "the tick was interrupted",
        }
    }
}
