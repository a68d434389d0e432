//! Findings that are accepted in the text: `// meant: F0603, they stay`, above a line or behind it. F0629: an acceptance
//! of what is not found there.

use std::collections::HashSet;

use crate::diagnostic::{Code, Diagnostic, Severity, Span};
use crate::lex;
use crate::lines::LineIndex;
use crate::syntax::SyntaxKind;

/// An acceptance: the codes, the line it is about, and where it stands.
struct Meant {
    codes: Vec<(String, Option<Code>)>,
    line: u32,
    span: Span,
    /// What goes if it is removed.
    all: Span,
}

/// Parts diagnostics into those that stand and those that are accepted; adds one for each acceptance of nothing.
pub(crate) fn part(text: &str, diagnostics: Vec<Diagnostic>) -> (Vec<Diagnostic>, Vec<Diagnostic>) {
    let all = meant(text);
    if all.is_empty() {
        return (diagnostics, Vec::new());
    }
    let lines = LineIndex::new(text);
    let of_line = all.iter().flat_map(|m| m.codes.iter().map(|(_, code)| (m.line, *code)));
    let accepts: HashSet<(u32, Option<Code>)> = of_line.collect();
    let place = |d: &Diagnostic| (lines.line(d.span.start), Some(d.code));
    let (accepted, mut standing): (Vec<_>, Vec<_>) = diagnostics
        .into_iter()
        .partition(|d| d.severity != Severity::Error && accepts.contains(&place(d)));
    let there: HashSet<(u32, Option<Code>)> = accepted.iter().map(place).collect();
    for meant in &all {
        for (word, code) in &meant.codes {
            if there.contains(&(meant.line, *code)) {
                continue;
            }
            let message = match code {
                None => format!("there is no finding `{word}`"),
                Some(code) if code.severity() == Severity::Error => {
                    format!("`{word}` is an error, and an error cannot be meant")
                }
                Some(_) => format!(
                    "line {} has no finding `{word}`, so nothing is accepted here",
                    meant.line
                ),
            };
            let diagnostic = Diagnostic::new(Code::NotMeant, meant.span, message).with_help(
                "remove the acceptance, or put it right above the line the finding is on",
            );
            let alone = meant.codes.len() == 1;
            standing.push(if alone { diagnostic.with_mend(meant.all, "") } else { diagnostic });
        }
    }
    (standing, accepted)
}

fn meant(text: &str) -> Vec<Meant> {
    if !text.contains("meant:") {
        return Vec::new();
    }
    let lines = LineIndex::new(text);
    let (tokens, _) = lex::lex(text);
    let mut found = Vec::new();
    for (at, token) in tokens.iter().enumerate() {
        if token.kind != SyntaxKind::Comment {
            continue;
        }
        let comment = text.get(token.span.range()).unwrap_or("");
        let Some(said) = comment.trim_start_matches('/').trim_start().strip_prefix("meant:") else {
            continue;
        };
        let words = said.split([',', ' ', '\r', '\t', ':', ';']).filter(|word| !word.is_empty());
        let codes = words.take_while(|word| is_code(word));
        let codes: Vec<(String, Option<Code>)> =
            codes.map(|word| (word.to_string(), Code::named(word))).collect();
        if codes.is_empty() {
            continue;
        }
        let line = lines.line(token.span.start);
        let is_said =
            |t: &&lex::LexToken| !matches!(t.kind, SyntaxKind::Comment | SyntaxKind::Whitespace);
        let before = tokens[..at].iter().rfind(is_said);
        let trailing = before.is_some_and(|t| lines.line(t.span.end.saturating_sub(1)) == line);
        let next = tokens[at..].iter().find(is_said).map(|t| lines.line(t.span.start));
        let about = if trailing { line } else { next.unwrap_or(line) };
        // A line of its own goes with its end.
        let from = text[..token.span.start as usize].rfind('\n').map_or(0, |n| n + 1) as u32;
        let to = (token.span.end as usize + 1).min(text.len()) as u32;
        let kept = text[..token.span.start as usize].trim_end_matches([' ', '\t']).len() as u32;
        let all = match trailing {
            true => Span { start: kept, end: token.span.end },
            false => Span { start: from, end: to },
        };
        found.push(Meant { codes, line: about, span: token.span, all });
    }
    found
}

/// Whether a word looks like a code: a letter and digits.
fn is_code(word: &str) -> bool {
    let mut chars = word.chars();
    chars.next().is_some_and(|c| "EFHefh".contains(c))
        && word.len() > 2
        && chars.all(|c| c.is_ascii_digit())
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use crate::compile;
    use rstest::rstest;

    #[rstest]
    #[case::not_said("", &["F0603", "F0613"])]
    #[case::one("// meant: F0603, they stay", &["F0613"])]
    #[case::both("// meant: F0603, F0613: they stay", &[])]
    #[case::in_two_lines("// meant: F0603\n// meant: F0613", &[])]
    #[case::of_another("// meant: F0601", &["F0629", "F0603", "F0613"])]
    #[case::of_nothing("// meant: F0999", &["F0629", "F0603", "F0613"])]
    #[case::of_an_error("// meant: E0301", &["F0629", "F0603", "F0613"])]
    #[case::words("// meant: they stay", &["F0603", "F0613"])]
    fn a_finding_can_be_meant(#[case] comment: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace b at (1, 1)\nkind b {{ every 1 s {{ spawn fly }} }}\n\
             {comment}\n\nkind fly {{ vars {{ n = 0 }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[test]
    fn behind_a_line_it_is_about_that_line() {
        let text = |second: &str| {
            format!(
                "pond \"t\" {{ arena 10 x 10 }}\nkind fly {{ look \"f\" }} // meant: F0602, not yet\n{second}"
            )
        };
        assert!(compile(&text("")).diagnostics.is_empty());
        assert_eq!(compile(&text("")).accepted.len(), 1);
        assert_eq!(codes(&text("kind moth { look \"m\" }")), ["F0602"]);
    }

    #[rstest]
    #[case::a_line(
        "  // meant: F0601, x\n  kind fly { }\nplace fly at (1, 1)",
        "  kind fly { }\nplace fly at (1, 1)"
    )]
    #[case::behind(
        "kind fly { } // meant: F0601\nplace fly at (1, 1)",
        "kind fly { }\nplace fly at (1, 1)"
    )]
    fn its_mend_removes_it(#[case] items: &str, #[case] mended: &str) {
        let head = "pond \"t\" { arena 10 x 10 }\n";
        let mut text = format!("{head}{items}");
        let mend = compile(&text).diagnostics[0].mend.clone().unwrap();
        text.replace_range(mend.span.range(), &mend.text);
        assert_eq!(text, format!("{head}{mended}"));
        assert!(compile(&text).diagnostics.is_empty());
    }
}
