//! A text being edited: cursor, selection, undo. No screen, no files.

mod moves;

use ropey::Rope;

/// One change: what stood at a place and what stands there now.
#[derive(Clone, Debug, PartialEq)]
struct Change {
    at: usize,
    removed: String,
    inserted: String,
    cursor_before: usize,
}

/// What joins several changes into one step of undo.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Grain {
    Typing,
    Erasing,
    Other,
}

/// A text, a cursor and what can be undone. Places are counted in characters.
#[derive(Clone, Debug)]
pub struct Buffer {
    rope: Rope,
    cursor: usize,
    anchor: Option<usize>,
    /// The column the cursor would like to be in when it goes up and down.
    wanted_column: Option<usize>,
    undo: Vec<Vec<Change>>,
    redo: Vec<Vec<Change>>,
    grain: Grain,
    /// Counts the changes, so that others can tell when to look again.
    version: u64,
    saved: Option<Rope>,
}

/// Ways to move the cursor.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Move {
    Left,
    Right,
    Up(usize),
    Down(usize),
    WordLeft,
    WordRight,
    LineStart,
    LineEnd,
    Start,
    End,
}

impl Buffer {
    /// A text with the cursor at its start.
    pub fn new(text: &str) -> Buffer {
        Buffer {
            rope: Rope::from_str(text),
            cursor: 0,
            anchor: None,
            wanted_column: None,
            undo: Vec::new(),
            redo: Vec::new(),
            grain: Grain::Other,
            version: 0,
            saved: Some(Rope::from_str(text)),
        }
    }

    pub fn text(&self) -> String {
        self.rope.to_string()
    }

    /// The text as it is now; sharing it costs nothing.
    pub fn rope(&self) -> Rope {
        self.rope.clone()
    }

    pub fn version(&self) -> u64 {
        self.version
    }

    pub fn is_saved(&self) -> bool {
        self.saved.as_ref() == Some(&self.rope)
    }

    pub fn mark_saved(&mut self) {
        // Sharing the text costs nothing until one of the two changes.
        self.saved = Some(self.rope.clone());
        self.grain = Grain::Other;
    }

    /// There is no file any more that has this text, or any.
    pub fn mark_unsaved(&mut self) {
        self.saved = None;
    }

    pub fn line_count(&self) -> usize {
        self.rope.len_lines()
    }

    /// A line without its end.
    pub fn line(&self, line: usize) -> String {
        let text = self.rope.get_line(line).map(|l| l.to_string()).unwrap_or_default();
        text.trim_end_matches(['\n', '\r']).to_string()
    }

    /// Line and column of the cursor, from 0, in characters.
    pub fn cursor(&self) -> (usize, usize) {
        self.place(self.cursor)
    }

    fn place(&self, at: usize) -> (usize, usize) {
        let line = self.rope.char_to_line(at);
        (line, at - self.rope.line_to_char(line))
    }

    fn line_length(&self, line: usize) -> usize {
        self.line(line).chars().count()
    }

    fn at(&self, line: usize, column: usize) -> usize {
        let line = line.min(self.line_count() - 1);
        self.rope.line_to_char(line) + column.min(self.line_length(line))
    }

    /// First and last place of the selection, if there is one.
    pub fn selection(&self) -> Option<(usize, usize)> {
        let anchor = self.anchor.filter(|a| *a != self.cursor)?;
        Some((anchor.min(self.cursor), anchor.max(self.cursor)))
    }

    /// The columns of a line that are selected, if any.
    pub fn selected_columns(&self, line: usize) -> Option<(usize, usize)> {
        let (from, to) = self.selection()?;
        let start = self.rope.line_to_char(line);
        let end = start + self.line_length(line);
        (from <= end && to >= start).then(|| {
            let reach = if to > end { end + 1 } else { to };
            (from.max(start) - start, reach - start)
        })
    }

    pub fn selected_text(&self) -> Option<String> {
        let (from, to) = self.selection()?;
        Some(self.rope.slice(from..to).to_string())
    }

    /// Puts the cursor somewhere.
    pub fn go_to(&mut self, line: usize, column: usize) {
        self.cursor = self.at(line, column);
        self.anchor = None;
        self.wanted_column = None;
        self.grain = Grain::Other;
    }

    /// Drags the selection to a place.
    pub fn drag_to(&mut self, line: usize, column: usize) {
        self.anchor.get_or_insert(self.cursor);
        self.cursor = self.at(line, column);
    }

    pub fn select_all(&mut self) {
        self.anchor = Some(0);
        self.cursor = self.rope.len_chars();
    }

    fn replace(&mut self, from: usize, to: usize, text: &str, grain: Grain) {
        if from == to && text.is_empty() {
            return;
        }
        let removed = self.rope.slice(from..to).to_string();
        self.rope.remove(from..to);
        self.rope.insert(from, text);
        let change =
            Change { at: from, removed, inserted: text.to_string(), cursor_before: self.cursor };
        let joins = grain != Grain::Other && grain == self.grain && !text.contains('\n');
        match self.undo.last_mut().filter(|_| joins) {
            Some(step) => step.push(change),
            None => self.undo.push(vec![change]),
        }
        self.grain = grain;
        self.redo.clear();
        self.cursor = from + text.chars().count();
        self.anchor = None;
        self.wanted_column = None;
        self.version += 1;
    }

    /// Types or pastes a text in place of the selection.
    pub fn insert(&mut self, text: &str) {
        let (from, to) = self.selection().unwrap_or((self.cursor, self.cursor));
        let typed = text.chars().count() == 1 && from == to;
        self.replace(from, to, text, if typed { Grain::Typing } else { Grain::Other });
    }

    /// A new line, indented like the one before and one step deeper behind a brace.
    pub fn new_line(&mut self) {
        let (line, column) = self.cursor();
        let text = self.line(line);
        let head: String = text.chars().take(column).collect();
        let mut indent: String =
            text.chars().take_while(|c| c.is_whitespace()).take(column).collect();
        if head.trim_end().ends_with('{') {
            indent.push_str("    ");
        }
        self.insert(&format!("\n{indent}"));
    }

    /// A closing brace at the start of a line goes back one step.
    pub fn close_brace(&mut self) {
        let (line, column) = self.cursor();
        let head: String = self.line(line).chars().take(column).collect();
        if self.selection().is_none() && column >= 4 && head.chars().all(|c| c == ' ') {
            self.replace(self.cursor - 4, self.cursor, "}", Grain::Other);
        } else {
            self.insert("}");
        }
    }

    pub fn backspace(&mut self) {
        match self.selection() {
            Some((from, to)) => self.replace(from, to, "", Grain::Other),
            None => {
                let (line, column) = self.cursor();
                let head: String = self.line(line).chars().take(column).collect();
                let indent = column > 0 && column % 4 == 0 && head.chars().all(|c| c == ' ');
                let from = if indent { self.cursor - 4 } else { self.before(self.cursor) };
                self.replace(from, self.cursor, "", Grain::Erasing);
            }
        }
    }

    pub fn delete(&mut self) {
        let (from, to) = self.selection().unwrap_or((self.cursor, self.after(self.cursor)));
        self.replace(from, to, "", Grain::Erasing);
    }

    /// Takes the selection out and gives it; without one, the whole line.
    pub fn cut(&mut self) -> String {
        let (from, to) = self.selection().unwrap_or_else(|| {
            let (line, _) = self.cursor();
            let end = if line + 1 < self.line_count() {
                self.rope.line_to_char(line + 1)
            } else {
                self.rope.len_chars()
            };
            (self.rope.line_to_char(line), end)
        });
        let text = self.rope.slice(from..to).to_string();
        self.replace(from, to, "", Grain::Other);
        text
    }

    /// Puts a text in place of a stretch of bytes, as one step; the cursor stays where it is in the text
    /// around.
    pub fn put(&mut self, bytes: std::ops::Range<usize>, text: &str) {
        let end = self.rope.len_bytes();
        let (from, to) = (bytes.start.min(end), bytes.end.min(end).max(bytes.start.min(end)));
        let (from, to) = (self.rope.byte_to_char(from), self.rope.byte_to_char(to));
        let (cursor, length) = (self.cursor, text.chars().count());
        self.replace(from, to, text, Grain::Other);
        self.cursor = if cursor <= from {
            cursor
        } else if cursor >= to {
            cursor - (to - from) + length
        } else {
            from
        };
    }

    /// Puts another text in place of the whole one, as one step that can be undone; only what differs is
    /// touched.
    pub fn put_all(&mut self, text: &str) {
        let old = self.text();
        let same = |a: &mut dyn Iterator<Item = (char, char)>| {
            a.take_while(|(x, y)| x == y).map(|(x, _)| x.len_utf8()).sum::<usize>()
        };
        let head = same(&mut old.chars().zip(text.chars()));
        let tail = same(&mut old[head..].chars().rev().zip(text[head..].chars().rev()));
        if head < old.len() || head < text.len() {
            self.put(head..old.len() - tail, &text[head..text.len() - tail]);
        }
    }

    /// How many bytes the text has.
    pub fn text_len(&self) -> usize {
        self.rope.len_bytes()
    }

    /// Line and column of a byte.
    pub fn place_of_byte(&self, byte: usize) -> (usize, usize) {
        self.place(self.rope.byte_to_char(byte.min(self.rope.len_bytes())))
    }

    /// The byte the cursor is at.
    /// The byte of a line and a column.
    pub fn byte_of(&self, line: usize, column: usize) -> u32 {
        let line = line.min(self.line_count() - 1);
        let start = self.rope.line_to_char(line);
        let end = start + self.line(line).chars().count();
        self.rope.char_to_byte((start + column).min(end)) as u32
    }

    pub fn cursor_byte(&self) -> u32 {
        self.rope.char_to_byte(self.cursor) as u32
    }

    /// Puts the cursor at a byte.
    pub fn go_to_byte(&mut self, byte: u32) {
        let byte = (byte as usize).min(self.rope.len_bytes());
        let (line, column) = self.place(self.rope.byte_to_char(byte));
        self.go_to(line, column);
    }

    /// Selects a stretch of bytes, the cursor at its end.
    pub fn select(&mut self, bytes: std::ops::Range<usize>) {
        let end = self.rope.len_bytes();
        self.go_to_byte(bytes.end.min(end) as u32);
        self.anchor = Some(self.rope.byte_to_char(bytes.start.min(end)));
    }

    /// The lines the selection reaches over, or the cursor's.
    pub fn lines(&self) -> std::ops::RangeInclusive<usize> {
        let (from, to) = self.selection().unwrap_or((self.cursor, self.cursor));
        let (first, (last, column)) = (self.place(from).0, self.place(to));
        // A selection that ends before the first character of a line leaves that line out.
        first..=if column == 0 && last > first { last - 1 } else { last }
    }

    pub fn undo(&mut self) -> bool {
        let Some(step) = self.undo.pop() else { return false };
        for change in step.iter().rev() {
            let end = change.at + change.inserted.chars().count();
            self.rope.remove(change.at..end);
            self.rope.insert(change.at, &change.removed);
            self.cursor = change.cursor_before;
        }
        self.redo.push(step);
        self.after_history()
    }

    pub fn redo(&mut self) -> bool {
        let Some(step) = self.redo.pop() else { return false };
        for change in &step {
            let end = change.at + change.removed.chars().count();
            self.rope.remove(change.at..end);
            self.rope.insert(change.at, &change.inserted);
            self.cursor = change.at + change.inserted.chars().count();
        }
        self.undo.push(step);
        self.after_history()
    }

    fn after_history(&mut self) -> bool {
        self.anchor = None;
        self.grain = Grain::Other;
        self.version += 1;
        true
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn typed(text: &str) -> Buffer {
        let mut buffer = Buffer::new("");
        text.chars().for_each(|c| buffer.insert(&c.to_string()));
        buffer
    }

    #[rstest]
    fn typing_is_undone_in_one_step_and_redone() {
        let mut buffer = typed("midge");
        assert!(!buffer.is_saved());
        assert!(buffer.undo());
        assert_eq!(buffer.text(), "");
        assert!(buffer.redo());
        assert_eq!(buffer.text(), "midge");
        assert!(!buffer.redo());
    }

    #[rstest]
    fn erasing_is_a_step_of_its_own() {
        let mut buffer = typed("midge");
        buffer.backspace();
        buffer.backspace();
        assert_eq!(buffer.text(), "mid");
        buffer.undo();
        assert_eq!(buffer.text(), "midge");
    }

    #[rstest]
    fn undoing_back_to_what_was_saved_is_saved() {
        let mut buffer = Buffer::new("midge");
        buffer.insert("x");
        assert!(!buffer.is_saved());
        buffer.undo();
        assert!(buffer.is_saved());
    }

    #[rstest]
    fn a_selection_is_replaced_by_what_is_typed() {
        let mut buffer = Buffer::new("knob drift = 6 u/s");
        buffer.go_to(0, 13);
        buffer.step(Move::Right, true);
        assert_eq!(buffer.selected_text().as_deref(), Some("6"));
        buffer.insert("8");
        assert_eq!(buffer.text(), "knob drift = 8 u/s");
        assert_eq!(buffer.cursor(), (0, 14));
    }

    #[rstest]
    fn up_and_down_keep_the_column_they_came_from() {
        let mut buffer = Buffer::new("long line\nab\nlong line");
        buffer.go_to(0, 7);
        buffer.step(Move::Down(1), false);
        assert_eq!(buffer.cursor(), (1, 2));
        buffer.step(Move::Down(1), false);
        assert_eq!(buffer.cursor(), (2, 7));
    }

    #[rstest]
    fn an_accent_goes_with_its_letter() {
        let mut buffer = Buffer::new("e\u{301}x");
        buffer.step(Move::Right, false);
        assert_eq!(buffer.cursor(), (0, 2));
        buffer.backspace();
        assert_eq!(buffer.text(), "x");
    }

    #[rstest]
    #[case("kind a {", "kind a {\n    ")]
    #[case("    after 1 s", "    after 1 s\n    ")]
    fn a_new_line_is_indented(#[case] before: &str, #[case] after: &str) {
        let mut buffer = Buffer::new(before);
        buffer.step(Move::End, false);
        buffer.new_line();
        assert_eq!(buffer.text(), after);
    }

    #[rstest]
    fn cutting_without_a_selection_takes_the_line() {
        let mut buffer = Buffer::new("one\ntwo\nthree");
        buffer.go_to(1, 1);
        assert_eq!(buffer.cut(), "two\n");
        assert_eq!(buffer.text(), "one\nthree");
        buffer.undo();
        assert_eq!(buffer.text(), "one\ntwo\nthree");
    }

    #[rstest]
    fn selected_columns_reach_over_lines() {
        let mut buffer = Buffer::new("one\ntwo\nthree");
        buffer.go_to(0, 1);
        buffer.step(Move::Down(2), true);
        assert_eq!(buffer.selected_columns(0), Some((1, 4)));
        assert_eq!(buffer.selected_columns(1), Some((0, 4)));
        assert_eq!(buffer.selected_columns(2), Some((0, 1)));
    }
}
