//! The script band: the pond's text, what the compiler says of it, and how often its lines ran.

pub mod buffer;
pub mod draw;

use std::collections::HashMap;
use std::sync::Arc;

use tickpond_lang::lines::LineIndex;
use tickpond_lang::parse::parse;
use tickpond_lang::program::Program;
use tickpond_lang::syntax::SyntaxKind;
use tickpond_lang::{Compilation, Mend, Severity, Span};

use buffer::Buffer;
use tickpond_ide::edits;
use tickpond_ide::folds::Folds;

/// How a stretch of the text is shown.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Ink {
    Plain,
    Word,
    Number,
    Text,
    Comment,
}

/// A remark of the compiler in place.
#[derive(Clone, Debug, PartialEq)]
pub struct Remark {
    /// Line from 0.
    pub line: usize,
    /// First and last column, in characters.
    pub columns: (usize, usize),
    pub severity: Severity,
    pub words: String,
    pub help: Option<String>,
    /// The change that would put it right, if that is certain.
    pub mend: Option<Mend>,
}

impl Remark {
    /// What it says, and what to do.
    pub fn told(&self) -> String {
        let help = self.help.as_ref().map(|help| format!("; {help}")).unwrap_or_default();
        format!("{}{help}", self.words)
    }
}

/// The script band.
pub struct Script {
    pub buffer: Buffer,
    /// First line on the screen.
    pub top: usize,
    /// First column on the screen.
    pub left: usize,
    pub remarks: Vec<Remark>,
    /// Inks of each line, by column.
    inks: Vec<Vec<(usize, usize, Ink)>>,
    pub folds: Folds,
    /// By line: which of the remarks is shown there.
    of_line: HashMap<usize, usize>,
    compiled_version: Option<u64>,
}

impl Script {
    pub fn new(text: &str) -> Script {
        Script {
            buffer: Buffer::new(text),
            top: 0,
            left: 0,
            remarks: Vec::new(),
            of_line: HashMap::new(),
            inks: Vec::new(),
            folds: Folds::default(),
            compiled_version: None,
        }
    }

    /// Compiles the text if it has changed; gives the new program if there is one to play.
    pub fn compile(&mut self) -> Option<Option<Arc<Program>>> {
        if self.compiled_version == Some(self.buffer.version()) {
            return None;
        }
        self.compiled_version = Some(self.buffer.version());
        let text = self.buffer.text();
        let Compilation { program, diagnostics, .. } = tickpond_lang::compile(&text);
        let lines = LineIndex::new(&text);
        self.remarks = diagnostics
            .iter()
            .map(|d| {
                let start = lines.line_col(&text, d.span.start);
                let end = lines.line_col(&text, d.span.end.max(d.span.start));
                let from = start.col as usize - 1;
                let to = if end.line == start.line { end.col as usize - 1 } else { usize::MAX };
                Remark {
                    line: start.line as usize - 1,
                    columns: (from, to.max(from + 1)),
                    severity: d.severity,
                    words: format!("{} {}", d.code.as_str(), d.message),
                    help: d.help.clone(),
                    mend: d.mend.clone(),
                }
            })
            .collect();
        self.of_line.clear();
        for (at, remark) in self.remarks.iter().enumerate() {
            // Errors first: they keep the pond from playing.
            let known = self.of_line.entry(remark.line).or_insert(at);
            if remark.severity < self.remarks[*known].severity {
                *known = at;
            }
        }
        self.inks = inks(&text, &lines);
        self.folds.follow(&text);
        Some(program)
    }

    /// Whether the text on the screen cannot be played.
    pub fn is_broken(&self) -> bool {
        self.remarks.iter().any(|r| r.severity == Severity::Error)
    }

    pub fn errors(&self) -> usize {
        self.remarks.iter().filter(|r| r.severity == Severity::Error).count()
    }

    fn inks_of(&self, line: usize) -> &[(usize, usize, Ink)] {
        self.inks.get(line).map_or(&[], Vec::as_slice)
    }

    /// What the compiler says of the line the cursor is on.
    pub fn remark_here(&self) -> Option<&Remark> {
        self.remark_of(self.buffer.cursor().0)
    }

    fn remark_of(&self, line: usize) -> Option<&Remark> {
        self.of_line.get(&line).map(|at| &self.remarks[*at])
    }

    /// Line and column of the bracket at the cursor, and of the one it belongs to.
    pub fn bracket_pair(&self) -> Option<[(usize, usize); 2]> {
        // A text that is very long is not gone through for each frame.
        if self.buffer.text_len() > 200_000 {
            return None;
        }
        let text = self.buffer.text();
        let (a, b) = edits::brackets(&text, self.buffer.cursor_byte())?;
        Some([a, b].map(|span| self.buffer.place_of_byte(span.start as usize)))
    }

    /// Takes the cursor out of what is folded: upwards to its head, downwards behind it.
    pub fn leave_folds(&mut self, downwards: bool) {
        let (line, column) = self.buffer.cursor();
        if !self.folds.hides(line) {
            return;
        }
        let mut to = line;
        while self.folds.hides(to) && (downwards && to + 1 < self.buffer.line_count()) {
            to += 1;
        }
        while self.folds.hides(to) && to > 0 {
            to -= 1;
        }
        self.buffer.go_to(to, column);
    }

    /// Scrolls so that the cursor is among the `height` rows and `width` columns of text.
    pub fn follow_cursor(&mut self, width: usize, height: usize) {
        let (line, column) = self.buffer.cursor();
        let height = height.max(1);
        // Remarks take rows, too, and the one under the cursor's line is to be read.
        let own = usize::from(self.remark_of(line).is_some());
        let first = self.first_above(line, (height - 1).saturating_sub(own));
        self.top = self.top.min(line).max(first);
        // No empty rows at the end while there is text above.
        self.top = self.top.min(self.first_above(self.buffer.line_count(), height));
        let width = width.max(8);
        if column < self.left {
            self.left = column.saturating_sub(4);
        } else if column >= self.left + width - 1 {
            self.left = column + 5 - width.min(column + 5);
        }
    }

    /// Rows that a line takes, with what is said of it.
    fn rows_of(&self, line: usize) -> usize {
        match self.folds.hides(line) {
            true => 0,
            false => 1 + usize::from(self.remark_of(line).is_some()),
        }
    }

    /// The first line from which on no more than so many rows lie above a line. Costs those rows.
    fn first_above(&self, line: usize, rows: usize) -> usize {
        let (mut first, mut left) = (line, rows);
        while first > 0 && self.rows_of(first - 1) <= left {
            first -= 1;
            left -= self.rows_of(first);
        }
        first
    }

    /// Rows from the top of line `from` to the top of line `to`.
    #[cfg(test)]
    fn rows_between(&self, from: usize, to: usize) -> usize {
        (from..to).map(|line| self.rows_of(line)).sum()
    }

    /// The line shown in a row of the band.
    pub fn line_at(&self, row: usize) -> usize {
        let last = self.buffer.line_count().saturating_sub(1);
        let (mut line, mut rows) = (self.top, 0);
        loop {
            rows += self.rows_of(line);
            let is_there = !self.folds.hides(line) && rows > row;
            if is_there || line >= last {
                return line;
            }
            line += 1;
        }
    }
}

/// The inks of all lines, from the tokens of the tree: it knows keywords from names.
fn inks(text: &str, lines: &LineIndex) -> Vec<Vec<(usize, usize, Ink)>> {
    let mut inks: Vec<Vec<(usize, usize, Ink)>> = vec![Vec::new(); text.lines().count() + 1];
    let tokens = parse(text).root().descendants_with_tokens();
    for token in tokens.filter_map(|e| e.into_token()) {
        let ink = match token.kind() {
            SyntaxKind::Keyword => Ink::Word,
            SyntaxKind::Number => Ink::Number,
            SyntaxKind::Text => Ink::Text,
            SyntaxKind::Comment => Ink::Comment,
            _ => continue,
        };
        let span: Span = token.text_range().into();
        let start = lines.line_col(text, span.start);
        let length = token.text().chars().count();
        let from = start.col as usize - 1;
        if let Some(line) = inks.get_mut(start.line as usize - 1) {
            line.push((from, from + length, ink));
        }
    }
    inks
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn a_broken_text_gives_remarks_and_no_program() {
        let mut script =
            Script::new("pond \"x\" { arena 10 x 10 }\nplace frgo at (1, 1)\nkind frog { }");
        assert!(matches!(script.compile(), Some(None)));
        let remark = &script.remarks[0];
        assert_eq!((remark.line, remark.columns), (1, (6, 10)));
        assert!(remark.help.as_deref().unwrap().contains("frog"));
        assert!(script.compile().is_none(), "nothing changed");
    }

    /// The same as trying one top after the other, which costs the square of a long text.
    #[rstest]
    fn scrolling_comes_to_what_trying_comes_to(
        #[values(1, 2, 3, 7, 20)] height: usize,
        #[values(0, 5, 30, 60)] top: usize,
    ) {
        let lines: String = (0..40)
            .map(|n| if n % 3 == 0 { "knob a = 1 u + 1 s\n" } else { "// fine\n" })
            .collect();
        let mut script = Script::new(&format!("pond \"x\" {{ arena 10 x 10 }}\n{lines}"));
        script.compile();
        for line in 0..script.buffer.line_count() {
            script.buffer.go_to(line, 0);
            let own = usize::from(script.remark_of(line).is_some());
            let mut tried = top.min(line);
            while tried < line && script.rows_between(tried, line) + own >= height {
                tried += 1;
            }
            let end = script.buffer.line_count();
            while tried > 0 && script.rows_between(tried - 1, end) <= height {
                tried -= 1;
            }
            script.top = top;
            script.follow_cursor(40, height);
            assert_eq!(script.top, tried, "line {line}");
            // Each row is of the line whose rows begin above it.
            for row in 0..height.min(script.rows_between(script.top, end)) {
                let found = script.line_at(row);
                assert!(script.rows_between(script.top, found) <= row);
                assert!(found + 1 == end || script.rows_between(script.top, found + 1) > row);
            }
        }
    }

    #[rstest]
    fn scrolling_keeps_the_cursor_in_sight_beneath_remarks() {
        let text = format!("pond \"x\" {{ arena 10 x 10 }}\n{}", "knob a = 1 u + 1 s\n".repeat(30));
        let mut script = Script::new(&text);
        script.compile();
        script.buffer.go_to(20, 0);
        script.follow_cursor(40, 10);
        let rows = script.rows_between(script.top, 20);
        assert!(rows < 10 && script.line_at(rows) == 20, "{rows}");
    }
}
