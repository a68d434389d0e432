//! What plays but is most likely not meant. One finding per file.

mod born_down;
mod crowds;
mod deaf_kind;
mod flies_on;
mod lost_sum;
mod mail_storm;
mod maker_is_pond;
mod maybe_gone;
pub(super) mod meant;
mod moments;
mod move_per_tick;
mod multiplies;
mod mute_message;
mod muted;
mod never_born;
mod never_changed;
mod never_ends;
mod never_entered;
mod no_edge;
mod no_health;
mod no_such_place;
mod no_touch;
mod not_whole;
mod once_per_copy;
mod outside;
mod safe_health;
mod short_period;
mod spawner_nowhere;
mod two_writers;
mod unread;
mod unused;
mod unused_name;

use crate::check::checker::Checker;
use crate::diagnostic::Diagnostic;
use crate::program::Program;

/// A finding's search.
type Search = fn(&Program) -> Vec<Diagnostic>;

/// Searches for what is there and likely not meant.
const PRESENT: [Search; 20] = [
    no_health::find,
    short_period::find,
    multiplies::find,
    move_per_tick::find,
    no_touch::find,
    two_writers::find,
    unread::find,
    lost_sum::find,
    maybe_gone::find,
    not_whole::find,
    maker_is_pond::find,
    mail_storm::find,
    unused_name::find,
    no_edge::find,
    once_per_copy::find,
    deaf_kind::find,
    outside::find,
    spawner_nowhere::find,
    no_such_place::find,
    born_down::find,
];

/// Searches for what is not there: a line that is muted is there, and only told of.
const MISSING: [Search; 6] = [
    never_born::find,
    never_ends::find,
    safe_health::find,
    never_entered::find,
    flies_on::find,
    never_changed::find,
];

/// All findings on a program without errors, in the order of their places, each once.
pub(super) fn all(checker: &Checker) -> Vec<Diagnostic> {
    let program = &checker.program;
    let mut found = unused::find(program, &checker.names);
    found.extend(checker.remarks.iter().cloned());
    found.extend(PRESENT.iter().flat_map(|find| find(program)));
    found.extend(MISSING.iter().flat_map(|find| muted::missing(checker, find)));
    found.extend(muted::missing(checker, |program| mute_message::find(program, &checker.names)));
    // A behaviour's line stands in every kind that uses it.
    found.sort_by_key(|d| (d.span, d.code));
    found.dedup_by_key(|d| (d.span, d.code));
    found
}

#[cfg(test)]
pub(crate) fn codes(text: &str) -> Vec<&'static str> {
    let compiled = super::compile(text);
    compiled.diagnostics.iter().map(|d| d.code.as_str()).collect()
}
