//! Loops over columns, worked out as many side by side as the processor can.
//!
//! A program is built for the oldest processors it is to run on. The loops that cost the most are
//! compiled for newer ones, too, and the widest this machine has is taken. The arithmetic is the same
//! step for step, so the bits are the same on every machine: nothing is fused, nothing reordered.

use std::sync::LazyLock;

static ARCH: LazyLock<pulp::Arch> = LazyLock::new(pulp::Arch::new);

/// Runs a loop compiled for this machine. The closure and what it calls must be inlined always, or
/// they run as on any other machine.
#[inline(always)]
pub fn wide<R>(work: impl FnOnce() -> R) -> R {
    ARCH.dispatch(work)
}
