//! Diagnostics as a terminal shows them.

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use tickpond_lang::lines::LineIndex;
use tickpond_lang::{Diagnostic, Label, Severity};

use crate::showable::{masked, showable};

/// `file:line:col: error[CODE]: message`, then the source with the place marked, then the help.
fn diagnostic(file: &str, text: &str, lines: &LineIndex, d: &Diagnostic, colour: bool) -> String {
    let file = showable(file);
    let at = lines.line_col(text, d.span.start);
    let head = format!(
        "{file}:{}:{}: {}[{}]: {}",
        at.line,
        at.col,
        d.severity.word(),
        d.code.as_str(),
        showable(&d.message)
    );
    // Only the lines that are spoken of: the library reads all it is given.
    let spans = || d.labels.iter().map(|l| l.span).chain([d.span]);
    let first = spans().map(|s| lines.line(s.start)).min().unwrap_or(1);
    let from = lines.start_of(first) as usize;
    let last = spans().map(|s| s.end as usize).max().unwrap_or(0).clamp(from, text.len());
    let until = text[last..].find('\n').map_or(text.len(), |end| last + end);
    // Of a line without end no more than what is around the place.
    let (from, until) = match until - from {
        0..MOST_SHOWN => (from, until),
        _ => around(text, (d.span.start as usize, d.span.end as usize), (from, until)),
    };
    let first = lines.line(from as u32);
    // The places in it stay where they are.
    let window = masked(&text[from..until]);
    let clip = |span: tickpond_lang::Span| {
        let end = (span.end as usize).min(until);
        (span.start as usize).min(end) - from..end - from
    };
    let mut snippet = Snippet::source(&*window)
        .line_start(first as usize)
        .annotation(AnnotationKind::Primary.span(clip(d.span)).label(""));
    let labels: Vec<String> = d.labels.iter().map(|l| showable(&l.text).into_owned()).collect();
    let shown = |l: &&Label| l.span.start as usize >= from && l.span.end as usize <= until;
    for (label, words) in d.labels.iter().zip(&labels).filter(|(l, _)| shown(l)) {
        let annotation = AnnotationKind::Context.span(clip(label.span)).label(words);
        snippet = snippet.annotation(annotation);
    }
    let level = match d.severity {
        Severity::Error => Level::ERROR,
        Severity::Finding => Level::WARNING.with_name("finding"),
        Severity::Hint => Level::NOTE.with_name("hint"),
    };
    let mut group = level.primary_title("").element(snippet);
    let help = d.help.as_ref().map(|help| showable(help));
    if let Some(help) = &help {
        group = group.element(Level::HELP.message(&**help));
    }
    let renderer = if colour { Renderer::styled() } else { Renderer::plain() };
    let body = renderer.render(&[group]);
    // The first line of the library's title is replaced by one that other programs can read.
    let body = body.split_once('\n').map_or("", |(_, rest)| rest);
    format!("{head}\n{body}\n")
}

/// Most diagnostics of a text that are shown; the others are counted.
const MOST_TOLD: usize = 200;

/// All of a text's diagnostics, or the first of very many and how many there are besides. Costs what is shown.
pub fn diagnostics(
    file: &str,
    text: &str,
    lines: &LineIndex,
    all: &[Diagnostic],
    colour: bool,
) -> String {
    let shown = all.iter().take(MOST_TOLD);
    let mut out: String = shown.map(|d| diagnostic(file, text, lines, d, colour) + "\n").collect();
    if all.len() > MOST_TOLD {
        let more = all.len() - MOST_TOLD;
        out.push_str(&format!("{}: … and {more} more; mend these first\n\n", showable(file)));
    }
    out
}

/// Most bytes of source that are shown with one diagnostic.
const MOST_SHOWN: usize = 4000;

/// A stretch of a text around a place, within bounds, from and to where a character begins.
fn around(text: &str, place: (usize, usize), bounds: (usize, usize)) -> (usize, usize) {
    let room = MOST_SHOWN / 8;
    let from = text.floor_char_boundary(place.0.saturating_sub(room)).max(bounds.0);
    let end = place.1.min(place.0 + MOST_SHOWN / 2) + room;
    (from, text.ceil_char_boundary(end).min(bounds.1).max(from))
}

/// How many errors, findings and hints there are, in words.
pub fn tally(diagnostics: &[Diagnostic]) -> String {
    let many = |severity: Severity| {
        let count = diagnostics.iter().filter(|d| d.severity == severity).count();
        let word = severity.word();
        match count {
            0 => None,
            1 => Some(format!("1 {word}")),
            _ => Some(format!("{count} {word}s")),
        }
    };
    let parts = [Severity::Error, Severity::Finding, Severity::Hint].map(many);
    let parts: Vec<String> = parts.into_iter().flatten().collect();
    if parts.is_empty() { "no errors, no findings".into() } else { parts.join(", ") }
}
