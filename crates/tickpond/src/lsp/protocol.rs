//! The parts of the protocol that are read: positions and changes of texts. What is told is written where it is told.

use serde::{Deserialize, Serialize};

/// A place in a text: line and column from 0, the column in units of the encoding that was agreed on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Position {
    pub line: u32,
    pub character: u32,
}

/// A stretch of a text; its end is not part of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Range {
    pub start: Position,
    pub end: Position,
}

/// A change of a text.
#[derive(Clone, Debug, Deserialize)]
pub struct Change {
    /// What is replaced; the whole text if nothing is said.
    pub range: Option<Range>,
    pub text: String,
}

/// `textDocument/didOpen`
#[derive(Debug, Deserialize)]
#[serde(rename_all = "camelCase")]
pub struct Opened {
    pub text_document: OpenedText,
}

/// The text that was opened.
#[derive(Debug, Deserialize)]
pub struct OpenedText {
    pub uri: String,
    pub version: i32,
    pub text: String,
}

/// `textDocument/didChange`
#[derive(Debug, Deserialize)]
#[serde(rename_all = "camelCase")]
pub struct Changed {
    pub text_document: ChangedText,
    pub content_changes: Vec<Change>,
}

/// Which text, and the number of its new state.
#[derive(Debug, Deserialize)]
pub struct ChangedText {
    pub uri: String,
    pub version: i32,
}

/// `textDocument/didClose`
#[derive(Debug, Deserialize)]
#[serde(rename_all = "camelCase")]
pub struct Closed {
    pub text_document: ClosedText,
}

/// The text that was closed.
#[derive(Debug, Deserialize)]
pub struct ClosedText {
    pub uri: String,
}
