//! From bytes to lines and columns, in one place.

/// Where the lines of a text begin. A line ends with `\n`, `\r\n` or a lone `\r` (which the lexer does not accept, but editors
/// count). Building it costs one pass, a look-up is a binary search.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct LineIndex {
    starts: Vec<u32>,
}

/// A place as people count it.
#[derive(Clone, Copy, PartialEq, Eq, Debug, PartialOrd, Ord, Hash)]
pub struct LineCol {
    /// Line, from 1.
    pub line: u32,
    /// Column in characters, from 1.
    pub col: u32,
}

impl LineIndex {
    /// The index of `text`.
    pub fn new(text: &str) -> LineIndex {
        let bytes = text.as_bytes();
        let is_break = |(at, byte): &(usize, u8)| {
            *byte == b'\n' || *byte == b'\r' && bytes.get(at + 1) != Some(&b'\n')
        };
        let breaks = text.bytes().enumerate().filter(is_break);
        LineIndex { starts: std::iter::once(0).chain(breaks.map(|(i, _)| i as u32 + 1)).collect() }
    }

    /// The line of a byte, from 1.
    pub fn line(&self, byte: u32) -> u32 {
        self.starts.partition_point(|start| *start <= byte) as u32
    }

    /// The first byte of a line, from 1; of the last one for a line past the end.
    pub fn start_of(&self, line: u32) -> u32 {
        let at = (line.max(1) as usize - 1).min(self.starts.len() - 1);
        self.starts[at]
    }

    /// How many lines there are; an empty text has one.
    pub fn count(&self) -> u32 {
        self.starts.len() as u32
    }

    /// The line from 0 and, in units of an encoding, the column from 0 of a byte of `text`, as editors count them.
    /// `width` tells how many units a character takes: `char::len_utf16`, `char::len_utf8`.
    pub fn position(&self, text: &str, byte: u32, width: fn(char) -> usize) -> (u32, u32) {
        let line = self.line(byte) - 1;
        let start = self.starts[line as usize] as usize;
        let before = text.get(start..(byte as usize).min(text.len())).unwrap_or("");
        (line, before.chars().map(width).sum::<usize>() as u32)
    }

    /// The byte of `text` at a line from 0 and a column from 0 in units of an encoding. A column past the end of the
    /// line is its end, one inside a character is the character's start; a line past the end is the text's end.
    pub fn byte(&self, text: &str, (line, column): (u32, u32), width: fn(char) -> usize) -> u32 {
        let Some(start) = self.starts.get(line as usize) else { return text.len() as u32 };
        let rest = text.get(*start as usize..).unwrap_or("");
        let mut units = 0;
        for (at, c) in rest.char_indices() {
            units += width(c) as u32;
            if units > column || matches!(c, '\n' | '\r') {
                return start + at as u32;
            }
        }
        text.len() as u32
    }

    /// Line and column of a byte of `text`, which must be the text the index was built from.
    pub fn line_col(&self, text: &str, byte: u32) -> LineCol {
        let line = self.line(byte);
        let start = self.starts[line as usize - 1] as usize;
        let before = text.get(start..(byte as usize).min(text.len())).unwrap_or("");
        LineCol { line, col: before.chars().count() as u32 + 1 }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(0, 1, 1)]
    #[case(2, 1, 2)]
    #[case(3, 2, 1)]
    #[case(4, 2, 2)]
    #[case(99, 2, 2)]
    fn columns_count_characters(#[case] byte: u32, #[case] line: u32, #[case] col: u32) {
        let text = "é\nb";
        assert_eq!(LineIndex::new(text).line_col(text, byte), LineCol { line, col });
    }

    #[rstest]
    #[case::before_all((0, 0), 0, (0, 0))]
    #[case::behind_two_bytes((0, 1), 2, (0, 1))]
    #[case::behind_a_pair_of_units((0, 3), 6, (0, 3))]
    #[case::inside_a_pair_of_units((0, 2), 2, (0, 1))]
    #[case::past_the_line((0, 99), 7, (0, 4))]
    #[case::next_line((1, 1), 10, (1, 1))]
    #[case::behind_a_lone_return((2, 0), 12, (2, 0))]
    #[case::before_a_lone_return((1, 9), 11, (1, 2))]
    #[case::past_the_text((9, 0), 13, (2, 1))]
    fn positions_count_units(#[case] at: (u32, u32), #[case] byte: u32, #[case] back: (u32, u32)) {
        let text = "é\u{1F438}x\r\nab\rc";
        let lines = LineIndex::new(text);
        assert_eq!(lines.byte(text, at, char::len_utf16), byte);
        assert_eq!(lines.position(text, byte, char::len_utf16), back);
    }
}
