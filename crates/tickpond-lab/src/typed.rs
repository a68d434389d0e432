//! What a person types into a pond that plays: one line, compiled at the end of the pond's own text.

use tickpond_lang::{Diagnostic, Severity};

/// The line without the space around it; `what` is wanted: `condition`, `value`.
///
/// # Errors
/// If nothing was typed, or what could end the line it is put on and begin something else.
pub(crate) fn one_line<'t>(typed: &'t str, what: &str) -> Result<&'t str, String> {
    let typed = typed.trim();
    if typed.is_empty() {
        return Err("nothing was typed".into());
    }
    if typed.contains(['\n', '\r', '}', '{']) || typed.contains("//") {
        return Err(format!("one {what} is wanted, on one line"));
    }
    Ok(typed)
}

/// The first error, with what to do; none if there is none.
pub(crate) fn first_error(diagnostics: &[Diagnostic]) -> Option<String> {
    let error = diagnostics.iter().find(|d| d.severity == Severity::Error)?;
    Some(match &error.help {
        Some(help) => format!("{}; {help}", error.message),
        None => error.message.clone(),
    })
}
