//! What goes wrong around the text: nothing is lost, the terminal is restored, a message says what to do.

mod common;

use common::Session;
use rstest::rstest;

const TEXT: &str =
    "pond \"Small\" { arena 40 x 20 }\nkind frog { look \"@\" }\nplace frog at (5, 5)\n";

fn opened() -> Session {
    let session = Session::with_file("small.pond", TEXT, "open small.pond");
    session.wait_for("@ frog 1");
    session
}

#[rstest]
#[case("KILL", false)]
#[case("TERM", true)]
#[case("HUP", true)]
fn a_program_that_is_ended_from_outside_leaves_the_text(#[case] signal: &str, #[case] clean: bool) {
    let session = opened();
    session
        .press(&["F2"])
        .type_text("// typed and never saved")
        .press(&["Enter"])
        .wait_for("(unsaved)");
    if !clean {
        session.wait_until_kept("never saved");
    }
    session.signal(signal).wait_for("exit code");
    assert_eq!(session.read("small.pond"), TEXT, "the file is as it was");
    session.again("open small.pond").wait_for("r take it up");
    session.choose("r").wait_for("// typed and never saved");
    session.press(&["C-s"]).wait_for("saved small.pond");
    assert!(session.read("small.pond").starts_with("// typed and never saved"));
    // Saved, there is nothing to take up any more.
    session.press(&["C-q"]).wait_for("exit code 0");
    let screen = session.again("open small.pond").wait_for("@ frog 1");
    assert!(!screen.contains("r take it up"), "{screen}");
}

#[rstest]
fn what_was_left_behind_can_be_forgotten() {
    let session = opened();
    session.press(&["F2"]).type_text("// not wanted").press(&["Enter"]).wait_for("(unsaved)");
    session.wait_until_kept("not wanted");
    session.signal("KILL").wait_for("exit code");
    session.again("open small.pond").wait_for("r take it up");
    session.choose("DC").wait_for("it is in");
    session.press(&["q"]).wait_for("exit code 0");
    let screen = session.again("open small.pond").wait_for("@ frog 1");
    assert!(!screen.contains("r take it up"), "{screen}");
}

#[rstest]
fn a_file_changed_by_another_program_is_taken_up() {
    let session = opened();
    session.write("small.pond", &TEXT.replace("(5, 5)", "(5, 5)\nplace frog at (9, 9)"));
    session.wait_for("@ frog 2");
    session.wait_for("changed by another program");
}

#[rstest]
#[case("k", "// mine")]
#[case("t", "// theirs")]
fn changed_there_and_here_is_asked_about(#[case] answer: &str, #[case] wanted: &str) {
    let session = opened();
    session.press(&["F2"]).type_text("// mine").press(&["Enter"]).wait_for("(unsaved)");
    session.write("small.pond", &format!("// theirs\n{TEXT}"));
    session.wait_for("k keep mine");
    session.choose(answer).wait_for(wanted);
    session.press(&["C-s"]).wait_for("saved small.pond");
    assert!(session.read("small.pond").starts_with(wanted));
}

#[rstest]
fn a_file_deleted_under_it_can_be_saved_again() {
    let session = opened();
    std::fs::remove_file(session.folder.path().join("small.pond")).unwrap();
    session.wait_for("is gone; saving writes it again");
    session.press(&["C-s"]).wait_for("saved small.pond");
    assert_eq!(session.read("small.pond"), TEXT);
}

#[rstest]
fn a_read_only_file_is_told_and_saved_under_another_name() {
    let session = opened();
    let path = session.folder.path().join("small.pond");
    let mut permissions = std::fs::metadata(&path).unwrap().permissions();
    permissions.set_readonly(true);
    std::fs::set_permissions(&path, permissions).unwrap();
    session.press(&["F2"]).type_text("// more").press(&["Enter"]).wait_for("(unsaved)");
    session.press(&["C-s"]).wait_for("read-only");
    session.press(&["F12"]).wait_for("Save as:");
    session.press(&["C-u"]).type_text("other.pond").press(&["Enter"]).wait_for("saved other.pond");
    assert_eq!(session.read("small.pond"), TEXT);
    assert!(session.read("other.pond").starts_with("// more"));
}

#[rstest]
fn a_full_disk_costs_neither_the_text_nor_the_file() {
    // A file that cannot take anything stands in for the disk.
    let session = opened();
    session.press(&["F12", "C-u"]).type_text("/dev/full").press(&["Enter"]);
    session.wait("trouble", |s| {
        s.contains("cannot") || s.contains("No space") || s.contains("denied")
    });
    session.press(&["F2"]).wait_for("place frog at (5, 5)");
    assert_eq!(session.read("small.pond"), TEXT);
}

#[rstest]
fn a_guard_in_play_pauses_and_names_the_line() {
    let text = "pond \"Full\" { arena 40 x 20\n limit 100 entities }\nkind midge { }\nevery 1 ticks { spawn 3 midge anywhere }\nkind frog { look \"@\" }\nplace frog at (1, 1)\n";
    let session = Session::with_file("full.pond", text, "open full.pond");
    session.wait_for("@ frog 1");
    session.press(&["Space"]);
    session.wait_for("the pond is full: its entity limit is reached, line 4");
    session.wait_for("paused");
    session.press(&[","]).wait_for("paused");
}

#[rstest]
fn resizing_to_almost_nothing_and_back_loses_nothing() {
    let session = opened();
    session.press(&["F2"]).type_text("// kept").press(&["Enter"]).wait_for("// kept");
    for (width, height) in [(10, 3), (1, 1), (200, 10), (49, 13), (160, 48)] {
        session.resize(width, height);
    }
    session.wait_for("// kept");
    session.press(&["C-z"]).press(&["C-z"]).wait("undone", |s| !s.contains("// kept"));
}

#[rstest]
fn a_megabyte_is_pasted_and_undone() {
    let session = opened();
    session.press(&["F2"]);
    let line = "// wide 漢字 and combined e\u{301} and a long line of words that goes on\n";
    let text = line.repeat(1_000_000 / line.len());
    session.paste(&text);
    session.wait("the paste", |s| s.contains("(unsaved)") && s.contains("漢字"));
    session.press(&["C-Home", "C-z"]);
    session.wait("the undo", |s| !s.contains("漢字"));
    session.press(&["C-q"]).wait_for("exit code 0");
    assert_eq!(session.read("small.pond"), TEXT);
}

#[rstest]
fn settings_that_are_wrong_are_told_and_the_usual_ones_hold() {
    let session = opened();
    session.press(&["q"]).wait_for("exit code 0");
    let folder = session.folder.path().join("home/tickpond");
    std::fs::create_dir_all(&folder).unwrap();
    std::fs::write(folder.join("settings.toml"), "theme = \"pink\"\n").unwrap();
    session.again("open small.pond").wait_for("settings.toml");
    session.press(&["M-t"]).wait_for("theme: light");
    session.press(&["q"]).wait_for("exit code 0");
    assert!(std::fs::read_to_string(folder.join("settings.toml")).unwrap().contains("light"));
}

#[rstest]
fn without_a_pond_there_is_a_list_to_choose_from() {
    let session = Session::with_file("small.pond", TEXT, "open small.pond");
    session.wait_for("@ frog 1");
    session.press(&["q"]).wait_for("exit code 0");
    session.again("").wait("the list", |s| s.contains("Tick Pond") && s.contains("small.pond"));
    session.press(&["Enter"]).wait_for("Script  small.pond");
    session.press(&["C-o"]).wait_for("Open a pond");
    session.type_text("demo").press(&["Enter"]).wait_for("Script  dusk.pond");
}

#[rstest]
fn a_terminal_that_is_gone_ends_the_program_and_leaves_the_text() {
    let session = opened();
    session.press(&["F2"]).type_text("// the window was closed").press(&["Enter"]);
    session.wait_for("(unsaved)");
    let process = session.process();
    session.close();
    let gone = || !std::path::Path::new(&format!("/proc/{process}")).exists();
    session.until("the program to end", gone);
    session.reopen("open small.pond");
    session.wait_for("r take it up");
    session.choose("r").wait_for("// the window was closed");
}

/// A pond one tick of which takes minutes: ten loops, each of nearly as many steps as can be allowed.
fn stuck_pond() -> String {
    let frogs = "place frog at (5, 5)\n".repeat(10);
    format!(
        "pond \"Stuck\" {{\n    arena 40 x 20\n    limit 100_000_000 steps, 1_000_000_000 steps per tick\n}}\n\
         kind frog {{ every 1 s {{ repeat 90_000_000 times as i {{ let x = sin(i * 1 deg) }} }} }}\n{frogs}"
    )
}

/// The pond played into its long tick.
fn stuck() -> Session {
    let session = Session::with_file("stuck.pond", &stuck_pond(), "open stuck.pond");
    session.wait_for("frog 10");
    session.press(&["Space"]).wait_for("takes long");
    session
}

#[rstest]
fn a_tick_that_takes_long_can_be_given_up() {
    let session = stuck();
    session.press(&["Escape"]).wait_for("was given up");
    // The run stands where the tick began, and the program is at work.
    session.press(&["F2"]).wait_for("repeat 90_000_000");
    session.press(&["F3", "q"]).wait_for("exit code 0");
}

#[rstest]
fn quitting_does_not_wait_for_a_long_tick() {
    stuck().press(&["C-q"]).wait_for("exit code 0");
}

#[rstest]
fn a_signal_in_a_long_tick_leaves_the_terminal_as_it_was() {
    let session = stuck();
    let screen = session.signal("TERM").wait_for("exit code");
    assert!(!screen.contains("Stuck"), "the screen of before is back: {screen}");
}
