//! Setting a text out: all of it or the lines of a stretch, as the changes that do it.

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
    for change in diff.iter().filter(|op| op.tag() != similar::DiffTag::Equal) {
        let (from, to) = (change.old_range(), change.new_range());
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
    }

    #[rstest]
    fn a_broken_text_is_not_touched() {
        assert!(formatting(&Document::new("kind {"), None).is_err());
    }
}
