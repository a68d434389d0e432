//! The README, word for word: its keys are pressed, its commands are run, and what it says comes out comes out.

mod common;

use common::Session;
use rstest::rstest;

/// What stands between backticks.
fn quoted(text: &str) -> Vec<&str> {
    text.split('`').skip(1).step_by(2).collect()
}

/// The keys a row names, as tmux names them; words are typed.
fn keys(cell: &str) -> Vec<String> {
    let times = match cell.rsplit_once('`').map_or("", |(_, rest)| rest).trim() {
        "five times" => 5,
        "twice" => 2,
        "" => 1,
        other => panic!("how often is `{other}`?"),
    };
    let keys: Vec<String> = quoted(cell).iter().map(|key| key.replace("Shift+", "S-")).collect();
    std::iter::repeat_n(keys, times).flatten().collect()
}

/// The rows of the table: what is pressed, what is seen.
fn rows() -> Vec<(String, String)> {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md");
    let page = std::fs::read_to_string(path).unwrap();
    let part = page.split("## Five minutes").nth(1).unwrap().split("\n## ").next().unwrap();
    let rows = part.lines().filter(|line| line.starts_with("| ") && !line.starts_with("| press"));
    let cells = rows.map(|row| {
        let cells: Vec<&str> = row.trim_matches('|').split('|').map(str::trim).collect();
        (cells[0].to_string(), cells[1].to_string())
    });
    cells.collect()
}

#[rstest]
#[case::wide(160, 50)]
#[case::middling(110, 30)]
#[case::small(80, 24)]
fn the_first_minutes_are_as_the_page_says(#[case] width: u16, #[case] height: u16) {
    let demo = Session::start("demo", width, height);
    demo.wait_for("tick 0");
    let rows = rows();
    assert!(rows.len() >= 10, "{rows:?}");
    for (pressed, seen) in rows {
        match quoted(&pressed)[..] {
            [] => {
                assert_eq!(pressed, "nothing, for ten seconds");
                demo.wait("ten seconds", |s| {
                    Session::number(s, "Time ").is_some_and(|t| t >= 10.0)
                });
            }
            _ => {
                for key in keys(&pressed) {
                    // Keys by their names, words letter by letter.
                    let named = key.chars().next().is_some_and(char::is_uppercase);
                    match named || key.chars().count() == 1 {
                        true => demo.press(&[key.as_str()]),
                        false => demo.type_text(&key),
                    };
                }
            }
        }
        let words = quoted(&seen);
        assert!(!words.is_empty(), "nothing to see: {seen}");
        demo.wait(&format!("{words:?} after {pressed}"), |screen| {
            words.iter().all(|word| screen.contains(word))
        });
    }
}

/// The first block of the page in this language.
fn block(language: &str) -> String {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md");
    let page = std::fs::read_to_string(path).unwrap();
    let block = page.split(&format!("```{language}\n")).nth(1).unwrap();
    block.split("```").next().unwrap().to_string()
}

#[rstest]
fn the_pond_of_the_page_says_what_the_page_says() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("rain.pond"), block("pond")).unwrap();
    let shown = block("console");
    let mut commands = 0;
    for part in shown.split("$ ").filter(|part| !part.is_empty()) {
        let (command, output) = part.split_once('\n').unwrap();
        let mut words = command.split(' ');
        assert_eq!(words.next(), Some("tickpond"));
        let done = std::process::Command::new(common::PROGRAM)
            .args(words)
            .current_dir(folder.path())
            .output()
            .unwrap();
        assert_eq!(String::from_utf8_lossy(&done.stdout), output, "{command}");
        commands += 1;
    }
    assert_eq!(commands, 2);
    // Sound, and nothing in it that is hardly meant.
    let check = std::process::Command::new(common::PROGRAM)
        .args(["check", "--deny", "findings", "rain.pond"])
        .current_dir(folder.path())
        .output()
        .unwrap();
    assert!(check.status.success(), "{}", String::from_utf8_lossy(&check.stdout));
}

/// The commands of the second block, with what comes out: `…` stands for lines that are left out.
#[rstest]
fn what_the_commands_of_the_page_say_is_what_they_say() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md");
    let page = std::fs::read_to_string(path).unwrap();
    let shown = page.split("```console\n").nth(2).unwrap().split("```").next().unwrap();
    let mut commands = 0;
    for part in shown.split("$ ").filter(|part| !part.is_empty()) {
        let (command, wanted) = part.split_once('\n').unwrap();
        let words = command.split(' ').skip(1);
        let root = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");
        let done = std::process::Command::new(common::PROGRAM)
            .args(words)
            .current_dir(root)
            .output()
            .unwrap();
        let output = String::from_utf8_lossy(&done.stdout).into_owned();
        let mut rest = output.as_str();
        for piece in wanted.split("…\n") {
            let at =
                rest.find(piece).unwrap_or_else(|| panic!("{command}: no {piece:?} in {rest}"));
            rest = &rest[at + piece.len()..];
        }
        commands += 1;
    }
    assert_eq!(commands, 3);
}

#[rstest]
fn the_page_lists_the_gallery_with_each_idea() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md");
    let page = std::fs::read_to_string(path).unwrap();
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../ponds/gallery");
    let mut ponds = 0;
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let text = std::fs::read_to_string(&path).unwrap();
        let comment: Vec<&str> = text.lines().take_while(|line| line.starts_with("//")).collect();
        let words: Vec<&str> = comment.iter().map(|l| l.trim_start_matches('/').trim()).collect();
        let words = words.join(" ");
        let idea = words.split_once(". ").map_or(words.clone(), |(first, _)| format!("{first}."));
        let name = path.file_stem().unwrap().to_string_lossy().into_owned();
        let short = name.trim_start_matches(|c: char| c.is_ascii_digit() || c == '_');
        let row = format!("| [`{short}`](ponds/gallery/{name}.pond) | {idea} |");
        assert!(page.contains(&row), "{row}");
        ponds += 1;
    }
    assert_eq!(page.matches("](ponds/gallery/").count(), ponds);
}
