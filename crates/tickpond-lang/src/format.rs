//! Formats a pond: indentation by depth, one blank where one belongs, no line's end in blanks.
//!
//! Lines stay as they are broken, by what they are broken (`\n` or `\r\n`), and comments where they stand; so does a mark at the
//! beginning of the text. Columns that a person has lined up
//! with the line above or below stay lined up. Formatting twice is formatting once, and the tokens of
//! the text never change but for the blanks inside a number and its unit.

use crate::diagnostic::Diagnostic;
use crate::lex::MARK;
use crate::parse::parse;
use crate::syntax::SyntaxKind::{self, *};
use crate::syntax::{Node, Token};
use crate::units::{Written, parted};

/// Blanks of one level.
const LEVEL: usize = 4;

/// The formatted text.
///
/// # Errors
/// The errors of the lexer and parser, if there are any: a text that cannot be read is not touched.
pub fn format(text: &str) -> Result<String, Vec<Diagnostic>> {
    let mut now = once(text)?;
    // Taking a blank away can bring two lines out of step; each pass only takes blanks away.
    loop {
        let next = once(&now)?;
        if next == now {
            return Ok(now);
        }
        now = next;
    }
}

/// One line of the text: its tokens, whether blank lines stood before it, and what it ends with.
struct Line {
    tokens: Vec<Piece>,
    blank_before: bool,
    /// Empty behind the last line if it has no end of its own.
    ending: &'static str,
}

/// A token that is no white space.
struct Piece {
    kind: SyntaxKind,
    /// The sort of the node it stands in.
    parent: SyntaxKind,
    text: String,
    /// Column it begins at, in characters from 0.
    column: usize,
    /// Blanks before it on its line.
    gap: usize,
}

/// The words of a node in one line, as they are set out where nobody has put blanks: whatever blanks and comments stand
/// between them in the text.
pub(crate) fn in_one_line(node: &Node) -> String {
    let tokens = node.descendants_with_tokens().filter_map(|e| e.into_token());
    let pieces = lines(tokens).into_iter().flat_map(|line| line.tokens);
    let pieces: Vec<Piece> =
        pieces.filter(|p| p.kind != Comment).map(|piece| Piece { gap: 0, ..piece }).collect();
    let mut out = String::new();
    for (nth, piece) in pieces.iter().enumerate() {
        let gap = nth.checked_sub(1).map_or(0, |before| blanks(&pieces[before], piece));
        out.extend(std::iter::repeat_n(' ', gap));
        out.push_str(&piece.text);
    }
    out
}

fn once(text: &str) -> Result<String, Vec<Diagnostic>> {
    let parsed = parse(text);
    if !parsed.diagnostics.is_empty() {
        return Err(parsed.diagnostics);
    }
    let root = parsed.root();
    let tokens = root.descendants_with_tokens().filter_map(|e| e.into_token());
    let lines = lines(tokens);
    let mut out = String::with_capacity(text.len());
    out.extend(text.starts_with(MARK).then_some(MARK));
    let mut depth = 0usize;
    let mut ending = "\n";
    for (at, line) in lines.iter().enumerate() {
        if line.blank_before && at > 0 {
            out.push_str(ending);
        }
        let closing = line.tokens.iter().take_while(|t| is_closing(t.kind)).count();
        let goes_on = at > 0 && continues(&lines[..at], line, depth);
        let indent = depth.saturating_sub(closing) + usize::from(goes_on);
        out.extend(std::iter::repeat_n(' ', indent * LEVEL));
        let above = (!line.blank_before).then(|| at.checked_sub(1)).flatten();
        let below = lines.get(at + 1).is_some_and(|l| !l.blank_before).then_some(at + 1);
        let columns: Vec<usize> = [above, below]
            .into_iter()
            .flatten()
            .filter_map(|n| lines.get(n))
            .flat_map(|l| l.tokens.iter().skip(1).filter(|t| t.gap > 0).map(|t| t.column))
            .collect();
        for (nth, token) in line.tokens.iter().enumerate() {
            if nth > 0 {
                // A range has blanks on both sides, or on none.
                let next_gap = line.tokens.get(nth + 1).map_or(0, |next| next.gap);
                let wide_range = token.kind == DotDot && next_gap > 0;
                let wanted = blanks(&line.tokens[nth - 1], token).max(usize::from(wide_range));
                let lined_up = token.gap > 1 && columns.contains(&token.column);
                let keeps = wanted > 0 && (lined_up || token.kind == Comment && token.gap > 0);
                out.extend(std::iter::repeat_n(' ', if keeps { token.gap } else { wanted }));
            }
            out.push_str(&token.text);
            match token.kind {
                OpenBrace | OpenParen => depth += 1,
                CloseBrace | CloseParen => depth = depth.saturating_sub(1),
                _ => {}
            }
        }
        ending = if line.ending.is_empty() { ending } else { line.ending };
        out.push_str(ending);
    }
    Ok(out)
}

fn lines(tokens: impl Iterator<Item = Token>) -> Vec<Line> {
    let mut lines: Vec<Line> = Vec::new();
    let (mut new_line, mut blank, mut gap, mut column) = (true, false, 0, 0);
    for token in tokens {
        if token.kind() == Whitespace {
            let text = token.text().trim_start_matches(MARK);
            let breaks = text.matches('\n').count();
            if let (Some(at), Some(line)) = (text.find('\n'), lines.last_mut()) {
                line.ending = if text[..at].ends_with('\r') { "\r\n" } else { "\n" };
            }
            new_line |= breaks > 0;
            blank |= breaks > 1 || breaks == 1 && lines.is_empty();
            let last = text.rsplit('\n').next().unwrap_or("");
            // A tab is worth one blank: what was lined up with tabs is lined up anew.
            gap = last.chars().filter(|c| *c != '\r').count();
            column = if breaks > 0 { gap } else { column + gap };
            continue;
        }
        if new_line {
            lines.push(Line { tokens: Vec::new(), blank_before: blank, ending: "" });
            (new_line, blank) = (false, false);
        }
        let text = match token.kind() {
            Number => number(token.text()),
            Comment => token.text().trim_end().to_string(),
            _ => token.text().to_string(),
        };
        let parent = token.parent().map_or(File, |p| p.kind());
        let width = token.text().chars().count();
        if let Some(line) = lines.last_mut() {
            line.tokens.push(Piece { kind: token.kind(), parent, text, column, gap });
        }
        column += width;
        gap = 0;
    }
    lines
}

/// A number and its unit with one blank between, and between the words of the unit.
fn number(text: &str) -> String {
    let Written { digits, unit } = parted(text);
    let unit: Vec<&str> = unit.split_whitespace().collect();
    if unit.is_empty() { digits.to_string() } else { format!("{digits} {}", unit.join(" ")) }
}

fn is_closing(kind: SyntaxKind) -> bool {
    matches!(kind, CloseBrace | CloseParen)
}

/// Whether a line goes on with what the one before began: after a comma of options, or an operator.
fn continues(before: &[Line], line: &Line, depth: usize) -> bool {
    let last = before.iter().rev().find_map(|l| l.tokens.iter().rev().find(|t| t.kind != Comment));
    let Some(last) = last else { return false };
    let options = last.kind == Comma && !matches!(last.parent, Spots | Vars | StatesLine | OptVars);
    let first = line.tokens.first().map_or(File, |t| t.kind);
    let inside_parens = last.parent == Args || last.parent == PairExpr || last.parent == Params;
    options && !inside_parens && !is_closing(first) && depth < 1000
}

/// How many blanks belong between two tokens of a line.
fn blanks(a: &Piece, b: &Piece) -> usize {
    let as_written = usize::from(b.gap > 0);
    match (a.kind, b.kind) {
        (_, Comment) => 1,
        (OpenParen, _) | (_, CloseParen | Comma | Semicolon | Colon) => 0,
        (OpenBrace, CloseBrace) => 0,
        (Hash, _) | (_, Hash) => 0,
        (Dot, _) | (_, Dot) => 0,
        (DotDot, _) => as_written.max(usize::from(a.gap > 0)),
        (_, DotDot) => as_written,
        (_, OpenParen) => {
            let opens_call = matches!(b.parent, Args | Params | QueryExpr | RandomExpr);
            let word = matches!(a.kind, Ident | Keyword);
            if word && opens_call {
                0
            } else if word {
                1
            } else {
                as_written.max(operator(a))
            }
        }
        (Minus, _) if a.parent == UnaryExpr => 0,
        _ if a.parent == PairUnit && b.parent == PairUnit => as_written,
        // `bottom-left` is one word to a person.
        (Minus, _) | (_, Minus) if a.parent == ArenaLine || b.parent == ArenaLine => 0,
        _ => 1,
    }
}

fn operator(piece: &Piece) -> usize {
    let parts = matches!(piece.kind, OpenParen) || piece.parent == UnaryExpr;
    usize::from(!parts)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const HEAD: &str = "pond \"t\" { arena 10 x 10 }\n";

    #[rstest]
    #[case::blanks("kind  a{look \"a\"}", "kind a { look \"a\" }")]
    #[case::indent(
        "kind a {\nafter 1 s {\nend self\n}\n}",
        "kind a {\n    after 1 s {\n        end self\n    }\n}"
    )]
    #[case::units("knob a = 6u/s  in  1..20", "knob a = 6 u/s in 1..20")]
    #[case::signs("watch a = -1+2*( 3 -4 )", "watch a = -1 + 2 * (3 - 4)")]
    #[case::calls("watch a = count ( b )>min (1,2)", "watch a = count(b) > min(1, 2)")]
    #[case::columns("knob a   = 1\nknob bcd = 2", "knob a   = 1\nknob bcd = 2")]
    #[case::no_columns("knob aa   = 1\n\nknob bcde = 2", "knob aa = 1\n\nknob bcde = 2")]
    #[case::comments("kind a { // one\n  // two\n}", "kind a { // one\n    // two\n}")]
    #[case::blank_lines("knob a = 1\n\n\n\nknob b = 2\n\n", "knob a = 1\n\nknob b = 2")]
    #[case::tabs("kind a {\n\tlook \"a\"\n}\n", "kind a {\n    look \"a\"\n}")]
    #[case::line_ends("kind a {\r\n\n\r\n\tlook \"a\"\n}", "kind a {\r\n\r\n    look \"a\"\n}")]
    #[case::options(
        "place a at (1, 1),\nfacing 3 deg\nknob b = 1",
        "place a at (1, 1),\n    facing 3 deg\nknob b = 1"
    )]
    #[case::named("watch a = midge # 3 . health", "watch a = midge#3.health")]
    #[case::pair_unit("vars { v = (4,0)u/s }", "vars { v = (4, 0) u/s }")]
    fn a_text_is_formatted(#[case] text: &str, #[case] wanted: &str) {
        let head = "pond \"t\" { arena 10 x 10 }\n";
        let formatted = format(&std::format!("{HEAD}{text}")).unwrap();
        assert_eq!(formatted.strip_prefix(head).unwrap().trim_end(), wanted);
        assert_eq!(format(&formatted).unwrap(), formatted);
    }

    #[rstest]
    fn a_text_with_errors_is_left_alone() {
        assert!(format("pond \"t\" { arena").is_err());
    }

    #[rstest]
    #[case::mark("\u{feff}pond  \"t\"{arena 9 x 9}", "\u{feff}pond \"t\" { arena 9 x 9 }\n")]
    #[case::mark_and_blank(
        "\u{feff}\r\npond \"t\"{arena 9 x 9}\r\n",
        "\u{feff}pond \"t\" { arena 9 x 9 }\r\n"
    )]
    #[case::last_line_without_an_end(
        "// a\r\npond \"t\" { arena 9 x 9 }",
        "// a\r\npond \"t\" { arena 9 x 9 }\r\n"
    )]
    #[case::comment("pond \"t\" { arena 9 x 9 } // a \r\n", "pond \"t\" { arena 9 x 9 } // a\r\n")]
    fn mark_and_line_ends_stay(#[case] text: &str, #[case] wanted: &str) {
        assert_eq!(format(text).unwrap(), wanted);
        assert_eq!(format(wanted).unwrap(), wanted);
    }

    #[rstest]
    fn origin_words_stay_together() {
        let text = "pond \"t\" {\n    arena 10 x 10, origin bottom-left, y up\n}\n";
        assert_eq!(format(text).unwrap(), text);
    }
}
