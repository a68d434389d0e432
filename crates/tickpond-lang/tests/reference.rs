//! Every example of the language reference compiles.

use rstest::rstest;

const REFERENCE: &str = include_str!("../../../docs/language.md");

#[rstest]
fn every_example_compiles() {
    let blocks: Vec<&str> = REFERENCE.split("```pond\n").skip(1).collect();
    assert!(blocks.len() >= 8);
    for block in blocks {
        let example = block.split("```").next().unwrap();
        let text = match example.starts_with("pond ") {
            true => example.to_string(),
            false => format!("pond \"example\" {{ arena 160 x 90 }}\n{example}"),
        };
        let compiled = tickpond_lang::compile(&text);
        assert!(compiled.program.is_some(), "{text}\n{:#?}", compiled.diagnostics);
    }
}

#[rstest]
fn every_finding_and_unit_is_in_the_reference() {
    for code in tickpond_lang::Code::ALL.iter().filter(|c| c.as_str().starts_with('F')) {
        assert!(REFERENCE.contains(code.as_str()), "{}", code.as_str());
    }
    for unit in tickpond_lang::units::UNITS.iter().filter(|u| u.name != "tick") {
        assert!(REFERENCE.contains(&format!("`{}`", unit.name)), "{}", unit.name);
    }
}
