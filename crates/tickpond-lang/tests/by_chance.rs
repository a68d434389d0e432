//! What holds of every pond: its tree is its text, formatting changes blanks alone and once, and no prefix or slip is too much.

use proptest::prelude::*;
use rstest::rstest;
use tickpond_arbitrary::{cases, found, ponds};
use tickpond_lang::format::format;
use tickpond_lang::lex::lex;
use tickpond_lang::parse::parse;
use tickpond_lang::{Code, compile};

/// The tokens of a text, without blanks, also those in numbers.
fn tokens(text: &str) -> Vec<String> {
    let tokens =
        lex(text).0.into_iter().filter(|t| t.kind != tickpond_lang::syntax::SyntaxKind::Whitespace);
    tokens.map(|t| text[t.span.range()].split_whitespace().collect()).collect()
}

fn whole(text: &str) -> Result<(), TestCaseError> {
    prop_assert_eq!(parse(text).root().text().to_string(), text);
    for d in compile(text).diagnostics {
        prop_assert!(d.code != Code::Fault && text.get(d.span.range()).is_some(), "{:?}", d);
        let mend = d.mend.as_ref();
        prop_assert!(mend.is_none_or(|mend| text.get(mend.span.range()).is_some()), "{:?}", d);
    }
    Ok(())
}

fn is_set_out_once(text: &str) -> Result<(), TestCaseError> {
    let Ok(set) = format(text) else { return Ok(()) };
    prop_assert_eq!(tokens(&set), tokens(text));
    prop_assert_eq!(&format(&set).unwrap(), &set);
    // Line ends and the mark are those of the text.
    let ends = |text: &str| {
        (
            text.starts_with('\u{feff}'),
            text.contains("\r\n"),
            text.replace("\r\n", "").contains('\n'),
        )
    };
    prop_assert_eq!(ends(&set), ends(text));
    // It means the same.
    prop_assert_eq!(compile(&set).program.is_some(), compile(text).program.is_some());
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { max_shrink_iters: 400, ..ProptestConfig::with_cases(cases(48)) })]

    #[test]
    fn every_pond_and_every_slip_is_taken_in(pond in ponds()) {
        whole(&pond.text())?;
        whole(&pond.with_slip())?;
    }

    #[test]
    fn formatting_changes_blanks_alone_and_once(pond in ponds()) {
        is_set_out_once(&pond.text())?;
    }

    #[test]
    fn a_pond_can_be_cut_off_anywhere(pond in ponds(), at in 0.0..1.0f64) {
        let text = pond.text();
        let cut = text.floor_char_boundary((text.len() as f64 * at) as usize);
        whole(&text[..cut])?;
        tickpond_lang::parse::expected_at(&text, cut as u32);
    }
}

#[rstest]
fn what_showed_a_fault_is_taken_in_and_set_out() {
    for (name, text) in found() {
        whole(&text)
            .and_then(|()| is_set_out_once(&text))
            .unwrap_or_else(|e| panic!("{name}: {e}"));
        for cut in (0..text.len()).filter(|at| text.is_char_boundary(*at)).step_by(7).take(400) {
            whole(&text[..cut]).unwrap_or_else(|e| panic!("{name}, the first {cut}: {e}"));
        }
    }
}
