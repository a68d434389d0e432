//! Bytes as the lines and columns of the protocol, and back.

use serde_json::Value;
use tickpond_ide::document::Document;
use tickpond_lang::Span;
use tickpond_lang::lines::LineIndex;

use super::protocol::{Position, Range};

/// What a column counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Encoding {
    /// Bytes.
    Utf8,
    /// Units of UTF-16, which every client knows.
    Utf16,
}

impl Encoding {
    /// UTF-8 if the client offers it, else UTF-16.
    pub fn agreed(initialize: &Value) -> Encoding {
        let offered = &initialize["capabilities"]["general"]["positionEncodings"];
        let has_utf8 = offered
            .as_array()
            .is_some_and(|all| all.iter().any(|one| one.as_str() == Some("utf-8")));
        if has_utf8 { Encoding::Utf8 } else { Encoding::Utf16 }
    }

    /// Its name in the protocol.
    pub fn name(self) -> &'static str {
        match self {
            Encoding::Utf8 => "utf-8",
            Encoding::Utf16 => "utf-16",
        }
    }

    /// How many units a character takes.
    pub fn width(self) -> fn(char) -> usize {
        match self {
            Encoding::Utf8 => char::len_utf8,
            Encoding::Utf16 => char::len_utf16,
        }
    }

    /// The position of a byte.
    pub fn position(self, document: &Document, byte: u32) -> Position {
        let (line, character) = document.lines.position(&document.text, byte, self.width());
        Position { line, character }
    }

    /// The range of a span.
    pub fn range(self, document: &Document, span: Span) -> Range {
        Range { start: self.position(document, span.start), end: self.position(document, span.end) }
    }

    /// The byte at a position.
    pub fn byte(self, lines: &LineIndex, text: &str, at: Position) -> u32 {
        lines.byte(text, (at.line, at.character), self.width())
    }

    /// The span of a range, its ends in order.
    pub fn span(self, document: &Document, range: Range) -> Span {
        let byte = |at| self.byte(&document.lines, &document.text, at);
        let (start, end) = (byte(range.start), byte(range.end));
        Span { start: start.min(end), end: start.max(end) }
    }
}
