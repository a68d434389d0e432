//! What plays but is most likely not meant. One finding per file.

mod lost_sum;
mod mail_storm;
mod maker_is_pond;
mod maybe_gone;
mod move_per_tick;
mod multiplies;
mod mute_message;
mod never_born;
mod never_ends;
mod never_entered;
mod no_health;
mod no_touch;
mod not_whole;
mod safe_health;
mod short_period;
mod two_writers;
mod unread;
mod unused;

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
    found.extend(no_touch::find(program));
    found.extend(safe_health::find(program));
    found.extend(never_entered::find(program));
    found.extend(two_writers::find(program));
    found.extend(unread::find(program));
    found.extend(lost_sum::find(program));
    found.extend(maybe_gone::find(program));
    found.extend(not_whole::find(program));
    found.extend(maker_is_pond::find(program));
    found.extend(mail_storm::find(program));
    found
}

#[cfg(test)]
pub(crate) fn codes(text: &str) -> Vec<&'static str> {
    let compiled = super::compile(text);
    compiled.diagnostics.iter().map(|d| d.code.as_str()).collect()
}
