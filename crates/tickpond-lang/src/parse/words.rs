//! Words by which the parser knows where something begins.

/// The words that begin an item and nothing else: where one stands at the left edge, the item
/// before has ended. Handlers and `vars` stand inside kinds, too, indented or not.
pub(super) const ITEM_WORDS: &[&str] = &[
    "pond", "knob", "spots", "zone", "input", "message", "behavior", "kind", "spawner", "place",
    "routine", "tape", "watch", "expect",
];

/// Words that begin an option of a body.
pub(super) const BODY_WORDS: &[&str] = &[
    "sensor",
    "solid",
    "fixed",
    "upright",
    "bounce",
    "friction",
    "weight",
    "drag",
    "weightless",
    "passes",
];

/// Words that begin an option of a birth.
pub(super) const OPTION_WORDS: &[&str] = &[
    "at", "anywhere", "along", "around", "on", "facing", "toward", "speed", "vel", "push",
    "spread", "spaced", "health", "label", "inactive", "attached", "keeping", "not", "clear",
];
