//! What plays but is most likely not meant. One finding per file.

mod move_per_tick;
mod multiplies;
mod mute_message;
mod never_born;
mod never_ends;
mod no_health;
mod short_period;
mod unused;
pub(crate) mod walk;

use super::Checker;
use crate::diagnostic::Diagnostic;

/// All findings on a program without errors, in no particular order.
pub(super) fn all(checker: &Checker) -> Vec<Diagnostic> {
    let program = &checker.program;
    let mut found = unused::find(program, &checker.names);
    found.extend(never_born::find(program));
    found.extend(never_ends::find(program));
    found.extend(mute_message::find(program, &checker.names));
    found.extend(no_health::find(program));
    found.extend(short_period::find(program));
    found.extend(multiplies::find(program));
    found.extend(move_per_tick::find(program));
    found
}

#[cfg(test)]
pub(crate) fn codes(text: &str) -> Vec<&'static str> {
    let compiled = super::compile(text);
    compiled.diagnostics.iter().map(|d| d.code.as_str()).collect()
}
