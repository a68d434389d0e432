//! Setting a text out: all of it or the lines of a stretch, as the changes that do it.

use std::ops::Range;

use tickpond_lang::format::format;
use tickpond_lang::{Diagnostic, Span};

use crate::document::Document;
use crate::mends::Edit;

/// The changes that set a text out, in its order; of a stretch, those that touch its lines.
///
/// # Errors
/// What keeps the text from being read: such a text is not touched.
pub fn formatting(
    document: &Document,
    stretch: Option<Span>,
) -> Result<Vec<Edit>, Vec<Diagnostic>> {
    let (old, new) = (document.text.as_str(), format(&document.text)?);
    let lines = stretch.map(|span| {
        let first = document.lines.line(span.start);
        // A stretch that ends before the first character of a line has not reached it.
        let end = if span.end > span.start { span.end - 1 } else { span.end };
        first..document.lines.line(end) + 1
    });
    let (old_lines, new_lines) = (pieces(old), pieces(&new));
    let diff = similar::capture_diff_slices(similar::Algorithm::Myers, &old_lines, &new_lines);
    let start = |line: usize| document.lines.start_of(line as u32 + 1);
    let end_of = |line: usize| match line == old_lines.len() {
        true => old.len() as u32,
        false => start(line),
    };
    let mut edits = Vec::new();
    for (from, to) in diff.iter().flat_map(line_by_line) {
        if let Some(lines) = &lines {
            let touched = from.start as u32 + 1..(from.end as u32 + 1).max(from.start as u32 + 2);
            if touched.start >= lines.end || touched.end <= lines.start {
                continue;
            }
        }
        let text: String = new_lines[to].concat();
        edits.push(Edit { span: Span { start: end_of(from.start), end: end_of(from.end) }, text });
    }
    Ok(edits)
}

/// What a change replaces and by what, as ranges of lines: a line at a time where each has one that takes its place, so
/// that of a stretch no neighbour is touched.
fn line_by_line(change: &similar::DiffOp) -> Vec<(Range<usize>, Range<usize>)> {
    let (from, to) = (change.old_range(), change.new_range());
    match change.tag() {
        similar::DiffTag::Equal => Vec::new(),
        similar::DiffTag::Replace if from.len() == to.len() => {
            from.zip(to).map(|(from, to)| (from..from + 1, to..to + 1)).collect()
        }
        _ => vec![(from, to)],
    }
}

/// The lines of a text with their breaks.
fn pieces(text: &str) -> Vec<&str> {
    text.split_inclusive('\n').collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const TEXT: &str = "pond \"t\" {arena 10 x 10}\n\n\n\nkind midge {\non birth { speed = 3u/s }\n  after 2s { end self }\n}";

    fn applied(text: &str, edits: &[Edit]) -> String {
        let mut changed = text.to_string();
        for edit in edits.iter().rev() {
            changed.replace_range(edit.span.range(), &edit.text);
        }
        changed
    }

    #[rstest]
    #[case(TEXT)]
    #[case("pond \"t\" { arena 10 x 10 }\n")]
    #[case("\n\npond \"t\" { arena 10 x 10 }\r\nknob a = 3s\r\n")]
    fn all_changes_together_set_it_out(#[case] text: &str) {
        let edits = formatting(&Document::new(text), None).unwrap();
        assert_eq!(applied(text, &edits), format(text).unwrap());
    }

    #[rstest]
    fn a_stretch_is_set_out_alone() {
        let at = TEXT.find("on birth").unwrap() as u32;
        let edits =
            formatting(&Document::new(TEXT), Some(Span { start: at, end: at + 3 })).unwrap();
        let changed = applied(TEXT, &edits);
        assert!(changed.contains("    on birth { speed = 3 u/s }\n"), "{changed}");
        assert!(changed.starts_with("pond \"t\" {arena"), "{changed}");
        // Nor is the line behind it, though it is not set out either.
        assert!(changed.contains("\n  after 2s { end self }\n"), "{changed}");
    }

    #[rstest]
    fn a_broken_text_is_not_touched() {
        assert!(formatting(&Document::new("kind {"), None).is_err());
    }
}
