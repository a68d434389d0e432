//! What the compiler has to say about a pond: data, never text made ready for one reader.

use serde::Serialize;

/// A stretch of the text, in bytes, `start <= end`.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default, Serialize, PartialOrd, Ord)]
pub struct Span {
    /// First byte.
    pub start: u32,
    /// One past the last byte.
    pub end: u32,
}

impl Span {
    /// The span as a range of `usize`, for slicing the text.
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }
}

impl From<rowan::TextRange> for Span {
    fn from(range: rowan::TextRange) -> Span {
        Span { start: range.start().into(), end: range.end().into() }
    }
}

/// How bad it is.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, PartialOrd, Ord)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// The pond cannot be played.
    Error,
    /// The pond plays, but this is most likely not what was meant.
    Finding,
    /// Good to know, and often meant.
    Hint,
}

impl Severity {
    /// The word for it, as printed.
    pub fn word(self) -> &'static str {
        match self {
            Severity::Error => "error",
            Severity::Finding => "finding",
            Severity::Hint => "hint",
        }
    }
}

/// A second place that helps to see the point.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Label {
    /// Where.
    pub span: Span,
    /// What is to be seen there.
    pub text: String,
}

/// A change of the text that would put things right.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Mend {
    /// What to replace; empty to insert.
    pub span: Span,
    /// What to put there.
    pub text: String,
}

/// One error or finding.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Diagnostic {
    /// Stable code, such as `E0301`.
    pub code: Code,
    /// Error or finding.
    pub severity: Severity,
    /// Where, as narrowly as it can be told.
    pub span: Span,
    /// One lower-case sentence without a full stop.
    pub message: String,
    /// Other places that matter.
    pub labels: Vec<Label>,
    /// The next thing to do.
    pub help: Option<String>,
    /// A change that is certain to be meant.
    pub mend: Option<Mend>,
}

impl Diagnostic {
    /// A diagnostic with the severity of its code.
    pub fn new(code: Code, span: impl Into<Span>, message: impl Into<String>) -> Diagnostic {
        Diagnostic {
            code,
            severity: code.severity(),
            span: span.into(),
            message: message.into(),
            labels: Vec::new(),
            help: None,
            mend: None,
        }
    }

    /// The same with the next thing to do.
    pub fn with_help(mut self, help: impl Into<String>) -> Diagnostic {
        self.help = Some(help.into());
        self
    }

    /// The same with a second place.
    pub fn with_label(mut self, span: impl Into<Span>, text: impl Into<String>) -> Diagnostic {
        self.labels.push(Label { span: span.into(), text: text.into() });
        self
    }

    /// The same with a certain change of the text.
    pub fn with_mend(mut self, span: impl Into<Span>, text: impl Into<String>) -> Diagnostic {
        self.mend = Some(Mend { span: span.into(), text: text.into() });
        self
    }
}

macro_rules! codes {
    ($($(#[$doc:meta])* $name:ident = $text:literal,)*) => {
        /// The stable codes. `E` is an error, `F` a finding, `H` a hint; the first two digits are the subject.
        #[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, PartialOrd, Ord)]
        pub enum Code { $($(#[$doc])* $name,)* }

        impl Code {
            /// All codes, in the order of their subjects.
            pub const ALL: &'static [Code] = &[$(Code::$name,)*];

            /// As printed, such as `E0301`.
            pub fn as_str(self) -> &'static str {
                match self { $(Code::$name => $text,)* }
            }
        }
    };
}

codes! {
    /// A character that begins nothing.
    StrayCharacter = "E0101",
    /// A text without its closing quote.
    OpenText = "E0102",
    /// Something else was expected here.
    Syntax = "E0201",
    /// A bracket that is never closed.
    OpenBracket = "E0202",
    /// Nested deeper than the compiler follows.
    TooDeep = "E0203",
    /// An item or a word that stands twice where it may stand once.
    Twice = "E0204",
    /// A name nothing has.
    UnknownName = "E0301",
    /// A name that two things have.
    NameClash = "E0302",
    /// A name of the wrong sort of thing.
    WrongSort = "E0303",
    /// A quantity in the wrong unit.
    WrongUnit = "E0401",
    /// A value of the wrong type.
    WrongType = "E0402",
    /// A field the entity does not have.
    NoSuchField = "E0403",
    /// Too many or too few values.
    WrongCount = "E0404",
    /// Only an entity's own fields can be set.
    NotYours = "E0405",
    /// A number out of the range it must lie in.
    OutOfRange = "E0406",
    /// A word that has no sense in this place.
    OutOfPlace = "E0407",
    /// A pond without a header, or an arena, rate or body that cannot be.
    Impossible = "E0501",
    /// A loop that can never wait or end.
    EndlessLoop = "E0502",
    /// Two handlers with the same head.
    SameHead = "E0503",
    /// A fault of the compiler itself.
    Fault = "E0901",
    /// A knob, spot group, zone, input, behaviour or function nothing uses.
    Unused = "F0601",
    /// A kind nothing ever makes.
    NeverBorn = "F0602",
    /// A kind that is born again and again and has no way to end.
    NeverEnds = "F0603",
    /// A message nothing sends, or nothing hears.
    MuteMessage = "F0604",
    /// Damage to something that has no health.
    NoHealth = "F0605",
    /// A period shorter than a tick, or none.
    ShortPeriod = "F0606",
    /// A birth that brings about itself without delay.
    Multiplies = "F0607",
    /// A motion, a push or damage by a fixed amount on every tick.
    MovePerTick = "F0608",
    /// A touch that cannot happen.
    NoTouch = "F0609",
    /// Health nothing can lower.
    SafeHealth = "F0610",
    /// A state nothing enters.
    NeverEntered = "F0611",
    /// Two handlers that set one field in one phase.
    TwoWriters = "F0612",
    /// A variable nothing reads.
    UnreadVariable = "F0613",
    /// A sum that loses what other firings of the phase add.
    LostSum = "F0614",
    /// A field of an entity that may be gone.
    MaybeGone = "F0615",
    /// Something asked of a maker that is always the pond.
    MakerIsPond = "F0616",
    /// A message that answers itself to many.
    MailStorm = "F0617",
    /// A name behind `as` that nothing uses.
    UnusedName = "F0618",
    /// Leaving the arena, or an edge or a line, where none can be left or come to.
    NoEdge = "F0619",
    /// A kind that flies on for ever unless it meets somebody.
    FliesOn = "F0620",
    /// A word to the pond that each copy of a kind says.
    OncePerCopy = "F0621",
    /// A condition on variables that nothing changes.
    NeverChanged = "F0622",
    /// A message to kinds that have no ear for it.
    DeafKind = "F0623",
    /// A place outside of the arena.
    OutsideArena = "F0624",
    /// A spawner without a place that makes where it is.
    SpawnerNowhere = "F0625",
    /// A bounce or friction of a body that pushes nobody.
    SensorBounces = "F0626",
    /// A condition on a place that no place meets.
    NoSuchPlace = "F0627",
    /// A birth with no health.
    BornDown = "F0628",
    /// An acceptance of a finding that is not there.
    NotMeant = "F0629",
    /// A time that is no whole number of ticks.
    NotWhole = "H0701",
    /// What would do it is muted.
    MutedAlone = "H0702",
}

impl Code {
    /// Error, finding or hint, by the letter.
    pub fn severity(self) -> Severity {
        match self.as_str().as_bytes()[0] {
            b'E' => Severity::Error,
            b'H' => Severity::Hint,
            _ => Severity::Finding,
        }
    }

    /// The code with this spelling, in capitals or not.
    pub fn named(text: &str) -> Option<Code> {
        Code::ALL.iter().copied().find(|c| c.as_str().eq_ignore_ascii_case(text))
    }
}

impl Serialize for Code {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.as_str())
    }
}
