//! Watches and expectations.

use super::cause::Cause;
use super::expr::Expr;
use super::ids::{InputId, KindId, MessageId};
use crate::diagnostic::Span;

/// A value recorded on every tick.
#[derive(Clone, Debug, PartialEq)]
pub struct Watch {
    /// Its name.
    pub name: String,
    /// Its value: a number or a truth value.
    pub value: Expr,
}

/// Something that must hold.
#[derive(Clone, Debug, PartialEq)]
pub struct Expect {
    /// The words in quotes.
    pub words: String,
    /// The tape it is judged on; on any run if none.
    pub tape: Option<String>,
    /// What must hold, and when.
    pub check: Check,
    /// Where it stands: its first line.
    pub span: Span,
    /// All of it.
    pub whole: Span,
}

/// What must hold, and when. Times are constant but for knobs.
#[derive(Clone, Debug, PartialEq)]
pub enum Check {
    /// On every tick.
    Always(Expr),
    /// On no tick.
    Never(Expr),
    /// At this time.
    At(Expr, Expr),
    /// At some tick up to this time.
    By(Expr, Expr),
    /// On every tick of a span; without an end, from then on.
    From(Expr, Option<Expr>, Expr),
    /// On the last tick.
    InTheEnd(Expr),
    /// After each event, at some tick of a span.
    AfterWithin {
        /// The event.
        event: Happening,
        /// Start of the span after the event.
        low: Option<Expr>,
        /// End of the span after the event.
        high: Expr,
        /// What must hold.
        holds: Expr,
    },
    /// After each event, on every tick for a time.
    AfterFor {
        /// The event.
        event: Happening,
        /// How long.
        time: Expr,
        /// What must hold.
        holds: Expr,
    },
    /// Each of these lives at most so long.
    LivesAtMost(Those, Expr),
    /// Each of these that ends has lived at least so long.
    LivesAtLeast(Those, Expr),
    /// Each of these that ends does so by one of these causes.
    EndsBy(Those, Vec<Cause>),
    /// Each of these is hurt at most so many times.
    HurtAtMost(Those, Expr),
}

impl Check {
    /// Whether it waits for a message to be sent or heard.
    pub fn is_about_mail(&self) -> bool {
        let (Check::AfterWithin { event, .. } | Check::AfterFor { event, .. }) = self else {
            return false;
        };
        matches!(event, Happening::Sent(_) | Happening::Heard(_))
    }
}

/// Entities an expectation is about.
#[derive(Clone, Debug, PartialEq)]
pub struct Those {
    /// Their kinds, ascending.
    pub kinds: Vec<KindId>,
    /// What must hold of them at the end of the tick of their birth.
    pub condition: Option<Expr>,
}

/// Something that happens, for checks.
#[derive(Clone, Debug, PartialEq)]
pub enum Happening {
    /// One of these is born.
    Born(Vec<KindId>),
    /// One of these ends, by one of these causes (empty for any).
    Ends(Vec<KindId>, Vec<Cause>),
    /// One of these is hurt.
    Hurt(Vec<KindId>),
    /// A message is sent.
    Sent(MessageId),
    /// A message is heard.
    Heard(MessageId),
    /// An input is pressed.
    Press(InputId),
    /// This turns true.
    Turns(Expr),
}
