//! What things of a program are called by: their places in its lists.

macro_rules! ids {
    ($($(#[$doc:meta])* $name:ident,)*) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, PartialOrd, Ord)]
        pub struct $name(pub u32);

        impl $name {
            /// The position in the list it counts.
            pub fn index(self) -> usize {
                self.0 as usize
            }
        }
    )*};
}

ids! {
    /// A kind, by its place in [`crate::program::Program::kinds`].
    KindId,
    /// A tag, by its place in [`crate::program::Program::tags`].
    TagId,
    /// A knob, by its place in [`crate::program::Program::knobs`].
    KnobId,
    /// A spot group, by its place in [`crate::program::Program::spots`].
    SpotsId,
    /// A zone, by its place in [`crate::program::Program::zones`].
    ZoneId,
    /// A name of a state, by its place in [`crate::program::Program::state_names`].
    StateName,
    /// A name of a track of states, by its place in [`crate::program::Program::track_names`]; 0 is a kind's own.
    TrackName,
    /// An input, by its place in [`crate::program::Program::inputs`].
    InputId,
    /// A message, by its place in [`crate::program::Program::messages`].
    MessageId,
    /// A name of a variable, by its place in [`crate::program::Program::var_names`].
    VarName,
    /// A local of a handler, by its place in [`crate::program::Handler::locals`].
    LocalId,
    /// A handler or statement, by its place in [`crate::program::Program::sites`].
    SiteId,
}

/// The kind that stands for the pond itself: it has one member, born before all others.
pub const POND: KindId = KindId(0);

/// A state of a kind: the track's place in [`crate::program::Kind::tracks`] and the state's in that track.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct InState {
    /// The track.
    pub track: usize,
    /// The state.
    pub state: usize,
}
