//! What the server says of itself.

use lsp_types::{SemanticTokenModifier, SemanticTokenType};
use serde_json::{Value, json};
use tickpond_ide::coloured::Role;
use tickpond_lang::model::Sort;

use super::positions::Encoding;

/// The command that shows the page on a code.
pub const EXPLAIN: &str = "tickpond.explain";

/// The types of pieces, by their place in the list.
pub const TOKENS: [SemanticTokenType; 16] = [
    SemanticTokenType::KEYWORD,
    SemanticTokenType::COMMENT,
    SemanticTokenType::STRING,
    SemanticTokenType::NUMBER,
    SemanticTokenType::OPERATOR,
    SemanticTokenType::CLASS,
    SemanticTokenType::TYPE,
    SemanticTokenType::VARIABLE,
    SemanticTokenType::ENUM,
    SemanticTokenType::EVENT,
    SemanticTokenType::INTERFACE,
    SemanticTokenType::FUNCTION,
    SemanticTokenType::METHOD,
    SemanticTokenType::PROPERTY,
    SemanticTokenType::ENUM_MEMBER,
    SemanticTokenType::PARAMETER,
];

/// What a piece can be besides, by the bit of its place in the list.
pub const MODIFIERS: [SemanticTokenModifier; 3] = [
    SemanticTokenModifier::DEFINITION,
    SemanticTokenModifier::READONLY,
    SemanticTokenModifier::DEFAULT_LIBRARY,
];

/// Place of a role in [`TOKENS`], and the bits of [`MODIFIERS`] it always has.
pub fn token(role: Role) -> (u32, u32) {
    let (ty, bits) = match role {
        Role::Keyword => (SemanticTokenType::KEYWORD, 0),
        Role::Comment => (SemanticTokenType::COMMENT, 0),
        Role::Text => (SemanticTokenType::STRING, 0),
        Role::Number => (SemanticTokenType::NUMBER, 0),
        Role::Operator => (SemanticTokenType::OPERATOR, 0),
        Role::Name(sort) => match sort {
            Sort::Kind | Sort::Spawner => (SemanticTokenType::CLASS, 0),
            Sort::Tag => (SemanticTokenType::TYPE, 0),
            Sort::Knob | Sort::Watch => (SemanticTokenType::VARIABLE, 0b10),
            Sort::Spots | Sort::Zone => (SemanticTokenType::ENUM, 0),
            Sort::Input | Sort::Message => (SemanticTokenType::EVENT, 0),
            Sort::Behavior => (SemanticTokenType::INTERFACE, 0),
            Sort::Function => (SemanticTokenType::FUNCTION, 0),
            Sort::Routine => (SemanticTokenType::METHOD, 0),
            Sort::Variable | Sort::Mount => (SemanticTokenType::PROPERTY, 0),
            Sort::Field => (SemanticTokenType::PROPERTY, 0b100),
            Sort::State => (SemanticTokenType::ENUM_MEMBER, 0),
            Sort::Parameter => (SemanticTokenType::PARAMETER, 0),
            Sort::Local => (SemanticTokenType::VARIABLE, 0),
            Sort::Word => (SemanticTokenType::KEYWORD, 0),
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
