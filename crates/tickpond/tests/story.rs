//! The program used by hand: open the demo, play, step, change a number, fire, export, quit.

mod common;

use common::Session;
use rstest::rstest;

fn tick(screen: &str) -> u64 {
    Session::number(screen, "tick ").expect("a tick") as u64
}

fn count(screen: &str, kind: &str) -> u64 {
    Session::number(screen, &format!(" {kind} ")).expect("a count") as u64
}

#[rstest]
fn play_pause_and_step_both_ways() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    demo.press(&["Space"]);
    demo.wait("ticks to pass", |s| Session::number(s, "tick ").is_some_and(|t| t > 30.0));
    demo.press(&["Space"]);
    let paused = demo.wait_for("paused");
    let at = tick(&paused);
    demo.press(&["."]).wait_for(&format!("tick {} ", at + 1));
    demo.press(&[","]).wait_for(&format!("tick {at} "));
    demo.press(&["Home"]).wait_for("tick 0 ");
    demo.press(&["End"]);
    demo.wait("the newest tick", |s| Session::number(s, "tick ").is_some_and(|t| t >= at as f64));
    demo.press(&["r"]).wait_for("started again with seed 1");
    demo.press(&["R"]).wait_for("started again with seed 2");
}

#[rstest]
fn a_number_changed_in_the_script_changes_the_count() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    // Line 14 is `knob flock  = 6 …`: make it 56.
    demo.press(&["F2"]);
    for _ in 0..13 {
        demo.press(&["Down"]);
    }
    demo.press(&["End"]);
    let before = demo.wait_for(" 14:");
    assert!(before.contains("knob flock  = 6 "), "{before}");
    demo.press(&["Home"]);
    for _ in 0..14 {
        demo.press(&["Right"]);
    }
    demo.type_text("5").wait_for("flock  = 56");
    demo.wait_for("(unsaved)");
    demo.press(&["F5"]);
    // Six midges of the first wave are all there would be by now without the change.
    let screen = demo.wait("a crowd", |s| Session::number(s, " midge ").is_some_and(|n| n > 20.0));
    assert!(count(&screen, "midge") > 20);
    // While it plays: a broken text leaves it playing and says why.
    demo.type_text("x").wait_for("1 error, the last good text plays on");
    let at = tick(&demo.screen());
    demo.wait("it plays on", |s| Session::number(s, "tick ").is_some_and(|t| t > at as f64 + 20.0));
    demo.press(&["C-z"]).wait("the error is gone", |s| !s.contains("1 error"));
}

#[rstest]
fn an_edit_in_mid_play_is_taken_up_where_it_is() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    demo.press(&["Space"]);
    demo.wait("ticks to pass", |s| Session::number(s, "tick ").is_some_and(|t| t > 260.0));
    demo.press(&["Space", "Home", "]"]).wait_for("tick 60 ");
    // Line 11 is `knob drift  = 6 u/s`: make it 16.
    demo.press(&["F2"]);
    for _ in 0..10 {
        demo.press(&["Down"]);
    }
    for _ in 0..14 {
        demo.press(&["Right"]);
    }
    demo.type_text("1").wait_for("edit taken up at");
    demo.wait_for("╌ run before");
}

#[rstest]
fn the_plays_own_keys_fire_and_the_feed_tells_the_line() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    demo.press(&["Space", "p"]).wait_for("PLAY KEYS");
    demo.press(&["f"]);
    demo.wait("a drop", |s| Session::number(s, " drop ").is_some_and(|n| n >= 1.0));
    // Latched, it goes on without anybody touching a key.
    demo.press(&["F"]).wait_for("fire=latched");
    demo.wait("more drops", |s| Session::number(s, " drop ").is_some_and(|n| n >= 3.0));
    demo.press(&["Escape"]).wait("let go", |s| !s.contains("PLAY KEYS"));
    demo.press(&["Space", "2"]);
    // A line may be seen while it is drawn: wait for a whole one.
    demo.wait("births in the feed, with maker and line", |s| {
        let born = |l: &str| l.contains("born     drop#");
        s.lines().any(|l| born(l) && l.contains("by frog#1") && l.contains("line 68"))
    });
}

#[rstest]
fn an_entity_is_selected_and_leads_to_its_line() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    demo.press(&["j"]).wait_for("made by line 113 (b)");
    demo.press(&["b"]).wait_for("113:1");
    let screen = demo.screen();
    assert!(screen.contains("frog#1") && screen.contains("health"), "{screen}");
}

#[rstest]
fn export_writes_both_files_and_quit_asks_about_unsaved_text() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    demo.press(&["Space"]);
    demo.wait("ticks to pass", |s| Session::number(s, "tick ").is_some_and(|t| t > 60.0));
    demo.press(&["4"]).wait_for("[4 Trends]");
    demo.press(&["C-e"]).wait_for("wrote dusk-counts.svg and dusk-counts.pdf");
    demo.press(&["F3", "C-e"]).wait_for("wrote dusk-arena.svg and dusk-arena.pdf");
    let svg = std::fs::read_to_string(demo.folder.path().join("dusk-counts.svg")).unwrap();
    assert!(svg.contains("Dusk at the mill pond"));
    assert!(
        std::fs::read(demo.folder.path().join("dusk-counts.pdf")).unwrap().starts_with(b"%PDF")
    );
    demo.press(&["F2"]).type_text("// mine\n").wait_for("(unsaved)");
    demo.press(&["C-q"]).wait_for("The text is not saved");
    demo.answer("s").wait_for("Save as: dusk.pond");
    demo.press(&["Enter"]).wait_for("exit code 0");
    let text = std::fs::read_to_string(demo.folder.path().join("dusk.pond")).unwrap();
    assert!(text.starts_with("// mine"));
}

#[rstest]
fn a_tiny_terminal_pauses_and_nothing_is_lost() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    demo.press(&["F2"]).type_text("// kept ").wait_for("// kept");
    demo.press(&["F5"]).wait_for("playing");
    demo.resize(20, 5).wait_for("too small");
    demo.resize(160, 48);
    let screen = demo.wait_for("// kept");
    assert!(screen.contains("paused"), "{screen}");
}

#[rstest]
fn eighty_by_twenty_four_has_every_band() {
    let demo = Session::start("demo", 80, 24);
    demo.wait_for("@ frog 1");
    demo.press(&["F2"]).wait_for("Script");
    demo.press(&["F4"]).wait_for("[1 Roster]");
    demo.press(&["F3"]).wait_for("Arena");
    demo.press(&["?"]).wait_for("play or pause");
    demo.press(&["Escape"]).wait("closed", |s| !s.contains("play or pause"));
    demo.press(&["q"]).wait_for("exit code 0");
}

#[rstest]
fn a_pond_with_errors_opens_to_be_mended() {
    let text = "pond \"x\" { arena 40 x 20 }\nplace frgo at (1, 1)\nkind frog { look \"@\" }\n";
    let session = Session::with_file("a.pond", text, "open a.pond");
    session.wait_for("nothing plays yet");
    session.press(&["F2"]).wait_for("did you mean `frog`?");
    session.press(&["Down", "End"]);
    for _ in 0.."frgo at (1, 1)".len() {
        session.press(&["BSpace"]);
    }
    session.type_text("frog at (1, 1)").wait_for("@ frog 1");
    session.press(&["C-s"]).wait_for("saved a.pond");
    session.press(&["C-q"]).wait_for("exit code 0");
    let saved = std::fs::read_to_string(session.folder.path().join("a.pond")).unwrap();
    assert_eq!(saved, text.replace("frgo", "frog"));
}
