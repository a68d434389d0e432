//! How diagnostics speak: every one that the wrong ponds, the pages and these texts bring forth keeps the
//! same rules, so that a person reads them all alike.

use std::path::PathBuf;

use rstest::rstest;
use tickpond_lang::{Code, Diagnostic, Severity, compile};

/// What is wrong with the wording of a diagnostic.
fn faults(text: &str, d: &Diagnostic) -> Vec<String> {
    let mut faults = Vec::new();
    let mut fault = |is: bool, words: &str| {
        if is {
            faults.push(format!("{words}: {d:?}"));
        }
    };
    let first = d.message.chars().next();
    fault(first.is_none(), "says nothing");
    // A sentence begins small, but for a name of the pond's.
    fault(first.is_some_and(char::is_uppercase), "begins large");
    fault(d.message.ends_with(['.', '!', '?']), "ends like a shout");
    fault(d.message.contains('\n'), "is longer than a line");
    fault(d.message.len() > 400, "goes on and on");
    fault(d.message.matches('`').count() % 2 == 1, "has a quotation without an end");
    for words in d.help.iter().chain(d.labels.iter().map(|l| &l.text)) {
        fault(words.is_empty(), "helps with nothing");
        fault(words.ends_with('.'), "ends with a full stop");
        fault(words.matches('`').count() % 2 == 1, "has a quotation without an end");
    }
    // Nothing of the program's own insides.
    for inside in ["Some(", "None", "Unknown", "KindId", "SyntaxKind", "unwrap", "panick", "::"] {
        fault(d.message.contains(inside), "shows its insides");
    }
    let span = d.span.range();
    fault(text.get(span.clone()).is_none(), "points outside of the text");
    // An error points at something, if it is not at an end of a line or of the text.
    let rest = text.get(span.end..).unwrap_or("");
    let at_an_end =
        rest.is_empty() || rest.trim_start_matches([' ', '\t']).starts_with(['\n', '\r', '/']);
    let before_a_sign = rest.starts_with([' ', ',', ')', '}', ';']);
    fault(span.is_empty() && !at_an_end && !before_a_sign, "points at nothing");
    for label in &d.labels {
        fault(text.get(label.span.range()).is_none(), "has a label outside of the text");
    }
    if let Some(mend) = &d.mend {
        fault(text.get(mend.span.range()).is_none(), "mends outside of the text");
        fault(mend.span.range().is_empty() && mend.text.is_empty(), "mends nothing");
    }
    let letter = &d.code.as_str()[..1];
    let wanted = match d.severity {
        Severity::Error => "E",
        Severity::Finding => "F",
        Severity::Hint => "H",
    };
    fault(letter != wanted, "has a code of another severity");
    faults
}

#[track_caller]
fn speaks_well(text: &str) {
    let diagnostics = compile(text).diagnostics;
    let faults: Vec<String> = diagnostics.iter().flat_map(|d| faults(text, d)).collect();
    assert!(faults.is_empty(), "{faults:#?}\nin\n{text}");
    // In the order of their places, and none twice.
    assert!(diagnostics.is_sorted_by_key(|d| d.span.start), "{diagnostics:#?}");
    for (nth, d) in diagnostics.iter().enumerate() {
        let again = |o: &Diagnostic| (o.code, o.span, &o.message) == (d.code, d.span, &d.message);
        assert!(!diagnostics[nth + 1..].iter().any(again), "told twice: {d:?}");
    }
}

#[rstest]
fn wrong_ponds_are_told_alike(#[files("../../ponds/wrong/*.wrong")] path: PathBuf) {
    speaks_well(&std::fs::read_to_string(path).unwrap());
}

#[rstest]
fn pages_are_told_alike(#[files("pages/*.md")] path: PathBuf) {
    let page = std::fs::read_to_string(&path).unwrap();
    let examples: Vec<&str> =
        page.split("```pond\n").skip(1).filter_map(|b| b.split("```").next()).collect();
    // A fault of the compiler has no example: one that is known is mended.
    assert_eq!(examples.len(), if path.ends_with("E0901.md") { 0 } else { 2 });
    examples.into_iter().for_each(speaks_well);
}

#[rstest]
fn cut_off_ponds_are_told_alike(#[files("../../ponds/gallery/*0*.pond")] path: PathBuf) {
    let text = std::fs::read_to_string(path).unwrap();
    for end in (0..text.len()).step_by(61).filter(|end| text.is_char_boundary(*end)) {
        speaks_well(&text[..end]);
    }
}

#[rstest]
fn a_pond_of_which_every_word_is_misspelt_is_told_alike(
    #[files("../../ponds/gallery/1*.pond")] path: PathBuf,
) {
    let text = std::fs::read_to_string(path).unwrap();
    // Each word of some length loses a letter, one after another.
    let mut starts = Vec::new();
    let mut inside = false;
    for (at, c) in text.char_indices() {
        if c.is_ascii_lowercase() && !inside {
            starts.push(at);
        }
        inside = c.is_ascii_alphanumeric() || c == '_';
    }
    for start in starts.into_iter().step_by(7) {
        let word = text[start..].split(|c: char| !c.is_ascii_lowercase()).next().unwrap();
        if word.len() > 3 {
            let mut damaged = text.clone();
            damaged.remove(start + 1);
            speaks_well(&damaged);
        }
    }
}

#[rstest]
fn every_code_has_its_own_number_and_a_page_that_names_it() {
    let mut seen = Vec::new();
    for code in Code::ALL {
        let number = code.as_str();
        assert!(!seen.contains(&number), "{number}");
        assert_eq!(Code::named(number), Some(*code));
        assert!(Code::named(&number.to_lowercase()).is_some(), "{number} typed small");
        seen.push(number);
    }
    assert_eq!(Code::named("E9999"), None);
    assert_eq!(Code::named(""), None);
}
