//! From bytes to lines and columns, in one place.

/// Where the lines of a text begin. Building it costs one pass, a look-up is a binary search.
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
        let breaks = text.bytes().enumerate().filter(|(_, b)| *b == b'\n');
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
}
