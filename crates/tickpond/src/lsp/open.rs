//! A text that is open in the editor: as the client last said, and compiled when that is asked for.

use tickpond_ide::document::Document;
use tickpond_lang::lines::LineIndex;

use super::positions::Encoding;
use super::protocol::Change;

/// An open text.
pub struct Open {
    /// The client's number of this state.
    pub version: i32,
    text: String,
    /// What is known of it; none since the last change.
    document: Option<Document>,
    /// Whether the client has been told what is wrong with this state.
    pub is_told: bool,
}

impl Open {
    /// A text as it was opened.
    pub fn new(version: i32, text: String) -> Open {
        Open { version, text, document: None, is_told: false }
    }

    /// Makes the changes in their order; each is about the text the one before it left.
    pub fn change(&mut self, version: i32, changes: Vec<Change>, encoding: Encoding) {
        for change in changes {
            let Some(range) = change.range else {
                self.text = change.text;
                continue;
            };
            let lines = LineIndex::new(&self.text);
            let byte = |at| encoding.byte(&lines, &self.text, at) as usize;
            let (start, end) = (byte(range.start), byte(range.end));
            self.text.replace_range(start.min(end)..start.max(end), &change.text);
        }
        self.version = version;
        self.document = None;
        self.is_told = false;
    }

    /// What is known of the text as it is now.
    pub fn document(&mut self) -> &Document {
        self.document.get_or_insert_with(|| Document::new(self.text.clone()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lsp::protocol::{Position, Range};
    use proptest::prelude::*;
    use tickpond_arbitrary::ponds;

    fn position(line: u32, character: u32) -> Position {
        Position { line, character }
    }

    /// Replaces what stands between two characters.
    fn replaces(
        text: &str,
        put: &str,
        (from, to): (usize, usize),
        is_utf16: bool,
    ) -> Result<(), TestCaseError> {
        let encoding = if is_utf16 { Encoding::Utf16 } else { Encoding::Utf8 };
        let starts: Vec<usize> =
            text.char_indices().map(|(at, _)| at).chain([text.len()]).collect();
        let (from, to) = (from.min(starts.len() - 1), to.min(starts.len() - 1));
        let (from, to) = (starts[from.min(to)], starts[from.max(to)]);
        let lines = LineIndex::new(text);
        let at = |byte: usize| {
            let (line, column) = lines.position(text, byte as u32, encoding.width());
            position(line, column)
        };
        // The end of a line stands before its break, whichever that is.
        let splits = |byte: usize| text[..byte].ends_with('\r') && text[byte..].starts_with('\n');
        prop_assume!(!splits(from) && !splits(to));
        let mut open = Open::new(1, text.to_string());
        let range = Some(Range { start: at(from), end: at(to) });
        let change = Change { range, text: put.to_string() };
        open.change(2, vec![change], encoding);
        let mut wanted = text.to_string();
        wanted.replace_range(from..to, put);
        prop_assert_eq!(&open.document().text, &wanted);
        Ok(())
    }

    proptest! {
        /// Whatever is replaced, the text is what a plain replacement of bytes makes of it.
        #[test]
        fn changes_do_what_they_say(
            text in "[a\u{e9}\u{1F438}\r\n]{0,30}",
            put in "[b\u{e9}\n]{0,5}",
            (from, to) in (0usize..31, 0usize..31),
            is_utf16 in any::<bool>(),
        ) {
            replaces(&text, &put, (from, to), is_utf16)?;
        }

        /// The same in a whole pond: a stretch of it is replaced by one of another.
        #[test]
        fn changes_of_ponds_do_what_they_say(
            (pond, other) in (ponds(), ponds()),
            (from, to, first, last) in (0.0..1.0f64, 0.0..1.0f64, 0.0..1.0f64, 0.0..1.0f64),
            is_utf16 in any::<bool>(),
        ) {
            let (text, other) = (pond.text(), other.text());
            let at = |share: f64| (text.chars().count() as f64 * share) as usize;
            let cut = |share: f64| other.floor_char_boundary((other.len() as f64 * share) as usize);
            let put = &other[cut(first.min(last))..cut(first.max(last))];
            replaces(&text, put, (at(from), at(to)), is_utf16)?;
        }
    }
}
