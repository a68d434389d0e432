//! What a call, a message, a behaviour or a spawner takes, while its values are typed.

use tickpond_lang::Span;
use tickpond_lang::model::Sort;
use tickpond_lang::syntax::SyntaxKind;
use tickpond_lang::words::functions;

use crate::document::Document;
use crate::words::Words;

/// What stands in the head of something that takes values, and which of them is being typed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Signature {
    /// All of it: `scatter(what: kind, n: number)`.
    pub label: String,
    /// The bytes of each parameter in the label.
    pub params: Vec<std::ops::Range<usize>>,
    /// The parameter at the cursor, from 0; past the last if too many values are given.
    pub active: usize,
}

/// The signature of the call around a byte, if a call is around it.
pub fn signature(document: &Document, byte: u32) -> Option<Signature> {
    let words = Words::of(&document.text);
    let before = words.tokens.iter().enumerate().rev().filter(|(_, t)| t.span.end <= byte);
    let (mut depth, mut active) = (0, 0);
    for (at, token) in before {
        match token.kind {
            SyntaxKind::CloseParen => depth += 1,
            SyntaxKind::OpenParen if depth == 0 => {
                if let Some(head) = called(document, &words, at) {
                    return Some(Signature { active, ..head });
                }
                // The brackets of a place: the call may be further out.
                active = 0;
            }
            SyntaxKind::OpenParen => depth -= 1,
            SyntaxKind::Comma if depth == 0 => active += 1,
            SyntaxKind::OpenBrace | SyntaxKind::CloseBrace | SyntaxKind::Semicolon
                if depth == 0 =>
            {
                return None;
            }
            _ => {}
        }
    }
    None
}

/// What is called before an open bracket.
fn called(document: &Document, words: &Words<'_>, open: usize) -> Option<Signature> {
    let called = open.checked_sub(1).filter(|at| words.is_name(*at))?;
    let (name, span) = (words.word(called), words.tokens[called].span);
    defined(document, name, span).or_else(|| built_in(name))
}

/// The parameters as the text declares them.
fn defined(document: &Document, name: &str, span: Span) -> Option<Signature> {
    let takes = |sort: Sort| {
        matches!(sort, Sort::Function | Sort::Message | Sort::Behavior | Sort::Spawner)
    };
    let mut meant: Vec<Span> = Vec::new();
    meant.extend(document.model.meanings(span).iter().filter(|d| takes(d.sort)).map(|d| d.span));
    // A call that is still being typed may not be known as one.
    let named = document.model.definitions().filter(|d| d.name == name && takes(d.sort));
    meant.extend(named.map(|d| d.span));
    let defined = *meant.first().filter(|defined| **defined != span)?;
    let rest = document.text.get(defined.end as usize..)?.trim_start();
    let inner = rest.strip_prefix('(')?;
    let inner = &inner[..closing(inner)?];
    let mut label = format!("{name}(");
    let mut params = Vec::new();
    for (at, param) in parted(inner).into_iter().enumerate() {
        if at > 0 {
            label.push_str(", ");
        }
        let start = label.len();
        label.push_str(&param.split_whitespace().collect::<Vec<_>>().join(" "));
        params.push(start..label.len());
    }
    label.push(')');
    Some(Signature { label, params, active: 0 })
}

/// A built-in function with as many values as it takes.
fn built_in(name: &str) -> Option<Signature> {
    let (_, count) = functions().find(|(function, _)| *function == name)?;
    let mut label = format!("{name}(");
    let mut params = Vec::new();
    for at in 0..count {
        if at > 0 {
            label.push_str(", ");
        }
        let start = label.len();
        label.push(char::from(b'a' + at as u8));
        params.push(start..label.len());
    }
    label.push(')');
    Some(Signature { label, params, active: 0 })
}

/// Where the bracket around this text closes.
fn closing(text: &str) -> Option<usize> {
    let mut depth = 0;
    text.char_indices().find_map(|(at, c)| {
        match c {
            '(' => depth += 1,
            ')' if depth == 0 => return Some(at),
            ')' => depth -= 1,
            _ => {}
        }
        None
    })
}

/// The parts between the commas that stand in no brackets.
fn parted(text: &str) -> Vec<&str> {
    let (mut depth, mut from, mut parts) = (0, 0, Vec::new());
    for (at, c) in text.char_indices() {
        match c {
            '(' => depth += 1,
            ')' => depth -= 1,
            ',' if depth == 0 => {
                parts.push(&text[from..at]);
                from = at + 1;
            }
            _ => {}
        }
    }
    if !text[from..].trim().is_empty() {
        parts.push(&text[from..]);
    }
    parts
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const HEAD: &str = "pond \"t\" { arena 10 x 10 }
message warn(level: number, of: kind)
behavior hops(pace: speed = 3 u/s, rest: time = 1 s) { on birth { speed = pace } }
to scatter(what: kind, at: place = (1, 2)) { say \"x\" }
value twice(n: number) = n * 2
spawner bed(gap: time = 1 s) { makes midge at here; every gap }
kind midge {
";

    /// The signature at the bar.
    fn at(typed: &str) -> Option<(String, usize, Vec<String>)> {
        let bar = typed.find('|').unwrap();
        let text = format!("{HEAD}    {}\n}}\n", typed.replace('|', ""));
        let byte = (HEAD.len() + 4 + bar) as u32;
        let signature = signature(&Document::new(text), byte)?;
        let params = signature.params.iter().map(|r| signature.label[r.clone()].to_string());
        Some((signature.label.clone(), signature.active, params.collect()))
    }

    #[rstest]
    #[case("every 1 s { scatter(|", "scatter(what: kind, at: place = (1, 2))", 0)]
    #[case("every 1 s { scatter(midge, (1 u, |", "scatter(what: kind, at: place = (1, 2))", 1)]
    #[case("every 1 s { scatter(midge, |) }", "scatter(what: kind, at: place = (1, 2))", 1)]
    #[case("every 1 s { send warn(twice(2), |", "warn(level: number, of: kind)", 1)]
    #[case("every 1 s { send warn(twice(|", "twice(n: number)", 0)]
    #[case("uses hops(2 u/s, |)", "hops(pace: speed = 3 u/s, rest: time = 1 s)", 1)]
    #[case("every 1 s { speed = min(3 u/s, |", "min(a, b)", 1)]
    #[case("every 1 s { say \"{twice(|)}\" }", "twice(n: number)", 0)]
    fn the_call_around_is_told(#[case] typed: &str, #[case] label: &str, #[case] active: usize) {
        let (told, at, params) = at(typed).unwrap();
        assert_eq!((told.as_str(), at), (label, active));
        assert!(params.iter().all(|p| label.contains(p.as_str())), "{params:?}");
    }

    #[rstest]
    #[case("every 1 s { |")]
    #[case("every 1 s { scatter(midge, (1, 2)); |")]
    #[case("mount mouth at (1 u, |")]
    fn elsewhere_nothing_is_told(#[case] typed: &str) {
        assert_eq!(at(typed), None);
    }
}
