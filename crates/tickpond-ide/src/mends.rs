//! What can be done about a diagnostic, and other changes a text offers at a place.

use tickpond_lang::lex::MARK;
use tickpond_lang::{Code, Diagnostic, Severity, Span};

use crate::document::Document;
use crate::edits::mute;

/// A change of a text: a stretch and what takes its place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// What is replaced; empty where something is put in.
    pub span: Span,
    /// What takes its place.
    pub text: String,
}

/// Something to offer at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Offer {
    /// What it does, in words.
    pub title: String,
    /// The change.
    pub edit: Edit,
    /// The diagnostic it answers, if it does, by its place in the list.
    pub answers: Option<usize>,
    /// Whether it is certain to be meant.
    pub certain: bool,
}

/// What can be done at a stretch: mends of what is wrong there, acceptances of findings, muting the handler around.
pub fn offers(document: &Document, span: Span) -> Vec<Offer> {
    let mut found = Vec::new();
    let near = |d: &Diagnostic| d.span.start <= span.end && span.start <= d.span.end;
    let diagnostics = &document.compilation.diagnostics;
    for (at, diagnostic) in diagnostics.iter().enumerate().filter(|(_, d)| near(d)) {
        if let Some(mend) = &diagnostic.mend {
            let old = document.text.get(mend.span.range()).unwrap_or("");
            let text = document.with_its_line_ends(mend.span.start, &mend.text);
            let edit = Edit { span: mend.span, text };
            let title = titled(old, &mend.text);
            found.push(Offer { title, edit, answers: Some(at), certain: true });
        }
        if diagnostic.severity != Severity::Error && diagnostic.code != Code::NotMeant {
            found.push(Offer {
                title: format!("Accept {}: it is meant", diagnostic.code.as_str()),
                edit: acceptance(document, diagnostic),
                answers: Some(at),
                certain: false,
            });
        }
    }
    let muting = document.compilation.program.as_ref().and_then(|p| mute(p, span.start));
    if let Some((range, text, head)) = muting {
        let does = if text.is_empty() { "Let" } else { "Mute" };
        let again = if text.is_empty() { " run again" } else { "" };
        let span = Span { start: range.start as u32, end: range.end as u32 };
        let edit = Edit { span, text: text.to_string() };
        let title = format!("{does} `{head}`{again}");
        found.push(Offer { title, edit, answers: None, certain: false });
    }
    found
}

fn titled(old: &str, new: &str) -> String {
    let shown = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    match (shown(old).as_str(), shown(new).as_str()) {
        (old, "") => format!("Remove `{old}`"),
        ("", new) => format!("Add `{new}`"),
        (old, new) => format!("Replace `{old}` by `{new}`"),
    }
}

/// A comment on a line of its own above the finding, indented as it is.
fn acceptance(document: &Document, diagnostic: &Diagnostic) -> Edit {
    let start = document.lines.start_of(document.lines.line(diagnostic.span.start));
    let line = document.line_of(diagnostic.span.start);
    let bare = line.trim_start_matches(MARK);
    let indent = &bare[..bare.len() - bare.trim_start().len()];
    let text = format!("{indent}// meant: {}\n", diagnostic.code.as_str());
    let text = document.with_its_line_ends(start, &text);
    // The mark of the encoding stays before all else.
    let start = start + if line.starts_with(MARK) { MARK.len_utf8() as u32 } else { 0 };
    Edit { span: Span { start, end: start }, text }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn changed(text: &str, edit: &Edit) -> String {
        let mut changed = text.to_string();
        changed.replace_range(edit.span.range(), &edit.text);
        changed
    }

    #[rstest]
    fn a_slip_is_mended() {
        let text = "pond \"t\" { arena 10 x 10 }\nkind midge { }\nplace mige at (1, 1)\n";
        let document = Document::new(text);
        let at = text.find("mige").unwrap() as u32;
        let offers = offers(&document, Span { start: at, end: at });
        assert_eq!(offers[0].title, "Replace `mige` by `midge`");
        assert!(offers[0].certain);
        let mended = changed(text, &offers[0].edit);
        assert!(tickpond_lang::compile(&mended).program.is_some(), "{mended}");
    }

    #[rstest]
    fn a_finding_is_accepted_above_its_line() {
        let text = "pond \"t\" { arena 10 x 10 }\nkind midge { vars { idle = 3 } }\nplace midge at (1, 1)\n";
        let document = Document::new(text);
        let finding = &document.compilation.diagnostics[0];
        let offers = offers(&document, finding.span);
        let accept = offers.iter().find(|o| o.title.starts_with("Accept")).unwrap();
        let accepted = tickpond_lang::compile(&changed(text, &accept.edit));
        assert!(!accepted.diagnostics.iter().any(|d| d.code == finding.code), "{accepted:?}");
    }

    /// Whatever is offered leaves the other lines, and ends its own as they end; the mark at the beginning stays there.
    #[rstest]
    fn line_ends_and_the_mark_stay(
        #[values("\n", "\r\n")] end: &str,
        #[values("", "\u{feff}")] mark: &str,
    ) {
        let text = "kind midge { vars { idle = 3 }; every 1 s { say \"a\" } }\npond \"t\" { arena 10 x 10 }\nplace mige at (1, 1)\nexpect \"e\": always count(midge) < 3\n";
        for text in [text.to_string(), text.replace("mige", "midge")] {
            let text = format!("{mark}{}", text.replace('\n', end));
            let document = Document::new(&text);
            let all = Span { start: 0, end: text.len() as u32 };
            let offers = offers(&document, all);
            assert!(!offers.is_empty());
            for offer in offers {
                let changed = changed(&text, &offer.edit);
                let inside = changed.strip_prefix(mark).unwrap();
                assert!(!inside.contains(MARK), "{}", offer.title);
                let without = inside.replace(end, "");
                assert!(!without.contains(['\r', '\n']), "{}: {changed:?}", offer.title);
            }
        }
    }

    #[rstest]
    #[case("every 1 s { say", "Mute `every 1 s`", "off every 1 s")]
    #[case("on birth", "Let `on birth` run again", "    on birth")]
    fn a_handler_is_muted(#[case] at: &str, #[case] title: &str, #[case] holds: &str) {
        let text = "pond \"t\" { arena 10 x 10 }\nkind midge {\n    every 1 s { say \"a\" }\n    off on birth { say \"b\" }\n}\nplace midge at (1, 1)\n";
        let byte = text.find(at).unwrap() as u32;
        let offers = offers(&Document::new(text), Span { start: byte, end: byte });
        let offer = offers.iter().find(|o| o.title == title).unwrap();
        assert!(changed(text, &offer.edit).contains(holds));
    }
}
