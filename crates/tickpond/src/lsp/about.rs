//! What all answers about a text need.

use lsp_server::ErrorCode;
use serde_json::{Value, json};
use tickpond_ide::document::Document;
use tickpond_lang::{Severity, Span};

use super::positions::Encoding;
use super::protocol::Range;

/// What the client said it can do.
#[derive(Clone, Copy, Debug, Default)]
pub struct Client {
    /// Whether a change of texts may name the versions it is about.
    pub knows_versions: bool,
}

impl Client {
    /// As told in `initialize`.
    pub fn of(initialize: &Value) -> Client {
        let edit = &initialize["capabilities"]["workspace"]["workspaceEdit"];
        Client { knows_versions: edit["documentChanges"].as_bool().unwrap_or(false) }
    }
}

/// Why a request is not answered.
pub struct Refusal {
    /// What sort of reason it is.
    pub code: ErrorCode,
    /// The reason.
    pub words: String,
}

/// A text being asked about.
pub struct About<'a> {
    /// What is known of it.
    pub document: &'a Document,
    /// Its address.
    pub uri: &'a str,
    /// The client's number of its state.
    pub version: i32,
    /// What columns count.
    pub encoding: Encoding,
    /// What the client can do.
    pub client: Client,
}

impl About<'_> {
    /// The range of a span.
    pub fn range(&self, span: Span) -> Range {
        self.encoding.range(self.document, span)
    }

    /// A change of this text alone.
    pub fn edit(&self, edits: &[(Span, String)]) -> Value {
        let edits: Vec<Value> = edits
            .iter()
            .map(|(span, text)| json!({ "range": self.range(*span), "newText": text }))
            .collect();
        if self.client.knows_versions {
            let text = json!({ "uri": self.uri, "version": self.version });
            return json!({ "documentChanges": [{ "textDocument": text, "edits": edits }] });
        }
        json!({ "changes": { self.uri: edits } })
    }

    /// A place in this text.
    pub fn location(&self, span: Span) -> Value {
        json!({ "uri": self.uri, "range": self.range(span) })
    }
}

/// What is wrong with a text, for the client.
pub fn diagnostics(document: &Document, uri: &str, encoding: Encoding) -> Vec<Value> {
    let range = |span: Span| encoding.range(document, span);
    let one = |d: &tickpond_lang::Diagnostic| {
        let severity = match d.severity {
            Severity::Error => 1,
            Severity::Finding => 2,
            Severity::Hint => 4,
        };
        let message = match &d.help {
            Some(help) => format!("{}\nhelp: {help}", d.message),
            None => d.message.clone(),
        };
        let related: Vec<Value> = d
            .labels
            .iter()
            .map(|label| {
                let location = json!({ "uri": uri, "range": range(label.span) });
                json!({ "location": location, "message": label.text })
            })
            .collect();
        json!({
            "range": range(d.span),
            "severity": severity,
            "code": d.code.as_str(),
            "source": "tickpond",
            "message": message,
            "relatedInformation": related,
        })
    };
    document.compilation.diagnostics.iter().map(one).collect()
}
