//! What could stand at a place of a text.

use super::item;
use super::parser::Parser;
use super::probe::Expected;
use crate::lex::lex;

/// A word that begins nothing and names nothing.
const NOBODYS: &str = "zzzz_nobodys_word_zzzz";

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
