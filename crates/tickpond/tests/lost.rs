//! Nothing a person typed is lost: other files, other windows, other programs, and every way to end.

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

fn typed(session: &Session, words: &str) {
    session.press(&["F2"]).type_text(words).press(&["Enter"]).wait_for("(unsaved)");
}

// Other files.

#[rstest]
fn another_file_is_not_written_over_unasked() {
    let session = opened();
    session.write("other.pond", "theirs");
    session.press(&["F12", "C-u"]).type_text("other.pond").press(&["Enter"]);
    session.wait_for("other.pond is there already");
    session.press(&["Escape"]).wait("the question to go", |s| !s.contains("is there already"));
    assert_eq!(session.read("other.pond"), "theirs");
    session.press(&["F12", "C-u"]).type_text("other.pond").press(&["Enter"]);
    session.wait_for("o write over it");
    session.choose("o").wait_for("saved other.pond");
    assert_eq!(session.read("other.pond"), TEXT);
}

#[rstest]
fn the_name_a_demo_offers_can_be_taken_already() {
    let session = Session::with_file("dusk.pond", "mine", "demo");
    session.wait_for("@ frog 1");
    session.press(&["C-s"]).wait_for("Save as: dusk.pond");
    session.press(&["Enter"]).wait_for("dusk.pond is there already");
    session.answer("n").wait_for("Save as: dusk.pond");
    session.type_text("2.pond").press(&["Enter"]).wait_for("saved dusk.pond2.pond");
    assert_eq!(session.read("dusk.pond"), "mine");
}

#[rstest]
fn pictures_are_numbered() {
    let session = opened();
    session.press(&["C-e"]).wait_for("wrote small-arena.svg and small-arena.pdf");
    session.press(&["C-e"]).wait_for("wrote small-arena-2.svg and small-arena-2.pdf");
    session.press(&["F4", "4", "Right", "C-e"]).wait_for("wrote small-births-and-ends.svg");
}

#[rstest]
fn a_pond_that_cannot_be_opened_costs_nothing_of_this_one() {
    let session = opened();
    typed(&session, "// not to be lost");
    session.wait_until_kept("not to be lost");
    session.press(&["C-o"]).wait_for("Open a pond");
    session.type_text("nowhere.pond").press(&["Enter"]).wait_for("d let go of it and open");
    session.choose("d").wait_for("cannot read nowhere.pond");
    session.wait_for("// not to be lost");
    session.signal("KILL").wait_for("exit code 137");
    session.again("open small.pond").wait_for("r take it up");
}

// Other programs.

#[rstest]
fn what_another_program_writes_while_something_is_asked_is_not_passed_over() {
    let session = opened();
    typed(&session, "// mine");
    session.press(&["F12"]).wait_for("Save as:");
    session.write("small.pond", &format!("// theirs\n{TEXT}"));
    // Longer than from one look at the file to the next.
    std::thread::sleep(std::time::Duration::from_millis(1200));
    session.press(&["Escape"]).wait_for("k keep mine");
    session.choose("k").press(&["C-s"]).wait_for("saved small.pond");
}

#[rstest]
fn saving_compares_with_what_was_read() {
    let session = opened();
    typed(&session, "// mine");
    // No time for a look.
    session.write("small.pond", &format!("// theirs\n{TEXT}"));
    session.press(&["C-s"]).wait_for("k keep mine");
    assert!(session.read("small.pond").starts_with("// theirs"));
    // What differs is shown line by line, and the question stays.
    session.answer("d").wait_for("What differs");
    let screen = session.wait_for("theirs, line 1: // theirs");
    assert!(screen.contains("here, line 1: // mine"), "{screen}");
    session.press(&["Escape"]).wait_for("k keep mine");
    session.choose("t").wait_for("// theirs");
}

#[rstest]
fn the_text_of_a_file_that_is_gone_is_kept_though_nothing_was_typed() {
    let session = opened();
    std::fs::remove_file(session.folder.path().join("small.pond")).unwrap();
    session.wait_for("is gone; saving writes it again");
    session.wait_until_kept("place frog at (5, 5)");
}

#[rstest]
fn a_file_deleted_under_an_unchanged_text_is_asked_about_at_the_end() {
    let session = opened();
    std::fs::remove_file(session.folder.path().join("small.pond")).unwrap();
    session.wait_for("is gone; saving writes it again");
    session.press(&["q"]).wait_for("s save and quit");
    session.answer("s").wait_for("exit code 0");
    assert_eq!(session.read("small.pond"), TEXT);
}

// Other windows.

#[rstest]
fn two_windows_on_the_demo_keep_a_text_each() {
    let one = Session::start("demo", 160, 48);
    one.wait_for("@ frog 1");
    let two = one.beside("demo");
    two.wait_for("@ frog 1");
    typed(&one, "// of the first");
    typed(&two, "// of the second");
    one.wait_until_kept("of the first");
    one.wait_until_kept("of the second");
    one.signal("KILL").wait_for("exit code 137");
    // The second is alive: what it keeps is not left behind.
    one.again("demo").wait_for("r take it up");
    one.choose("r").wait_for("// of the first");
    two.signal("KILL").wait_for("exit code 137");
    two.again("demo").wait_for("r take it up");
    two.choose("r").wait_for("// of the second");
}

#[rstest]
fn a_file_that_is_open_twice_says_so() {
    let one = opened();
    let two = one.beside("open small.pond");
    two.wait_for("small.pond is open in another window, too");
    one.press(&["q"]).wait_for("exit code 0");
    two.press(&["q"]).wait_for("exit code 0");
    let screen = two.again("open small.pond").wait_for("@ frog 1");
    assert!(!screen.contains("another window"), "{screen}");
}

// Every way to end.

#[rstest]
fn the_offer_takes_nothing_from_who_goes_on_and_deletes_nothing() {
    let session = opened();
    typed(&session, "// the only copy");
    session.wait_until_kept("the only copy");
    session.signal("KILL").wait_for("exit code 137");
    session.again("open small.pond").wait_for("r take it up");
    session.press(&["F2"]).type_text("// drdr").wait_for("// drdr");
    session.wait_for("r take it up");
    for _ in 0..10 {
        session.press(&["C-z"]);
    }
    session.wait("the text as it was", |s| !s.contains("(unsaved)"));
    session.answer("Escape").wait_for("offered at the next start");
    session.press(&["C-q"]).wait_for("exit code 0");
    session.again("open small.pond").wait_for("r take it up");
    let screen = session.choose("DC").wait_for("it is in ");
    session.press(&["q"]).wait_for("exit code 0");
    let place = screen.split("it is in ").nth(1).unwrap().split_whitespace().next().unwrap();
    assert!(std::fs::read_to_string(place).unwrap().contains("the only copy"), "{place}");
}

#[rstest]
fn what_was_saved_is_not_offered() {
    let session = opened();
    typed(&session, "// kept and saved");
    session.wait_until_kept("kept and saved");
    session.press(&["C-s"]).wait_for("saved small.pond");
    session.signal("KILL").wait_for("exit code 137");
    let screen = session.again("open small.pond").wait_for("@ frog 1");
    std::thread::sleep(std::time::Duration::from_millis(600));
    assert!(!session.screen().contains("take it up"), "{screen}");
}

#[rstest]
fn a_start_right_after_the_end_finds_the_text() {
    let session = opened();
    typed(&session, "// a moment ago");
    session.again("open small.pond").wait_for("r take it up");
    session.choose("r").wait_for("// a moment ago");
}

#[rstest]
fn a_file_whose_name_is_no_text_is_kept_too() {
    use std::os::unix::ffi::OsStrExt;
    let session = Session::with_file("small.pond", TEXT, "open small.pond");
    session.wait_for("@ frog 1");
    session.press(&["q"]).wait_for("exit code 0");
    let name = std::ffi::OsStr::from_bytes(b"sm\xffll.pond");
    std::fs::write(session.folder.path().join(name), TEXT).unwrap();
    let open = "open \"$(printf 'sm\\377ll.pond')\"";
    session.again(open).wait_for("@ frog 1");
    typed(&session, "// odd name");
    session.wait_until_kept("odd name");
    session.signal("KILL").wait_for("exit code 137");
    session.again(open).wait_for("r take it up");
}

#[rstest]
fn a_folder_that_cannot_be_written_is_told() {
    let session = opened();
    session.press(&["q"]).wait_for("exit code 0");
    let folder = session.folder.path().join("home/tickpond");
    std::fs::remove_dir_all(&folder).unwrap();
    std::fs::write(&folder, "a file").unwrap();
    session.again("open small.pond").wait_for("@ frog 1");
    session.press(&["F2"]).type_text("// no net");
    session.wait_for("cannot be kept against a crash");
}

#[rstest]
#[case("INT", 130)]
#[case("QUIT", 131)]
#[case("USR1", 138)]
#[case("TERM", 143)]
#[case("HUP", 129)]
fn a_signal_ends_it_in_order(#[case] signal: &str, #[case] code: u32) {
    let session = opened();
    typed(&session, "// in the middle");
    session.signal(signal).wait_for(&format!("exit code {code}"));
    let flags = ["alternate_on", "mouse_any_flag", "cursor_flag"].map(|flag| session.flag(flag));
    assert_eq!(flags, ["0", "0", "1"]);
    session.again("open small.pond").wait_for("r take it up");
}

#[rstest]
#[case("ABRT", 134)]
#[case("ILL", 132)]
#[case("KILL", 137)]
fn an_end_without_a_word_leaves_the_terminal_in_order(#[case] signal: &str, #[case] code: u32) {
    let session = opened();
    typed(&session, "// in the middle");
    session.wait_until_kept("in the middle");
    session.signal_to(session.inner(), signal);
    let screen = session.wait_for(&format!("exit code {code}"));
    assert!(screen.contains("the workbench was ended by signal"), "{screen}");
    let flags = ["alternate_on", "mouse_any_flag", "cursor_flag"].map(|flag| session.flag(flag));
    assert_eq!(flags, ["0", "0", "1"]);
    session.again("open small.pond").wait_for("r take it up");
}

#[rstest]
fn who_waits_may_be_killed_too() {
    let session = opened();
    typed(&session, "// nobody waits");
    let inner = session.inner();
    session.signal_to(session.process(), "KILL");
    session.until("the workbench to end", || {
        !std::path::Path::new(&format!("/proc/{inner}")).exists()
    });
    assert_eq!(session.flag("alternate_on"), "0");
    session.again("open small.pond").wait_for("r take it up");
}

#[rstest]
fn settings_that_are_a_pipe_are_not_waited_for() {
    let session = opened();
    session.press(&["q"]).wait_for("exit code 0");
    let settings = session.folder.path().join("home/tickpond/settings.toml");
    let made = std::process::Command::new("mkfifo").arg(&settings).status().unwrap();
    assert!(made.success());
    session.again("open small.pond").wait_for("settings.toml: it is no file");
}

/// A terminal nobody belongs to: when it is closed, no signal says so.
#[rstest]
fn a_terminal_that_is_gone_without_a_signal_leaves_the_text() {
    use std::io::{Read, Write};
    use std::sync::Arc;
    use std::sync::atomic::{AtomicBool, Ordering};

    use rustix::fs::{Mode, OFlags};
    use rustix::pty::{OpenptFlags, grantpt, openpt, ptsname, unlockpt};
    use rustix::termios::{Winsize, tcsetwinsize};

    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("small.pond"), TEXT).unwrap();
    let master = openpt(OpenptFlags::RDWR | OpenptFlags::NOCTTY | OpenptFlags::CLOEXEC).unwrap();
    grantpt(&master).unwrap();
    unlockpt(&master).unwrap();
    let name = ptsname(&master, Vec::new()).unwrap();
    let slave =
        rustix::fs::open(&*name, OFlags::RDWR | OFlags::NOCTTY | OFlags::CLOEXEC, Mode::empty())
            .unwrap();
    let size = Winsize { ws_row: 48, ws_col: 160, ws_xpixel: 0, ws_ypixel: 0 };
    tcsetwinsize(&slave, size).unwrap();
    let handle = || slave.try_clone().unwrap();
    let mut child = std::process::Command::new(common::PROGRAM)
        .args(["open", "small.pond"])
        .current_dir(folder.path())
        .envs(["HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME"].map(|name| (name, folder.path())))
        .stdin(handle())
        .stdout(handle())
        .stderr(handle())
        .spawn()
        .unwrap();
    drop(slave);
    let (mut keys, mut pictures) =
        (std::fs::File::from(master.try_clone().unwrap()), std::fs::File::from(master));
    let over = Arc::new(AtomicBool::new(false));
    let ends = over.clone();
    // Somebody has to take in what is drawn.
    let drain = std::thread::spawn(move || {
        let mut bytes = [0; 4096];
        while !ends.load(Ordering::Relaxed) {
            let wanted = rustix::event::PollFlags::IN;
            let mut polled = [rustix::event::PollFd::new(&pictures, wanted)];
            let patience = rustix::event::Timespec { tv_sec: 0, tv_nsec: 20_000_000 };
            let ready = rustix::event::poll(&mut polled, Some(&patience)).unwrap_or(0);
            if ready > 0 && pictures.read(&mut bytes).is_err() {
                return;
            }
        }
    });
    let kept = |words: &str| {
        let files = std::fs::read_dir(folder.path().join("tickpond/unsaved")).into_iter().flatten();
        let mut texts = files.flatten().filter_map(|f| std::fs::read_to_string(f.path()).ok());
        texts.any(|text| text.contains(words))
    };
    let patience = |what: &str, so: &mut dyn FnMut() -> bool| {
        let tries = (0..600).any(|_| {
            std::thread::sleep(std::time::Duration::from_millis(50));
            so()
        });
        assert!(tries, "waited in vain for {what}");
    };
    // F2, and a line.
    patience("the text to be kept", &mut || {
        keys.write_all(b"\x1bOQ// gone without a word\r").unwrap();
        kept("gone without a word")
    });
    over.store(true, Ordering::Relaxed);
    drain.join().unwrap();
    drop(keys);
    patience("the program to end", &mut || child.try_wait().unwrap().is_some());
    assert!(kept("gone without a word"));
}

// The terminal is asked what it can do.

#[rstest]
fn keys_pressed_before_the_first_picture_are_kept() {
    let session = Session::with_file("small.pond", TEXT, "open small.pond");
    session.press(&["F2"]).type_text("// early").wait_for("// early");
}

#[rstest]
fn asking_for_pixels_takes_no_key() {
    let session = opened();
    for _ in 0..3 {
        session.press(&["F3", "X", "2"]).wait_for("this terminal draws no pixels");
        session.press(&["1"]).wait_for("choose with the arrows");
    }
    session.press(&["F3", "X", "F2"]).type_text("// all of it").wait_for("// all of it");
}
