//! What is told of very many mistakes, and of signs that an open format has no place for.

mod common;

use std::process::{Command, Output};

use common::PROGRAM;
use rstest::rstest;
use serde_json::Value;

fn out(output: &Output) -> String {
    String::from_utf8_lossy(&output.stdout).into_owned()
}

#[rstest]
fn very_many_errors_are_told_in_part_and_counted() {
    let text =
        format!("pond \"t\" {{ arena 9 x 9 }}\n{}", "place nobody at (1, 1)\n".repeat(5_000));
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("many.pond"), &text).unwrap();
    let run = |args: &[&str]| {
        let output = Command::new(PROGRAM).args(args).current_dir(folder.path()).output().unwrap();
        assert_eq!(output.status.code(), Some(2));
        format!("{}{}", out(&output), String::from_utf8_lossy(&output.stderr))
    };
    for args in [&["check", "many.pond"][..], &["run", "many.pond"], &["test", "many.pond"]] {
        let told = run(args);
        assert_eq!(told.matches("error[E0301]").count(), 200, "{args:?}");
        assert!(told.contains("many.pond: … and 4800 more; mend these first"), "{args:?}");
        assert!(told.contains("5000 errors"), "{args:?}");
    }
    let all: Value = serde_json::from_str(&run(&["check", "--json", "many.pond"])).unwrap();
    assert_eq!(all["files"][0]["diagnostics"].as_array().unwrap().len(), 5_000);
}

#[rstest]
fn places_in_one_long_line_are_counted_as_those_in_many() {
    let folder = tempfile::tempdir().unwrap();
    let text =
        format!("pond \"\u{e9}\" {{ arena 9 x 9 }}; {}", "place \u{e9}x at (1, 1); ".repeat(300));
    std::fs::write(folder.path().join("long.pond"), &text).unwrap();
    let output = Command::new(PROGRAM)
        .args(["check", "--json", "long.pond"])
        .current_dir(folder.path())
        .output()
        .unwrap();
    let all: Value = serde_json::from_str(&out(&output)).unwrap();
    let found = all["files"][0]["diagnostics"].as_array().unwrap();
    assert!(found.len() >= 300);
    for d in found {
        let start = d["span"]["start"].as_u64().unwrap() as usize;
        assert_eq!(d["col"], text[..start].chars().count() + 1);
        assert_eq!(d["line"], 1);
    }
}

#[rstest]
fn signs_that_xml_has_no_place_for_are_told_and_kept_out() {
    let folder = tempfile::tempdir().unwrap();
    let text = "pond \"t\" { arena 9 x 9; lasts 1 s }\nexpect \"never \u{fffe}\": never 1 > 2\n";
    // In the text they are errors; in the name of a file they are kept out of the report.
    std::fs::write(folder.path().join("odd\u{ffff}.pond"), text).unwrap();
    let output = Command::new(PROGRAM)
        .args(["test", ".", "--junit", "out.xml"])
        .current_dir(folder.path())
        .output()
        .unwrap();
    assert_eq!(output.status.code(), Some(2), "{output:?}");
    assert!(
        String::from_utf8_lossy(&output.stderr).contains("a character that is not seen: \\u{fffe}")
    );
    let report = std::fs::read_to_string(folder.path().join("out.xml")).unwrap();
    roxmltree::Document::parse(&report).unwrap();
    assert!(
        !report.contains(['\u{fffe}', '\u{ffff}']) && report.contains("odd\u{fffd}.pond"),
        "{report}"
    );
}
