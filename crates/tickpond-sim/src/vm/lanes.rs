//! How wide a block is.

/// Most lanes in a block: their registers stay in the first-level cache.
pub const LANES: usize = 256;

/// One word for each lane.
pub type Words = [u64; LANES];
/// The same, on the heap.
pub(super) type Lanes = Box<Words>;
