//! Setting a text out: all of it or the lines of a stretch, as the changes that do it.

use std::ops::Range;

use tickpond_lang::format::format;
use tickpond_lang::lex::MARK;
use tickpond_lang::{Code, Diagnostic, Span};

use crate::document::Document;
use crate::mends::Edit;

/// The changes that set a text out, in its order; of a stretch, those of its lines. A change touches one line, or the blank
/// lines between two, so none reaches over another, and none of a stretch beyond it.
///
/// # Errors
/// What keeps the text from being read: such a text is not touched. Nor is one that would say something else afterwards,
/// which would be a fault of the formatter.
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
    let is_wanted = |range: &Range<usize>| {
        lines.as_ref().is_none_or(|lines| {
            let last = range.end.max(range.start + 1) - 1;
            let line = |byte: usize| document.lines.line(byte as u32);
            lines.contains(&line(range.start)) && lines.contains(&line(last))
        })
    };
    let mut edits = Vec::new();
    let (before, after) = (pieces(old), pieces(&new));
    let mut same = before.len() == after.len();
    for (from, to) in before.into_iter().zip(after) {
        let (was, is) = (&old[from.clone()], &new[to]);
        same &= bare(was).eq(bare(is));
        if was != is && is_wanted(&from) {
            let span = Span { start: from.start as u32, end: from.end as u32 };
            edits.push(Edit { span, text: is.to_string() });
        }
    }
    if !same {
        let words = "this text would say something else if it were set out";
        return Err(vec![Diagnostic::new(Code::Syntax, Span { start: 0, end: 0 }, words)]);
    }
    Ok(edits)
}

/// A text in pieces, by turns: the blank lines before a line with something in it, and that line with its end. The formatter
/// keeps every line with something in it, so the pieces of a text and of the same set out stand for each other.
fn pieces(text: &str) -> Vec<Range<usize>> {
    let mut pieces = Vec::new();
    let mut at = text.find(|c| c != MARK).unwrap_or(text.len());
    let mut blank = at;
    for line in text[at..].split_inclusive('\n') {
        let end = at + line.len();
        if !line.trim().is_empty() {
            pieces.extend([blank..at, at..end]);
            blank = end;
        }
        at = end;
    }
    pieces.push(blank..at);
    pieces
}

/// What a text says: all but its blanks.
fn bare(text: &str) -> impl Iterator<Item = char> {
    text.chars().filter(|c| !c.is_whitespace())
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
