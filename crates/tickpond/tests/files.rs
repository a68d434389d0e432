//! Files and folders as others leave them: links, pipes, what is no text, what steers a terminal. Nothing hangs, nothing
//! else is written, and the rest is done.

mod common;

use std::os::unix::fs::symlink;
use std::path::Path;
use std::process::{Command, Output};

use rstest::rstest;
use tempfile::TempDir;

const POND: &str =
    "pond \"Small\" { arena 40 x 20 }\nkind frog {\n    look \"@\"\n}\nplace frog at (5, 5)\n";
/// The same, not formatted.
const LOOSE: &str =
    "pond \"Small\" { arena 40 x 20 }\nkind frog {\nlook \"@\"\n}\nplace frog at (5, 5)\n";

fn folder() -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("a.pond"), POND).unwrap();
    folder
}

fn tickpond(folder: &Path, args: &[&str]) -> Output {
    Command::new(common::PROGRAM).args(args).current_dir(folder).output().unwrap()
}

fn told(output: &Output) -> String {
    let both = [output.stdout.clone(), output.stderr.clone()].concat();
    String::from_utf8(both).expect("UTF-8")
}

// Folders.

#[rstest]
fn links_that_go_round_are_not_followed() {
    let folder = folder();
    symlink(".", folder.path().join("round")).unwrap();
    symlink("a.pond", folder.path().join("again.pond")).unwrap();
    let output = tickpond(folder.path(), &["check", "."]);
    assert_eq!(told(&output).matches("a.pond:").count(), 1, "{}", told(&output));
}

#[rstest]
fn formatting_a_folder_stays_in_it() {
    let (folder, outside) = (folder(), tempfile::tempdir().unwrap());
    let theirs = outside.path().join("b.pond");
    std::fs::write(&theirs, LOOSE).unwrap();
    symlink(outside.path(), folder.path().join("out")).unwrap();
    symlink(&theirs, folder.path().join("b.pond")).unwrap();
    tickpond(folder.path(), &["fmt", "."]);
    assert_eq!(std::fs::read_to_string(&theirs).unwrap(), LOOSE);
}

#[rstest]
fn a_link_laid_out_for_it_is_not_written_through() {
    let (folder, outside) = (folder(), tempfile::tempdir().unwrap());
    let own = outside.path().join("own");
    std::fs::write(&own, "not for anybody").unwrap();
    std::fs::write(folder.path().join("b.pond"), LOOSE).unwrap();
    for name in ["b.pond.saving", "b.pond.tmp", ".b.pond", "b.pond~"] {
        symlink(&own, folder.path().join(name)).unwrap();
    }
    assert!(tickpond(folder.path(), &["fmt", "."]).status.success());
    assert_eq!(std::fs::read_to_string(&own).unwrap(), "not for anybody");
    assert_ne!(std::fs::read_to_string(folder.path().join("b.pond")).unwrap(), LOOSE);
}

#[rstest]
#[case(&["check", "."])]
#[case(&["fmt", "."])]
#[case(&["test", "."])]
#[case(&["check", "b.pond"])]
#[case(&["run", "b.pond"])]
fn pipes_are_not_waited_for(#[case] args: &[&str]) {
    let folder = folder();
    let pipe = folder.path().join("b.pond");
    assert!(Command::new("mkfifo").arg(&pipe).status().unwrap().success());
    let output = tickpond(folder.path(), args);
    match args[1] {
        "b.pond" => assert!(told(&output).contains("it is no file"), "{}", told(&output)),
        _ => assert!(output.status.success(), "{}", told(&output)),
    }
}

#[rstest]
fn a_shells_own_pipe_is_read() {
    let folder = folder();
    let script = format!("{} check /dev/stdin < a.pond", common::PROGRAM);
    let output = Command::new("sh").args(["-c", &script]).current_dir(folder.path()).output();
    assert!(output.unwrap().status.success());
}

#[rstest]
fn what_cannot_be_read_costs_the_others_nothing() {
    let folder = folder();
    std::fs::write(folder.path().join("0.pond"), b"pond \xff").unwrap();
    std::fs::write(folder.path().join("z.pond"), LOOSE).unwrap();
    let output = tickpond(folder.path(), &["check", "."]);
    assert_eq!(output.status.code(), Some(4));
    assert!(told(&output).contains("z.pond: no errors"), "{}", told(&output));
    let output = tickpond(folder.path(), &["check", "--json", "."]);
    let json: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!(json["files"].as_array().unwrap().len(), 2);
    assert!(json["unreadable"][0]["file"].as_str().unwrap().ends_with("0.pond"));
    let output = tickpond(folder.path(), &["fmt", "."]);
    assert_eq!(output.status.code(), Some(4));
    assert_ne!(std::fs::read_to_string(folder.path().join("z.pond")).unwrap(), LOOSE);
}

// Formatting.

#[rstest]
#[case::windows("", "\r\n")]
#[case::marked("\u{feff}", "\n")]
#[case::both("\u{feff}", "\r\n")]
fn what_begins_a_file_and_ends_its_lines_stays(#[case] mark: &str, #[case] end: &str) {
    let folder = folder();
    let text = |text: &str| format!("{mark}{}", text.replace('\n', end));
    let path = folder.path().join("b.pond");
    std::fs::write(&path, text(LOOSE)).unwrap();
    assert!(tickpond(folder.path(), &["fmt", "b.pond"]).status.success());
    assert_eq!(std::fs::read_to_string(&path).unwrap(), text(POND));
    let again = tickpond(folder.path(), &["fmt", "--check", "b.pond"]);
    assert!(again.status.success(), "{}", told(&again));
}

// Outputs.

#[rstest]
#[case(&["run", "a.pond", "--for", "1s", "--series", "a.pond"])]
#[case(&["run", "a.pond", "--for", "1s", "--events", "./a.pond"])]
#[case(&["run", "a.pond", "--for", "1s", "--series", "x", "--events", "x"])]
#[case(&["test", "a.pond", "--for", "1s", "--junit", "a.pond"])]
#[case(&["test", ".", "--for", "1s", "--junit", "a.pond"])]
fn no_output_is_written_over_a_pond_or_another(#[case] args: &[&str]) {
    let folder = folder();
    let output = tickpond(folder.path(), args);
    assert_eq!(output.status.code(), Some(2), "{}", told(&output));
    assert!(told(&output).contains("would be written over"), "{}", told(&output));
    assert_eq!(std::fs::read_to_string(folder.path().join("a.pond")).unwrap(), POND);
}

#[rstest]
fn a_drawing_is_whole_or_the_last_one() {
    let folder = folder();
    let path = folder.path().join("d.svg");
    std::fs::write(&path, "the last good one").unwrap();
    let none = tickpond(folder.path(), &["draw", "none.pond", "--out", "d.svg"]);
    assert!(!none.status.success());
    assert_eq!(std::fs::read_to_string(&path).unwrap(), "the last good one");
    assert!(
        tickpond(folder.path(), &["draw", "a.pond", "--for", "1s", "--out", "d.svg"])
            .status
            .success()
    );
    assert!(std::fs::read_to_string(&path).unwrap().ends_with("</svg>\n"));
}

// What steers a terminal.

/// Writes the clipboard, rings, sets the title, in seven and in eight bits, and turns letters around.
const STEERS: &str = "a\rb\u{1b}]52;c;aGFo\u{7}b\u{9b}31mc\u{9d}0;t\u{9c}\u{202e}d";

#[rstest]
#[case(&["check"])]
#[case(&["run", "--for", "1s"])]
#[case(&["run", "--for", "1s", "--json"])]
#[case(&["test", "--for", "1s", "--verbose"])]
#[case(&["test", "--for", "1s", "--json"])]
#[case(&["fmt", "--check"])]
#[case(&["check", "--json"])]
fn what_others_wrote_steers_no_terminal(#[case] args: &[&str]) {
    let folder = tempfile::tempdir().unwrap();
    let name = format!("{STEERS}.pond").replace('/', "");
    let text = format!(
        "pond \"{STEERS}\" {{ arena 9 x 9 }}\nkind frog {{ look \"@\"\n    on birth {{ say \"{STEERS}\" }} }}\n\
         place frog at (1, 1)\nexpect \"{STEERS}\": always count(frog) < 1\n"
    );
    std::fs::write(folder.path().join(&name), &text).unwrap();
    // One with mistakes, whose lines are shown.
    let broken = format!("{text}place frgo{STEERS} at (1, 1) // {STEERS}\n");
    std::fs::write(folder.path().join("broken.pond"), broken).unwrap();
    for file in [name.as_str(), "broken.pond"] {
        let mut all = args.to_vec();
        all.push(file);
        let output = tickpond(folder.path(), &all);
        let told = told(&output);
        assert!(!told.is_empty(), "{all:?}");
        let steers =
            |c: char| c.is_control() && c != '\n' || ('\u{202a}'..='\u{202e}').contains(&c);
        assert!(!told.contains(steers), "{all:?}: {told:?}");
    }
}

#[rstest]
fn what_was_typed_is_told_back_without_steering() {
    let folder = folder();
    let output = tickpond(folder.path(), &["check", "--\u{1b}]0;x\u{7}"]);
    assert_eq!(output.status.code(), Some(2));
    assert!(!told(&output).contains('\u{1b}'), "{:?}", told(&output));
}
