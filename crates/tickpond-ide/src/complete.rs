//! What could stand at a place of a text: what the parser looks for there, by sort, nearest first.

use tickpond_lang::lex::LexToken;
use tickpond_lang::parse::{Expected, expected_at};
use tickpond_lang::program::Cause;
use tickpond_lang::syntax::SyntaxKind;
use tickpond_lang::units::{Dim, UNITS};
use tickpond_lang::words::{COLOURS, FIELDS, KEYS, SET_FIELDS, VALUES, functions, types};
use tickpond_lang::{Code, Severity, Span};

use crate::document::Document;
use crate::words::Words;

/// Something that could stand at a place.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Candidate {
    /// What is put there.
    pub text: String,
    /// What it is: kind, knob, field, unit, word…
    pub sort: &'static str,
}

/// The longest text for which each unit is tried behind a number.
const TRIED_UP_TO: usize = 100_000;

/// What could stand at a byte of a text, and the stretch it would take the place of. Sorts come in the order in which
/// the parser looks for them; names of one sort by how near they were used last. What begins with what is typed comes
/// before what holds it.
pub fn candidates(document: &Document, byte: u32) -> (Span, Vec<Candidate>) {
    let text = document.text.as_str();
    let words = Words::of(text);
    let typed = words.tokens.iter().position(|t| {
        matches!(t.kind, SyntaxKind::Ident | SyntaxKind::Keyword)
            && t.span.start < byte
            && byte <= t.span.end
    });
    // A unit is a part of the number's token.
    let number = words
        .tokens
        .iter()
        .find(|t| t.kind == SyntaxKind::Number && t.span.start < byte && byte <= t.span.end);
    let start = match (typed, number) {
        (Some(at), _) => words.tokens[at].span.start,
        (None, Some(token)) => {
            let written = text.get(token.span.start as usize..byte as usize).unwrap_or("");
            let digits = written.trim_end_matches(|c: char| c.is_alphabetic() || c == '/');
            token.span.start + digits.len() as u32
        }
        (None, None) => byte,
    };
    let span = Span { start, end: byte };
    let written = text.get(span.range()).unwrap_or("");
    let mut found: Vec<Candidate> = Vec::new();
    let mut seen = std::collections::HashSet::new();
    let mut add = |sort: &'static str, text: &str| {
        if seen.insert(text.to_string()) {
            found.push(Candidate { text: text.to_string(), sort });
        }
    };
    let before = text.get(..start as usize).unwrap_or("");
    let number = before.trim_end_matches(' ');
    // Blanks before the place do not part a number from its unit.
    let end = number.len() as u32;
    let ends_in = |t: &LexToken| t.span.start < end && end <= t.span.end;
    let number_here = |t: &&LexToken| t.kind == SyntaxKind::Number && ends_in(t);
    if let Some(token) = words.tokens.iter().find(number_here) {
        let units = match document.model.wanted(token.span) {
            Some(dim) => units_of(|of| of == dim),
            None => units(text, number.len(), byte as usize),
        };
        units.into_iter().for_each(|unit| add("unit", unit));
    }
    let known = Known::of(&words, document, start);
    // Names first, in the order in which they are looked for; then the words.
    let expected = expected_at(text, start);
    for expected in &expected {
        match expected {
            Expected::Name(what) => known.named(what, &mut add),
            Expected::Value => known.values(&mut add),
            Expected::Word(_) => {}
        }
    }
    let follows_on = before.trim_end().ends_with(" on") || before.trim_end() == "on";
    for expected in &expected {
        if let Expected::Word(word) = expected {
            let sort = match (COLOURS.contains(&word.as_str()), follows_on) {
                (true, _) => "colour",
                (_, true) => "event",
                _ => "word",
            };
            add(sort, word);
        }
    }
    if follows_on {
        // What every text has comes before what this one says.
        found.sort_by_key(|c| c.sort != "event");
    }
    found.retain(|c| c.text.contains(written) && c.text != written);
    found.sort_by_key(|c| !c.text.starts_with(written));
    (span, found)
}

/// The units of the quantities that pass; the short ones, which are the usual ones, first.
fn units_of(passes: impl Fn(Dim) -> bool) -> Vec<&'static str> {
    let mut units: Vec<&'static str> =
        UNITS.iter().filter(|unit| passes(unit.dim)).map(|unit| unit.name).collect();
    units.sort_by_key(|unit| unit.len());
    units
}

/// The units that fit a number where the checker does not know what is wanted, as in a text that is not whole yet: by
/// trying one of each quantity. All, if the text is too long to be tried, or none fits.
fn units(text: &str, number_ends: usize, byte: usize) -> Vec<&'static str> {
    let mut quantities: Vec<(Dim, &str)> = Vec::new();
    for unit in UNITS {
        if quantities.iter().all(|(dim, _)| *dim != unit.dim) {
            quantities.push((unit.dim, unit.name));
        }
    }
    if text.len() > TRIED_UP_TO {
        return units_of(|_| true);
    }
    let fits = |unit: &str, end: &str| {
        let with = format!("{} {unit}{end}", &text[..number_ends]);
        let compiled = tickpond_lang::compile(&with);
        let end = (number_ends + 1 + unit.len()) as u32;
        !compiled.diagnostics.iter().any(|d| {
            let here = d.span.start < end && d.span.end >= number_ends as u32;
            let of_form = matches!(d.code, Code::Syntax | Code::OpenBracket);
            here && d.severity == Severity::Error && !of_form
        })
    };
    // As the text goes on; or, where its form is not whole yet, with what would make it so.
    let rest = text.get(byte..).unwrap_or("");
    let closed = "\n}".repeat(text[..number_ends].matches('{').count());
    for end in [rest, &format!(" {{ }}{closed}")] {
        let fitting: Vec<Dim> =
            quantities.iter().filter(|(_, unit)| fits(unit, end)).map(|(dim, _)| *dim).collect();
        if !fitting.is_empty() && fitting.len() < quantities.len() {
            return units_of(|dim| fitting.contains(&dim));
        }
    }
    units_of(|_| true)
}

/// The names of a text with how near they are to a place.
struct Known(Vec<Candidate>);

impl Known {
    fn of(words: &Words<'_>, document: &Document, byte: u32) -> Known {
        let (around, nearest) = (words.item_around(byte), words.nearest(byte));
        let mut names: Vec<(u32, Candidate)> = document
            .model
            .definitions()
            // What lives in a handler ends with the item it stands in.
            .filter(|name| !name.sort.is_local() || around.contains(&name.span.start))
            .map(|name| {
                let far = nearest.get(name.name.as_str()).copied().unwrap_or(u32::MAX);
                (far, Candidate { text: name.name.clone(), sort: name.sort.noun() })
            })
            .collect();
        names.sort_by(|a, b| a.0.cmp(&b.0).then_with(|| a.1.cmp(&b.1)));
        Known(names.into_iter().map(|(_, name)| name).collect())
    }

    fn of_sorts(&self, sorts: &[&'static str], add: &mut impl FnMut(&'static str, &str)) {
        for sort in sorts {
            for name in self.0.iter().filter(|name| name.sort == *sort) {
                add(name.sort, &name.text);
            }
        }
    }

    /// The names a message asks for.
    fn named(&self, what: &str, add: &mut impl FnMut(&'static str, &str)) {
        match what {
            "the kind or spawner to place" => self.of_sorts(&["kind", "spawner"], add),
            "a kind or a tag" => self.of_sorts(&["kind", "tag"], add),
            "a kind" | "the kind it makes" | "the kind it follows" => self.of_sorts(&["kind"], add),
            "a state" | "the state's name" => self.of_sorts(&["state"], add),
            "an input" | "a pointer input" => self.of_sorts(&["input"], add),
            "a zone" => self.of_sorts(&["zone"], add),
            "a zone, or `arena`" => {
                self.of_sorts(&["zone"], add);
                add("word", "arena");
            }
            "the message" => self.of_sorts(&["message"], add),
            "a behaviour's name" => self.of_sorts(&["behaviour"], add),
            "a mount" => self.of_sorts(&["mount"], add),
            "a ray's name" => self.of_sorts(&["value"], add),
            "a spot group" => self.of_sorts(&["spots"], add),
            "a variable" => {
                self.of_sorts(&["variable"], add);
                SET_FIELDS.iter().for_each(|field| add("field", field));
                self.of_sorts(&["function"], add);
            }
            "a field" => {
                self.of_sorts(&["variable"], add);
                FIELDS.iter().for_each(|field| add("field", field));
            }
            "a cause" => Cause::ALL.iter().for_each(|cause| add("cause", cause.name())),
            what if what.starts_with("an event") => self.of_sorts(&["message"], add),
            what if what.starts_with("a type") => types().for_each(|ty| add("type", ty)),
            what if what.starts_with("a key") => KEYS.iter().for_each(|key| add("key", key)),
            // The rest are names that are only now given.
            _ => {}
        }
    }

    fn values(&self, add: &mut impl FnMut(&'static str, &str)) {
        self.of_sorts(&["value", "variable", "knob", "spots"], add);
        FIELDS.iter().for_each(|field| add("field", field));
        self.of_sorts(&["watch", "function", "kind", "state"], add);
        VALUES.iter().for_each(|word| add("word", word));
        functions().for_each(|(name, _)| add("word", name));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const TEXT: &str = "pond \"t\" { arena 10 x 10 }
knob drift = 6 u/s
spots stones { (1, 1) }
input hop = key space
message warn(level: number)
kind midge {
    vars { calm = true }
    states { still, afraid }
    on birth { speed = drift }
    on warn(level) from who { speed = drift * level; calm = false }
}
kind frog {
    every 1 s { if nearest(midge) as m { heading = direction to m } }
}
spawner bed { makes midge at here; every 2 s }
place midge at (1, 1)
";

    /// What is offered where the bar stands, behind the text.
    fn offered(typed: &str) -> Vec<Candidate> {
        let at = typed.find('|').unwrap();
        let text = format!("{TEXT}{}", &typed[..at]);
        candidates(&Document::new(text.clone()), text.len() as u32).1
    }

    fn sorts(typed: &str) -> Vec<&'static str> {
        let mut sorts: Vec<&str> = offered(typed).iter().map(|c| c.sort).collect();
        sorts.dedup();
        sorts
    }

    #[rstest]
    #[case("kind drop { on birth { speed = dr|", "drift", "knob")]
    #[case("place mi|", "midge", "kind")]
    #[case("kind drop { look \"v\" te|", "teal", "colour")]
    #[case("kind drop { on bi|", "birth", "event")]
    #[case("kind drop { on w|", "warn", "message")]
    #[case("kind drop { on press |", "hop", "input")]
    #[case("kind drop { on birth { send w|", "warn", "message")]
    #[case("kind drop { on birth { spawn mi|", "midge", "kind")]
    #[case("kind drop { on birth { spawn midge any|", "anywhere", "word")]
    #[case("kind drop { on birth { become st|", "still", "state")]
    #[case("ev|", "every", "word")]
    #[case("every 3 s { each midge as m { say = m.hea|", "health", "field")]
    #[case("expect \"x\": al|", "always", "word")]
    #[case("kind drop { on end by tim|", "timer", "cause")]
    #[case("input leap = key sp|", "space", "key")]
    fn what_could_stand_there_comes_first(
        #[case] typed: &str,
        #[case] wanted: &str,
        #[case] sort: &str,
    ) {
        let found = offered(typed);
        let first = found.iter().position(|c| c.text == wanted && c.sort == sort);
        assert!(first.is_some_and(|at| at < 2), "{found:?}");
    }

    #[rstest]
    #[case("kind drop { look \"v\" |", &["colour"])]
    #[case("kind drop { on |", &["event", "message"])]
    #[case("place |", &["kind", "spawner"])]
    fn nothing_else_is_offered(#[case] typed: &str, #[case] wanted: &[&str]) {
        assert_eq!(sorts(typed), wanted, "{:?}", offered(typed));
    }

    #[rstest]
    #[case("kind drop { after 3 |", &["s", "ms", "min", "ticks"], &["u", "deg", "u/s"])]
    #[case("kind drop { every 0.5|", &["s", "ticks"], &["u", "deg"])]
    #[case("kind drop { on birth { heading = 90 |", &["deg"], &["s", "u"])]
    #[case("kind drop { on birth { speed = 6 |", &["u/s"], &["s", "deg"])]
    #[case("kind drop { body circle 2 |", &["u"], &["s", "deg"])]
    #[case("kind drop { on birth { turn by 9 |", &["deg"], &["s", "u"])]
    #[case("kind drop { on birth { wait 2 m|", &["ms", "min"], &["u", "deg"])]
    fn units_fit_the_quantity(#[case] typed: &str, #[case] wanted: &[&str], #[case] not: &[&str]) {
        let units: Vec<String> =
            offered(typed).into_iter().filter(|c| c.sort == "unit").map(|c| c.text).collect();
        assert!(wanted.iter().all(|unit| units.iter().any(|u| u == unit)), "{units:?}");
        assert!(!not.iter().any(|unit| units.iter().any(|u| u == unit)), "{units:?}");
    }

    #[rstest]
    fn nothing_is_offered_twice() {
        for typed in ["kind drop { on birth { |", "kind drop { on birth { x = |", "|"] {
            let mut texts: Vec<String> = offered(typed).into_iter().map(|c| c.text).collect();
            let count = texts.len();
            texts.sort();
            texts.dedup();
            assert_eq!(texts.len(), count, "{typed}");
        }
    }

    #[rstest]
    fn the_nearest_comes_first() {
        let kinds = |typed: &str| -> Vec<String> {
            offered(typed).into_iter().filter(|c| c.sort == "kind").map(|c| c.text).collect()
        };
        assert_eq!(kinds("place |")[0], "midge");
        assert_eq!(kinds("place frog at (2, 2)\nplace |")[0], "frog");
    }

    #[rstest]
    fn what_lives_in_another_handler_is_not_offered() {
        let names = offered("kind drop { on birth { x = |");
        let others = names.iter().filter(|c| c.text == "m" || c.text == "who" || c.text == "level");
        assert_eq!(others.collect::<Vec<_>>(), Vec::<&Candidate>::new());
    }
}
