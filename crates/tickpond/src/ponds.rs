//! The ponds that are part of the program.

/// Name and text of a shipped pond.
pub const SHIPPED: &[(&str, &str)] = &[("dusk", include_str!("../ponds/dusk.pond"))];

/// What `new` writes.
pub const STARTER: &str = include_str!("../assets/starter.pond");

/// The text of a shipped pond.
pub fn shipped(name: &str) -> Option<&'static str> {
    SHIPPED.iter().find(|(known, _)| *known == name).map(|(_, text)| *text)
}
