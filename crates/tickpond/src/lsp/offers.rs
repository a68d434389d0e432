//! Code actions: mends, acceptances, muting, and the page on a code.

use serde_json::{Value, json};
use tickpond_ide::mends::offers;
use tickpond_lang::Span;
use tickpond_lang::explain::title;

use super::abilities::EXPLAIN;
use super::about::{About, diagnostics};

/// What can be done at a stretch, of the kinds the client wants.
pub fn actions(about: &About<'_>, stretch: Span, only: &Value) -> Value {
    // `quickfix.all` is a kind of `quickfix`.
    let wanted = |kind: &str| match only.as_array() {
        Some(kinds) => kinds
            .iter()
            .filter_map(Value::as_str)
            .any(|k| k.is_empty() || k == kind || kind.starts_with(&format!("{k}."))),
        None => true,
    };
    let told = diagnostics(about.document, about.uri, about.encoding);
    let mut actions = Vec::new();
    for offer in offers(about.document, stretch) {
        let kind = if offer.answers.is_some() { "quickfix" } else { "refactor" };
        if !wanted(kind) {
            continue;
        }
        let edit = about.edit(&[(offer.edit.span, offer.edit.text)]);
        let mut action = json!({ "title": offer.title, "kind": kind, "edit": edit });
        if let Some(at) = offer.answers {
            action["diagnostics"] = json!([told[at]]);
            action["isPreferred"] = json!(offer.certain);
        }
        actions.push(action);
    }
    if wanted("quickfix") {
        let found = &about.document.compilation.diagnostics;
        let near = |span: Span| span.start <= stretch.end && stretch.start <= span.end;
        let mut codes: Vec<_> = found.iter().filter(|d| near(d.span)).map(|d| d.code).collect();
        codes.sort();
        codes.dedup();
        for code in codes {
            let title = format!("Explain {}: {}", code.as_str(), title(code));
            let command =
                json!({ "title": title, "command": EXPLAIN, "arguments": [code.as_str()] });
            actions.push(json!({ "title": title, "kind": "quickfix", "command": command }));
        }
    }
    actions.into()
}
