//! What a piece of code does as a whole.

/// What a piece of code does as a whole, worked out once: blocks ask it all the time.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Traits {
    /// Whether what it gives depends on nothing but the entity it is worked out for and the state: it draws
    /// nothing by chance and asks nothing that does.
    pub is_fixed: bool,
    /// Whether it goes back anywhere within a tick.
    pub loops: bool,
    /// Whether it can wait.
    pub waits: bool,
    /// Whether it can make a difference whom a firing is about: chance and requests are keyed by the
    /// other party; what is worked out and written of one's own is not.
    pub is_about_another: bool,
}
