//! Why an entity ends.

/// Why an entity ended. The order is the one that settles ties of a phase.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, PartialOrd, Ord)]
#[allow(missing_docs, reason = "docs/language.md tells what each stands for")]
pub enum Cause {
    Damage,
    Impact,
    Touch,
    Zone,
    Edge,
    Line,
    Replaced,
    Timer,
    Script,
    Owner,
    Limit,
}

impl Cause {
    /// All causes, in their order.
    pub const ALL: [Cause; 11] = [
        Cause::Damage,
        Cause::Impact,
        Cause::Touch,
        Cause::Zone,
        Cause::Edge,
        Cause::Line,
        Cause::Replaced,
        Cause::Timer,
        Cause::Script,
        Cause::Owner,
        Cause::Limit,
    ];

    /// The word for it.
    pub fn name(self) -> &'static str {
        match self {
            Cause::Damage => "damage",
            Cause::Impact => "impact",
            Cause::Touch => "touch",
            Cause::Zone => "zone",
            Cause::Edge => "edge",
            Cause::Line => "line",
            Cause::Replaced => "replaced",
            Cause::Timer => "timer",
            Cause::Script => "script",
            Cause::Owner => "owner",
            Cause::Limit => "limit",
        }
    }

    /// The cause with this name.
    pub fn named(name: &str) -> Option<Cause> {
        Cause::ALL.into_iter().find(|c| c.name() == name)
    }
}
