//! What `editors/` has, tried: Neovim's own client on a pond with mistakes, and the grammar on every shipped pond.

mod common;

use std::cell::RefCell;
use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::process::Command;

use common::PROGRAM;
use rstest::rstest;
use serde_json::Value;

fn editors() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../editors").canonicalize().unwrap()
}

#[rstest]
fn neovim_tells_completes_mends_and_renames() {
    let folder = tempfile::tempdir().unwrap();
    let pond = folder.path().join("slip.pond");
    let text = "pond \"t\" { arena 10 x 10 }\nkind midge {\n    on birth { say \"{count(midge)} here\" }\n}\nplace mige at (1, 1)\n";
    std::fs::write(&pond, text).unwrap();
    let out = folder.path().join("found.json");
    let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/common/neovim.lua");
    let path = |path: &Path| path.display().to_string();
    let done = Command::new("nvim")
        .args(["--headless", "--clean", "-n"])
        .args(["--cmd", &format!("set runtimepath^={}", path(&editors().join("neovim")))])
        .args(["--cmd", &format!("let g:tickpond = '{PROGRAM}'")])
        .args(["-c", &format!("luafile {}", path(&script))])
        .env("POND", &pond)
        .env("OUT", &out)
        .env("XDG_STATE_HOME", folder.path())
        .env("XDG_CACHE_HOME", folder.path())
        .output()
        .expect("the tests need Neovim; scripts/test installs it");
    let said = String::from_utf8_lossy(&done.stderr).into_owned();
    assert!(done.status.success(), "{said}");
    let found: Value = serde_json::from_str(&std::fs::read_to_string(&out).unwrap()).unwrap();
    assert_eq!(found["filetype"], "pond");
    assert_eq!(found["diagnostics"][0]["code"], "E0301");
    assert_eq!(
        (&found["diagnostics"][0]["line"], &found["diagnostics"][0]["column"]),
        (&4.into(), &6.into())
    );
    assert_eq!(found["first"], "midge");
    assert_eq!(found["mend"], "Replace `mige` by `midge`");
    let renamed = text.replace("mige", "midge").replace("midge", "gnat");
    assert_eq!(found["text"].as_str().unwrap(), renamed.trim_end());
}

/// The words between two marks in a file, parted at anything that is no letter.
fn listed(file: &str, from: &str, to: &str) -> Vec<String> {
    let text = std::fs::read_to_string(editors().join(file)).unwrap();
    let start = text.find(from).unwrap_or_else(|| panic!("{file}: no {from}")) + from.len();
    let end = start + text[start..].find(to).unwrap();
    let words = text[start..end].split(|c: char| !c.is_alphabetic()).filter(|w| !w.is_empty());
    words.map(str::to_string).collect()
}

#[rstest]
#[case::kakoune("kakoune/pond.kak", "code/word regex '\\b(", ")\\b'")]
#[case::emacs("emacs/pond-mode.el", "(defconst pond-mode-words", "\"Words of")]
#[case::textmate(
    "textmate/pond.tmLanguage.json",
    "\"keyword\": {\n      \"match\": \"\\\\b(?:",
    ")"
)]
fn each_grammar_has_the_words_of_the_language(
    #[case] file: &str,
    #[case] from: &str,
    #[case] to: &str,
) {
    assert_eq!(listed(file, from, to), tickpond_lang::words::KEYWORDS);
}

/// Reads a text as the format of TextMate grammars says: of the patterns that are active the one that matches first,
/// and of those that match at one place the one that stands first.
struct Grammar {
    repository: Value,
}

/// A stretch of a line and what it is.
type Piece = (std::ops::Range<usize>, String);

impl Grammar {
    fn read() -> Grammar {
        let path = editors().join("textmate/pond.tmLanguage.json");
        let json: Value = serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap();
        Grammar { repository: json["repository"].clone() }
    }

    /// The patterns of a rule, includes resolved.
    fn patterns(&self, rule: &Value) -> Vec<Value> {
        let resolve = |pattern: &Value| match pattern["include"].as_str() {
            Some(name) => {
                let rule = &self.repository[name.trim_start_matches('#')];
                if rule["patterns"].is_array() && rule["begin"].is_null() {
                    self.patterns(rule)
                } else {
                    vec![rule.clone()]
                }
            }
            None => vec![pattern.clone()],
        };
        rule["patterns"].as_array().into_iter().flatten().flat_map(resolve).collect()
    }

    /// The pieces of a line; no state goes from one line to the next in this language.
    fn pieces(&self, line: &str) -> Vec<Piece> {
        let mut found = Vec::new();
        let mut stack: Vec<(Value, usize)> = vec![(self.repository["code"].clone(), 0)];
        let mut at = 0;
        while let Some((rule, began)) = stack.last().cloned() {
            let end = rule["end"].as_str().and_then(|end| first(end, line, at));
            let next = self
                .patterns(&rule)
                .into_iter()
                .filter_map(|pattern| {
                    let begins = pattern["match"].as_str().or(pattern["begin"].as_str())?;
                    Some((first(begins, line, at)?, pattern))
                })
                .min_by_key(|(range, _)| range.start);
            match (end, next) {
                // What ends a rule goes before what begins another at the same place.
                (Some(end), next) if next.as_ref().is_none_or(|(n, _)| end.start <= n.start) => {
                    found.push((began..end.end, rule["name"].as_str().unwrap_or("").to_string()));
                    stack.pop();
                    at = end.end;
                }
                (_, Some((range, pattern))) => {
                    if pattern["begin"].is_string() {
                        at = range.end;
                        stack.push((pattern, range.start));
                        continue;
                    }
                    match pattern["captures"].as_object() {
                        Some(captures) => {
                            let re = fancy_regex::Regex::new(pattern["match"].as_str().unwrap());
                            let groups = re.unwrap().captures_from_pos(line, at).unwrap().unwrap();
                            for (group, what) in captures {
                                let Some(group) = groups.get(group.parse().unwrap()) else {
                                    continue;
                                };
                                found.push((group.range(), what["name"].as_str().unwrap().into()));
                            }
                        }
                        None => {
                            found.push((range.clone(), pattern["name"].as_str().unwrap().into()))
                        }
                    }
                    at = range.end.max(at + usize::from(range.is_empty()));
                }
                _ => break,
            }
            if at > line.len() {
                break;
            }
        }
        found
    }
}

fn first(pattern: &str, line: &str, from: usize) -> Option<std::ops::Range<usize>> {
    thread_local! {
        static KNOWN: RefCell<HashMap<String, fancy_regex::Regex>> = RefCell::default();
    }
    KNOWN.with_borrow_mut(|known| {
        let compiled = || fancy_regex::Regex::new(pattern).unwrap();
        let regex = known.entry(pattern.to_string()).or_insert_with(compiled);
        regex.find_from_pos(line, from).unwrap().map(|found| found.range())
    })
}

#[rstest]
fn the_grammar_reads_every_shipped_pond() {
    use tickpond_lang::syntax::SyntaxKind as S;
    let grammar = Grammar::read();
    let ponds = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../ponds");
    let gallery = std::fs::read_dir(ponds.join("gallery")).unwrap().map(|e| e.unwrap().path());
    let (mut wrong, mut checked) = (Vec::new(), 0);
    for path in gallery.chain([ponds.join("dusk.pond")]) {
        let text = std::fs::read_to_string(&path).unwrap();
        let root = tickpond_lang::parse::parse(&text).root();
        let lines: Vec<(usize, Vec<Piece>)> = text
            .split_inclusive('\n')
            .scan(0, |at, line| {
                let start = *at;
                *at += line.len();
                Some((start, grammar.pieces(line.trim_end_matches('\n'))))
            })
            .collect();
        for token in root.descendants_with_tokens().filter_map(|e| e.into_token()) {
            let scope = match token.kind() {
                S::Keyword => "keyword",
                S::Comment => "comment",
                S::Number => "constant.numeric",
                S::Text => "string",
                _ => continue,
            };
            let span: tickpond_lang::Span = token.text_range().into();
            let (start, end) = (span.start as usize, span.end as usize);
            let (line, pieces) = lines.iter().rev().find(|(at, _)| *at <= start).unwrap();
            let here = |(range, name): &&Piece| {
                range.start + line == start && range.end + line == end && name.starts_with(scope)
            };
            checked += 1;
            if !pieces.iter().any(|piece| here(&piece)) {
                wrong.push(format!("{}: {} {:?}", path.display(), token.text(), token.kind()));
            }
        }
    }
    assert!(checked > 4_000, "{checked}");
    assert_eq!(wrong, Vec::<String>::new());
}
