//! Quoted texts without their quotes.

use crate::syntax::{Node, NodeExt, SyntaxKind};

/// The text of a quoted token without its quotes and escapes.
pub(crate) fn unquote(text: &str) -> String {
    let inner = text.strip_prefix('"').unwrap_or(text);
    unescaped(inner.strip_suffix('"').unwrap_or(inner))
}

/// A text, or a part of one, without the backslashes before signs that would mean something else.
pub(crate) fn unescaped(inner: &str) -> String {
    let mut out = String::with_capacity(inner.len());
    let mut chars = inner.chars();
    while let Some(c) = chars.next() {
        match c {
            '\\' => out.extend(chars.next()),
            c => out.push(c),
        }
    }
    out
}

/// The first quoted text that stands directly in a node.
pub(super) fn text_of(node: &Node) -> Option<String> {
    node.token(SyntaxKind::Text).map(|t| unquote(t.text()))
}
