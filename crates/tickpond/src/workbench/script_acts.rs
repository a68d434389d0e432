//! Commands about the text: names, searching, muting, folding, undoing.

use tickpond_ide::document::Document;
use tickpond_ide::hover::hover;
use tickpond_ide::{edits, names};
use tickpond_lang::Severity;

use super::app::{App, Effect};
use super::command::Command;
use super::menu::Menu;
use super::views::DrawerView;

impl App {
    pub(super) fn firings_of_line(&mut self) {
        let (line, _) = self.script.buffer.cursor();
        self.drawer.feed_filter = format!("line:{}", line + 1);
        self.go_to_drawer(DrawerView::Feed);
        self.drawer.feed_back = None;
        self.said.message =
            Some((format!("what line {} did; / then Esc shows all", line + 1), false));
    }

    /// Asks why the line under the cursor did not run. Only of the text that plays.
    pub(super) fn ask_why_not(&mut self) -> Vec<Effect> {
        let played = self.snapshot.script.text.clone();
        if *played != *self.script.buffer.text() {
            let words = "the text on the screen does not play: mend its errors, then ask again";
            self.said.message = Some((words.into(), true));
            return Vec::new();
        }
        let (line, _) = self.script.buffer.cursor();
        vec![Effect::Tell(Command::WhyNot(line as u32 + 1))]
    }

    /// The text as it is now, with what its names mean.
    pub(super) fn document(&self) -> Document {
        Document::new(self.script.buffer.text())
    }

    pub(super) fn name_here(&self) -> Option<names::Name> {
        names::name_at(&self.document(), self.script.buffer.cursor_byte())
    }

    pub(super) fn tell_word(&mut self) {
        let Some(name) = self.name_here() else {
            self.said.message = Some(("there is no word under the cursor".into(), false));
            return;
        };
        let Some(told) = hover(&self.document(), name.span.start) else {
            self.said.message = Some((format!("nothing is known of `{}`", name.text), false));
            return;
        };
        let mut lines = Vec::new();
        for defined in told.defined {
            lines.push(format!("line {}: {}", defined.line, defined.text));
            lines.push(defined.what);
            lines.extend(defined.comment);
        }
        lines.extend(told.reference.map(|(heading, words)| format!("{heading}: {words}")));
        self.over.menu = Some(Menu::page(name.text, lines));
    }

    pub(super) fn go_to_definition(&mut self) {
        let document = self.document();
        let found = self.name_here().and_then(|name| names::definition(&document, &name));
        match found {
            Some(span) => self.go_to_span(span),
            None => self.said.message = Some(("it is defined nowhere in this text".into(), false)),
        }
    }

    pub(super) fn go_to_use(&mut self) {
        let Some(name) = self.name_here() else {
            self.said.message = Some(("there is no name under the cursor".into(), false));
            return;
        };
        let uses = names::uses(&self.document(), &name);
        let at = uses.iter().position(|s| s.start == name.span.start).unwrap_or(0);
        let next = (at + 1) % uses.len().max(1);
        if let Some(span) = uses.get(next) {
            self.go_to_span(*span);
            self.said.message = Some((format!("{} of {} uses", next + 1, uses.len()), false));
        }
    }

    pub(super) fn go_to_span(&mut self, span: tickpond_lang::Span) {
        self.leave();
        let (line, column) = self.script.buffer.place_of_byte(span.start as usize);
        self.look_at(line, column);
    }

    pub(super) fn rename(&mut self, new: &str) {
        let document = self.document();
        let Some(name) = self.name_here() else { return };
        match names::rename(&document, &name, new) {
            Ok(renamed) => {
                let count = names::uses(&document, &name).len();
                self.script.buffer.put_all(&renamed);
                self.said.message = Some((format!("renamed in {count} places"), false));
            }
            Err(words) => self.said.message = Some((words, true)),
        }
    }

    pub(super) fn find_next(&mut self) {
        let text = self.script.buffer.text();
        let from = self.script.buffer.cursor_byte() as usize;
        match edits::find(&text, &self.known.searched, from) {
            Some(range) => {
                let count = text.matches(self.known.searched.as_str()).count();
                let nth = text[..range.start].matches(self.known.searched.as_str()).count() + 1;
                let line = text[..range.start].matches('\n').count();
                self.script.folds.show(&text, line);
                self.script.buffer.select(range);
                self.scroll();
                self.said.message = Some((format!("{nth} of {count}; Ctrl+N the next"), false));
            }
            None if self.known.searched.is_empty() => {
                self.said.message = Some(("search for something first: Ctrl+F".into(), false));
            }
            None => {
                self.said.message =
                    Some((format!("{:?} is nowhere in this text", self.known.searched), true));
            }
        }
    }

    pub(super) fn replace_all(&mut self, what: &str, by: &str) {
        let text = self.script.buffer.text();
        let count = text.matches(what).count();
        self.script.buffer.put_all(&text.replace(what, by));
        self.said.message = Some((format!("replaced {count}; Ctrl+Z takes that back"), false));
    }

    pub(super) fn comment(&mut self) {
        let buffer = &mut self.script.buffer;
        let range = buffer.lines();
        let lines: Vec<String> = range.clone().map(|line| buffer.line(line)).collect();
        let text = buffer.text();
        let start: usize = text.split_inclusive('\n').take(*range.start()).map(str::len).sum();
        let old = lines.join("\n");
        let new = edits::commented(&lines).join("\n");
        buffer.put(start..start + old.len(), &new);
    }

    pub(super) fn format(&mut self) {
        match tickpond_lang::format::format(&self.script.buffer.text()) {
            Ok(text) if text == self.script.buffer.text() => {
                self.said.message = Some(("it is formatted already".into(), false));
            }
            Ok(text) => {
                self.script.buffer.put_all(&text);
                self.said.message = Some(("formatted".into(), false));
            }
            Err(_) => {
                let words = "a text with errors is not formatted: put them right first (Alt+n)";
                self.said.message = Some((words.into(), true));
            }
        }
    }

    pub(super) fn next_remark(&mut self) {
        let (line, _) = self.script.buffer.cursor();
        let mut remarks: Vec<&super::script::Remark> = self.script.remarks.iter().collect();
        remarks.retain(|r| r.severity != Severity::Hint);
        remarks.sort_by_key(|r| (r.line, r.columns.0));
        let next = remarks.iter().find(|r| r.line > line).or(remarks.first());
        let Some((to, column, words)) = next.map(|r| (r.line, r.columns.0, r.told())) else {
            self.said.message = Some(("the checker has nothing to say".into(), false));
            return;
        };
        self.look_at(to, column);
        self.said.message = Some((words, false));
    }

    pub(super) fn mute(&mut self) {
        let Some(program) = self.known.program.clone() else {
            let words =
                "put the errors in the text right first (Alt+n): what would be muted is not known";
            self.said.message = Some((words.into(), true));
            return;
        };
        // The blanks before a line belong to what stands in it.
        let (line, column) = self.script.buffer.cursor();
        let indent =
            self.script.buffer.line(line).chars().take_while(|c| c.is_whitespace()).count();
        let byte = self.script.buffer.byte_of(line, column.max(indent));
        match edits::mute(&program, byte) {
            Some((range, put, name)) => {
                self.script.buffer.put(range, put);
                let words = if put.is_empty() { "runs again" } else { "is muted" };
                self.say_first(&format!("`{name}` {words}"));
            }
            None => self.said.message = Some(("the cursor is in no handler".into(), false)),
        }
    }

    pub(super) fn undo_or_redo(&mut self, back: bool) {
        let changed = if back { self.script.buffer.undo() } else { self.script.buffer.redo() };
        if !changed {
            let words = if back { "nothing to undo" } else { "nothing to redo" };
            self.said.message = Some((words.into(), false));
        }
    }
}
