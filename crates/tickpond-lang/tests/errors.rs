//! What is told about mistakes: code, place, words, help, mend.

use rstest::rstest;
use tickpond_lang::compile;

/// Code, the source pointed at, and the help of the first diagnostic.
fn first(items: &str) -> (String, String, String) {
    let text = format!("pond \"t\" {{ arena 100 x 100 }}\n{items}");
    let compiled = compile(&text);
    let d = compiled.diagnostics.first().unwrap_or_else(|| panic!("no mistake in {items}"));
    let source = text[d.span.range()].to_string();
    (d.code.as_str().to_string(), source, d.help.clone().unwrap_or_default())
}

#[rstest]
#[case::bare_speed(
    "place a at (1, 1)\nkind a { on birth { speed = 6 } }",
    "E0401",
    "6",
    "write `6 u/s`"
)]
#[case::length_for_speed(
    "place a at (1, 1)\nkind a { on birth { speed = 6 u } }",
    "E0401",
    "6 u",
    "u/s"
)]
#[case::number_for_angle(
    "place a at (1, 1)\nkind a { every tick { turn by 3 } }",
    "E0401",
    "3",
    "write `3 deg`"
)]
#[case::unit_too_many("place a at (1, 1)\nkind a { health 3 u }", "E0401", "3 u", "write `3`")]
#[case::mixed_sum("knob a = 1 u + 1 s", "E0401", "1 u + 1 s", "")]
#[case::pair_and_number(
    "place a at (1, 1)\nkind a { every tick { if pos > 3 u { end self } } }",
    "E0402",
    "pos > 3 u",
    "`.x`"
)]
#[case::knob_without_unit(
    "knob drift = 6\nplace a at (1, 1)\nkind a { on birth { speed = drift } }",
    "E0401",
    "drift",
    "`6 u/s`"
)]
#[case::misspelt_kind(
    "place mige at (1, 1)\nkind midge { look \"m\" }",
    "E0301",
    "mige",
    "`midge`"
)]
#[case::misspelt_field(
    "place a at (1, 1)\nkind a { every tick { sped = 6 u/s } }",
    "E0301",
    "sped",
    "`speed`"
)]
#[case::misspelt_event(
    "place a at (1, 1)\nkind a { on brith { end self } }",
    "E0301",
    "brith",
    "`birth`"
)]
#[case::other_s_field(
    "place a at (1, 1)\nkind a { body circle 1 u; on touch a as t { say \"{t.bite}\" } }",
    "E0403",
    "bite",
    ""
)]
#[case::kind_for_entity(
    "place a at (1, 1)\nkind a { every 1 s { damage a by 1 } }",
    "E0402",
    "a",
    ""
)]
#[case::message_to_kind(
    "message ho\nplace a at (1, 1)\nkind a { every 1 s { send ho to a } on ho { end self } }",
    "E0402",
    "a",
    "`to each a`"
)]
#[case::too_few_values(
    "message ho(n: number)\nplace a at (1, 1)\nkind a { every 1 s { send ho to self } on ho(n) { end self } }",
    "E0404",
    "send ho to self",
    ""
)]
#[case::same_head(
    "place a at (1, 1)\nkind a { after 1 s { end self }\nafter 1 s { end self } }",
    "E0503",
    "after 1 s",
    "one handler"
)]
#[case::endless("routine r { repeat { say \"x\" } }", "E0502", "repeat { say \"x\" }", "wait")]
#[case::wait_on_end(
    "place a at (1, 1)\nkind a { after 1 s { end self } on end { wait 1 s } }",
    "E0407",
    "wait 1 s",
    ""
)]
#[case::self_in_pond("after 1 s { end self }", "E0407", "self", "kind")]
#[case::single_equals(
    "place a at (1, 1)\nkind a { health 4; every tick { if health = 3 { end self } } }",
    "E0201",
    "=",
    "`==`"
)]
#[case::c_habit(
    "place a at (1, 1)\nkind a { every tick { if true && false { end self } } }",
    "E0101",
    "&&",
    "`and`"
)]
#[case::open_block("kind a { on birth {\nplace b at (1, 1)", "E0202", "{", "`}`")]
#[case::half_wrap(
    "kind a { look \"a\" }\npond \"u\" { arena 1 x 1; edges wrap left, open }",
    "E0204",
    "pond \"u\" { arena 1 x 1; edges wrap left, open }",
    ""
)]
#[case::no_body(
    "place a at (1, 1)\nkind a { on touch a { end self } }",
    "F0609",
    "on touch a",
    "body circle"
)]
#[case::foreign_var(
    "vars { n = 0 }\nplace a at (1, 1)\nkind a { every 1 s { n = 1 } }",
    "E0405",
    "n",
    "message"
)]
#[case::health_set(
    "place a at (1, 1)\nkind a { health 2; every 1 s { health = 1 } }",
    "E0405",
    "health",
    "damage self"
)]
#[case::clash("knob a = 1\nkind a { look \"a\" }", "E0302", "a", "")]
#[case::upside_down(
    "place a at (1, 1)\nkind a { every 1 s { turn by random(9 deg .. 1 deg) } }",
    "E0406",
    "random(9 deg .. 1 deg)",
    "smaller"
)]
fn a_mistake_is_told(
    #[case] items: &str,
    #[case] code: &str,
    #[case] source: &str,
    #[case] help: &str,
) {
    let found = first(items);
    assert_eq!((found.0.as_str(), found.1.as_str()), (code, source), "{found:?}");
    assert!(found.2.contains(help), "{found:?}");
}

#[rstest]
fn one_mistake_gives_one_message() {
    let text = "pond \"t\" { arena 9 x 9 }\nplace a at (1, 1)\n\
        kind a { on birth { let x = nowhere; if x > 3 { speed = x * 2; turn by x } } }";
    assert_eq!(compile(text).diagnostics.len(), 1);
}

#[rstest]
fn a_certain_mend_mends() {
    let broken =
        "pond \"t\" { arena 9 x 9 }\nplace mige at (1, 1)\nkind midge { on birth { speed = 6 } }";
    let mut text = broken.to_string();
    for _ in 0..5 {
        let compiled = compile(&text);
        let Some(mend) = compiled.diagnostics.iter().find_map(|d| d.mend.clone()) else { break };
        text.replace_range(mend.span.range(), &mend.text);
    }
    assert!(compile(&text).diagnostics.is_empty(), "{text}");
    assert_eq!(text, broken.replace("mige at", "midge at").replace("= 6 }", "= 6 u/s }"));
}

#[rstest]
fn one_input_too_many_is_told() {
    let inputs = |count: usize| {
        let lines: Vec<String> = (0..count).map(|i| format!("input i{i} = key f")).collect();
        let text = format!("pond \"t\" {{ arena 9 x 9 }}\n{}", lines.join("\n"));
        compile(&text).diagnostics.iter().filter(|d| d.code.as_str() == "E0406").count()
    };
    assert_eq!((inputs(64), inputs(65)), (0, 1));
}

/// Where a line begins with the wrong word, that word is pointed at, not the end of the line before.
#[rstest]
#[case::item("place frog at (6, 5)\nknid frog { look \"@\" }", "knid", "kind")]
#[case::item_at_the_end(
    "kind frog { look \"@\" }\nplace frog at (6, 5)\nplaec frog at (1, 1)",
    "plaec",
    "place"
)]
#[case::member(
    "place a at (1, 1)\nkind a {\n    look \"a\"\n    bdoy circle 1 u, sensor\n}",
    "bdoy",
    "body"
)]
#[case::statement(
    "place a at (1, 1)\nkind a {\n    on birth {\n        speed = 1 u/s\n        spwan a\n    }\n}",
    "spwan",
    "spawn"
)]
#[case::behind_a_semicolon(
    "place a at (1, 1)\nkind a { after 1 s { say \"a\"; edn self } }",
    "edn",
    "end"
)]
#[case::line_of_the_header("pond \"u\" {\n    arena 9 x 9\n    rtae 30 per s\n}", "rtae", "rate")]
fn a_wrong_first_word_is_pointed_at(#[case] items: &str, #[case] word: &str, #[case] near: &str) {
    let text = match items.starts_with("pond") {
        true => items.to_string(),
        false => format!("pond \"t\" {{ arena 100 x 100 }}\n{items}"),
    };
    let told = compile(&text).diagnostics;
    let d = told.iter().find(|d| d.code.as_str() == "E0201");
    let d = d.unwrap_or_else(|| panic!("{told:?}"));
    assert_eq!(&text[d.span.range()], word);
    assert_eq!(d.message, format!("`{word}` begins nothing here"));
    assert_eq!(d.help.as_deref(), Some(&*format!("did you mean `{near}`?")));
    // The mend is the word that was meant; with it the place is right.
    let mend = d.mend.as_ref().unwrap_or_else(|| panic!("no mend for {word}"));
    let mended = format!(
        "{}{}{}",
        &text[..mend.span.start as usize],
        mend.text,
        &text[mend.span.end as usize..]
    );
    assert!(compile(&mended).diagnostics.iter().all(|d| d.code.as_str() != "E0201"), "{mended}");
}

#[test]
fn a_first_word_like_no_other_is_told_what_could_stand_there() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind a { look \"a\" }\nplace a at (1, 1)\nfoo bar\n";
    let told = compile(text).diagnostics;
    assert_eq!(&text[told[0].span.range()], "foo");
    assert!(told[0].message.starts_with("`foo` begins nothing here: expected an item (pond, knob"));
    assert_eq!(told[0].mend, None);
}

#[rstest]
#[case::value_missing("knob a =\nknob b = 2", "knob a =")]
#[case::place_missing("place frog at\nkind frog { look \"@\" }", "place frog at")]
fn an_unfinished_line_is_pointed_at_its_end(#[case] items: &str, #[case] line: &str) {
    let text = format!("pond \"t\" {{ arena 100 x 100 }}\n{items}");
    let told = compile(&text).diagnostics;
    let end = text.find(line).map_or(0, |at| at + line.len());
    let d = &told[0];
    assert_eq!(d.span.start as usize, end, "{told:?}");
    assert!(d.message.ends_with("found the end of the line"), "{}", d.message);
}
