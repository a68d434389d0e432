//! Every name of every shipped pond can be renamed, and back.

use std::path::{Path, PathBuf};

use proptest::prelude::*;
use rstest::rstest;
use tickpond_arbitrary::{cases, ponds};
use tickpond_ide::document::Document;
use tickpond_ide::names::{Name, name_at, rename};

fn gallery() -> Vec<PathBuf> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../ponds/gallery");
    let mut ponds: Vec<PathBuf> =
        std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    ponds.push(Path::new(env!("CARGO_MANIFEST_DIR")).join("../../ponds/dusk.pond"));
    ponds.retain(|path| path.extension().is_some_and(|e| e == "pond"));
    ponds.sort();
    ponds
}

/// Renames so many of the names of a pond, each alone, and back.
fn renames_and_back(document: &Document, most: usize) -> Result<(), TestCaseError> {
    for definition in document.model.definitions().take(most) {
        let name = Name { text: definition.name.clone(), span: definition.span };
        let new = "quite_another";
        let renamed = rename(document, &name, new);
        prop_assert!(renamed.is_ok(), "{}: {:?}", name.text, renamed);
        let renamed = Document::new(renamed.unwrap_or_default());
        prop_assert!(renamed.compilation.program.is_some(), "{}", name.text);
        let at = renamed.text.find(new).unwrap_or_default() as u32;
        let back = name_at(&renamed, at).map(|at| rename(&renamed, &at, &name.text));
        prop_assert!(back.as_ref() == Some(&Ok(document.text.to_string())), "{}", name.text);
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { max_shrink_iters: 200, ..ProptestConfig::with_cases(cases(24)) })]

    #[test]
    fn names_of_ponds_by_chance_are_renamed_and_back(pond in ponds()) {
        let document = Document::new(pond.text());
        prop_assume!(document.compilation.program.is_some());
        renames_and_back(&document, 12)?;
    }
}

#[rstest]
fn every_name_is_renamed_and_back() {
    for path in gallery() {
        let text = std::fs::read_to_string(&path).unwrap();
        let document = Document::new(text.clone());
        renames_and_back(&document, usize::MAX).unwrap_or_else(|e| panic!("{path:?}: {e}"));
    }
}
