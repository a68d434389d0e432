//! What the parser expects at a place: a word nobody writes is put there, and what the parser looks for when it comes to
//! it is noted down.

use std::cell::{Cell, RefCell};

use super::{Parser, item, lex};

/// A word that begins nothing and names nothing.
const NOBODYS: &str = "zzzz_nobodys_word_zzzz";

/// Something that could stand at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Expected {
    /// A word of the language.
    Word(String),
    /// A name, in the words of the message that asks for it.
    Name(String),
    /// A value.
    Value,
}

/// Notes what is looked for at one token.
#[derive(Default)]
pub(super) struct Probe {
    /// The significant token that is watched.
    at: Option<usize>,
    /// What is looked for there after it was found wrong makes up for the mistake.
    closed: Cell<bool>,
    seen: RefCell<Vec<Expected>>,
}

impl Probe {
    pub(super) fn watches(&self, at: usize) -> bool {
        self.at == Some(at) && !self.closed.get()
    }

    /// Something was found wrong at a token.
    pub(super) fn close(&self, at: usize) {
        if self.at == Some(at) {
            self.closed.set(true);
        }
    }

    pub(super) fn note(&self, at: usize, expected: impl FnOnce() -> Expected) {
        if self.watches(at) {
            let (expected, mut seen) = (expected(), self.seen.borrow_mut());
            if !seen.contains(&expected) {
                seen.push(expected);
            }
        }
    }

    /// The words in a message about what could stand there: those in code, else those of its list.
    pub(super) fn note_message(&self, at: usize, what: &str) {
        if !self.watches(at) {
            return;
        }
        let words: Vec<&str> = match (what.contains('`'), what.split_once('(')) {
            (true, _) => what.split('`').skip(1).step_by(2).collect(),
            (false, Some((_, list))) => {
                list.split([',', ')']).flat_map(|w| w.split(" or ")).collect()
            }
            (false, None) => Vec::new(),
        };
        for word in words {
            let word = word.trim();
            // Of several words the first: the next is looked for behind it.
            let first = word.split(' ').next().unwrap_or("");
            let is_word = !first.is_empty() && first.chars().all(|c| c.is_ascii_lowercase());
            let is_prose = !what.contains('`') && first != word && ["a", "an"].contains(&first);
            if is_word && !is_prose {
                self.note(at, || Expected::Word(first.to_string()));
            }
        }
    }
}

/// What could stand at a byte of a text, in the order in which the parser looks for it; what stands from there on is not
/// looked at. Costs the text before it.
pub fn expected_at(text: &str, byte: u32) -> Vec<Expected> {
    let before = text.get(..byte as usize).unwrap_or(text);
    let with = format!("{before}{NOBODYS}");
    let (tokens, _) = lex(&with);
    let mut parser = Parser::new(&with, &tokens);
    let last = parser.significant.len().checked_sub(1);
    // In a comment or a text nothing of the language stands.
    let is_word = tokens.last().is_some_and(|token| &with[token.span.range()] == NOBODYS);
    parser.probe.at = last.filter(|_| is_word);
    item::file(&mut parser);
    parser.probe.seen.into_inner()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn words(text: &str) -> Vec<String> {
        let found = expected_at(text, text.len() as u32);
        found
            .into_iter()
            .filter_map(|e| match e {
                Expected::Word(word) => Some(word),
                _ => None,
            })
            .collect()
    }

    #[rstest]
    #[case("", &["pond", "kind", "place", "expect", "every"])]
    #[case("kind a {\n  ", &["look", "body", "vars", "uses", "on", "after", "every"])]
    #[case("kind a { on ", &["birth", "touch", "end", "press", "becoming"])]
    #[case("kind a { look \"v\" ", &["teal", "orange"])]
    #[case("kind a { on birth {\n ", &["spawn", "damage", "if", "wait"])]
    #[case("kind a { on birth { spawn a ", &["at", "anywhere", "as"])]
    #[case("kind a { on birth { spawn a at here, ", &["speed", "facing"])]
    #[case("kind a { on birth { turn ", &["toward", "by"])]
    #[case("kind a { on birth { push self ", &["by"])]
    #[case("kind a { body ", &["circle", "box", "none"])]
    #[case("kind a { body circle 1 u, ", &["sensor", "solid"])]
    #[case("pond \"t\" { ", &["arena", "edges", "rate"])]
    #[case("pond \"t\" { edges ", &["open", "wrap", "wall"])]
    #[case("spawner a { ", &["makes", "every", "keep"])]
    #[case("expect \"t\": ", &["always", "never"])]
    #[case("kind a { every 1 s ", &["while", "overlapping"])]
    #[case("input a = ", &["key", "pointer"])]
    fn words_that_could_stand_there_are_found(#[case] text: &str, #[case] wanted: &[&str]) {
        let found = words(text);
        for word in wanted {
            assert!(found.iter().any(|f| f == word), "{word}: {found:?}");
        }
        // Each of them is taken there: it is not what is wrong.
        for word in &found {
            let with = format!("{text}{word}");
            let (tokens, _) = lex(&with);
            let mut parser = Parser::new(&with, &tokens);
            item::file(&mut parser);
            let start = text.len() as u32;
            let wrong = parser.diagnostics.iter().find(|d| {
                d.span.start == start
                    && d.span.end > start
                    && d.message.contains(&format!("`{word}`"))
            });
            assert!(wrong.is_none(), "{with}: {wrong:?}");
        }
    }

    #[rstest]
    #[case("kind a { on birth { spawn ", "kind")]
    #[case("place ", "kind or spawner")]
    #[case("kind a { uses ", "behaviour")]
    #[case("kind a { on press ", "input")]
    #[case("kind a { on birth { become ", "state")]
    #[case("kind a { on birth { send ", "message")]
    #[case("kind a { on birth { x = self.", "field")]
    #[case("kind a { on touch ", "kind or a tag")]
    fn names_that_could_stand_there_are_asked_for(#[case] text: &str, #[case] wanted: &str) {
        let found = expected_at(text, text.len() as u32);
        let is_asked = |e: &Expected| matches!(e, Expected::Name(what) if what.contains(wanted));
        assert!(found.iter().any(is_asked), "{found:?}");
    }

    #[rstest]
    #[case("kind a { // ")]
    #[case("kind a { say \"the ")]
    fn nothing_is_expected_in_texts_and_comments(#[case] text: &str) {
        assert_eq!(expected_at(text, text.len() as u32), []);
    }
}
