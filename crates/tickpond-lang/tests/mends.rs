//! A mend that is offered takes the mistake away, and brings no other.

use std::path::PathBuf;

use rstest::rstest;
use tickpond_lang::{Diagnostic, Mend, Severity, compile};

fn mended(text: &str, mend: &Mend) -> String {
    format!("{}{}{}", &text[..mend.span.start as usize], mend.text, &text[mend.span.end as usize..])
}

/// How many of each code and words are told; places move with a mend.
fn told(text: &str) -> Vec<(String, String)> {
    let all = compile(text).diagnostics;
    let mut told: Vec<(String, String)> =
        all.iter().map(|d| (d.code.as_str().to_string(), d.message.clone())).collect();
    told.sort();
    told
}

/// Applies each mend of a text by itself and looks at what is told then.
fn check_mends(text: &str) -> usize {
    let before = told(text);
    let diagnostics = compile(text).diagnostics;
    let with_mend: Vec<&Diagnostic> = diagnostics.iter().filter(|d| d.mend.is_some()).collect();
    for diagnostic in &with_mend {
        let mend = diagnostic.mend.as_ref().unwrap();
        let after = mended(text, mend);
        assert_ne!(after, text, "{diagnostic:?}");
        let now = told(&after);
        let own = (diagnostic.code.as_str().to_string(), diagnostic.message.clone());
        let count = |list: &[(String, String)]| list.iter().filter(|t| **t == own).count();
        assert!(count(&now) < count(&before), "{own:?} stays:\n{after}\n{now:?}");
        // A mend of an error may let the checker see further; it never leaves a broken text behind.
        let syntax = |list: &[(String, String)]| {
            list.iter()
                .filter(|(code, _)| code.starts_with("E01") || code.starts_with("E02"))
                .count()
        };
        assert!(syntax(&now) <= syntax(&before), "{own:?}:\n{after}\n{now:?}");
    }
    with_mend.len()
}

#[rstest]
fn mends_of_the_wrong_ponds_mend(#[files("../../ponds/wrong/*.wrong")] path: PathBuf) {
    check_mends(&std::fs::read_to_string(path).unwrap());
}

#[rstest]
fn mends_of_the_pages_mend(#[files("pages/*.md")] path: PathBuf) {
    let page = std::fs::read_to_string(path).unwrap();
    for example in page.split("```pond\n").skip(1).filter_map(|b| b.split("```").next()) {
        check_mends(example);
    }
}

#[rstest]
fn many_mistakes_of_one_text_have_mends_of_their_own() {
    let text = "pond \"t\" { arena 100 x 100 }\nknob drift = 6\n\
        kind midge { on birth { speed = drift; sped = 3 u/s; heading = 90 }\n\
        every 0.01 s { turn by 3; turm by 3 deg } }\nplace mige at (1, 1)\nplace midge at (2, 2) facing 9 deg";
    assert!(check_mends(text) >= 6, "{:#?}", compile(text).diagnostics);
}

#[rstest]
#[case::misspelt_kind("place mige at (1, 1)\nkind midge { look \"m\" }", "place midge at (1, 1)")]
#[case::misspelt_field(
    "place a at (1, 1)\nkind a { on birth { sped = 3 u/s } }",
    "{ speed = 3 u/s }"
)]
#[case::bare_speed("place a at (1, 1)\nkind a { on birth { speed = 3 } }", "speed = 3 u/s")]
#[case::bare_angle("place a at (1, 1)\nkind a { every tick { turn by 3 } }", "turn by 3 deg")]
#[case::bare_time("place a at (1, 1)\nkind a { after 3 { end self } }", "after 3 s")]
#[case::missing_comma("kind a { look \"a\" }\nplace a at (1, 1) facing 90 deg", "(1, 1), facing")]
#[case::missing_comma_in_a_body(
    "kind a { body box 1 u x 2 u, solid fixed upright }\nplace a at (1, 1)",
    "fixed, upright"
)]
#[case::missing_comma_in_a_spawn(
    "kind a { after 1 s { spawn b at here speed 3 u/s } }\nkind b { after 1 s { end self } }\nplace a at (1, 1)",
    "at here, speed 3"
)]
fn a_mend_says_exactly_this(#[case] items: &str, #[case] wanted: &str) {
    let text = format!("pond \"t\" {{ arena 100 x 100 }}\n{items}");
    let compiled = compile(&text);
    let mend = compiled.diagnostics.iter().find_map(|d| d.mend.as_ref());
    let after = mended(&text, mend.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics)));
    assert!(after.contains(wanted), "{after}");
    let errors = compile(&after).diagnostics;
    assert!(errors.iter().all(|d| d.severity != Severity::Error), "{errors:?}");
}

#[rstest]
#[case::two_would_fit(
    "place a at (1, 1)\nkind ab { look \"a\" }\nkind ac { look \"b\" }\nplace ad at (1, 1)"
)]
#[case::nothing_is_near("place zzzzzz at (1, 1)\nkind midge { look \"m\" }")]
#[case::a_pair_and_a_number(
    "place a at (1, 1)\nkind a { every tick { if pos > 3 u { end self } } }"
)]
fn where_it_is_not_certain_no_mend_is_offered_that_breaks_more(#[case] items: &str) {
    check_mends(&format!("pond \"t\" {{ arena 100 x 100 }}\n{items}"));
}
