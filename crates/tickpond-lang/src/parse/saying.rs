//! What the parser says of what is wrong: once for a token, with the next thing to do.

use super::habits;
use super::parser::Parser;
use super::words::{BODY_WORDS, OPTION_WORDS};
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::near::near_miss;
use crate::syntax::SyntaxKind::*;

impl Parser<'_> {
    /// What stands here, in words.
    pub(super) fn found(&self) -> String {
        let begins = self.begins == Some(self.at);
        match self.kind_at(0) {
            None => "the end of the pond".to_string(),
            Some(_) if self.on_new_line() && !begins => "the end of the line".to_string(),
            Some(_) => format!("`{}`", shorten(self.text_at(0))),
        }
    }

    /// Reports a word that begins nothing here but has a meaning elsewhere.
    pub(super) fn report_habit(&mut self, habit: habits::Habit) {
        let (span, found) = (self.span(), self.found());
        let message = format!("{found} begins nothing here");
        let diagnostic = Diagnostic::new(Code::Syntax, span, message);
        self.report(match habit.word {
            Some(word) => {
                let help = format!("{}: did you mean `{word}`?", habit.help);
                diagnostic.with_help(help).with_mend(span, word)
            }
            None => diagnostic.with_help(habit.help),
        });
    }

    pub(super) fn expected(&mut self, what: &str) {
        self.probe.note_message(self.at, what);
        // What is wrong at the beginning of a line is not the line before.
        let begins = self.begins == Some(self.at);
        let found = self.found();
        if !begins && self.at_kind(Ident) && !self.on_new_line() && what.contains(',') {
            let words = what.split(|c: char| !c.is_ascii_alphabetic()).filter(|w| w.len() > 2);
            if let Some(near) = near_miss(self.text_at(0), words) {
                let span = self.span();
                let diagnostic =
                    Diagnostic::new(Code::Syntax, span, format!("{found} means nothing here"))
                        .with_help(format!("did you mean `{near}`?"))
                        .with_mend(span, near);
                self.report(diagnostic);
                return;
            }
        }
        if !begins || !self.at_kind(Ident) {
            let span = if begins { self.span() } else { self.error_span() };
            let message = format!("expected {what}, found {found}");
            if what == "`{`"
                && self.kind_at(0).is_some_and(|kind| kind != Ident)
                && !self.on_new_line()
            {
                let help = "what is to be done stands in braces: `{ … }`";
                self.report(Diagnostic::new(Code::Syntax, span, message).with_help(help));
                return;
            }
            self.report(self.with_habit(Diagnostic::new(Code::Syntax, span, message)));
            return;
        }
        // The word itself first: the list of what could stand here is long.
        let (span, words) = (self.span(), what.split(|c: char| !c.is_ascii_alphabetic()));
        let near = near_miss(self.text_at(0), words.filter(|word| word.len() > 2));
        let diagnostic = match near {
            Some(near) => {
                let message = format!("{found} begins nothing here");
                Diagnostic::new(Code::Syntax, span, message)
                    .with_help(format!("did you mean `{near}`?"))
                    .with_mend(span, near)
            }
            None => {
                let message = format!("{found} begins nothing here: expected {what}");
                Diagnostic::new(Code::Syntax, span, message)
            }
        };
        self.report(diagnostic);
    }

    /// What is often meant by a word that does not fit where it stands.
    pub(super) fn with_habit(&self, diagnostic: Diagnostic) -> Diagnostic {
        if self.at_kind(Plus) && self.at > 0 && self.text_of(self.at - 1).starts_with('"') {
            return diagnostic.with_help("values stand in a text: `\"{n} bites\"`");
        }
        if self.on_new_line() || self.at == 0 || !self.at_kind(Ident) {
            return diagnostic;
        }
        let word = self.text_at(0);
        if word == "within" || word == "touching" {
            let help = "a distance stands before the name: `each midge within 3 u as m`";
            return diagnostic.with_help(help);
        }
        if word == "where" {
            let in_question = self.at > 0 && self.text_of(self.at - 1) == ")";
            return diagnostic.with_help(match in_question {
                true => "a condition stands in the brackets: `count(midge where health > 1)`",
                false => {
                    "a condition stands before the name: `on touch midge where health > 1 as m`"
                }
            });
        }
        let begins = |at: &usize| self.significant.get(*at).is_some_and(|s| s.on_new_line);
        let first = (0..self.at).rev().find(begins).unwrap_or(0);
        let mut line = (first..self.at).map(|at| self.text_of(at));
        let has_options = line.any(|word| WITH_OPTIONS.contains(&word));
        if !has_options || !OPTION_WORDS.contains(&word) && !BODY_WORDS.contains(&word) {
            return diagnostic;
        }
        let end = self.end_before();
        diagnostic
            .with_help(format!("options are parted by commas: write `, {word}`"))
            .with_mend(Span { start: end, end }, ",")
    }

    pub(super) fn error(&mut self, code: Code, message: String) {
        let span = self.error_span();
        self.report(Diagnostic::new(code, span, message));
    }

    pub(super) fn report(&mut self, diagnostic: Diagnostic) {
        self.probe.close(self.at);
        if self.last_error_at == Some(self.at) {
            return;
        }
        self.last_error_at = Some(self.at);
        // The lexer has already said what is wrong with a stray character.
        if !self.at_kind(StrayToken) {
            self.diagnostics.push(diagnostic);
        }
    }

    /// Where to point: at the token, or behind the one before if that ended the line.
    pub(super) fn error_span(&self) -> Span {
        if !self.on_new_line() || self.at == 0 {
            return self.span();
        }
        let end = self.end_before();
        Span { start: end, end }
    }
}

/// Words of statements and parts that have options.
const WITH_OPTIONS: &[&str] = &["spawn", "place", "makes", "replace", "body"];

/// A found word, cut to a length that fits a message.
fn shorten(text: &str) -> String {
    let mut chars = text.chars();
    let head: String = chars.by_ref().take(24).filter(|c| !c.is_control()).collect();
    if chars.next().is_some() { format!("{head}…") } else { head }
}
