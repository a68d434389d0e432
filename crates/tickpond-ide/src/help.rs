//! What the language reference says of a word.

use tickpond_lang::lex::lex;
use tickpond_lang::syntax::SyntaxKind;

/// The reference that comes with the program.
const REFERENCE: &str = include_str!("../language.md");

/// The heading and the paragraph or table row that speaks of a word: the first one in whose code the word
/// stands first, else anywhere in its code.
pub fn about(word: &str) -> Option<(String, String)> {
    let mut heading = "";
    let mut inside = None;
    let mut fenced = false;
    let mut pieces: Vec<(&str, &str)> = Vec::new();
    let mut start = 0;
    let mut at = 0;
    for line in REFERENCE.split_inclusive('\n') {
        let fence = line.starts_with("```");
        let ends =
            fence || line.trim().is_empty() || line.starts_with('#') || line.starts_with('|');
        if ends && !fenced && start < at {
            pieces.push((heading, &REFERENCE[start..at]));
        }
        if line.starts_with('|') && !fenced {
            pieces.push((heading, &REFERENCE[at..at + line.len()]));
        }
        if fence {
            fenced = !fenced;
        }
        if line.starts_with('#') && !fenced {
            heading = line.trim_start_matches('#').trim();
        }
        at += line.len();
        if ends || fenced {
            start = at;
        }
    }
    pieces.push((heading, &REFERENCE[start.min(at)..at]));
    for (heading, piece) in pieces {
        for code in piece.split('`').skip(1).step_by(2) {
            let (tokens, _) = lex(code);
            let mut names = tokens
                .iter()
                .filter(|t| matches!(t.kind, SyntaxKind::Ident | SyntaxKind::Keyword))
                .map(|t| &code[t.span.range()]);
            let first = names.next();
            if first == Some(word) {
                return Some((heading.to_string(), plain(piece)));
            }
            if inside.is_none() && names.any(|name| name == word) {
                inside = Some((heading.to_string(), plain(piece)));
            }
        }
    }
    inside
}

/// A piece as one line of words.
fn plain(piece: &str) -> String {
    let piece = piece.trim().trim_matches('|').replace(" | ", ": ").replace('`', "");
    piece.split_whitespace().collect::<Vec<_>>().join(" ")
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("every")]
    #[case("spawn")]
    #[case("wave")]
    #[case("nearest")]
    #[case("health")]
    #[case("replace")]
    fn words_of_the_language_are_told(#[case] word: &str) {
        let (heading, words) = about(word).unwrap();
        assert!(!heading.is_empty());
        assert!(words.contains(word) && !words.contains('`'), "{words}");
    }

    #[rstest]
    fn what_is_no_word_of_the_language_is_not_told() {
        assert_eq!(about("quagmire"), None);
    }
}
