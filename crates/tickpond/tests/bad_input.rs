//! What is wrong with a pond is told clearly, with the exit code for it, and nothing ever panics.

mod common;

use assert_cmd::Command;
use rstest::rstest;
use tempfile::TempDir;

/// What came of a command on a pond: exit code, standard output, standard error.
fn on(text: &[u8], args: &[&str]) -> (i32, String, String) {
    let folder: TempDir = tempfile::tempdir().unwrap();
    let path = folder.path().join("odd.pond");
    std::fs::write(&path, text).unwrap();
    let file = path.display().to_string();
    let args: Vec<&str> =
        args.iter().map(|arg| if *arg == "FILE" { &file } else { *arg }).collect();
    let output = Command::new(common::PROGRAM).args(&args).output().unwrap();
    let words = |bytes: &[u8]| String::from_utf8_lossy(bytes).to_string();
    let (out, err) = (words(&output.stdout), words(&output.stderr));
    assert!(!err.contains("panicked") && !out.contains("panicked"), "{out}{err}");
    (output.status.code().unwrap_or(-1), out, err)
}

const HEAD: &str = "pond \"t\" { arena 100 x 100 }\n";

fn checked(items: &str) -> (i32, String) {
    let (code, out, err) = on(format!("{HEAD}{items}").as_bytes(), &["check", "FILE"]);
    (code, out + &err)
}

fn played(items: &str) -> (i32, String) {
    let text = format!("{HEAD}{items}");
    let (code, out, err) = on(text.as_bytes(), &["run", "FILE", "--ticks", "120"]);
    (code, out + &err)
}

#[rstest]
#[case::brackets(format!("watch w = {}1{}", "(".repeat(20_000), ")".repeat(20_000)))]
#[case::signs(format!("watch w = {}1", "-".repeat(20_000)))]
#[case::nots(format!("watch w = {}true", "not ".repeat(20_000)))]
#[case::blocks(format!("kind a {{ on birth {{ {}{} }} }}\nplace a at (1, 1)", "if true { ".repeat(20_000), "}".repeat(20_000)))]
#[case::calls(format!("watch w = {}1{}", "abs(".repeat(20_000), ")".repeat(20_000)))]
#[case::else_ifs(format!("kind a {{ on birth {{ if 1 < 2 {{ end self }} {} }} }}\nplace a at (1, 1)", "else if 1 < 2 { end self } ".repeat(5_000)))]
#[case::a_sum_without_end(format!("watch w = 1{}", " + 1".repeat(50_000)))]
#[case::a_product_without_end(format!("watch w = 1{}", " * 1".repeat(50_000)))]
#[case::conditions_without_end(format!("watch w = true{}", " or true and true".repeat(30_000)))]
#[case::fields_without_end(format!("kind a {{ on birth {{ heading = self{} }} }}", ".maker".repeat(30_000)))]
#[case::sums_in_brackets(format!("watch w = {}1{}", "(".repeat(90), " + 1 + 1 + 1 + 1)".repeat(90)))]
#[case::watches_of_watches(format!("watch w0 = 1\n{}", (0..40).map(|n| format!("watch w{} = w{n} + w{n}\n", n + 1)).collect::<String>()))]
#[case::a_chain_of_watches(format!("watch w0 = 1\n{}", (0..5_000).map(|n| format!("watch w{} = w{n} + 1\n", n + 1)).collect::<String>()))]
#[case::functions_of_functions(format!("value f0(n: number) = n\n{}watch w = f40(1)", (0..40).map(|n| format!("value f{}(n: number) = f{n}(n) + f{n}(n)\n", n + 1)).collect::<String>()))]
fn deep_nesting_is_an_error_and_no_overflow(#[case] items: String) {
    let (code, words) = checked(&items);
    assert_eq!(code, 2);
    assert!(words.contains("error[E0203]"), "{}", words.chars().take(2_000).collect::<String>());
}

#[rstest]
#[case::a_long_sum(format!("watch w = 1{}", " + 1".repeat(256)))]
#[case::a_long_text(format!("kind a {{ on birth {{ say \"{}\" }} }}\nplace a at (1, 1)", "x".repeat(4_094)))]
#[case::a_long_comment(format!("// {}", "x".repeat(300_000)))]
#[case::many_lines(format!("kind a {{ every 1 s {{\n{} }} }}\nplace a at (1, 1)", "say \"on and on {pos}\"\n".repeat(10_000)))]
#[case::many_spots(format!("spots reeds {{ {} }}\nkind a {{ look \"a\" }}\nplace a at reeds", "(1, 2), ".repeat(10_000)))]
#[case::many_tags(format!("kind a {{ tag {}last; look \"a\" }}\nplace a at (1, 1)\nwatch w = count(last)", (0..2_000).map(|n| format!("t{n}, ")).collect::<String>()))]
fn a_large_text_is_only_large(#[case] items: String) {
    let (code, words) = checked(&items);
    assert_eq!(code, 0, "{}", words.chars().take(2_000).collect::<String>());
}

#[rstest]
fn ten_thousand_kinds_are_checked_and_played() {
    let items: String = (0..10_000)
        .map(|n| format!("kind k{n} {{ body circle 1 u, sensor; after 1 s {{ end self }} }}\nplace k{n} at ({}, 1)\n", n % 100))
        .collect();
    let (code, words) = played(&items);
    assert_eq!(code, 0, "{}", words.chars().take(2_000).collect::<String>());
    assert!(words.contains("k9999"));
}

#[rstest]
#[case::too_large("knob n = 99999999999999999999", "E0406")]
#[case::an_arena("kind a { look \"a\" }\nzone z = box (1, 1) size 1e9 x 2", "E0201")]
#[case::a_negative_radius("kind a { body circle (0 - 1) u }", "E0201")]
#[case::no_radius("kind a { body circle 0 u }", "E0501")]
#[case::negative_health("kind a { health -3 }", "E0406")]
#[case::no_health("kind a { health 0 }", "E0406")]
#[case::upside_down("knob n = 3 in 9..1", "E0406")]
#[case::outside_its_range("knob n = 30 in 1..9", "E0406")]
#[case::bounce("kind a { body circle 1 u, solid, bounce 300 % }", "E0406")]
fn numbers_out_of_range_are_errors(#[case] items: &str, #[case] code: &str) {
    let (exit, words) = checked(items);
    assert_eq!(exit, 2, "{words}");
    assert!(words.contains(&format!("error[{code}]")), "{words}");
}

#[rstest]
#[case::division("kind a { vars { n = 0 }\n    every tick { n = 1 / n } }")]
#[case::root("kind a { vars { n = -4 }\n    every tick { n = sqrt(n) } }")]
#[case::infinity("kind a { vars { n = 100_000_000_000 }\n    every tick { n = n * n } }")]
#[case::none_at_all("kind a { vars { n = 0 }\n    every tick { n = n / n } }")]
fn arithmetic_that_gives_no_number_stops_with_its_line(#[case] kind: &str) {
    let (code, words) =
        played(&format!("{kind}\nplace a at (1, 1)\nplace a at (2, 2)\nwatch w = mean(a.n)"));
    assert_eq!(code, 3, "{words}");
    assert!(words.contains("no finite number") && words.contains(".pond:3:"), "{words}");
    assert!(words.contains("a#1"), "{words}");
}

#[rstest]
#[case::a_direction_to_here("on birth { speed = 3 u/s; head toward here }")]
#[case::a_period_of_nothing("vars { p = 0 s }; every p { say \"x\" }")]
#[case::a_negative_period("vars { p = -3 s }; every p { say \"x\" }")]
#[case::a_negative_wait("on birth { wait 0 s - 3 s; say \"x\" }")]
#[case::no_times("on birth { repeat 0 times { say \"x\" } }")]
#[case::fewer_than_no_times("vars { n = -3 }; on birth { repeat n times { say \"x\" } }")]
#[case::nobody("on birth { spawn 0 a at here }")]
#[case::a_half("vars { n = 0.5 }; on birth { spawn n a at here }")]
#[case::damage_that_heals(
    "health 3; on birth { damage self by -2 }; after 1 s { damage self by 9 }"
)]
#[case::a_reach_backwards(
    "on birth { ray from here along 0 deg, reach -3 u, hits a as r { end self } }"
)]
fn odd_values_have_a_defined_result(#[case] parts: &str) {
    let (code, words) =
        played(&format!("kind a {{ body circle 1 u, sensor; {parts} }}\nplace a at (1, 1)"));
    assert_eq!(code, 0, "{words}");
    // And the same one each time.
    assert_eq!(
        played(&format!("kind a {{ body circle 1 u, sensor; {parts} }}\nplace a at (1, 1)")).1,
        words
    );
}

#[rstest]
#[case::tabs("\tkind\ta\t{\n\t\tlook\t\"a\"\n\t}\n\tplace\ta at (1, 1)")]
#[case::windows("kind a {\r\n    look \"a\"\r\n}\r\nplace a at (1, 1)\r\n")]
#[case::another_script("kind жук { look \"ж\" }\nplace жук at (1, 1)\nwatch 数 = count(жук)")]
#[case::right_to_left("kind צפרדע { look \"צ\" }\nplace צפרדע at (1, 1)")]
#[case::no_line_at_the_end("kind a { look \"a\" }\nplace a at (1, 1)")]
#[case::only_comments("// nothing\n// here")]
fn texts_of_all_sorts_are_fine(#[case] items: &str) {
    let (code, words) = checked(items);
    assert_eq!(code, 0, "{words}");
    assert_eq!(played(items).0, 0);
}

#[rstest]
#[case::bytes(&[0xff, 0xfe, 0x00, 0x01], "UTF-8")]
#[case::nothing(b"", "empty")]
#[case::blanks(b"  \n\t\n", "empty")]
fn what_is_no_pond_is_told(#[case] bytes: &[u8], #[case] words: &str) {
    let (code, out, err) = on(bytes, &["check", "FILE"]);
    assert!(code == 2 || code == 4, "{code}");
    assert!(format!("{out}{err}").contains(words), "{out}{err}");
}

#[rstest]
#[case::check(&["check", "nowhere.pond"], 4)]
#[case::run(&["run", "nowhere.pond"], 4)]
#[case::test(&["test", "nowhere.pond"], 4)]
#[case::fmt(&["fmt", "nowhere.pond"], 4)]
#[case::draw(&["draw", "nowhere.pond", "--out", "x.svg"], 4)]
#[case::a_table_in_no_folder(&["run", "FILE", "--ticks", "1", "--series", "/nowhere/at/all.csv"], 4)]
#[case::events_in_no_folder(&["run", "FILE", "--ticks", "1", "--events", "/nowhere/at/all.jsonl"], 4)]
#[case::a_drawing_in_no_folder(&["draw", "FILE", "--ticks", "1", "--out", "/nowhere/at/all.svg"], 4)]
#[case::no_such_code(&["explain", "E9999"], 2)]
#[case::no_such_command(&["fish"], 2)]
#[case::no_such_option(&["run", "FILE", "--frobnicate"], 2)]
#[case::no_such_tape(&["run", "FILE", "--tape", "nothing"], 2)]
#[case::no_such_knob(&["run", "FILE", "--set", "x=1"], 2)]
#[case::no_number(&["run", "FILE", "--ticks", "many"], 2)]
#[case::no_seed(&["run", "FILE", "--seed", "-3"], 2)]
#[case::seeds_upside_down(&["test", "FILE", "--seeds", "9..1"], 2)]
fn each_failure_has_its_exit_code_and_says_what_to_do(#[case] args: &[&str], #[case] code: i32) {
    let text = format!("{HEAD}kind a {{ look \"a\" }}\nplace a at (1, 1)");
    let (exit, out, err) = on(text.as_bytes(), args);
    assert_eq!(exit, code, "{out}{err}");
    assert!(err.contains("error:") && err.len() > 20, "{out}{err}");
}
