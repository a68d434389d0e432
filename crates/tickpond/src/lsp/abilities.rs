//! What the server says of itself.

use serde_json::{Value, json};
use tickpond_ide::coloured::Role;
use tickpond_lang::model::Sort;

use super::positions::Encoding;

/// The command that shows the page on a code.
pub const EXPLAIN: &str = "tickpond.explain";

/// The types of pieces, by their place in the list.
pub const TOKENS: [&str; 16] = [
    "keyword",
    "comment",
    "string",
    "number",
    "operator",
    "class",
    "type",
    "variable",
    "enum",
    "event",
    "interface",
    "function",
    "method",
    "property",
    "enumMember",
    "parameter",
];

/// What a piece can be besides, by the bit of its place in the list.
pub const MODIFIERS: [&str; 3] = ["definition", "readonly", "defaultLibrary"];

/// Place of a role in [`TOKENS`], and the bits of [`MODIFIERS`] it always has.
pub fn token(role: Role) -> (u32, u32) {
    let (ty, bits) = match role {
        Role::Keyword => ("keyword", 0),
        Role::Comment => ("comment", 0),
        Role::Text => ("string", 0),
        Role::Number => ("number", 0),
        Role::Operator => ("operator", 0),
        Role::Name(sort) => match sort {
            Sort::Kind | Sort::Spawner => ("class", 0),
            Sort::Tag => ("type", 0),
            Sort::Knob | Sort::Watch => ("variable", 0b10),
            Sort::Spots | Sort::Zone => ("enum", 0),
            Sort::Input | Sort::Message => ("event", 0),
            Sort::Behavior => ("interface", 0),
            Sort::Function => ("function", 0),
            Sort::Routine => ("method", 0),
            Sort::Variable | Sort::Mount => ("property", 0),
            Sort::Field => ("property", 0b100),
            Sort::State => ("enumMember", 0),
            Sort::Parameter => ("parameter", 0),
            Sort::Local => ("variable", 0),
            Sort::Word => ("keyword", 0),
        },
    };
    let at = TOKENS.iter().position(|known| *known == ty).unwrap_or(0);
    (at as u32, bits)
}

/// The answer to `initialize`.
pub fn abilities(encoding: Encoding) -> Value {
    json!({
        "positionEncoding": encoding.name(),
        "textDocumentSync": { "openClose": true, "change": 2 },
        "completionProvider": { "triggerCharacters": [" ", ".", "("] },
        "hoverProvider": true,
        "definitionProvider": true,
        "referencesProvider": true,
        "documentHighlightProvider": true,
        "renameProvider": { "prepareProvider": true },
        "documentSymbolProvider": true,
        "foldingRangeProvider": true,
        "documentFormattingProvider": true,
        "documentRangeFormattingProvider": true,
        "signatureHelpProvider": { "triggerCharacters": ["(", ","] },
        "inlayHintProvider": true,
        "codeActionProvider": { "codeActionKinds": ["quickfix", "refactor"] },
        "executeCommandProvider": { "commands": [EXPLAIN] },
        "semanticTokensProvider": {
            "legend": { "tokenTypes": TOKENS, "tokenModifiers": MODIFIERS },
            "full": true,
            "range": true,
        },
    })
}
