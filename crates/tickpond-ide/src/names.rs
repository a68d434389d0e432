//! The names of a text: where they are defined and used, and renaming them.

use tickpond_lang::lex::lex;
use tickpond_lang::syntax::SyntaxKind;
use tickpond_lang::units::UNITS;
use tickpond_lang::{Severity, Span, understand};

use crate::document::Document;
use crate::words::Words;

/// A name in a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Name {
    /// As it is written.
    pub text: String,
    /// Where it stands.
    pub span: Span,
}

/// The name or the word of the language at a byte of a text, or right before it.
pub fn name_at(document: &Document, byte: u32) -> Option<Name> {
    let word = || {
        let words = Words::of(&document.text);
        let mut tokens = words.tokens.iter().enumerate();
        let around = |span: Span| span.start <= byte && byte <= span.end;
        tokens.find(|(at, token)| words.is_name(*at) && around(token.span)).map(|(_, t)| t.span)
    };
    let span = document.model.name_at(byte).or_else(word)?;
    Some(Name { text: document.text.get(span.range())?.to_string(), span })
}

/// Where a name is defined. A name that means several things at once, as in a behaviour that several kinds use, is
/// defined at the first of them.
pub fn definition(document: &Document, name: &Name) -> Option<Span> {
    document.model.meanings(name.span).first().map(|definition| definition.span)
}

/// Every place a name stands at, its definition among them. A word of the language is used wherever it is written.
pub fn uses(document: &Document, name: &Name) -> Vec<Span> {
    let same = document.model.same(name.span);
    if !same.is_empty() {
        return same;
    }
    let words = Words::of(&document.text);
    words.places(&name.text).map(|at| words.tokens[at].span).collect()
}

/// The places a name has to be changed at to be called otherwise.
///
/// # Errors
/// Why it cannot be: no name, one that is taken, or a word of the language.
pub fn renaming(document: &Document, name: &Name, new: &str) -> Result<Vec<Span>, String> {
    let new = new.trim();
    let (tokens, _) = lex(new);
    let fits = matches!(&tokens[..], [one] if one.kind == SyntaxKind::Ident);
    if !fits {
        return Err(format!("`{new}` is no name: letters, digits and `_`, a letter first"));
    }
    let places = document.model.same(name.span);
    let of_language =
        || format!("`{}` cannot be renamed alone: it is a word of the language here", name.text);
    if places.is_empty() {
        return Err(of_language());
    }
    let renamed = changed(&document.text, &places, new);
    let (compiled, model) = understand(&renamed);
    let errors = |diagnostics: &[tickpond_lang::Diagnostic]| {
        diagnostics.iter().filter(|d| d.severity == Severity::Error).count()
    };
    // The same places, each as far from its old one as the names before it have grown.
    let grown = new.len() as i64 - name.text.len() as i64;
    let moved = |(before, span): (usize, &Span)| {
        let start = (i64::from(span.start) + before as i64 * grown) as u32;
        Span { start, end: start + new.len() as u32 }
    };
    let wanted: Vec<Span> = places.iter().enumerate().map(moved).collect();
    let same = wanted.first().map(|first| model.same(*first)).unwrap_or_default();
    let more = errors(&compiled.diagnostics) > errors(&document.compilation.diagnostics);
    if !more && same == wanted {
        return Ok(places);
    }
    let is_used = Words::of(&document.text).places(new).next().is_some();
    Err(match is_used {
        _ if UNITS.iter().any(|unit| unit.name == new) => format!("`{new}` is a unit"),
        true => format!("`{new}` is used here already"),
        false => format!("`{new}` is a word of the language"),
    })
}

/// The text with a name changed everywhere it is the same name.
///
/// # Errors
/// As [`renaming`].
pub fn rename(document: &Document, name: &Name, new: &str) -> Result<String, String> {
    Ok(changed(&document.text, &renaming(document, name, new)?, new.trim()))
}

fn changed(text: &str, places: &[Span], new: &str) -> String {
    let mut changed = text.to_string();
    for span in places.iter().rev() {
        changed.replace_range(span.range(), new);
    }
    changed
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const TEXT: &str = "pond \"t\" { arena 10 x 10 }
knob drift = 6 u/s
message warn(level: number)
kind midge {
    vars { calm = true }
    states { still, afraid }
    on birth { speed = drift }
    on warn(level) from who { speed = drift * level; calm = false }
}
kind frog {
    every 1 s { if nearest(midge) as m { heading = direction to m } }
    every 2 s { if nearest(frog) as m { heading = direction to m } }
}
place midge at (1, 1)
";

    fn name(word: &str, nth: usize) -> Name {
        let at = TEXT.match_indices(word).nth(nth).unwrap().0 as u32;
        name_at(&Document::new(TEXT), at).unwrap()
    }

    fn line(span: Span) -> usize {
        TEXT[..span.start as usize].matches('\n').count() + 1
    }

    #[rstest]
    #[case("drift", 2, 2)]
    #[case("midge", 2, 4)]
    #[case("calm", 1, 5)]
    #[case("warn", 1, 3)]
    fn a_definition_is_found_from_a_use(
        #[case] word: &str,
        #[case] nth: usize,
        #[case] wanted: usize,
    ) {
        assert_eq!(definition(&Document::new(TEXT), &name(word, nth)).map(line), Some(wanted));
    }

    #[rstest]
    #[case("drift", vec![2, 7, 8])]
    #[case("midge", vec![4, 11, 14])]
    fn uses_are_all_places(#[case] word: &str, #[case] wanted: Vec<usize>) {
        let lines: Vec<usize> =
            uses(&Document::new(TEXT), &name(word, 0)).into_iter().map(line).collect();
        assert_eq!(lines, wanted);
    }

    #[rstest]
    fn renaming_changes_every_use_and_still_compiles() {
        let renamed = rename(&Document::new(TEXT), &name("midge", 0), "gnat").unwrap();
        assert!(!renamed.contains("midge"));
        assert_eq!(renamed.matches("gnat").count(), 3);
        assert!(tickpond_lang::compile(&renamed).program.is_some());
    }

    #[rstest]
    fn a_value_in_a_text_is_a_use() {
        let text = format!(
            "{TEXT}watch bites = count(frog)\nevery 1 s {{ say \"{{bites}} of {{drift}}\" }}\n"
        );
        let at = text.find("{bites}").unwrap() as u32 + 2;
        let document = Document::new(text.clone());
        let name = name_at(&document, at).unwrap();
        assert_eq!(name.text, "bites");
        assert_eq!(definition(&document, &name).map(|s| &text[s.range()]), Some("bites"));
        assert_eq!(uses(&document, &name).len(), 2);
        let renamed = rename(&document, &name, "meals").unwrap();
        assert!(
            renamed.contains("watch meals") && renamed.contains("\"{meals} of {drift}\""),
            "{renamed}"
        );
        assert!(tickpond_lang::compile(&renamed).program.is_some());
    }

    #[rstest]
    fn functions_and_behaviours_are_defined_where_they_are() {
        let text = format!(
            "{TEXT}behavior hops(pace: speed) {{ on birth {{ speed = pace }} }}\n\
             to scatter(n: number) {{ repeat n times {{ say \"x\" }} }}\nvalue twice(n: number) = n * 2\n\
             kind pod {{ uses hops(2 u/s)\n every 1 s {{ scatter(twice(2)) }} }}\n"
        );
        let document = Document::new(text.clone());
        for name in ["hops", "scatter", "twice"] {
            let used = text.rfind(name).unwrap() as u32;
            let name = name_at(&document, used).unwrap();
            let defined = definition(&document, &name).unwrap();
            assert!(defined.start < used, "{}", name.text);
        }
        assert!(tickpond_lang::compile(&text).program.is_some());
    }

    #[rstest]
    #[case("frog", "used")]
    #[case("two words", "no name")]
    #[case("7up", "no name")]
    #[case("deg", "unit")]
    #[case("", "no name")]
    fn a_name_that_cannot_be_is_refused(#[case] new: &str, #[case] words: &str) {
        let error = rename(&Document::new(TEXT), &name("midge", 0), new).unwrap_err();
        assert!(error.contains(words), "{error}");
    }

    #[rstest]
    fn a_word_of_the_language_is_not_renamed() {
        assert!(rename(&Document::new(TEXT), &name("every", 0), "always_now").is_err());
    }
}
