//! Items folded to their first line. A fold is known by that line's words, so that it outlives edits
//! around it.

use std::ops::Range;

use tickpond_lang::lines::LineIndex;

use tickpond_lang::Span;
use tickpond_lang::lex::lex;
use tickpond_lang::parse::parse;
use tickpond_lang::syntax::SyntaxKind;

use crate::document::Document;

/// The items of a text: its top-level pieces, each from its first word to its end.
pub fn items(text: &str) -> Vec<Span> {
    let root = parse(text).root();
    root.children().map(|node| significant(text, node.text_range().into())).collect()
}

/// A stretch without the white space and comments at its start.
fn significant(text: &str, span: Span) -> Span {
    let (tokens, _) = lex(text.get(span.range()).unwrap_or(""));
    let first = tokens.iter().find(|t| !t.kind.is_trivia());
    Span { start: span.start + first.map_or(0, |t| t.span.start), end: span.end }
}

/// Lines that can be folded, counted from 0, first and last: bodies in braces without the line that closes them, and
/// comments of two lines or more.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Foldable {
    /// The line that stays.
    pub first: u32,
    /// The last line that goes.
    pub last: u32,
    /// Whether it is a comment.
    pub comment: bool,
}

/// What can be folded in a text, by where it begins. Grows with the text.
pub fn foldable(document: &Document) -> Vec<Foldable> {
    let (tokens, _) = lex(&document.text);
    let line = |byte: u32| document.lines.line(byte) - 1;
    let (mut open, mut found) = (Vec::new(), Vec::new());
    // The comment that is going on: its first and its last line.
    let mut comment: Option<(u32, u32)> = None;
    let mut said = None;
    let close = |comment: &mut Option<(u32, u32)>, found: &mut Vec<Foldable>| {
        if let Some((first, last)) = comment.take().filter(|(first, last)| first < last) {
            found.push(Foldable { first, last, comment: true });
        }
    };
    for token in tokens.iter().filter(|t| t.kind != SyntaxKind::Whitespace) {
        let here = line(token.span.start);
        if token.kind == SyntaxKind::Comment && said != Some(here) {
            match &mut comment {
                Some((_, last)) if *last + 1 == here => *last = here,
                other => {
                    close(other, &mut found);
                    *other = Some((here, here));
                }
            }
            continue;
        }
        close(&mut comment, &mut found);
        said = Some(line(token.span.end.saturating_sub(1)));
        match token.kind {
            SyntaxKind::OpenBrace => open.push(here),
            SyntaxKind::CloseBrace => {
                if let Some(first) = open.pop().filter(|first| first + 1 < here) {
                    found.push(Foldable { first, last: here - 1, comment: false });
                }
            }
            _ => {}
        }
    }
    close(&mut comment, &mut found);
    found.sort_by_key(|fold| (fold.first, fold.last));
    found
}

/// What is folded, and where that is in the present text.
#[derive(Clone, Debug, Default)]
pub struct Folds {
    /// First lines of the folded items.
    heads: Vec<String>,
    /// All items of more than one line, by line from 0.
    items: Vec<Range<usize>>,
    /// The lines that are hidden.
    hidden: Vec<Range<usize>>,
}

impl Folds {
    /// Looks at a changed text.
    pub fn follow(&mut self, text: &str) {
        let lines = LineIndex::new(text);
        let line = |byte: u32| lines.line(byte) as usize - 1;
        self.items = items(text)
            .into_iter()
            .map(|span| {
                let body = text.get(span.range()).unwrap_or("").trim_end();
                line(span.start)..line(span.start + body.len().max(1) as u32 - 1) + 1
            })
            .filter(|lines| lines.len() > 1)
            .collect();
        self.hide(text);
    }

    fn hide(&mut self, text: &str) {
        let all: Vec<&str> = text.lines().collect();
        let head = |lines: &Range<usize>| all.get(lines.start).copied().unwrap_or("");
        self.heads.retain(|folded| self.items.iter().any(|lines| head(lines) == folded));
        let folded = self.items.iter().filter(|lines| self.heads.iter().any(|h| h == head(lines)));
        self.hidden = folded.map(|lines| lines.start + 1..lines.end).collect();
    }

    /// Whether a line is not shown.
    pub fn hides(&self, line: usize) -> bool {
        self.hidden.iter().any(|lines| lines.contains(&line))
    }

    /// How many lines are hidden below this one, which is shown.
    pub fn below(&self, line: usize) -> usize {
        self.hidden.iter().find(|lines| lines.start == line + 1).map_or(0, |l| l.len())
    }

    /// The first line of the item around a line.
    pub fn head_of(&self, line: usize) -> Option<usize> {
        self.items.iter().find(|lines| lines.contains(&line)).map(|lines| lines.start)
    }

    /// Folds the item around a line, or unfolds it; false if there is none.
    pub fn toggle(&mut self, text: &str, line: usize) -> bool {
        let Some(head) = self.head_of(line).and_then(|at| text.lines().nth(at)) else {
            return false;
        };
        match self.heads.iter().position(|h| h == head) {
            Some(at) => drop(self.heads.remove(at)),
            None => self.heads.push(head.to_string()),
        }
        self.hide(text);
        true
    }

    /// Folds all items, or none if any is folded.
    pub fn toggle_all(&mut self, text: &str) {
        if self.heads.is_empty() {
            let all: Vec<&str> = text.lines().collect();
            self.heads =
                self.items.iter().map(|l| all.get(l.start).copied().unwrap_or("").into()).collect();
        } else {
            self.heads.clear();
        }
        self.hide(text);
    }

    /// Unfolds what hides a line.
    pub fn show(&mut self, text: &str, line: usize) {
        while self.hides(line) && self.toggle(text, line) {}
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const TEXT: &str = "pond \"t\" { arena 10 x 10 }\n\nkind midge {\n    health 2\n}\n\n// a frog\nkind frog {\n    health 3\n    on birth { }\n}\n";

    fn folds() -> Folds {
        let mut folds = Folds::default();
        folds.follow(TEXT);
        folds
    }

    #[rstest]
    fn an_item_is_folded_to_its_first_line_and_back() {
        let mut folds = folds();
        assert!(folds.toggle(TEXT, 3));
        assert!(!folds.hides(2) && folds.hides(3) && folds.hides(4) && !folds.hides(5));
        assert_eq!(folds.below(2), 2);
        folds.toggle(TEXT, 2);
        assert!(!folds.hides(3));
    }

    #[rstest]
    fn a_fold_moves_with_its_item() {
        let mut folds = folds();
        folds.toggle(TEXT, 8);
        let longer = format!("// one more\n{TEXT}");
        folds.follow(&longer);
        assert!(!folds.hides(8) && folds.hides(9) && folds.hides(11));
        folds.follow(&longer.replace("kind frog {", "kind toad {"));
        assert!(!folds.hides(9), "another item is not folded");
    }

    #[rstest]
    fn all_at_once_and_a_line_shown() {
        let mut folds = folds();
        folds.toggle_all(TEXT);
        assert!(folds.hides(3) && folds.hides(8));
        folds.show(TEXT, 8);
        assert!(folds.hides(3) && !folds.hides(8));
        folds.toggle_all(TEXT);
        assert!(!folds.hides(3));
        assert!(!folds.toggle(TEXT, 0), "one line is nothing to fold");
    }

    #[rstest]
    fn items_begin_at_their_first_word() {
        let heads: Vec<&str> = items(TEXT)
            .iter()
            .map(|span| TEXT[span.range()].split_whitespace().next().unwrap_or(""))
            .collect();
        assert_eq!(heads, ["pond", "kind", "kind"]);
    }

    #[rstest]
    fn bodies_and_comments_can_be_folded() {
        let text = "// a\n// b\nkind midge { // c\n    // d\n    // e\n    on birth {\n        end self\n    }\n}\n// f\nkind frog { }\n";
        let found: Vec<(u32, u32, bool)> = foldable(&Document::new(text))
            .into_iter()
            .map(|fold| (fold.first, fold.last, fold.comment))
            .collect();
        assert_eq!(found, [(0, 1, true), (2, 7, false), (3, 4, true), (5, 6, false)]);
    }
}
