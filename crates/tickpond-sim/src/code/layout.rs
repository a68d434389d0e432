//! How many words values take.

use tickpond_lang::program::Ty;

/// How many registers a value of this type takes.
pub(crate) fn words_of(ty: &Ty) -> u8 {
    match ty {
        Ty::Pair(_) => 2,
        Ty::Impact(_) => 3,
        Ty::Ray(_) => 6,
        _ => 1,
    }
}
