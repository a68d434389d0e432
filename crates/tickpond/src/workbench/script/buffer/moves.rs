//! Where the cursor goes: by letters as people see them, by words, lines and pages.

use unicode_segmentation::UnicodeSegmentation;

use super::{Buffer, Grain, Move};

impl Buffer {
    /// Moves the cursor; with `selects` the selection goes along.
    pub fn step(&mut self, way: Move, selects: bool) {
        let selection = self.selection();
        if selects {
            self.anchor.get_or_insert(self.cursor);
        } else {
            self.anchor = None;
        }
        self.grain = Grain::Other;
        let (line, column) = self.cursor();
        let upright = matches!(way, Move::Up(_) | Move::Down(_));
        let wanted = self.wanted_column.unwrap_or(column);
        self.wanted_column = upright.then_some(wanted);
        self.cursor = match (way, selection) {
            // Leaving a selection sideways goes to that end of it.
            (Move::Left, Some((from, _))) if !selects => from,
            (Move::Right, Some((_, to))) if !selects => to,
            (Move::Left, _) => self.before(self.cursor),
            (Move::Right, _) => self.after(self.cursor),
            (Move::Up(lines), _) if line < lines => 0,
            (Move::Up(lines), _) => self.at(line - lines, wanted),
            (Move::Down(lines), _) if line + lines >= self.line_count() => self.rope.len_chars(),
            (Move::Down(lines), _) => self.at(line + lines, wanted),
            (Move::WordLeft, _) => self.word_left(),
            (Move::WordRight, _) => self.word_right(),
            (Move::LineStart, _) => {
                let indent = self.line(line).chars().take_while(|c| c.is_whitespace()).count();
                self.at(line, if column == indent { 0 } else { indent })
            }
            (Move::LineEnd, _) => self.at(line, usize::MAX),
            (Move::Start, _) => 0,
            (Move::End, _) => self.rope.len_chars(),
        };
    }

    /// The place one grapheme before: an accent goes with its letter, the two characters that end
    /// a line on some systems go together.
    pub(super) fn before(&self, at: usize) -> usize {
        let line = self.rope.char_to_line(at);
        let start = self.rope.line_to_char(line);
        if at == start {
            return if line == 0 { 0 } else { self.at(line - 1, usize::MAX) };
        }
        let head = self.rope.slice(start..at).to_string();
        let last = head.graphemes(true).next_back().map_or(1, |g| g.chars().count());
        at - last
    }

    pub(super) fn after(&self, at: usize) -> usize {
        let (line, column) = self.place(at);
        if column >= self.line_length(line) {
            return if line + 1 < self.line_count() {
                self.rope.line_to_char(line + 1)
            } else {
                at
            };
        }
        let rest: String = self.line(line).chars().skip(column).collect();
        at + rest.graphemes(true).next().map_or(1, |g| g.chars().count())
    }

    pub(super) fn word_left(&self) -> usize {
        let mut at = self.cursor;
        let char_at = |at: usize| self.rope.char(at);
        while at > 0 && !is_word(char_at(at - 1)) {
            at -= 1;
        }
        while at > 0 && is_word(char_at(at - 1)) {
            at -= 1;
        }
        at
    }

    pub(super) fn word_right(&self) -> usize {
        let (mut at, end) = (self.cursor, self.rope.len_chars());
        while at < end && is_word(self.rope.char(at)) {
            at += 1;
        }
        while at < end && !is_word(self.rope.char(at)) {
            at += 1;
        }
        at
    }

    // Changes.
}

fn is_word(c: char) -> bool {
    c.is_alphanumeric() || c == '_'
}
