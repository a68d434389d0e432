//! The promises of the tree and the compiler that hold for any text.

use proptest::prelude::*;
use rstest::rstest;
use tickpond_lang::{compile, lex::lex, parse::parse};

const DUSK: &str = include_str!("../../../ponds/dusk.pond");

#[rstest]
fn the_demo_compiles_without_a_word() {
    let compiled = compile(DUSK);
    assert_eq!(compiled.diagnostics, []);
    assert_eq!(compiled.program.unwrap().kinds.len(), 8);
}

#[rstest]
#[case::demo(DUSK)]
#[case::crlf("pond \"x\" {\r\n  arena 10 x 10\r\n}\r\n")]
#[case::tabs("\tkind\ta\t{\t}")]
#[case::mark("\u{feff}pond \"x\" { }")]
#[case::nothing("")]
fn the_tree_prints_back_exactly(#[case] text: &str) {
    assert_eq!(parse(text).root().text().to_string(), text);
}

/// Pieces of ponds in any order: far more likely to reach deep into the grammar than any letters.
fn pieces() -> impl Strategy<Value = String> {
    let words: Vec<&str> = DUSK.split_inclusive([' ', '\n', '(', '}']).collect();
    prop::collection::vec(prop::sample::select(words), 0..60).prop_map(|w| w.concat())
}

/// The demo with one stretch cut out and something else put in.
fn damaged() -> impl Strategy<Value = String> {
    let cut = (0..DUSK.chars().count(), 0..40usize, "[a-z0-9(){}=.,;\"@ ]{0,6}");
    cut.prop_map(|(at, length, put)| {
        let head: String = DUSK.chars().take(at).collect();
        let tail: String = DUSK.chars().skip(at + length).collect();
        format!("{head}{put}{tail}")
    })
}

/// Pieces of all shipped ponds: every word of the language is among them.
fn gallery_pieces() -> impl Strategy<Value = String> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../ponds/gallery");
    let mut files: Vec<_> =
        std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.sort();
    let lines: Vec<String> = files
        .iter()
        .flat_map(|f| {
            let text = std::fs::read_to_string(f).unwrap();
            text.split_inclusive([' ', '\n', '{']).map(str::to_string).collect::<Vec<_>>()
        })
        .collect();
    prop::collection::vec(prop::sample::select(lines), 0..80).prop_map(|w| w.concat())
}

/// The tokens that mean something, blanks inside numbers aside.
fn meaning(text: &str) -> Vec<String> {
    let (tokens, _) = lex(text);
    let words = tokens.into_iter().filter(|t| !t.kind.is_trivia());
    words.map(|t| text[t.span.range()].split_whitespace().collect::<String>()).collect()
}

fn comments(text: &str) -> Vec<String> {
    let (tokens, _) = lex(text);
    let comments =
        tokens.into_iter().filter(|t| t.kind == tickpond_lang::syntax::SyntaxKind::Comment);
    comments.map(|t| text[t.span.range()].trim_end().to_string()).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(192))]

    #[test]
    fn any_pieces_of_the_gallery_are_read_without_harm(text in gallery_pieces()) {
        prop_assert_eq!(parse(&text).root().text().to_string(), text.clone());
        let head = "pond \"t\" { arena 10 x 10 }\n";
        compile(&format!("{head}{text}"));
        compile(&format!("{head}kind a {{ every 1 s {{ {text} }} }}"));
    }

    #[test]
    fn formatting_twice_is_formatting_once_and_changes_no_meaning(
        file in 0usize..29,
        squeezed in prop::collection::vec((0usize..4000, 0usize..4), 0..20),
    ) {
        let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../ponds/gallery");
        let mut files: Vec<_> =
            std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
        files.sort();
        let mut text = std::fs::read_to_string(&files[file % files.len()]).unwrap();
        // Blanks more or less at some places that have one already.
        for (at, blanks) in squeezed {
            let places: Vec<usize> = text.match_indices(' ').map(|(at, _)| at).collect();
            let place = places[at % places.len()];
            if !text[..place].rsplit('\n').next().unwrap().contains(['"', '/']) {
                text.replace_range(place..=place, &" ".repeat(blanks.max(1)));
            }
        }
        let once = tickpond_lang::format::format(&text).unwrap();
        prop_assert_eq!(meaning(&once), meaning(&text));
        prop_assert_eq!(comments(&once), comments(&text));
        prop_assert_eq!(tickpond_lang::format::format(&once).unwrap(), once);
    }

    #[test]
    fn any_text_gives_a_lossless_tree(text in "\\PC{0,200}") {
        prop_assert_eq!(parse(&text).root().text().to_string(), text.clone());
        compile(&text);
    }

    #[test]
    fn any_pieces_give_a_lossless_tree(text in pieces()) {
        prop_assert_eq!(parse(&text).root().text().to_string(), text.clone());
        compile(&text);
    }

    #[test]
    fn a_damaged_pond_gives_errors_inside_the_text(text in damaged()) {
        let compiled = compile(&text);
        for d in &compiled.diagnostics {
            prop_assert!(d.span.start <= d.span.end && d.span.end as usize <= text.len(), "{d:?}");
            prop_assert!(text.get(d.span.range()).is_some(), "{d:?}");
        }
    }

    #[test]
    fn tokens_leave_no_gap(text in "\\PC{0,200}") {
        let (tokens, _) = lex(&text);
        let mut at = 0;
        for token in tokens {
            prop_assert_eq!(token.span.start, at);
            at = token.span.end;
        }
        prop_assert_eq!(at as usize, text.len());
    }
}

#[rstest]
#[case::parens("(", 5000)]
#[case::blocks("kind a { on birth { if true { ", 3000)]
#[case::minus("knob a = -", 5000)]
#[case::nots("watch a = not ", 5000)]
fn deep_nesting_is_an_error_not_a_crash(#[case] piece: &str, #[case] times: usize) {
    let text = format!("pond \"x\" {{ arena 1 x 1 }}\nknob k = {}", piece.repeat(times));
    assert!(compile(&text).has_errors());
}
