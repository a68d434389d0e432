//! The questions the workbench is for, asked by hand in the real program, to the answer on the screen.

mod common;

use common::Session;
use rstest::rstest;

fn tick(screen: &str) -> u64 {
    Session::number(screen, "tick ").expect("a tick") as u64
}

/// Lets go of the play's keys. Escape and another key at once would be one key with Alt.
fn let_go(session: &Session) -> &Session {
    session.press(&["Escape"]).wait("the keys to be let go", |s| !s.contains("PLAY KEYS"));
    session
}

/// Plays for about so many ticks and pauses.
fn play_on(session: &Session, ticks: f64) -> String {
    session.press(&["Space"]);
    session.wait("ticks to pass", |s| Session::number(s, "tick ").is_some_and(|t| t > ticks));
    session.press(&["Space"]);
    session.wait_for("paused")
}

#[rstest]
fn change_a_number_and_read_what_changed() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    play_on(&demo, 300.0);
    demo.press(&["w"]).wait_for("played anew");
    // The fourth knob is the size of the first wave.
    demo.press(&["6", "Down", "Down", "Down", "S-Right"]).wait_for("flock = 16");
    let screen = demo.wait("what changed", |s| s.contains("midge: peak "));
    assert!(screen.contains("╌ run before"), "{screen}");
    assert!(screen.contains("knob flock  = 16"), "the text has it: {screen}");
    // The number goes back by undo, and with it the run.
    demo.press(&["C-z"]).wait_for("knob flock  = 6 ");
    // Charts lay both runs over each other.
    demo.press(&["4"]).wait_for("since the run before: midge: peak ");
}

#[rstest]
fn a_number_changed_in_mid_play_is_compared_with_what_would_have_been() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    // Without the tape it opens with there is more room for what differs.
    demo.press(&["Y"]).wait_for("Play a tape");
    demo.press(&["Down", "Enter"]).wait("no tape", |s| !s.contains("tape \"an evening\""));
    demo.press(&["Space"]).wait_for("paused");
    play_on(&demo, 200.0);
    // The first knob is how fast midges drift; nothing was played after this tick.
    demo.press(&["6", "S-Right"]).wait_for("drift = 8 u/s");
    demo.wait_for("edit taken up at");
    play_on(&demo, 900.0);
    let screen = demo.wait("what changed", |s| s.contains("midge: "));
    assert!(screen.contains("ended by edge") && screen.contains("->"), "{screen}");
    assert!(screen.contains("╌ run before"), "{screen}");
    // The chart tells which line did what happened at its cursor.
    demo.press(&["2", "/"]).wait_for("Show (ended");
    demo.type_text("ended midge").press(&["Enter"]).wait_for("shows: ended midge");
    demo.wait("nothing but ends", |s| !s.contains("births  born"));
    demo.press(&["Up", "Enter", "4"]);
    let screen = demo.wait("the end", |s| s.contains(" midge by edge line "));
    assert!(screen.contains("since the run before: midge"), "{screen}");
}

#[rstest]
fn why_did_it_vanish() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    demo.press(&["Space", "p", "F"]).wait_for("fire=latched");
    demo.wait("an end by damage", |s| Session::number(s, "tick ").is_some_and(|t| t > 700.0));
    let_go(&demo).press(&["Space"]).wait_for("paused");
    // Only ends of drops, the last of them chosen.
    demo.press(&["2", "/"]).wait_for("Show (ended");
    demo.type_text("ended drop").press(&["Enter"]).wait_for("shows: ended drop");
    demo.wait("nothing but ends", |s| !s.contains("births  born"));
    demo.press(&["Up", "Enter"]);
    let screen = demo.wait_for("ended by line");
    assert!(screen.contains("drop#"), "{screen}");
    // From the end to the line, with the reason in it.
    demo.press(&["e"]).wait("the line is on the screen", |s| {
        s.contains("end self because \"spent\"") && s.contains("Script  dusk.pond")
    });
    // And back to where one was.
    demo.press(&["M-Left"]).wait_for("[2 Feed]");
}

#[rstest]
fn nothing_happens() {
    let text = "pond \"Still\" { arena 40 x 20 }
message warn
kind frog {
    look \"@\"
    on press croak { send warn to each midge }
}
kind midge {
    look \".\"
    every 1 s { turn by 10 deg }
}
input croak = key c
place frog at (5, 5)
place midge at (30, 10)
";
    let session = Session::with_file("still.pond", text, "open still.pond");
    session.wait_for("@ frog 1");
    // The checker knows it before play.
    session.press(&["5"]).wait("a finding", |s| s.contains("finding") && s.contains("warn"));
    session.press(&["Space", "p", "c"]);
    session.wait("the play to hear it", |s| Session::number(s, "tick ").is_some_and(|t| t > 60.0));
    let_go(&session).press(&["Space"]).wait_for("paused");
    // The feed says who did not hear what.
    session.press(&["2", "/"]).type_text("unheard").press(&["Enter"]);
    let screen = session.wait("the unheard message", |s| s.contains("unheard  midge#1 warn"));
    assert!(screen.contains("line 5"), "{screen}");
}

#[rstest]
fn one_press_many_shots() {
    let text = "pond \"Rain\" { arena 40 x 20 }
kind drop { after 1 s { end self } }
kind frog {
    look \"@\"
    while held fire every 1 ticks { spawn drop at here, speed 10 u/s }
}
input fire = key f
place frog at (5, 5)
";
    let session = Session::with_file("rain.pond", text, "open rain.pond");
    session.wait_for("@ frog 1");
    session.press(&["Space", "p", "f"]);
    session.wait("drops", |s| Session::number(s, " drop ").is_some_and(|n| n >= 3.0));
    let_go(&session).press(&["Space"]).wait_for("paused");
    // From the line to its firings: more than one for one press.
    session.press(&["F2", "Down", "Down", "Down", "Down", "C-l"]).wait_for("shows: line:5");
    let screen = session.wait("the births", |s| s.matches("born     drop#").count() >= 3);
    assert!(screen.contains("line 5"), "{screen}");
    // The first tick with a birth, taken apart.
    session.press(&["Up", "Up", "Enter", "7"]);
    let screen =
        session.wait_for("frog while held fire every 1 ticks  for frog#1  asks for 1 birth");
    assert!(screen.contains("line 5"), "{screen}");
}

#[rstest]
fn the_delay_of_a_respawn() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    play_on(&demo, 30.0);
    // The heron ends at its touch of the frog; the next is born three seconds later.
    demo.press(&["t"]).wait_for("Go to");
    demo.type_text("25 s").press(&["Enter"]);
    demo.wait_for("tick 1500 ");
    demo.press(&["2", "/"]).type_text("heron -touched -hurt").press(&["Enter"]);
    demo.wait_for("shows: heron");
    demo.press(&["Home"]).wait_for("tick 0 ");
    let mut seen = Vec::new();
    for _ in 0..6 {
        let before = tick(&demo.screen());
        demo.press(&["n"]);
        let screen = demo.wait("the next event", |s| tick(s) > before);
        let line = screen.lines().last().unwrap_or("").to_string();
        seen.push((tick(&screen), line));
        if seen.iter().filter(|(_, line)| line.contains("born heron")).count() == 2 {
            break;
        }
    }
    let ended = seen.iter().find(|(_, line)| line.contains("ended heron")).expect("an end");
    let born = seen.iter().find(|(t, line)| *t > ended.0 && line.contains("born heron"));
    assert_eq!(born.expect("another").0 - ended.0, 180, "{seen:?}");
}

#[rstest]
fn pause_when_something_becomes_true() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    demo.press(&["c"]).wait_for("Pause when");
    demo.type_text("count(midge) >= 3").press(&["Enter"]).wait_for("when count(midge) >= 3");
    demo.press(&["Space"]).wait_for("paused: count(midge) >= 3 became true");
    let screen = demo.wait_for("paused");
    assert_eq!(Session::number(&screen, " midge "), Some(3.0), "{screen}");
}

#[rstest]
fn a_tape_is_recorded_named_and_put_in_the_text() {
    let demo = Session::start("demo", 160, 48);
    demo.wait_for("@ frog 1");
    demo.press(&["T"]).wait_for("RECORDING");
    demo.press(&["Space", "p", "F"]).wait_for("fire=latched");
    demo.wait("drops", |s| Session::number(s, " drop ").is_some_and(|n| n >= 2.0));
    demo.press(&["f"]);
    let_go(&demo).press(&["Space"]).wait_for("paused");
    demo.press(&["T"]).wait_for("Name of the tape");
    demo.type_text("two drops").press(&["Enter"]).wait_for("the tape is at the end of the text");
    demo.press(&["F2", "C-End"])
        .wait("the tape", |s| s.contains("tape \"two drops\" {") && s.contains("hold fire"));
    // Played back it fires again, from the start, and the strip tells when.
    demo.press(&["Escape"]).wait_for("━━ Arena");
    demo.press(&["Y"]).wait_for("Play a tape");
    demo.press(&["Down", "Enter"]).wait_for("tape \"two drops\" plays from 0 s");
    let screen =
        demo.wait("drops again", |s| Session::number(s, " drop ").is_some_and(|n| n >= 2.0));
    assert!(screen.contains("keys") && screen.contains('▾'), "{screen}");
}
