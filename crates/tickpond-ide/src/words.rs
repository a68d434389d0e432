//! The words of a text, those in the values of quoted texts among them.

use std::collections::HashMap;
use std::ops::Range;

use tickpond_lang::Span;
use tickpond_lang::lex::{LexToken, lex};
use tickpond_lang::syntax::SyntaxKind;
use tickpond_lang::texts::values;

/// The words of the values in a text in quotes.
fn values_in(text: &str, token: LexToken) -> Vec<LexToken> {
    let raw = text.get(token.span.range()).unwrap_or("");
    let of_value = |value: Range<usize>| {
        let base = token.span.start + value.start as u32;
        let (tokens, _) = lex(&raw[value]);
        let significant = tokens.into_iter().filter(|t| !t.kind.is_trivia());
        significant.map(move |t| LexToken {
            span: Span { start: t.span.start + base, end: t.span.end + base },
            ..t
        })
    };
    values(raw).into_iter().flat_map(of_value).collect()
}

/// The tokens of a text without white space and comments, those of values in quoted texts behind the text they stand in.
pub(crate) struct Words<'a> {
    text: &'a str,
    pub tokens: Vec<LexToken>,
}

impl<'a> Words<'a> {
    pub fn of(text: &'a str) -> Words<'a> {
        let (lexed, _) = lex(text);
        let mut tokens = Vec::with_capacity(lexed.len());
        for token in lexed.into_iter().filter(|t| !t.kind.is_trivia()) {
            tokens.push(token);
            if token.kind == SyntaxKind::Text {
                tokens.extend(values_in(text, token));
            }
        }
        Words { text, tokens }
    }

    pub fn word(&self, at: usize) -> &'a str {
        self.tokens.get(at).and_then(|t| self.text.get(t.span.range())).unwrap_or("")
    }

    pub fn is_name(&self, at: usize) -> bool {
        matches!(self.tokens[at].kind, SyntaxKind::Ident | SyntaxKind::Keyword)
    }

    /// The places of a name.
    pub fn places<'s>(&'s self, name: &'s str) -> impl Iterator<Item = usize> + 's {
        (0..self.tokens.len()).filter(move |at| self.is_name(*at) && self.word(*at) == name)
    }

    /// How far away each name is used nearest to a byte, in bytes; what stands behind it counts as further.
    pub fn nearest(&self, byte: u32) -> HashMap<&'a str, u32> {
        let mut nearest = HashMap::new();
        for at in (0..self.tokens.len()).filter(|at| self.is_name(*at)) {
            let start = self.tokens[at].span.start;
            let far = match start < byte {
                true => byte - start,
                false => (start - byte).saturating_add(100_000),
            };
            let known = nearest.entry(self.word(at)).or_insert(far);
            *known = far.min(*known);
        }
        nearest
    }

    /// The bytes of the item around a byte, as far as left edges tell where items begin.
    pub fn item_around(&self, byte: u32) -> Range<u32> {
        let mut around = 0..u32::MAX;
        for token in self.tokens.iter().filter(|t| t.kind == SyntaxKind::Ident) {
            let start = token.span.start;
            let at_edge = start == 0 || self.text.as_bytes()[start as usize - 1] == b'\n';
            if at_edge && start <= byte {
                around.start = start;
            } else if at_edge {
                around.end = start;
                break;
            }
        }
        around
    }
}
