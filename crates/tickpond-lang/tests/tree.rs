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

proptest! {
    #![proptest_config(ProptestConfig::with_cases(192))]

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
