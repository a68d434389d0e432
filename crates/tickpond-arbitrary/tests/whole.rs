//! The generator knows the whole grammar, and what it draws is mostly right.

use std::collections::BTreeSet;

use rstest::rstest;
use tickpond_arbitrary::{Oddities, Pond, cases};
use tickpond_lang::lex::lex;
use tickpond_lang::{Severity, compile, units, words};

fn ponds(count: u64) -> impl Iterator<Item = Pond> {
    (0..count).map(|seed| Pond::draw(seed, Oddities::of(seed)))
}

/// Every word of the language, unit, colour, field, type, function and key stands in one of 2,000 ponds.
#[rstest]
fn the_whole_grammar_is_drawn() {
    let (mut seen, mut numbers) = (BTreeSet::new(), BTreeSet::new());
    for pond in ponds(2_000) {
        let text = pond.text();
        for token in lex(&text).0 {
            let word = &text[token.span.range()];
            if word.starts_with('"') {
                // Values stand in texts, too.
                let inside = word.split(|c: char| !c.is_alphanumeric() && c != '_');
                seen.extend(inside.map(str::to_string));
            } else if word.starts_with(|c: char| c.is_ascii_digit()) {
                numbers.insert(units::parted(word).unit.to_string());
            } else {
                seen.insert(word.to_string());
            }
        }
    }
    let types = words::types().map(str::to_string);
    let functions = words::functions().map(|(name, _)| name.to_string());
    let all = [words::KEYWORDS, words::COLOURS, &words::FIELDS, &words::SET_FIELDS, &words::KEYS];
    let all = all.into_iter().flatten().map(|word| word.to_string());
    let missing: Vec<String> =
        all.chain(types).chain(functions).filter(|word| !seen.contains(word)).collect();
    assert!(missing.is_empty(), "not drawn: {missing:?}");
    let missing: Vec<&str> = units::UNITS
        .iter()
        .map(|unit| unit.name)
        .filter(|name| !numbers.iter().any(|unit| unit == name))
        .collect();
    assert!(missing.is_empty(), "units not drawn: {missing:?}");
}

#[rstest]
fn most_ponds_compile_and_slips_do_not_matter_to_the_compiler() {
    let all = u64::from(cases(300));
    let mut right = 0;
    let mut wrong: Vec<String> = Vec::new();
    for pond in ponds(all) {
        let text = pond.text();
        let found = compile(&text);
        right += u64::from(found.program.is_some());
        let errors = found.diagnostics.iter().filter(|d| d.severity == Severity::Error);
        wrong.extend(
            errors
                .take(1)
                .map(|d| format!("{} {} `{}`", d.code.as_str(), d.message, &text[d.span.range()])),
        );
        // A slip is told, or means something else; the compiler stands.
        let slip = compile(&pond.with_slip());
        assert!(
            slip.diagnostics.iter().all(|d| d.code.as_str() != "E0901"),
            "{:?}",
            slip.diagnostics
        );
    }
    wrong.sort();
    wrong.dedup();
    assert!(right * 100 >= all * 70, "{right} of {all} compile: {wrong:#?}");
}

#[rstest]
fn the_same_seed_gives_the_same_pond() {
    for seed in 0..20 {
        let draw = || Pond::draw(seed, Oddities::of(seed));
        assert_eq!(draw().text(), draw().text());
        assert_eq!(draw().with_slip(), draw().with_slip());
    }
    assert_ne!(Pond::draw(1, Oddities::of(1)).text(), Pond::draw(2, Oddities::of(2)).text());
}
