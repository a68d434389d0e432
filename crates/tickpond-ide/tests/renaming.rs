//! Every name of every shipped pond can be renamed, and back.

use std::path::{Path, PathBuf};

use rstest::rstest;
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

#[rstest]
fn every_name_is_renamed_and_back() {
    for path in gallery() {
        let text = std::fs::read_to_string(&path).unwrap();
        let document = Document::new(text.clone());
        for definition in document.model.definitions() {
            let name = Name { text: definition.name.clone(), span: definition.span };
            let new = "quite_another";
            let renamed = rename(&document, &name, new)
                .unwrap_or_else(|e| panic!("{path:?}: {}: {e}", name.text));
            let renamed = Document::new(renamed);
            assert!(renamed.compilation.program.is_some(), "{path:?}: {}", name.text);
            let at = renamed.text.find(new).unwrap() as u32;
            let back = rename(&renamed, &name_at(&renamed, at).unwrap(), &name.text);
            assert_eq!(back.as_ref(), Ok(&text), "{path:?}: {}", name.text);
        }
    }
}
