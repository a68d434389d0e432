//! Loops over columns, compiled for the vector units of newer processors, too.
//!
//! The program is built for the oldest processors it has to run on. The most expensive loops are compiled for newer ones as
//! well, and the widest version that this machine supports is chosen at run time. Each does the same arithmetic in the same
//! order, without fused operations, so the bits are the same on every machine.

use std::sync::LazyLock;

static ARCH: LazyLock<pulp::Arch> = LazyLock::new(pulp::Arch::new);

/// Runs a loop compiled for this machine. The closure and what it calls must be inlined always, or
/// they run as on any other machine.
#[inline(always)]
pub fn wide<R>(work: impl FnOnce() -> R) -> R {
    ARCH.dispatch(work)
}
