//! A text with all that is known of it.

use tickpond_lang::lines::LineIndex;
use tickpond_lang::model::Model;
use tickpond_lang::{Compilation, understand};

/// A text, compiled once, with what its names mean. Editors keep one for each state of a text they ask about.
#[derive(Clone, Debug)]
pub struct Document {
    /// The text itself.
    pub text: String,
    /// Where its lines begin.
    pub lines: LineIndex,
    /// The program and what is wrong.
    pub compilation: Compilation,
    /// What the names mean.
    pub model: Model,
}

impl Document {
    /// Compiles a text. Grows with the text, and with what its functions take in.
    pub fn new(text: impl Into<String>) -> Document {
        let text = text.into();
        let (compilation, model) = understand(&text);
        Document { lines: LineIndex::new(&text), text, compilation, model }
    }

    /// The whole line of a byte, without its break.
    pub fn line_of(&self, byte: u32) -> &str {
        let start = self.lines.start_of(self.lines.line(byte)) as usize;
        self.text[start..].split(['\n', '\r']).next().unwrap_or("")
    }

    /// A text to be put in at a byte, whose lines end as the line there does; the last line of all ends as the one before it.
    pub fn with_its_line_ends(&self, byte: u32, text: &str) -> String {
        let (before, behind) =
            self.text.split_at_checked(byte as usize).unwrap_or((&self.text, ""));
        let is_crlf = match behind.find('\n') {
            Some(at) => behind[..at].ends_with('\r'),
            None => before.rfind('\n').is_some_and(|at| before[..at].ends_with('\r')),
        };
        if is_crlf { text.replace('\n', "\r\n") } else { text.to_string() }
    }

    /// The comment on the line right above a line, which is counted from 1.
    pub fn comment_above(&self, line: u32) -> Option<String> {
        if line < 2 {
            return None;
        }
        let above = self.line_of(self.lines.start_of(line - 1)).trim();
        Some(above.strip_prefix("//")?.trim().to_string())
    }
}
