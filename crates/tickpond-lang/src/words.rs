//! The words of the language: those of its form, and those that stand where names do, such as fields, types, colours,
//! keys and built-in functions. The checker reads them, an editor offers them, and the grammars of other editors are held
//! to them.

use crate::program::{Function, Ty};
use crate::units::Dim;

/// Words that belong to the form of the language, in alphabetical order. Most are words only where the parser looks for
/// them, and names elsewhere.
#[rustfmt::skip]
pub const KEYWORDS: &[&str] = &[
    "a", "above", "activate", "after", "again", "alive", "all", "along", "always", "and", "angle",
    "any", "anywhere", "arena", "around", "as", "at", "attach", "attached", "because", "become",
    "becoming", "behavior", "below", "birth", "births", "blast", "body", "born", "bottom",
    "bounce", "box", "but", "by", "center", "circle", "clear", "count", "credit", "damage",
    "deactivate", "detach", "direction", "distance", "down", "drag", "drifts", "each", "edge",
    "edges", "else", "end", "ended", "ends", "enter", "entities", "even", "every", "expect",
    "facing", "falloff", "first", "fixed", "follows", "for", "friction", "from", "gone",
    "gravity", "head", "heal", "health", "heard", "held", "hits", "hold", "hurt", "if", "impact",
    "in", "inactive", "input", "inside", "is", "its", "keep", "keeping", "key", "kind", "knob",
    "label", "lasts", "least", "leave", "left", "let", "limit", "lives", "look", "looks", "maker", "makes",
    "margin", "message", "messages", "middle", "most", "mount", "move", "nearest", "never",
    "none", "not", "of", "off", "on", "once", "one", "open", "or", "origin", "outlives", "over",
    "overlapping", "owner", "part", "passes", "peak", "per", "place", "played", "pointer", "pond",
    "press", "push", "quitting", "radius", "random", "rate", "ray", "reach", "release", "repeat",
    "replace", "requests", "right", "ring", "rounds", "routine", "say", "self", "send", "sensor",
    "sent", "shielded", "show", "size", "solid", "spaced", "spares", "spawn", "spawner", "speed",
    "spots", "spread", "square", "state", "states", "steps", "straight", "tag", "tap", "tape",
    "text", "the", "thrust", "tick", "time", "times", "to", "top", "touch", "touches", "touching", "toward", "turn",
    "unheard", "until", "up", "upright", "uses", "value", "vars", "vel", "velocity", "view",
    "wait", "waiting", "wall", "watch", "wave", "weight", "weightless", "when", "where", "while",
    "widened", "with", "within", "wrap", "x", "y", "zone",
];

/// Fields every entity can have.
pub const FIELDS: [&str; 14] = [
    "pos", "vel", "heading", "speed", "spin", "health", "age", "maker", "name", "label", "state",
    "active", "down", "resting",
];

/// Fields a handler can set by `=`.
pub const SET_FIELDS: [&str; 5] = ["pos", "vel", "heading", "speed", "spin"];

/// Colours a look can name.
pub const COLOURS: &[&str] =
    &["teal", "amber", "rose", "blue", "violet", "lime", "sand", "grey", "white", "orange"];

/// Keys an input can name, beside letters and digits.
pub const KEYS: [&str; 6] = ["space", "left", "right", "up", "down", "enter"];

/// Names that mean something by themselves and can be nobody's own.
pub const RESERVED: &[&str] = &[
    "self", "maker", "here", "pond", "true", "false", "and", "or", "not", "is", "any", "all",
    "each", "pos", "vel", "heading", "speed", "spin", "health", "age", "name", "state", "active",
    "down", "resting", "label", "view", "arena", "solid", "edge",
];

/// Words a value can begin with, beside names and built-in functions.
pub const VALUES: [&str; 17] = [
    "self",
    "count",
    "nearest",
    "any",
    "random",
    "direction",
    "distance",
    "born",
    "ended",
    "peak",
    "sent",
    "heard",
    "unheard",
    "true",
    "false",
    "here",
    "view",
];

/// Types a parameter can have, and what they are; `entity` is one of any kind.
pub(crate) const TYPES: &[(&str, Ty)] = &[
    ("number", Ty::Num(Dim::NONE)),
    ("count", Ty::Num(Dim::NONE)),
    ("time", Ty::Num(Dim::TIME)),
    ("length", Ty::Num(Dim::LENGTH)),
    ("angle", Ty::Num(Dim::ANGLE)),
    ("speed", Ty::Num(Dim::SPEED)),
    ("acceleration", Ty::Num(Dim::ACCELERATION)),
    ("spin", Ty::Num(Dim::SPIN)),
    ("rate", Ty::Num(Dim::RATE)),
    ("truth", Ty::Truth),
    ("place", Ty::PLACE),
    ("velocity", Ty::Pair(Dim::SPEED)),
    ("kind", Ty::Kind),
];

/// Names of the types a parameter can have.
pub fn types() -> impl Iterator<Item = &'static str> + Clone {
    TYPES.iter().map(|(name, _)| *name).chain(["entity"])
}

/// Name, function and number of values of each built-in function.
pub(crate) const FUNCTIONS: &[(&str, Function, usize)] = &[
    ("min", Function::Min, 2),
    ("max", Function::Max, 2),
    ("abs", Function::Abs, 1),
    ("floor", Function::Floor, 1),
    ("round", Function::Round, 1),
    ("sqrt", Function::Sqrt, 1),
    ("sin", Function::Sin, 1),
    ("cos", Function::Cos, 1),
    ("length", Function::Length, 1),
    ("distance", Function::Distance, 2),
    ("direction", Function::Direction, 1),
];

/// Names of the built-in functions with the number of values they take.
pub fn functions() -> impl Iterator<Item = (&'static str, usize)> {
    FUNCTIONS.iter().map(|(name, _, wanted)| (*name, *wanted))
}
