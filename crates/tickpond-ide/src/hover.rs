//! What is told of the word under the cursor: how it is defined, of which type it is, and what the reference says.

use tickpond_lang::Span;
use tickpond_lang::model::Definition;
use tickpond_lang::program::Ty;

use crate::document::Document;
use crate::help::about;
use crate::names::name_at;

/// What is known of a word.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Hover {
    /// The word as it is written.
    pub word: String,
    /// Where it stands.
    pub span: Span,
    /// Its definitions: usually one, or none for a word of the language.
    pub defined: Vec<Defined>,
    /// Heading and words of the language reference.
    pub reference: Option<(String, String)>,
}

/// A definition as it is told.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Defined {
    /// Its line in the text, from 1.
    pub line: u32,
    /// That line, without the blanks around it.
    pub text: String,
    /// What it is and, for a value, of which type: `knob, a speed`.
    pub what: String,
    /// The comment right above it.
    pub comment: Option<String>,
}

/// What is known of the word at a byte; `None` where no word stands. Of a word the text defines the reference is not
/// asked.
pub fn hover(document: &Document, byte: u32) -> Option<Hover> {
    let name = name_at(document, byte)?;
    let defined: Vec<Defined> = document
        .model
        .meanings(name.span)
        .into_iter()
        .map(|definition| told(document, definition))
        .collect();
    let reference = if defined.is_empty() { about(&name.text) } else { None };
    (!defined.is_empty() || reference.is_some()).then_some(Hover {
        word: name.text,
        span: name.span,
        defined,
        reference,
    })
}

fn told(document: &Document, definition: &Definition) -> Defined {
    let ty = definition.ty.as_ref().filter(|ty| **ty != Ty::Unknown).map(Ty::noun);
    let sort = definition.sort.noun();
    let line = document.lines.line(definition.span.start);
    Defined {
        line,
        text: document.line_of(definition.span.start).trim().to_string(),
        what: ty.map_or(sort.to_string(), |ty| format!("{sort}, {ty}")),
        comment: document.comment_above(line),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const TEXT: &str = "pond \"t\" { arena 10 x 10 }
// How fast they drift.
knob drift = 6 u/s
watch crowd = count(midge)
kind midge {
    vars { tired = 2 s }
    on birth { speed = drift }
    every 1 s { if crowd > 3 { end self } }
    after tired { end self }
}
";

    fn at(word: &str, nth: usize) -> Option<Hover> {
        let byte = TEXT.match_indices(word).nth(nth).unwrap().0 as u32;
        hover(&Document::new(TEXT), byte)
    }

    #[rstest]
    #[case("drift }", "knob, a speed", 3, Some("How fast they drift."))]
    #[case("crowd >", "watch, a plain number", 4, None)]
    #[case("tired {", "variable, a time", 6, None)]
    #[case("midge)", "kind", 5, None)]
    fn a_name_is_told_with_its_type(
        #[case] word: &str,
        #[case] what: &str,
        #[case] line: u32,
        #[case] comment: Option<&str>,
    ) {
        let hover = at(word, 0).unwrap();
        assert_eq!(hover.defined.len(), 1);
        assert_eq!((hover.defined[0].what.as_str(), hover.defined[0].line), (what, line));
        assert_eq!(hover.defined[0].comment.as_deref(), comment);
        assert_eq!(hover.reference, None);
    }

    #[rstest]
    #[case("every 1")]
    #[case("speed =")]
    #[case("end self")]
    fn a_word_of_the_language_is_told_from_the_reference(#[case] word: &str) {
        let hover = at(word, 0).unwrap();
        assert!(hover.defined.is_empty());
        assert!(hover.reference.unwrap().1.contains(word.split(' ').next().unwrap()));
    }

    #[rstest]
    fn where_no_word_stands_nothing_is_told() {
        assert_eq!(at("{ arena", 0), None);
    }
}
