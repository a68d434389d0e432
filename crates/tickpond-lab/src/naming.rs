//! What entities are called.

use tickpond_lang::program::{POND, Program};
use tickpond_sim::Who;

/// An entity's name as people read it: `midge#12`, or `pond`.
pub fn name_of(program: &Program, who: Who) -> String {
    match who.kind {
        POND => "pond".into(),
        kind => format!("{}#{}", program.kinds[kind.index()].name, who.number),
    }
}
