//! Every pond in `ponds/wrong` has one mistake, and the diagnostic beside it in `NAME.expected`.
//!
//! Remake the expected diagnostics with `REMAKE=1 cargo test -p tickpond-lang --test all wrong`, and review
//! the difference.

use std::path::PathBuf;

use rstest::rstest;
use tickpond_lang::lines::LineIndex;

/// Each diagnostic as `line:col code message`, with its labels, help and mend below.
fn told(text: &str) -> String {
    let lines = LineIndex::new(text);
    let at = |byte: u32| {
        let place = lines.line_col(text, byte);
        format!("{}:{}", place.line, place.col)
    };
    let mut out = String::new();
    for d in tickpond_lang::compile(text).diagnostics {
        let marked = text.get(d.span.range()).unwrap_or("").lines().next().unwrap_or("");
        out.push_str(&format!("{} {} {}\n", at(d.span.start), d.code.as_str(), d.message));
        out.push_str(&format!("    at `{marked}`\n"));
        for label in &d.labels {
            out.push_str(&format!("    {} {}\n", at(label.span.start), label.text));
        }
        if let Some(help) = &d.help {
            out.push_str(&format!("    help: {help}\n"));
        }
        if let Some(mend) = &d.mend {
            let old = text.get(mend.span.range()).unwrap_or("");
            out.push_str(&format!("    mend: `{old}` -> `{}`\n", mend.text));
        }
    }
    out
}

#[rstest]
fn the_one_mistake_is_told(#[files("../../ponds/wrong/*.wrong")] path: PathBuf) {
    let text = std::fs::read_to_string(&path).unwrap();
    let found = told(&text);
    let beside = path.with_extension("expected");
    if std::env::var_os("REMAKE").is_some() {
        std::fs::write(&beside, &found).unwrap();
    }
    let expected = std::fs::read_to_string(&beside).unwrap_or_default();
    assert_eq!(found, expected, "{}", path.display());
    assert!(!found.is_empty());
}

#[rstest]
fn a_certain_mend_takes_its_mistake_away(#[files("../../ponds/wrong/*.wrong")] path: PathBuf) {
    let mut text = std::fs::read_to_string(&path).unwrap();
    let before = tickpond_lang::compile(&text).diagnostics;
    let Some(first) = before.iter().find(|d| d.mend.is_some()) else { return };
    let mend = first.mend.clone().unwrap();
    text.replace_range(mend.span.range(), &mend.text);
    let after = tickpond_lang::compile(&text).diagnostics;
    let still = |d: &&tickpond_lang::Diagnostic| d.code == first.code && d.message == first.message;
    assert!(!after.iter().any(|d| still(&d)), "{after:?}");
}
