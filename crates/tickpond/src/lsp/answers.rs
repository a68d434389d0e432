//! Answers to requests about one text.

use lsp_server::ErrorCode;
use serde::de::DeserializeOwned;
use serde_json::{Value, json};
use tickpond_ide::coloured::pieces;
use tickpond_ide::complete::candidates;
use tickpond_ide::folds::foldable;
use tickpond_ide::hints::hints;
use tickpond_ide::hover::hover;
use tickpond_ide::names::{self, Name};
use tickpond_ide::setting::formatting;
use tickpond_ide::signature::signature;
use tickpond_ide::symbols::{Shape, Symbol, symbols};
use tickpond_lang::Span;

use super::abilities::token;
use super::about::{About, Client, Refusal};
use super::offers::actions;
use super::open::Open;
use super::positions::Encoding;
use super::protocol::Position;

/// A request about a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Asked {
    /// What could stand at a place.
    Completion,
    /// What a word is.
    Hover,
    /// Where a name is defined.
    Definition,
    /// Where a name is used, in all open texts: names do not cross from one pond to another.
    References,
    /// The same, for the text on the screen.
    Highlight,
    /// Whether a name can be renamed.
    PrepareRename,
    /// A name changed everywhere.
    Rename,
    /// The outline.
    Symbols,
    /// What can be folded.
    Folds,
    /// What each word is.
    Tokens,
    /// The same of a stretch.
    TokensOfRange,
    /// What a call takes.
    Signature,
    /// The whole text set out.
    Formatting,
    /// A stretch set out.
    RangeFormatting,
    /// What can be done at a place.
    Actions,
    /// What numbers come to.
    Hints,
}

impl Asked {
    /// The request with this name in the protocol.
    pub fn named(method: &str) -> Option<Asked> {
        Some(match method.strip_prefix("textDocument/")? {
            "completion" => Asked::Completion,
            "hover" => Asked::Hover,
            "definition" => Asked::Definition,
            "references" => Asked::References,
            "documentHighlight" => Asked::Highlight,
            "prepareRename" => Asked::PrepareRename,
            "rename" => Asked::Rename,
            "documentSymbol" => Asked::Symbols,
            "foldingRange" => Asked::Folds,
            "semanticTokens/full" => Asked::Tokens,
            "semanticTokens/range" => Asked::TokensOfRange,
            "signatureHelp" => Asked::Signature,
            "formatting" => Asked::Formatting,
            "rangeFormatting" => Asked::RangeFormatting,
            "codeAction" => Asked::Actions,
            "inlayHint" => Asked::Hints,
            _ => return None,
        })
    }
}

/// Answers a request; `null` where there is nothing to say.
///
/// # Errors
/// Parameters that are not what the protocol says, and a rename that cannot be.
pub fn answer(
    asked: Asked,
    open: &mut Open,
    uri: &str,
    params: Value,
    (encoding, client): (Encoding, Client),
) -> Result<Value, Refusal> {
    let version = open.version;
    let about = About { document: open.document(), uri, version, encoding, client };
    let document = about.document;
    let byte = || -> Result<u32, Refusal> {
        let at: Position = read(&params["position"], "position")?;
        Ok(encoding.byte(&document.lines, &document.text, at))
    };
    let stretch = || -> Result<Span, Refusal> {
        Ok(encoding.span(document, read(&params["range"], "range")?))
    };
    Ok(match asked {
        Asked::Completion => completion(&about, byte()?),
        Asked::Hover => hovered(&about, byte()?),
        Asked::Definition => {
            let name = names::name_at(document, byte()?);
            let meant = name.map(|name| document.model.meanings(name.span)).unwrap_or_default();
            meant.iter().map(|definition| about.location(definition.span)).collect()
        }
        Asked::References => {
            let declared = params["context"]["includeDeclaration"].as_bool().unwrap_or(true);
            let name = known_name(&about, byte()?);
            let uses = name.map(|name| names::uses(document, &name)).unwrap_or_default();
            let wanted = |span: &Span| declared || document.model.definition(*span).is_none();
            uses.into_iter().filter(wanted).map(|span| about.location(span)).collect()
        }
        Asked::Highlight => {
            let name = known_name(&about, byte()?);
            let uses = name.map(|name| names::uses(document, &name)).unwrap_or_default();
            uses.into_iter().map(|span| json!({ "range": about.range(span) })).collect()
        }
        Asked::PrepareRename => match known_name(&about, byte()?) {
            Some(name) => json!({ "range": about.range(name.span), "placeholder": name.text }),
            None => Value::Null,
        },
        Asked::Rename => {
            let refused = |words: String| Refusal { code: ErrorCode::RequestFailed, words };
            let name = names::name_at(document, byte()?)
                .ok_or_else(|| refused("there is no name here".to_string()))?;
            let new = params["newName"].as_str().unwrap_or_default().trim();
            let places = names::renaming(document, &name, new).map_err(refused)?;
            let edits: Vec<(Span, String)> =
                places.into_iter().map(|span| (span, new.to_string())).collect();
            about.edit(&edits)
        }
        Asked::Symbols => symbols(document).iter().map(|symbol| outlined(&about, symbol)).collect(),
        Asked::Folds => foldable(document)
            .into_iter()
            .map(|fold| {
                let kind = if fold.comment { "comment" } else { "region" };
                json!({ "startLine": fold.first, "endLine": fold.last, "kind": kind })
            })
            .collect(),
        Asked::Tokens => tokens(&about, None),
        Asked::TokensOfRange => tokens(&about, Some(stretch()?)),
        Asked::Signature => match signature(document, byte()?) {
            Some(found) => {
                // Columns of a label count as those of the text do.
                let units = |end: usize| -> usize {
                    found.label[..end].chars().map(encoding.width()).sum()
                };
                let params: Vec<Value> = found
                    .params
                    .iter()
                    .map(|range| json!({ "label": [units(range.start), units(range.end)] }))
                    .collect();
                let one = json!({ "label": found.label, "parameters": params });
                json!({ "signatures": [one], "activeSignature": 0, "activeParameter": found.active })
            }
            None => Value::Null,
        },
        Asked::Formatting => set_out(&about, None)?,
        Asked::RangeFormatting => set_out(&about, Some(stretch()?))?,
        Asked::Actions => actions(&about, stretch()?, &params["context"]["only"]),
        Asked::Hints => {
            let stretch = stretch()?;
            let inside = |at: u32| stretch.start <= at && at <= stretch.end;
            let found = hints(document).into_iter().filter(|hint| inside(hint.at));
            found
                .map(|hint| {
                    let at = encoding.position(document, hint.at);
                    json!({ "position": at, "label": hint.words, "paddingLeft": true })
                })
                .collect()
        }
    })
}

fn read<T: DeserializeOwned>(value: &Value, what: &str) -> Result<T, Refusal> {
    serde_json::from_value(value.clone()).map_err(|error| {
        let words = format!("`{what}` is not what the protocol says: {error}");
        Refusal { code: ErrorCode::InvalidParams, words }
    })
}

/// The name at a byte, if the text defines it.
fn known_name(about: &About<'_>, byte: u32) -> Option<Name> {
    let name = names::name_at(about.document, byte)?;
    (!about.document.model.meanings(name.span).is_empty()).then_some(name)
}

fn completion(about: &About<'_>, byte: u32) -> Value {
    let (span, found) = candidates(about.document, byte);
    let range = about.range(span);
    let items: Vec<Value> = found
        .iter()
        .enumerate()
        .map(|(at, candidate)| {
            // Numbers of the protocol's list of kinds.
            let kind = match candidate.sort {
                "kind" | "spawner" => 7,
                "function" => 3,
                "field" | "variable" | "mount" => 5,
                "unit" => 11,
                "knob" | "watch" | "value" => 6,
                "state" => 20,
                "message" | "input" | "event" => 23,
                "behaviour" => 8,
                "colour" => 16,
                "zone" | "spots" => 13,
                "type" | "tag" => 22,
                _ => 14,
            };
            json!({
                "label": candidate.text,
                "kind": kind,
                "detail": candidate.sort,
                "sortText": format!("{at:05}"),
                "filterText": candidate.text,
                "textEdit": { "range": range, "newText": candidate.text },
            })
        })
        .collect();
    json!({ "isIncomplete": false, "items": items })
}

fn hovered(about: &About<'_>, byte: u32) -> Value {
    let Some(hover) = hover(about.document, byte) else { return Value::Null };
    let mut parts = Vec::new();
    for defined in &hover.defined {
        let mut part =
            format!("```pond\n{}\n```\n{}, line {}", defined.text, defined.what, defined.line);
        if let Some(comment) = &defined.comment {
            part.push_str(&format!("\n\n{comment}"));
        }
        parts.push(part);
    }
    if let Some((heading, words)) = &hover.reference {
        parts.push(format!("**{}**: {words}", hover.word));
        parts.push(format!("*{heading}*"));
    }
    let contents = json!({ "kind": "markdown", "value": parts.join("\n\n") });
    json!({ "contents": contents, "range": about.range(hover.span) })
}

fn outlined(about: &About<'_>, symbol: &Symbol) -> Value {
    // Numbers of the protocol's list of kinds.
    let kind = match symbol.shape {
        Shape::Pond => 2,
        Shape::Kind | Shape::Spawner => 5,
        Shape::Behavior => 11,
        Shape::Function => 12,
        Shape::Signal | Shape::Handler => 24,
        Shape::Knob => 14,
        Shape::Check => 17,
        Shape::Place => 19,
        Shape::Variable => 8,
        Shape::State => 22,
        Shape::Tape => 18,
    };
    let inside: Vec<Value> = symbol.inside.iter().map(|s| outlined(about, s)).collect();
    // An empty name is not allowed.
    let name = if symbol.name.is_empty() { "?" } else { &symbol.name };
    json!({
        "name": name,
        "kind": kind,
        "range": about.range(symbol.span),
        "selectionRange": about.range(symbol.head),
        "children": inside,
    })
}

/// The pieces of a text, each by how far it is from the one before.
fn tokens(about: &About<'_>, stretch: Option<Span>) -> Value {
    let document = about.document;
    let inside = |span: Span| stretch.is_none_or(|s| span.start < s.end && s.start < span.end);
    let mut data: Vec<u32> = Vec::new();
    let (mut line, mut column) = (0, 0);
    for piece in pieces(document).into_iter().filter(|piece| inside(piece.span)) {
        let at = about.encoding.position(document, piece.span.start);
        let text = document.text.get(piece.span.range()).unwrap_or("");
        let length: usize = text.chars().map(about.encoding.width()).sum();
        let (ty, bits) = token(piece.role);
        let from = if at.line == line { column } else { 0 };
        data.extend([at.line - line, at.character - from, length as u32, ty]);
        data.push(bits | u32::from(piece.defines));
        (line, column) = (at.line, at.character);
    }
    json!({ "data": data })
}

fn set_out(about: &About<'_>, stretch: Option<Span>) -> Result<Value, Refusal> {
    let edits = formatting(about.document, stretch).map_err(|found| {
        let first = found.first().map_or("", |d| d.message.as_str());
        let words = format!("a text with mistakes in its form is not set out: {first}");
        Refusal { code: ErrorCode::RequestFailed, words }
    })?;
    let one = |edit: tickpond_ide::mends::Edit| json!({ "range": about.range(edit.span), "newText": edit.text });
    Ok(edits.into_iter().map(one).collect())
}
