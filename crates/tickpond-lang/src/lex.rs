//! Text to tokens. Every byte lands in exactly one token.

use logos::{Lexer, Logos};

use crate::diagnostic::{Code, Diagnostic, Span};
use crate::syntax::SyntaxKind;
use crate::units;

/// What may stand before the first line: a mark that tells the encoding.
pub const MARK: char = '\u{feff}';

/// Most bytes of a text: one that stands in a pond, and one that a pond makes.
pub const LONGEST_TEXT: usize = 4_096;

/// Most characters of a name.
pub const LONGEST_NAME: usize = 100;

#[derive(Logos, Clone, Copy, PartialEq, Debug)]
enum Raw {
    #[regex(r"[ \t\r\n\u{FEFF}]+")]
    Whitespace,
    #[regex(r"//[^\r\n]*", allow_greedy = true)]
    Comment,
    #[regex(r"[\p{L}_][\p{L}\p{N}_]*")]
    Ident,
    #[regex(r"[0-9][0-9_]*(\.[0-9][0-9_]*)?", with_unit)]
    Number,
    #[regex(r#""([^"\\\r\n]|\\[^\r\n])*""#)]
    Text,
    #[regex(r#""([^"\\\r\n]|\\[^\r\n])*\\?"#)]
    OpenText,
    #[token("{")]
    OpenBrace,
    #[token("}")]
    CloseBrace,
    #[token("(")]
    OpenParen,
    #[token(")")]
    CloseParen,
    #[token(",")]
    Comma,
    #[token(";")]
    Semicolon,
    #[token(":")]
    Colon,
    #[token("#")]
    Hash,
    #[token(".")]
    Dot,
    #[token("..")]
    DotDot,
    #[token("=")]
    Assign,
    #[token("+=")]
    PlusAssign,
    #[token("-=")]
    MinusAssign,
    #[token("+")]
    Plus,
    #[token("-")]
    Minus,
    #[token("+-")]
    PlusMinus,
    #[token("*")]
    Star,
    #[token("/")]
    Slash,
    #[token("==")]
    Equal,
    #[token("!=")]
    NotEqual,
    #[token("<")]
    Less,
    #[token("<=")]
    LessEqual,
    #[token(">")]
    Greater,
    #[token(">=")]
    GreaterEqual,
}

/// A number takes its unit with it, so that the two are checked as one.
fn with_unit(lexer: &mut Lexer<'_, Raw>) {
    lexer.bump(units::length_at_start(lexer.remainder()));
}

/// One token: its sort and its place.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct LexToken {
    /// What it is.
    pub kind: SyntaxKind,
    /// Where it is.
    pub span: Span,
}

/// The tokens of `text` in order, without a gap, and what is wrong with them. Linear in the text.
pub fn lex(text: &str) -> (Vec<LexToken>, Vec<Diagnostic>) {
    let mut tokens: Vec<LexToken> = Vec::new();
    let mut found = Vec::new();
    for (raw, range) in Raw::lexer(text).spanned() {
        let span = Span { start: range.start as u32, end: range.end as u32 };
        let kind = match raw {
            Ok(Raw::OpenText) => {
                found.push(
                    Diagnostic::new(Code::OpenText, span, "this text has no closing quote")
                        .with_help("close it with `\"` on the same line"),
                );
                SyntaxKind::Text
            }
            Ok(raw) => syntax_kind(raw),
            Err(()) => {
                // Stray characters in a row are one mistake and one token.
                if let Some(last) = tokens.last_mut()
                    && last.kind == SyntaxKind::StrayToken
                    && last.span.end == span.start
                {
                    last.span.end = span.end;
                    continue;
                }
                SyntaxKind::StrayToken
            }
        };
        tokens.push(LexToken { kind, span });
    }
    // At the beginning of a text a mark of its encoding may stand, nowhere else.
    let is_hidden = |(at, c): &(usize, char)| is_unseen(*c) || *c == MARK && *at > 0;
    found.extend(text.char_indices().filter(is_hidden).map(|(at, c)| unseen(at, c)));
    let bytes = text.as_bytes();
    let returns = bytes.iter().enumerate().filter(|(_, b)| **b == b'\r').map(|(at, _)| at);
    found.extend(returns.filter(|at| bytes.get(at + 1) != Some(&b'\n')).map(lone_return));
    let strays = tokens.iter().filter(|t| t.kind == SyntaxKind::StrayToken);
    let strays = strays.filter(|t| !text[t.span.range()].chars().any(is_unseen));
    found.extend(strays.map(|t| stray(&text[t.span.range()], t.span)));
    found.extend(tokens.iter().filter_map(|token| too_long(token, &text[token.span.range()])));
    (tokens, found)
}

/// Characters that a reader cannot see, and that change what is seen around them: control characters, those
/// that turn the direction of writing or part lines and paragraphs, and those that Unicode keeps for nobody, which
/// no file of an open format may hold.
fn is_unseen(c: char) -> bool {
    let turns =
        matches!(c, '\u{200E}' | '\u{200F}' | '\u{202A}'..='\u{202E}' | '\u{2066}'..='\u{2069}');
    let parts = matches!(c, '\u{2028}' | '\u{2029}');
    let is_nobodys = matches!(c, '\u{FDD0}'..='\u{FDEF}') || c as u32 & 0xFFFE == 0xFFFE;
    turns || parts || is_nobodys || c.is_control() && !matches!(c, '\t' | '\r' | '\n')
}

/// Names and texts have a longest length: they stand on screens, in drawings and in every event they are told in.
fn too_long(token: &LexToken, text: &str) -> Option<Diagnostic> {
    let words = match token.kind {
        SyntaxKind::Ident if text.len() > LONGEST_NAME => {
            let length = text.chars().count();
            let is_long = length > LONGEST_NAME;
            is_long
                .then(|| format!("a name of {length} characters; {LONGEST_NAME} are the most"))?
        }
        SyntaxKind::Text if text.len() > LONGEST_TEXT => {
            format!("a text of {} bytes; {LONGEST_TEXT} are the most", text.len())
        }
        _ => return None,
    };
    Some(Diagnostic::new(Code::OutOfRange, token.span, words).with_help("write it shorter"))
}

/// Some programs end lines by it, others show nothing: so nobody knows what stands behind a comment.
fn lone_return(at: usize) -> Diagnostic {
    let span = Span { start: at as u32, end: at as u32 + 1 };
    let message = "a carriage return without a line feed behind it";
    Diagnostic::new(Code::StrayCharacter, span, message)
        .with_help("end the line by `\\n` or `\\r\\n`")
        .with_mend(span, "\n")
}

fn unseen(at: usize, c: char) -> Diagnostic {
    let span = Span { start: at as u32, end: (at + c.len_utf8()) as u32 };
    let message = format!("a character that is not seen: {}", c.escape_unicode());
    Diagnostic::new(Code::StrayCharacter, span, message).with_help("remove it").with_mend(span, "")
}

fn stray(text: &str, span: Span) -> Diagnostic {
    let shown: String = text.chars().take(8).flat_map(char::escape_default).collect();
    let shown = if text.chars().all(|c| !c.is_control()) { text } else { shown.as_str() };
    let diagnostic =
        Diagnostic::new(Code::StrayCharacter, span, format!("`{shown}` means nothing in a pond"));
    match text {
        "&" | "&&" => diagnostic.with_help("here it is `and`").with_mend(span, "and"),
        "|" | "||" => diagnostic.with_help("here it is `or`").with_mend(span, "or"),
        "!" => diagnostic.with_help("here it is `not`").with_mend(span, "not "),
        _ => diagnostic.with_help("remove it"),
    }
}

fn syntax_kind(raw: Raw) -> SyntaxKind {
    match raw {
        Raw::Whitespace => SyntaxKind::Whitespace,
        Raw::Comment => SyntaxKind::Comment,
        Raw::Ident => SyntaxKind::Ident,
        Raw::Number => SyntaxKind::Number,
        Raw::Text | Raw::OpenText => SyntaxKind::Text,
        Raw::OpenBrace => SyntaxKind::OpenBrace,
        Raw::CloseBrace => SyntaxKind::CloseBrace,
        Raw::OpenParen => SyntaxKind::OpenParen,
        Raw::CloseParen => SyntaxKind::CloseParen,
        Raw::Comma => SyntaxKind::Comma,
        Raw::Semicolon => SyntaxKind::Semicolon,
        Raw::Colon => SyntaxKind::Colon,
        Raw::Hash => SyntaxKind::Hash,
        Raw::Dot => SyntaxKind::Dot,
        Raw::DotDot => SyntaxKind::DotDot,
        Raw::Assign => SyntaxKind::Assign,
        Raw::PlusAssign => SyntaxKind::PlusAssign,
        Raw::MinusAssign => SyntaxKind::MinusAssign,
        Raw::Plus => SyntaxKind::Plus,
        Raw::Minus => SyntaxKind::Minus,
        Raw::PlusMinus => SyntaxKind::PlusMinus,
        Raw::Star => SyntaxKind::Star,
        Raw::Slash => SyntaxKind::Slash,
        Raw::Equal => SyntaxKind::Equal,
        Raw::NotEqual => SyntaxKind::NotEqual,
        Raw::Less => SyntaxKind::Less,
        Raw::LessEqual => SyntaxKind::LessEqual,
        Raw::Greater => SyntaxKind::Greater,
        Raw::GreaterEqual => SyntaxKind::GreaterEqual,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn kinds(text: &str) -> Vec<(SyntaxKind, &str)> {
        let (tokens, _) = lex(text);
        let significant = tokens.into_iter().filter(|t| !t.kind.is_trivia());
        significant.map(|t| (t.kind, &text[t.span.range()])).collect()
    }

    #[rstest]
    #[case::speed("6 u/s", "6 u/s")]
    #[case::rate("60 per s", "60 per s")]
    #[case::share("30 %", "30 %")]
    #[case::grouped("50_000 entities", "50_000")]
    #[case::kind_after_count("2 speck", "2")]
    #[case::times("4 * n", "4")]
    fn a_number_takes_its_unit(#[case] text: &str, #[case] number: &str) {
        assert_eq!(kinds(text)[0], (SyntaxKind::Number, number));
    }

    #[rstest]
    fn a_range_is_two_numbers() {
        let dots: Vec<_> = kinds("1..20").into_iter().map(|(k, _)| k).collect();
        assert_eq!(dots, [SyntaxKind::Number, SyntaxKind::DotDot, SyntaxKind::Number]);
    }

    #[rstest]
    #[case("a && b", Code::StrayCharacter, "and")]
    #[case("a || b", Code::StrayCharacter, "or")]
    fn habits_from_elsewhere_are_answered(
        #[case] text: &str,
        #[case] code: Code,
        #[case] word: &str,
    ) {
        let (_, found) = lex(text);
        assert_eq!(found.len(), 1);
        assert_eq!(found[0].code, code);
        assert!(found[0].help.as_deref().unwrap().contains(word));
    }

    #[rstest]
    #[case::in_a_comment("// a\rb", 4)]
    #[case::in_a_text("\"a\rb\"", 2)]
    #[case::at_the_end("a\r", 1)]
    #[case::before_a_line_end("a\r\r\n", 1)]
    #[case::a_mark_behind_the_beginning("a\u{feff}", 1)]
    #[case::nobodys("\"\u{fffe}\"", 1)]
    #[case::nobodys_far_up("// \u{10ffff}", 3)]
    #[case::a_line_of_another_sort("// a\u{2028}b", 4)]
    fn what_is_not_seen_is_an_error_wherever_it_stands(#[case] text: &str, #[case] at: u32) {
        let found: Vec<_> =
            lex(text).1.into_iter().filter(|d| d.code == Code::StrayCharacter).collect();
        assert_eq!(found.iter().map(|d| d.span.start).collect::<Vec<_>>(), [at], "{found:?}");
        // What it offers to do mends it.
        let mend = found[0].mend.as_ref().unwrap();
        let mut mended = text.to_string();
        mended.replace_range(mend.span.range(), &mend.text);
        assert!(!lex(&mended).1.iter().any(|d| d.code == Code::StrayCharacter), "{mended:?}");
    }

    #[rstest]
    #[case("// a\r\nb")]
    #[case("\"a\r\nb\"")]
    #[case("// a\rb")]
    fn no_token_reaches_over_the_end_of_its_line(#[case] text: &str) {
        for token in lex(text).0 {
            let token = &text[token.span.range()];
            assert!(token.trim().is_empty() || !token.contains(['\r', '\n']), "{token:?}");
        }
    }

    #[rstest]
    fn an_open_text_ends_with_its_line() {
        let (tokens, found) = lex("say \"hello\nend");
        assert_eq!(found[0].code, Code::OpenText);
        assert_eq!(tokens.last().unwrap().kind, SyntaxKind::Ident);
    }
}
