//! Larger edits of a text: commenting lines, muting handlers, matching brackets, searching.

use std::ops::Range;

use tickpond_lang::Span;
use tickpond_lang::lex::lex;
use tickpond_lang::program::Program;
use tickpond_lang::syntax::SyntaxKind;

/// The lines with `//` before each, or without if all have it. Empty lines stay empty.
pub fn commented(lines: &[String]) -> Vec<String> {
    let said: Vec<&String> = lines.iter().filter(|l| !l.trim().is_empty()).collect();
    let all = !said.is_empty() && said.iter().all(|l| l.trim_start().starts_with("//"));
    let indent = |line: &str| line.len() - line.trim_start().len();
    let least = said.iter().map(|l| indent(l)).min().unwrap_or(0);
    lines
        .iter()
        .map(|line| {
            if line.trim().is_empty() {
                return line.clone();
            }
            if all {
                let at = indent(line);
                let rest = &line[at + 2..];
                return format!("{}{}", &line[..at], rest.strip_prefix(' ').unwrap_or(rest));
            }
            let (before, behind) = line.split_at(line.floor_char_boundary(least));
            format!("{before}// {behind}")
        })
        .collect()
}

/// The change that mutes the innermost handler around a byte, or lets it run again: `off ` is put before
/// it, or taken away. With it what the handler is called.
pub fn mute(program: &Program, byte: u32) -> Option<(Range<usize>, &'static str, String)> {
    let handlers = program.kinds.iter().flat_map(|kind| &kind.handlers);
    let around = handlers.filter(|h| h.span.start <= byte && byte <= h.span.end);
    let handler = around.min_by_key(|h| h.span.end - h.span.start)?;
    let start = handler.span.start as usize;
    let text = program.text.get(start..)?;
    let name = handler.head.clone();
    if let Some(rest) = text.strip_prefix("off") {
        let gap = rest.len() - rest.trim_start().len();
        return Some((start..start + 3 + gap, "", name));
    }
    // The span may begin behind the word that mutes.
    let head = program.text[..start].trim_end();
    if handler.muted && head.ends_with("off") {
        return Some((head.len() - 3..start, "", name));
    }
    Some((start..start, "off ", name))
}

/// The bracket at a byte or right before it, and the one it belongs to.
pub fn brackets(text: &str, byte: u32) -> Option<(Span, Span)> {
    let (tokens, _) = lex(text);
    let sort = |kind: SyntaxKind| match kind {
        SyntaxKind::OpenBrace => Some((0, 1)),
        SyntaxKind::CloseBrace => Some((0, -1)),
        SyntaxKind::OpenParen => Some((1, 1)),
        SyntaxKind::CloseParen => Some((1, -1)),
        _ => None,
    };
    let here = |t: &&tickpond_lang::lex::LexToken| {
        sort(t.kind).is_some() && (t.span.start == byte || t.span.end == byte)
    };
    let near = tokens.iter().filter(here).max_by_key(|t| t.span.start == byte)?.span;
    let at = tokens.iter().position(|t| t.span == near)?;
    let (pair, way) = sort(tokens[at].kind)?;
    let mut depth = 0;
    let mut look = |token: &tickpond_lang::lex::LexToken| {
        if let Some((p, w)) = sort(token.kind)
            && p == pair
        {
            depth += w;
        }
        depth == 0
    };
    let other = match way {
        1 => tokens[at..].iter().find(|t| look(t)),
        _ => tokens[..=at].iter().rev().find(|t| look(t)),
    };
    other.map(|t| (near, t.span))
}

/// Where a text is found: the next place from a byte on, around the end.
pub fn find(text: &str, wanted: &str, from: usize) -> Option<Range<usize>> {
    if wanted.is_empty() {
        return None;
    }
    let from = (from..=text.len()).find(|at| text.is_char_boundary(*at)).unwrap_or(text.len());
    let after = text[from..].find(wanted).map(|at| at + from);
    let at = after.or_else(|| text.find(wanted))?;
    Some(at..at + wanted.len())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn lines(text: &str) -> Vec<String> {
        text.lines().map(str::to_string).collect()
    }

    #[rstest]
    #[case("a\n    b", "// a\n//     b")]
    #[case("    a\n\n      b", "    // a\n\n    //   b")]
    #[case("    // a\n    b", "    // // a\n    // b")]
    fn commenting_twice_comes_back(#[case] text: &str, #[case] wanted: &str) {
        let once = commented(&lines(text));
        assert_eq!(once, lines(wanted));
        assert_eq!(commented(&once), lines(text));
    }

    #[rstest]
    fn lines_set_in_by_blanks_of_several_bytes_are_commented() {
        assert_eq!(commented(&lines("\u{3000}a\n\tb")), lines("// \u{3000}a\n\t// b"));
    }

    const TEXT: &str = "pond \"t\" { arena 10 x 10 }\nkind midge {\n    every 1 s { say \"a\" }\n    off on birth { say \"b\" }\n}\nplace midge at (1, 1)\n";

    fn muted(text: &str, at: &str) -> String {
        let program = tickpond_lang::compile(text).program.unwrap();
        let byte = text.find(at).unwrap() as u32;
        let (range, put, _) = mute(&program, byte).unwrap();
        let mut text = text.to_string();
        text.replace_range(range, put);
        text
    }

    #[rstest]
    #[case("say \"a\"", "    off every 1 s")]
    #[case("say \"b\"", "\n    on birth")]
    fn a_handler_is_muted_and_back(#[case] at: &str, #[case] wanted: &str) {
        let once = muted(TEXT, at);
        assert!(once.contains(wanted), "{once}");
        assert!(tickpond_lang::compile(&once).program.is_some());
        assert_eq!(muted(&once, at), TEXT);
    }

    #[rstest]
    fn outside_of_handlers_nothing_is_muted() {
        let program = tickpond_lang::compile(TEXT).program.unwrap();
        assert_eq!(mute(&program, 3), None);
    }

    #[rstest]
    #[case("{ ( ) }", 0, (0, 6))]
    #[case("{ ( ) }", 7, (6, 0))]
    #[case("{ ( ) }", 2, (2, 4))]
    #[case("{ { } }", 0, (0, 6))]
    fn brackets_find_each_other(#[case] text: &str, #[case] at: u32, #[case] pair: (u32, u32)) {
        let (a, b) = brackets(text, at).unwrap();
        assert_eq!((a.start, b.start), pair);
    }

    #[rstest]
    fn a_bracket_alone_has_no_other() {
        assert_eq!(brackets("{ (", 0), None);
        assert_eq!(brackets("\"{\"", 1), None, "in a text it is none");
    }

    #[rstest]
    fn searching_goes_around_the_end() {
        assert_eq!(find("abcab", "ab", 1), Some(3..5));
        assert_eq!(find("abcab", "ab", 4), Some(0..2));
        assert_eq!(find("abc", "x", 0), None);
        assert_eq!(find("äb", "b", 1), Some(2..3), "not inside a character");
        assert_eq!(find("abc", "", 0), None);
    }
}
