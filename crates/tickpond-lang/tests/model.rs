//! The model of a text's names: nothing is left out, and what it says is so.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use rstest::rstest;
use tickpond_lang::Span;
use tickpond_lang::model::Model;
use tickpond_lang::parse::parse;
use tickpond_lang::syntax::SyntaxKind;

/// The names of a text, by the tree: identifiers that are no keywords.
fn names(text: &str) -> Vec<Span> {
    let root = parse(text).root();
    let tokens = root.descendants_with_tokens().filter_map(|e| e.into_token());
    tokens.filter(|t| t.kind() == SyntaxKind::Ident).map(|t| t.text_range().into()).collect()
}

/// The names of which the model knows nothing.
fn unknown(text: &str, model: &Model) -> Vec<String> {
    let known = |span: &Span| !model.meanings(*span).is_empty() || model.word(*span).is_some();
    let unknown = names(text).into_iter().filter(|span| !known(span));
    let line = |span: Span| text[..span.start as usize].matches('\n').count() + 1;
    unknown.map(|span| format!("{}: {}", line(span), &text[span.range()])).collect()
}

fn ponds() -> Vec<PathBuf> {
    fn below(folder: &Path, found: &mut Vec<PathBuf>) {
        for entry in std::fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                below(&path, found);
            } else if path.extension().is_some_and(|e| e == "pond") {
                found.push(path);
            }
        }
    }
    let mut found = Vec::new();
    below(&Path::new(env!("CARGO_MANIFEST_DIR")).join("../../ponds"), &mut found);
    found.sort();
    found
}

#[rstest]
fn every_name_of_every_shipped_pond_is_known() {
    let mut left = Vec::new();
    for path in ponds() {
        let text = std::fs::read_to_string(&path).unwrap();
        let (compiled, model) = tickpond_lang::understand(&text);
        if compiled.program.is_some() {
            let name = path.file_name().unwrap().to_string_lossy().into_owned();
            left.extend(unknown(&text, &model).into_iter().map(|word| format!("{name}:{word}")));
        }
    }
    assert_eq!(left, Vec::<String>::new());
}

#[rstest]
fn a_mistake_further_down_takes_no_name_away() {
    for path in ponds() {
        let text = std::fs::read_to_string(&path).unwrap();
        if tickpond_lang::compile(&text).program.is_none() {
            continue;
        }
        let broken = format!("{text}\nkind ! {{ on birth {{ speed = \n");
        let (compiled, model) = tickpond_lang::understand(&broken);
        assert!(compiled.has_errors());
        let whole = tickpond_lang::understand(&text).1;
        for span in names(&text) {
            let meant = |model: &Model| -> Vec<Span> {
                model.meanings(span).into_iter().map(|d| d.span).collect()
            };
            assert_eq!(meant(&model), meant(&whole), "{path:?} {}", &text[span.range()]);
        }
    }
}

/// Of a text with mistakes, each name is known or told of.
#[rstest]
fn of_a_wrong_pond_each_name_is_known_or_told_of() {
    let mut left = BTreeSet::new();
    for path in ponds() {
        let text = std::fs::read_to_string(&path).unwrap();
        let (compiled, model) = tickpond_lang::understand(&text);
        for span in names(&text) {
            let known = !model.meanings(span).is_empty() || model.word(span).is_some();
            let near = |d: &tickpond_lang::Diagnostic| {
                let line = |byte: u32| text[..byte as usize].matches('\n').count();
                line(d.span.start) <= line(span.start) && line(span.start) <= line(d.span.end)
            };
            if !known && !compiled.diagnostics.iter().any(near) {
                let name = path.file_name().unwrap().to_string_lossy().into_owned();
                left.insert(format!("{name}:{}: {}", span.start, &text[span.range()]));
            }
        }
    }
    assert_eq!(left, BTreeSet::new());
}

const TEXT: &str = "pond \"t\" { arena 10 x 10 }
knob drift = 6 u/s
message warn(level: number)
behavior hops(pace: speed) { vars { hops = 0 } on birth { speed = pace; hops += 1 } }
behavior unused(pace: speed) { vars { left = 3 } every 1 s { left -= 1; speed = pace * left } }
to scatter(n: number) { repeat n times { say \"{n} of {drift}\" } }
to never(what: kind, n: number) { repeat n times as i { say \"{i}\"; damage self by n } }
value twice(n: number) = n * 2
value thrice(m: number) = m * 3
kind midge {
    vars { calm = true }
    states { still, afraid }
    uses hops(drift)
    on birth { speed = drift; scatter(twice(2)) }
    on warn(level) from who { calm = level > 2; if state == still { become afraid } }
    every 1 s { if hops.hops > 2 { calm = false } }
}
kind frog {
    vars { calm = 2 }
    every 1 s { if nearest(midge) as m { heading = direction to m; say \"{m.calm}\" } }
}
every 1 s { if any(midge where calm) { say \"{count(midge where state == afraid)}\" } }
place midge at (1, 1)
";

/// The span of the nth time a word stands in the text, by itself.
fn nth(word: &str, nth: usize) -> Span {
    let is_part = |at: usize| {
        let (before, behind) = (&TEXT[..at], &TEXT[at + word.len()..]);
        let part = |c: char| c.is_alphanumeric() || c == '_';
        before.ends_with(part) || behind.starts_with(part)
    };
    let at = TEXT.match_indices(word).map(|(at, _)| at).filter(|at| !is_part(*at)).nth(nth);
    let start = at.unwrap_or_else(|| panic!("{word} {nth}")) as u32;
    Span { start, end: start + word.len() as u32 }
}

#[rstest]
#[case::knob_in_a_text("drift", 1, 0)]
#[case::knob_as_value_of_a_behaviour("drift", 2, 0)]
#[case::parameter_of_a_behaviour("pace", 1, 0)]
#[case::parameter_in_a_text("n", 2, 0)]
#[case::of_a_behaviour_nobody_uses("left", 1, 0)]
#[case::its_parameter("pace", 3, 2)]
#[case::of_a_function_nobody_calls("i", 1, 0)]
#[case::of_a_value_nobody_asks("m", 1, 0)]
#[case::a_function("twice", 1, 0)]
#[case::a_state("still", 1, 0)]
#[case::a_state_in_a_query("afraid", 2, 0)]
#[case::behaviour_of_a_field("hops", 4, 0)]
#[case::field_of_a_behaviour("hops", 5, 1)]
#[case::a_local("m", 3, 2)]
#[case::message("warn", 1, 0)]
fn a_use_means_its_definition(#[case] word: &str, #[case] used: usize, #[case] defined: usize) {
    let (compiled, model) = tickpond_lang::understand(TEXT);
    assert!(compiled.program.is_some(), "{:?}", compiled.diagnostics);
    let meanings: Vec<Span> = model.meanings(nth(word, used)).iter().map(|d| d.span).collect();
    assert_eq!(meanings, [nth(word, defined)]);
    assert!(model.same(nth(word, used)).contains(&nth(word, used)));
}

/// The variable `calm` of each kind is a name of its own.
#[rstest]
fn names_that_are_written_alike_are_told_apart() {
    let model = tickpond_lang::understand(TEXT).1;
    assert_eq!(
        model.same(nth("calm", 0)),
        [nth("calm", 0), nth("calm", 1), nth("calm", 2), nth("calm", 4), nth("calm", 5)]
    );
    assert_eq!(model.same(nth("calm", 3)), [nth("calm", 3)]);
    assert_eq!(unknown(TEXT, &model), Vec::<String>::new());
}

/// Words of the language's form are those of the table.
#[rstest]
fn the_table_has_every_word() {
    use tickpond_lang::words::KEYWORDS;
    assert!(KEYWORDS.is_sorted() && KEYWORDS.windows(2).all(|pair| pair[0] != pair[1]));
    let docs = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/language.md");
    let reference = std::fs::read_to_string(docs).unwrap();
    let blocks = reference.split("```").skip(1).step_by(2);
    let mut texts: Vec<String> = blocks
        .map(|block| block.split_once('\n').map_or("", |(_, rest)| rest).to_string())
        .collect();
    texts.extend(ponds().iter().map(|path| std::fs::read_to_string(path).unwrap()));
    let mut used = BTreeSet::new();
    for text in &texts {
        let root = parse(text).root();
        let tokens = root.descendants_with_tokens().filter_map(|e| e.into_token());
        let words = tokens.filter(|t| t.kind() == SyntaxKind::Keyword);
        used.extend(words.map(|t| t.text().to_string()));
    }
    let left: Vec<&String> = used.iter().filter(|w| !KEYWORDS.contains(&w.as_str())).collect();
    assert_eq!(left, Vec::<&String>::new());
    // None is in the table for nothing.
    let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let sources: String = ["parse", "check"]
        .iter()
        .flat_map(|folder| std::fs::read_dir(source.join(folder)).unwrap())
        .filter(|entry| entry.as_ref().unwrap().path().is_file())
        .map(|entry| entry.unwrap().path())
        .chain([source.join("tree.rs")])
        .map(|path| std::fs::read_to_string(path).unwrap())
        .collect();
    let unknown = |word: &&&str| !sources.contains(&format!("\"{word}\""));
    let left: Vec<&&str> = KEYWORDS.iter().filter(unknown).collect();
    assert_eq!(left, Vec::<&&str>::new());
}
