//! Files a run writes, runs that are interrupted, and what `test` says of the runs it plays.

mod common;

use std::process::{Command, Output, Stdio};
use std::time::{Duration, Instant};

use rstest::rstest;
use serde_json::Value;
use tempfile::TempDir;

/// A pond one tick of which takes minutes: ten loops, each of nearly as many steps as can be allowed.
fn stuck_pond() -> String {
    let frogs = "place frog at (5, 5)\n".repeat(10);
    format!(
        "pond \"Stuck\" {{\n    arena 40 x 20\n    limit 100_000_000 steps, 1_000_000_000 steps per tick\n}}\n\
         kind frog {{ every 1 s {{ repeat 90_000_000 times as i {{ let x = sin(i * 1 deg) }} }} }}\n{frogs}"
    )
}

fn folder(files: &[(&str, &str)]) -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in files {
        std::fs::write(folder.path().join(name), text).unwrap();
    }
    folder
}

fn tickpond(folder: &TempDir, args: &[&str]) -> Output {
    Command::new(common::PROGRAM).args(args).current_dir(folder.path()).output().unwrap()
}

fn out(output: &Output) -> String {
    String::from_utf8(output.stdout.clone()).unwrap()
}

fn err(output: &Output) -> String {
    String::from_utf8(output.stderr.clone()).unwrap()
}

const SMALL: &str = "pond \"Small\" { arena 40 x 20 }\n\
    kind frog { look \"@\"; on birth { say \"hello\" }; every 1 tick { say \"again\" } }\n\
    place frog at (5, 5)\nwatch frogs = count(frog)\n";

// Files.

#[rstest]
#[case::the_pond_as_a_table(&["--series", "small.pond"])]
#[case::the_pond_by_another_path(&["--events", "../{folder}/./small.pond"])]
#[case::one_file_for_both(&["--series", "a.txt", "--events", "./a.txt"])]
#[case::the_tape(&["--tape", "a.tape", "--events", "a.tape"])]
fn a_file_that_is_read_or_written_twice_is_refused(#[case] args: &[&str]) {
    let folder = folder(&[("small.pond", SMALL), ("a.tape", "tape \"a\" { }\n")]);
    let name = folder.path().file_name().unwrap().to_str().unwrap();
    let args: Vec<String> = args.iter().map(|a| a.replace("{folder}", name)).collect();
    let mut all = vec!["run", "small.pond", "--for", "1s"];
    all.extend(args.iter().map(String::as_str));
    let output = tickpond(&folder, &all);
    assert_eq!(output.status.code(), Some(2), "{output:?}");
    assert_eq!(std::fs::read_to_string(folder.path().join("small.pond")).unwrap(), SMALL);
    assert_eq!(std::fs::read_to_string(folder.path().join("a.tape")).unwrap(), "tape \"a\" { }\n");
    assert!(!folder.path().join("a.txt").exists());
}

#[rstest]
fn the_events_of_a_long_run_begin_at_its_beginning() {
    // Long enough that the history of a window would have let go of its beginning.
    let pond = "pond \"Chatter\" { arena 40 x 20 }\nkind frog { every 1 tick { say \"hm\" } }\n\
        spawner bed { makes frog at (5, 5); 40 at a time }\nplace bed at (1, 1)\n";
    let folder = folder(&[("chatter.pond", pond)]);
    let args = ["run", "chatter.pond", "--ticks", "6000", "--events", "e.jsonl", "--json"];
    let output = tickpond(&folder, &args);
    assert!(output.status.success(), "{output:?}");
    let text = std::fs::read_to_string(folder.path().join("e.jsonl")).unwrap();
    let first: Value = serde_json::from_str(text.lines().next().unwrap()).unwrap();
    assert_eq!((&first["tick"], &first["event"]), (&0.into(), &"born".into()));
    let born = text.lines().filter(|l| l.contains("\"event\":\"born\"")).count();
    let said = text.lines().filter(|l| l.contains("\"event\":\"said\"")).count();
    assert_eq!((born, said), (41, 40 * 5999));
}

#[rstest]
#[case("INT", 130)]
#[case("TERM", 143)]
#[case("HUP", 129)]
fn interrupted_a_run_ends_at_once_and_leaves_the_old_files(
    #[case] signal: &str,
    #[case] code: i32,
) {
    let folder = folder(&[("stuck.pond", &stuck_pond()), ("e.jsonl", "old\n"), ("s.csv", "old\n")]);
    let mut child = Command::new(common::PROGRAM)
        .args(["run", "stuck.pond", "--for", "60s", "--events", "e.jsonl", "--series", "s.csv"])
        .current_dir(folder.path())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    std::thread::sleep(Duration::from_millis(1500));
    assert!(child.try_wait().unwrap().is_none(), "the tick is a long one");
    let interrupt = Command::new("kill").args(["-s", signal, &child.id().to_string()]).status();
    assert!(interrupt.unwrap().success());
    let start = Instant::now();
    let status = loop {
        if let Some(status) = child.try_wait().unwrap() {
            break status;
        }
        // No measure of speed: the tick itself would take minutes.
        assert!(start.elapsed() < Duration::from_secs(30), "it goes on");
        std::thread::sleep(Duration::from_millis(20));
    };
    assert_eq!(status.code(), Some(code));
    for name in ["e.jsonl", "s.csv"] {
        assert_eq!(std::fs::read_to_string(folder.path().join(name)).unwrap(), "old\n", "{name}");
    }
    assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 3, "nothing half done is left");
}

// Tests of ponds.

/// Claims: one that holds but for the tape, one that has no occasion, one about the tape.
const CLAIMS: &str = "pond \"Claims\" { arena 40 x 20; lasts 1 s }\n\
    input fire = key f\n\
    kind frog { look \"@\"; on press fire { end self because \"shot\" } }\nplace frog at (5, 5)\n\
    tape \"one tap\" { at 0.5 s tap fire }\n\
    expect \"it lives\": always count(frog) >= 1\n\
    expect \"a shot counts\": after hit, within 0.1 s, count(frog) == 0\n\
    expect \"it can be shot\" on tape \"one tap\": by 0.6 s, count(frog) == 0\n\
    watch hit = count(frog) > 5\n";

#[rstest]
fn a_claim_is_judged_in_the_run_of_every_tape() {
    let folder = folder(&[("claims.pond", CLAIMS)]);
    let output = tickpond(&folder, &["test", "claims.pond"]);
    assert_eq!(output.status.code(), Some(1), "{}", out(&output));
    let text = out(&output);
    assert!(text.contains("it lives") && text.contains("one tap"), "{text}");
    assert!(text.contains("count(frog) was 0"), "{text}");
}

#[rstest]
#[case::as_it_is(&[], 0)]
#[case::strict(&["--untried", "fail"], 1)]
fn what_had_no_occasion_is_told_and_fails_when_asked(#[case] more: &[&str], #[case] code: i32) {
    let pond = CLAIMS.replace("expect \"it lives\": always count(frog) >= 1\n", "");
    let folder = folder(&[("claims.pond", &pond)]);
    let mut args = vec!["test", "claims.pond"];
    args.extend(more);
    let output = tickpond(&folder, &args);
    assert_eq!(output.status.code(), Some(code), "{}", out(&output));
    assert!(out(&output).contains("untried"), "{}", out(&output));
}

#[rstest]
fn the_length_of_a_test_is_that_of_the_header_unless_asked() {
    let pond = "pond \"Long\" { arena 40 x 20; lasts 3 s }\nkind frog { }\n\
        spawner bed { makes frog at (5, 5); every 1 s }\nplace bed at (1, 1)\n\
        expect \"two or more\": in the end count(frog) >= 3\n";
    let folder = folder(&[("long.pond", pond)]);
    assert_eq!(tickpond(&folder, &["test", "long.pond"]).status.code(), Some(0));
    assert_eq!(tickpond(&folder, &["test", "long.pond", "--for", "1s"]).status.code(), Some(1));
}

#[rstest]
fn a_folder_without_ponds_and_a_pond_that_says_nothing_are_told() {
    let folder = folder(&[("notes.txt", "no pond\n")]);
    let output = tickpond(&folder, &["test", "."]);
    assert_eq!(output.status.code(), Some(2), "{output:?}");
    assert!(err(&output).contains("no ponds"), "{output:?}");
}

#[rstest]
fn json_has_every_run_and_every_verdict() {
    let folder = folder(&[("claims.pond", CLAIMS)]);
    let output = tickpond(&folder, &["test", "claims.pond", "--seeds", "1..3", "--json"]);
    assert_eq!(output.status.code(), Some(1));
    let told: Value = serde_json::from_str(&out(&output)).unwrap();
    let runs = told["runs"].as_array().unwrap();
    let seeds: Vec<_> =
        runs.iter().map(|r| (r["seed"].as_u64().unwrap(), r["tape"].as_str())).collect();
    let tape = Some("one tap");
    assert_eq!(seeds, [(1, None), (1, tape), (2, None), (2, tape), (3, None), (3, tape)]);
    let lives = |run: &Value| run["expectations"][0]["held"].clone();
    assert_eq!(
        runs.iter().map(lives).collect::<Vec<_>>(),
        [true, false, true, false, true, false].map(Value::from)
    );
    assert_eq!(runs[1]["expectations"][0]["saw"], "count(frog) was 0 (`count(frog) >= 1`)");
    // Three held it and three about the tape; untried in all six.
    assert_eq!(
        (&told["passed"], &told["failed"], &told["untried"]),
        (&6.into(), &3.into(), &6.into())
    );
}

#[rstest]
fn many_seeds_are_one_line_a_claim() {
    let folder = folder(&[("claims.pond", CLAIMS)]);
    let output = tickpond(&folder, &["test", "claims.pond", "--seeds", "1..20"]);
    let text = out(&output);
    assert_eq!(text.matches("it lives").count(), 1, "{text}");
    assert!(text.contains("(40 runs of 60 ticks)"), "{text}");
    assert!(text.contains("it lives, line 6 (20 held, 20 failed)"), "{text}");
}

// Where it is written to.

#[rstest]
#[case::pond(&["run", "small.pond", "--events", "link"], "small.pond")]
#[case::tape(&["run", "small.pond", "--tape", "a.tape", "--series", "tape-link"], "a.tape")]
#[case::tape_of_a_drawing(&["draw", "small.pond", "--what", "counts", "--tape", "a.tape", "--out", "tape.svg"], "a.tape")]
#[case::drawn_beneath(&["draw", "small.pond", "--what", "counts", "--beside", "other.pond", "--out", "other.svg"], "other.pond")]
#[case::tested(&["test", "small.pond", "--junit", "link"], "small.pond")]
#[case::both_outputs(&["run", "small.pond", "--events", "one", "--series", "two"], "two")]
fn another_name_of_a_file_that_is_read_or_written_is_refused(
    #[case] args: &[&str],
    #[case] over: &str,
) {
    let tape = "at 0.5 s tap fire\n";
    let pond = "input fire = key f\nkind frog { on press fire { end self } }\nplace frog at (1, 1)\n\
        pond \"t\" { arena 9 x 9; lasts 1 s }\n";
    let files = [("small.pond", pond), ("other.pond", pond), ("a.tape", tape), ("one", "old")];
    let folder = folder(&files);
    for (file, name) in [
        ("small.pond", "link"),
        ("a.tape", "tape-link"),
        ("a.tape", "tape.svg"),
        ("other.pond", "other.svg"),
        ("one", "two"),
    ] {
        std::fs::hard_link(folder.path().join(file), folder.path().join(name)).unwrap();
    }
    let output = tickpond(&folder, args);
    assert_eq!(output.status.code(), Some(2), "{output:?}");
    let errors = String::from_utf8_lossy(&output.stderr);
    assert!(errors.contains(&format!("would be written over {over}")), "{errors}");
    for (name, text) in files {
        assert_eq!(std::fs::read_to_string(folder.path().join(name)).unwrap(), text, "{name}");
    }
}

/// The system lets nothing be written, as a full disk does.
#[rstest]
fn a_new_pond_is_there_whole_or_not_at_all() {
    let folder = folder(&[]);
    let script = format!("trap '' XFSZ; ulimit -f 0; exec {} new mine.pond", common::PROGRAM);
    let output = Command::new("sh").args(["-c", &script]).current_dir(folder.path()).output();
    let output = output.unwrap();
    assert_eq!(output.status.code(), Some(4), "{output:?}");
    assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 0);
    assert!(tickpond(&folder, &["new", "mine.pond"]).status.success());
    assert_eq!(
        tickpond(&folder, &["new", "mine.pond"]).status.code(),
        Some(4),
        "never over another"
    );
}

#[rstest]
fn a_pipe_nobody_reads_is_told_and_one_that_is_read_is_written() {
    let folder = folder(&[("small.pond", SMALL)]);
    let pipe = folder.path().join("pipe");
    assert!(Command::new("mkfifo").arg(&pipe).status().unwrap().success());
    let args = ["run", "small.pond", "--for", "1s", "--series", "pipe"];
    let output = tickpond(&folder, &args);
    assert_eq!(output.status.code(), Some(4), "{output:?}");
    assert!(String::from_utf8_lossy(&output.stderr).contains("nobody reads from it"), "{output:?}");
    let reader = Command::new("cat").arg(&pipe).stdout(Stdio::piped()).spawn().unwrap();
    assert!(tickpond(&folder, &args).status.success());
    let read = reader.wait_with_output().unwrap();
    assert!(out(&read).lines().count() > 60, "{read:?}");
}

#[rstest]
#[case("run small.pond --for 1s")]
#[case("run small.pond --for 1s --json")]
#[case("test small.pond")]
#[case("check small.pond")]
#[case("explain E0301")]
#[case("completions bash")]
fn a_closed_output_is_a_failure(#[case] command: &str) {
    let folder = folder(&[("small.pond", SMALL)]);
    let script = format!("exec {} {command} >&-", common::PROGRAM);
    let output = Command::new("sh").args(["-c", &script]).current_dir(folder.path()).output();
    let output = output.unwrap();
    assert_eq!(output.status.code(), Some(4), "{output:?}");
    let errors = String::from_utf8_lossy(&output.stderr);
    assert!(errors.contains("cannot write standard output"), "{errors}");
    // Nobody who throws it away is told that.
    let script = format!("{} {command} 1<>/dev/null", common::PROGRAM);
    let output = Command::new("sh").args(["-c", &script]).current_dir(folder.path()).output();
    assert_ne!(output.unwrap().status.code(), Some(4));
}
