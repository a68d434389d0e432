//! The names of a text: where they are defined and used, what could stand at a place, renaming.

use std::collections::HashMap;
use std::ops::Range;

use tickpond_lang::Span;
use tickpond_lang::lex::{LexToken, lex};
use tickpond_lang::parse::parse;
use tickpond_lang::syntax::SyntaxKind;
use tickpond_lang::texts::values;
use tickpond_lang::units::UNITS;

/// Words that are followed by the name they define.
const DEFINING: &[&str] = &[
    "kind", "spawner", "behavior", "to", "value", "routine", "knob", "spots", "zone", "input",
    "message", "watch", "mount", "as", "tag",
];

/// Fields every entity has.
pub(crate) const FIELDS: &[&str] = &[
    "pos", "vel", "heading", "speed", "spin", "health", "age", "maker", "name", "label", "state",
    "active", "down", "resting",
];

/// A name in a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Name {
    /// As it is written.
    pub text: String,
    /// Where it stands.
    pub span: Span,
}

/// Something that could stand at a place.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Candidate {
    /// What is put there.
    pub text: String,
    /// What it is: kind, knob, field, unit, word…
    pub sort: &'static str,
}

/// The words of the values in a text in quotes.
fn values_in(text: &str, token: LexToken) -> Vec<LexToken> {
    let raw = text.get(token.span.range()).unwrap_or("");
    let of_value = |value: Range<usize>| {
        let base = token.span.start + value.start as u32;
        let (tokens, _) = lex(&raw[value]);
        let significant = tokens.into_iter().filter(|t| !t.kind.is_trivia());
        significant.map(move |t| LexToken {
            span: Span { start: t.span.start + base, end: t.span.end + base },
            ..t
        })
    };
    values(raw).into_iter().flat_map(of_value).collect()
}

/// The words of a text, those of values in quoted texts among them; white space and comments left out.
pub(crate) struct Words<'a> {
    text: &'a str,
    pub tokens: Vec<LexToken>,
}

impl<'a> Words<'a> {
    pub fn of(text: &'a str) -> Words<'a> {
        let (lexed, _) = lex(text);
        let mut tokens = Vec::with_capacity(lexed.len());
        for token in lexed.into_iter().filter(|t| !t.kind.is_trivia()) {
            tokens.push(token);
            if token.kind == SyntaxKind::Text {
                tokens.extend(values_in(text, token));
            }
        }
        Words { text, tokens }
    }

    fn word(&self, at: usize) -> &'a str {
        self.tokens.get(at).and_then(|t| self.text.get(t.span.range())).unwrap_or("")
    }

    /// How far away each name is used nearest to a byte, in bytes; what stands behind it counts as further.
    pub fn nearest(&self, byte: u32) -> HashMap<&'a str, u32> {
        let mut nearest = HashMap::new();
        for at in (0..self.tokens.len()).filter(|at| self.is_name(*at)) {
            let start = self.tokens[at].span.start;
            let far = match start < byte {
                true => byte - start,
                false => (start - byte).saturating_add(100_000),
            };
            let known = nearest.entry(self.word(at)).or_insert(far);
            *known = far.min(*known);
        }
        nearest
    }

    /// The bytes of the item around a byte, as far as left edges tell where items begin.
    pub fn item_around(&self, byte: u32) -> Range<u32> {
        let mut around = 0..u32::MAX;
        for token in self.tokens.iter().filter(|t| t.kind == SyntaxKind::Ident) {
            let start = token.span.start;
            let at_edge = start == 0 || self.text.as_bytes()[start as usize - 1] == b'\n';
            if at_edge && start <= byte {
                around.start = start;
            } else if at_edge {
                around.end = start;
                break;
            }
        }
        around
    }

    fn is_name(&self, at: usize) -> bool {
        matches!(self.tokens[at].kind, SyntaxKind::Ident | SyntaxKind::Keyword)
    }

    /// The places of a name.
    fn places<'s>(&'s self, name: &'s str) -> impl Iterator<Item = usize> + 's {
        (0..self.tokens.len()).filter(move |at| self.is_name(*at) && self.word(*at) == name)
    }

    /// Whether a name is defined at this place.
    fn defines(&self, at: usize) -> bool {
        let before = self.word_before(at);
        if DEFINING.contains(&before) {
            // `kind` is also the type of a value: `what: kind = midge`.
            let two_before = at.checked_sub(2).map_or("", |b| self.word(b));
            return two_before != ":";
        }
        // `name =` in `vars`, `name: type` in the parameters of a head, a name in `states`.
        let block = self.block_of(at);
        match block {
            Some("vars") => self.word(at + 1) == "=" || self.word(at + 1) == ":",
            Some("states") => matches!(before, "{" | ","),
            _ => self.word(at + 1) == ":" && matches!(before, "(" | ","),
        }
    }

    /// The word before a place; `to` and `value` define at the left edge alone, and are other words elsewhere.
    fn word_before(&self, at: usize) -> &'a str {
        let Some(before) = at.checked_sub(1) else { return "" };
        let (word, start) = (self.word(before), self.tokens[before].span.start as usize);
        let at_edge = start == 0 || self.text.as_bytes()[start - 1] == b'\n';
        if matches!(word, "to" | "value") && !at_edge { "" } else { word }
    }

    /// The word before the brace this place is inside of, if they are on one level.
    fn block_of(&self, at: usize) -> Option<&'a str> {
        let mut depth = 0;
        for back in (0..at).rev() {
            match self.tokens[back].kind {
                SyntaxKind::CloseBrace => depth += 1,
                SyntaxKind::OpenBrace if depth == 0 => {
                    return Some(back.checked_sub(1).map_or("", |b| self.word(b)));
                }
                SyntaxKind::OpenBrace => depth -= 1,
                _ => {}
            }
        }
        None
    }
}

/// The name at a byte of a text, or right before it.
pub fn name_at(text: &str, byte: u32) -> Option<Name> {
    let words = Words::of(text);
    let at = (0..words.tokens.len()).find(|at| {
        let span = words.tokens[*at].span;
        words.is_name(*at) && span.start <= byte && byte <= span.end
    })?;
    Some(Name { text: words.word(at).to_string(), span: words.tokens[at].span })
}

/// Where a name is defined: the nearest place before this one for names that live in a handler, else
/// anywhere.
pub fn definition(text: &str, name: &Name) -> Option<Span> {
    let words = Words::of(text);
    let defining: Vec<usize> = words.places(&name.text).filter(|at| words.defines(*at)).collect();
    let before = defining.iter().rev().find(|at| words.tokens[**at].span.start <= name.span.start);
    before.or(defining.first()).map(|at| words.tokens[*at].span)
}

/// Every place a name stands at. One that is bound by `as` or stands among a head's parameters is looked
/// for in its item alone, others everywhere.
pub fn uses(text: &str, name: &Name) -> Vec<Span> {
    let words = Words::of(text);
    let within = match definition(text, name) {
        Some(defined) if is_local(&words, defined) => item_around(text, defined.start),
        _ => None,
    };
    let spans = words.places(&name.text).map(|at| words.tokens[at].span);
    spans.filter(|span| within.is_none_or(|w| w.start <= span.start && span.end <= w.end)).collect()
}

fn is_local(words: &Words<'_>, defined: Span) -> bool {
    let at = words.tokens.iter().position(|t| t.span == defined).unwrap_or(0);
    let before = at.checked_sub(1).map_or("", |b| words.word(b));
    before == "as" || words.word(at + 1) == ":" && matches!(before, "(" | ",")
}

/// The items of a text: its top-level pieces, each with its stretch.
pub fn items(text: &str) -> Vec<Span> {
    let root = parse(text).root();
    root.children().map(|node| significant(text, node.text_range().into())).collect()
}

/// A stretch without the white space and comments at its start.
fn significant(text: &str, span: Span) -> Span {
    let (tokens, _) = lex(text.get(span.range()).unwrap_or(""));
    let first = tokens.iter().find(|t| !t.kind.is_trivia());
    Span { start: span.start + first.map_or(0, |t| t.span.start), end: span.end }
}

fn item_around(text: &str, byte: u32) -> Option<Span> {
    items(text).into_iter().find(|span| span.start <= byte && byte < span.end)
}

/// The text with a name changed everywhere it is the same name.
///
/// # Errors
/// Why it cannot be: no name, or one that is taken.
pub fn rename(text: &str, name: &Name, new: &str) -> Result<String, String> {
    let new = new.trim();
    let (tokens, _) = lex(new);
    let fits = matches!(&tokens[..], [one] if one.kind == SyntaxKind::Ident);
    if !fits {
        return Err(format!("`{new}` is no name: letters, digits and `_`, a letter first"));
    }
    if UNITS.iter().any(|unit| unit.name == new) {
        return Err(format!("`{new}` is a unit"));
    }
    let words = Words::of(text);
    if words.places(new).next().is_some() {
        return Err(format!("`{new}` is used here already"));
    }
    let mut renamed = text.to_string();
    for span in uses(text, name).into_iter().rev() {
        renamed.replace_range(span.range(), new);
    }
    let errors = |text: &str| {
        let compiled = tickpond_lang::compile(text);
        let wrong = compiled.diagnostics.iter();
        wrong.filter(|d| d.severity == tickpond_lang::Severity::Error).count()
    };
    if errors(&renamed) > errors(text) {
        return Err(format!(
            "`{}` cannot be renamed alone: it is a word of the language here",
            name.text
        ));
    }
    Ok(renamed)
}

/// The names a text defines, with the bytes they stand at.
pub(crate) fn defined(words: &Words<'_>) -> Vec<(u32, Candidate)> {
    let mut found = Vec::new();
    for at in (0..words.tokens.len()).filter(|at| words.is_name(*at) && words.defines(*at)) {
        let before = words.word_before(at);
        let sort = match before {
            "kind" => "kind",
            "spawner" => "spawner",
            "behavior" => "behaviour",
            "to" | "value" => "function",
            "routine" => "routine",
            "knob" => "knob",
            "spots" => "spots",
            "zone" => "zone",
            "input" => "input",
            "message" => "message",
            "watch" => "watch",
            "mount" => "mount",
            "tag" => "tag",
            _ => match words.block_of(at) {
                Some("vars") => "variable",
                Some("states") => "state",
                _ => "value",
            },
        };
        found.push((
            words.tokens[at].span.start,
            Candidate { text: words.word(at).to_string(), sort },
        ));
    }
    found
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
        name_at(TEXT, at).unwrap()
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
        assert_eq!(definition(TEXT, &name(word, nth)).map(line), Some(wanted));
    }

    #[rstest]
    #[case("drift", vec![2, 7, 8])]
    #[case("midge", vec![4, 11, 14])]
    fn uses_are_all_places(#[case] word: &str, #[case] wanted: Vec<usize>) {
        let lines: Vec<usize> = uses(TEXT, &name(word, 0)).into_iter().map(line).collect();
        assert_eq!(lines, wanted);
    }

    #[rstest]
    fn renaming_changes_every_use_and_still_compiles() {
        let renamed = rename(TEXT, &name("midge", 0), "gnat").unwrap();
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
        let name = name_at(&text, at).unwrap();
        assert_eq!(name.text, "bites");
        assert_eq!(definition(&text, &name).map(|s| &text[s.range()]), Some("bites"));
        assert_eq!(uses(&text, &name).len(), 2);
        let renamed = rename(&text, &name, "meals").unwrap();
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
        for name in ["hops", "scatter", "twice"] {
            let used = text.rfind(name).unwrap() as u32;
            let name = name_at(&text, used).unwrap();
            let defined = definition(&text, &name).unwrap();
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
        let error = rename(TEXT, &name("midge", 0), new).unwrap_err();
        assert!(error.contains(words), "{error}");
    }

    #[rstest]
    fn a_word_of_the_language_is_not_renamed() {
        assert!(rename(TEXT, &name("every", 0), "always_now").is_err());
    }

    #[rstest]
    fn items_begin_at_their_first_word() {
        let heads: Vec<&str> = items(TEXT)
            .iter()
            .map(|span| TEXT[span.range()].split_whitespace().next().unwrap_or(""))
            .collect();
        assert_eq!(heads, ["pond", "knob", "message", "kind", "kind", "place"]);
    }
}
