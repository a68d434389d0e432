//! Whatever a text is cut to, it is parsed and checked, nothing of it is lost, and what is told points into it.

use std::path::{Path, PathBuf};

use rstest::rstest;
use tickpond_lang::parse::{expected_at, parse};
use tickpond_lang::{Code, Severity, compile};

/// What must be so of any text at all.
fn holds_together(text: &str) {
    let parsed = parse(text);
    assert_eq!(parsed.root().text().to_string(), text, "the tree lost something");
    for diagnostic in parsed.diagnostics {
        assert!(text.get(diagnostic.span.range()).is_some(), "{diagnostic:?} of {text:?}");
    }
}

fn ponds(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            ponds(&path, found);
        } else if path.extension().is_some_and(|end| end == "pond" || end == "wrong") {
            found.push(path);
        }
    }
}

fn shipped() -> Vec<String> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut found = Vec::new();
    ponds(&root.join("ponds"), &mut found);
    ponds(&root.join("crates/tickpond/assets"), &mut found);
    found.sort();
    assert!(found.len() > 70, "{}", found.len());
    found.iter().map(|path| std::fs::read_to_string(path).unwrap()).collect()
}

/// Where a text can be cut between two characters.
fn cuts(text: &str) -> impl Iterator<Item = usize> {
    text.char_indices().map(|(at, _)| at).chain([text.len()])
}

#[rstest]
fn every_prefix_of_every_shipped_pond_is_parsed() {
    for text in shipped() {
        // What stands far before the cut has been read long since: its last lines decide.
        for at in cuts(&text) {
            let lines = text[..at].rmatch_indices('\n');
            let from = lines.map(|(at, _)| at + 1).nth(12).unwrap_or(0);
            holds_together(&text[from..at]);
        }
    }
}

#[rstest]
fn every_prefix_at_the_end_of_a_word_is_checked() {
    for text in shipped() {
        let ends: Vec<usize> = cuts(&text)
            .filter(|at| {
                let next = text[*at..].chars().next();
                next.is_none_or(|c| !c.is_alphanumeric()) && !text[..*at].ends_with(' ')
            })
            .collect();
        // A sixth of them: which one goes by where it stands, so all sorts of places are among them.
        for at in ends.into_iter().filter(|at| at % 6 == 0) {
            let compiled = compile(&text[..at]);
            let has_errors = compiled.diagnostics.iter().any(|d| d.severity == Severity::Error);
            assert_eq!(compiled.program.is_none(), has_errors, "{:?}", &text[..at]);
            assert!(compiled.diagnostics.iter().all(|d| d.code != Code::Fault), "{compiled:?}");
            expected_at(&text, at as u32);
        }
    }
}

/// A word that the parser takes without looking stands nowhere, so a text may end anywhere.
#[rstest]
#[case::origin("pond{arena,origin")]
#[case::origin_in_a_comment("pond{arena,origin bottom-// a")]
#[case::origin_and_a_brace("pond \"t\" { arena 9 x 9, origin }")]
#[case::origin_and_the_next_line("pond \"t\" { arena 9 x 9, origin\nrate 60 per s }")]
#[case::half_a_corner("pond \"t\" { arena 9 x 9, origin bottom- }")]
fn a_lost_word_is_told(#[case] text: &str) {
    holds_together(text);
    let found = compile(text).diagnostics;
    // The first mistake of a line is told.
    let about = found.iter().filter(|d| d.message.contains("bottom-left"));
    assert_eq!(about.count(), if text.starts_with("pond{") { 0 } else { 1 }, "{found:?}");
    assert!(!found.is_empty() && found.iter().all(|d| d.code != Code::Fault), "{found:?}");
}
