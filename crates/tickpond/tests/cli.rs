//! The command line: output, exit codes, and what bad input is told.

mod common;

use assert_cmd::Command;
use common::dusk;
use predicates::prelude::*;
use predicates::str::contains;
use rstest::rstest;
use tempfile::TempDir;

fn tickpond() -> Command {
    Command::new(common::PROGRAM)
}

fn folder_with(name: &str, text: impl AsRef<[u8]>) -> (TempDir, String) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join(name);
    std::fs::write(&path, text).unwrap();
    (folder, path.display().to_string())
}

fn json(args: &[&str]) -> serde_json::Value {
    let output = tickpond().args(args).output().unwrap();
    serde_json::from_slice(&output.stdout).unwrap_or_else(|e| panic!("{e}: {output:?}"))
}

// Good input.

#[rstest]
fn run_prints_the_contract_and_twice_the_same_digest() {
    let file = dusk().display().to_string();
    let args = ["run", &file, "--for", "60s", "--json"];
    let (a, b) = (json(&args), json(&args));
    assert_eq!(a, b);
    assert_eq!(a["ticks"], 3600);
    for key in
        ["pond", "seed", "rate", "digest", "stopped", "knobs", "kinds", "messages", "watches"]
    {
        assert!(a.get(key).is_some(), "{key}");
    }
    assert_eq!(a["expectations"].as_array().unwrap().len(), 5);
    assert!(a["expectations"].as_array().unwrap().iter().all(|e| e["held"] != false));
    let shuffled = json(&["run", &file, "--for", "60s", "--json", "--shuffle", "9"]);
    assert_eq!(a["digest"], shuffled["digest"]);
}

#[rstest]
fn seeds_and_knobs_change_the_run() {
    let file = dusk().display().to_string();
    let plain = json(&["run", &file, "--ticks", "600", "--json"]);
    let seed = json(&["run", &file, "--ticks", "600", "--json", "--seed", "2"]);
    let knob = json(&["run", &file, "--ticks", "600", "--json", "--set", "flock=20"]);
    assert_ne!(plain["digest"], seed["digest"]);
    let born = |v: &serde_json::Value| v["kinds"]["midge"]["born"].as_u64().unwrap();
    assert!(born(&knob) > born(&plain));
    assert_eq!(knob["knobs"]["flock"]["value"], 20.0);
}

#[rstest]
fn run_writes_its_tables() {
    let folder = tempfile::tempdir().unwrap();
    let (series, events) = (folder.path().join("s.csv"), folder.path().join("e.jsonl"));
    tickpond()
        .arg("run")
        .arg(dusk())
        .args(["--ticks", "300", "--series"])
        .arg(&series)
        .arg("--events")
        .arg(&events)
        .assert()
        .success()
        .stdout(contains("midge"));
    let table = std::fs::read_to_string(series).unwrap();
    assert!(table.starts_with("tick,midge,drop,frog,heron,speck,crowd,hits,scared\n"), "{table}");
    assert_eq!(table.lines().count(), 302);
    let events = std::fs::read_to_string(events).unwrap();
    let first: serde_json::Value = serde_json::from_str(events.lines().next().unwrap()).unwrap();
    assert_eq!((&first["tick"], &first["event"]), (&0.into(), &"born".into()));
}

#[rstest]
fn new_check_test_and_draw_work_together() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("mine.pond");
    tickpond().arg("new").arg(&file).assert().success();
    tickpond().arg("new").arg(&file).assert().code(4).stderr(contains("choose another name"));
    tickpond()
        .arg("check")
        .arg(&file)
        .args(["--deny", "findings"])
        .assert()
        .success()
        .stdout(contains("no errors, no findings"));
    tickpond()
        .arg("test")
        .arg(folder.path())
        .args(["--for", "20s", "--seeds", "1..3"])
        .assert()
        .success()
        .stdout(contains("6 passed, 0 failed"));
    let report = folder.path().join("report.xml");
    tickpond()
        .arg("test")
        .arg(&file)
        .args(["--for", "2s", "--junit"])
        .arg(&report)
        .assert()
        .success();
    let xml = std::fs::read_to_string(report).unwrap();
    assert!(xml.contains("<testsuite ") && xml.contains("the pond never swarms"), "{xml}");
    for name in ["x.svg", "x.pdf"] {
        let out = folder.path().join(name);
        tickpond()
            .arg("draw")
            .arg(&file)
            .args(["--what", "counts", "--for", "10s", "--out"])
            .arg(&out)
            .assert()
            .success();
        assert!(std::fs::metadata(out).unwrap().len() > 1000);
    }
}

#[rstest]
fn check_speaks_json() {
    let (_folder, path) = folder_with("a.pond", "pond \"x\" { arena 1 x 1 }\nknob a = 1 s + 2 u\n");
    let output = tickpond().args(["check", &path, "--json"]).assert().code(2);
    let report: serde_json::Value = serde_json::from_slice(&output.get_output().stdout).unwrap();
    let found = &report["files"][0]["diagnostics"][0];
    assert_eq!(found["code"], "E0401");
    assert_eq!((&found["line"], &found["col"]), (&2.into(), &10.into()));
}

#[rstest]
#[case::bash("bash")]
#[case::zsh("zsh")]
#[case::fish("fish")]
fn completions_know_the_commands(#[case] shell: &str) {
    tickpond()
        .args(["completions", shell])
        .assert()
        .success()
        .stdout(contains("tickpond").and(contains("draw")));
}

// Bad input.

#[rstest]
fn a_missing_file_is_told() {
    tickpond()
        .args(["run", "nowhere.pond"])
        .assert()
        .code(4)
        .stderr(contains("cannot read nowhere.pond").and(contains("tickpond new")));
}

#[rstest]
fn what_is_no_text_is_told() {
    let (_folder, path) = folder_with("a.pond", [0xff, 0xfe, 0x00]);
    tickpond().args(["check", &path]).assert().code(4).stderr(contains("UTF-8"));
}

#[rstest]
#[case::empty("", "this pond is empty")]
#[case::flat("pond \"x\" { arena 0 x 90 }", "holds nothing that can be played")]
#[case::no_header("kind a { look \"a\" }", "no header")]
fn ponds_that_cannot_be(#[case] text: &str, #[case] words: &str) {
    let (_folder, path) = folder_with("a.pond", text);
    tickpond()
        .args(["run", &path])
        .assert()
        .code(2)
        .stderr(contains(words).and(contains("a.pond:1:")));
}

#[rstest]
fn ten_mistakes_are_ten_messages() {
    let text = "pond \"x\" { arena 10 x 10 }\n\
        knob a = 1 u + 1 s\n\
        knob b = true\n\
        input fire = key fire\n\
        kind frog { health 3 u }\n\
        kind frog { look \"@@\" }\n\
        place frgo at (1, 1)\n\
        kind midge { every 3 u { turn by 3 } }\n\
        kind drop { on tuoch midge { end self } }\n\
        routine r { repeat { say \"x\" } }\n";
    let (_folder, path) = folder_with("a.pond", text);
    let output = tickpond().args(["check", &path]).assert().code(2);
    let printed = String::from_utf8_lossy(&output.get_output().stdout).into_owned();
    let lines: std::collections::BTreeSet<&str> = printed
        .lines()
        .filter_map(|l| l.strip_prefix(&format!("{path}:")).and_then(|l| l.split(':').next()))
        .filter(|l| l.parse::<u32>().is_ok())
        .collect();
    assert_eq!(lines.len(), 9, "each broken line is named: {printed}");
    assert!(printed.matches("error[E").count() >= 10, "{printed}");
    assert!(printed.contains("did you mean `frog`?"));
}

#[rstest]
fn a_spawner_over_the_limit_stops_with_its_line() {
    let text = "pond \"x\" { arena 9 x 9; limit 30 entities }\n\
        spawner src { makes fly at here; every 1 ticks }\nplace src\nkind fly { look \"f\" }\n";
    let (_folder, path) = folder_with("a.pond", text);
    tickpond()
        .args(["run", &path, "--json"])
        .assert()
        .code(3)
        .stderr(contains("entity limit is reached").and(contains("a.pond:2:15")))
        .stdout(contains("\"guard\": \"entities\""));
}

#[rstest]
fn a_failed_expectation_has_its_own_code() {
    let text = "pond \"x\" { arena 9 x 9 }\nplace fly at (1, 1)\nkind fly { look \"f\" }\nexpect \"no fly\": never count(fly) > 0\n";
    let (_folder, path) = folder_with("a.pond", text);
    tickpond().args(["run", &path]).assert().code(1).stdout(contains("FAILED  no fly in tick 0"));
    tickpond().args(["test", &path]).assert().code(1).stdout(contains("0 passed, 1 failed"));
}

#[rstest]
#[case::unknown_knob(&["--set", "drif=8"], "no knob `drif`")]
#[case::wrong_unit(&["--set", "drift=8 s"], "is no value for the knob `drift`")]
#[case::no_value(&["--set", "drift"], "NAME=VALUE")]
#[case::no_time(&["--for", "soon"], "no length of time")]
#[case::two_lengths(&["--for", "1s", "--ticks", "3"], "cannot be used with")]
fn wrong_arguments_are_told(#[case] args: &[&str], #[case] words: &str) {
    tickpond().arg("run").arg(dusk()).args(args).assert().code(2).stderr(contains(words));
}

#[rstest]
fn a_drawing_needs_an_ending() {
    tickpond()
        .arg("draw")
        .arg(dusk())
        .args(["--out", "x.png"])
        .assert()
        .code(2)
        .stderr(contains("end it with .svg or .pdf"));
}

#[rstest]
fn a_pond_alone_is_opened() {
    let (_folder, path) = folder_with("a.pond", "pond \"A\" { arena 9 x 9 }\n");
    let said = |args: &[&str]| {
        let done = tickpond().args(args).assert().failure();
        String::from_utf8_lossy(&done.get_output().stderr).into_owned()
    };
    // There is no terminal here, and both say so.
    assert_eq!(said(&[&path]), said(&["open", &path]));
    assert!(said(&[&path]).contains("needs a terminal"));
    assert!(said(&["a.txt"]).contains("subcommand"));
}

#[rstest]
fn without_a_terminal_the_workbench_says_so() {
    tickpond().arg("demo").assert().code(2).stderr(contains("needs a terminal"));
    tickpond()
        .args(["demo", "nowhere"])
        .assert()
        .code(2)
        .stderr(contains("there are dusk, first_frog, rain"));
}

#[rstest]
fn explain_prints_a_page_or_the_list() {
    tickpond().args(["explain", "f0603"]).assert().success().stdout(contains("Wrong:"));
    tickpond().arg("explain").assert().success().stdout(contains("E0401").and(contains("H0701")));
    tickpond().args(["explain", "F9999"]).assert().code(2).stderr(contains("lists them all"));
}

#[rstest]
fn fmt_writes_once_and_leaves_what_it_cannot_read() {
    let folder = tempfile::tempdir().unwrap();
    let (good, bad) = (folder.path().join("a.pond"), folder.path().join("b.pond"));
    std::fs::write(&good, "pond \"t\" {arena 10 x 10}\n// kept\nkind a{look \"a\"}").unwrap();
    std::fs::write(&bad, "pond \"t\" { arena").unwrap();
    tickpond().args(["fmt", "--check"]).arg(&good).assert().code(1).stdout(contains("a.pond"));
    tickpond().arg("fmt").arg(folder.path()).assert().code(2).stderr(contains("left as it is"));
    let text = std::fs::read_to_string(&good).unwrap();
    assert_eq!(text, "pond \"t\" { arena 10 x 10 }\n// kept\nkind a { look \"a\" }\n");
    assert_eq!(std::fs::read_to_string(&bad).unwrap(), "pond \"t\" { arena");
    tickpond().args(["fmt", "--check"]).arg(&good).assert().success();
}

fn shot() -> std::path::PathBuf {
    dusk().with_file_name("gallery").join("03_pond_shot.pond")
}

#[rstest]
#[case::its_own(&[], 4)]
#[case::none(&["--no-tape"], 0)]
#[case::by_name(&["--tape", "taps, then held"], 4)]
fn a_tape_is_played(#[case] args: &[&str], #[case] drops: u64) {
    let out = tickpond().arg("run").arg(shot()).args(["--for", "8s", "--json"]).args(args).output();
    let report: serde_json::Value = serde_json::from_slice(&out.unwrap().stdout).unwrap();
    assert_eq!(report["kinds"]["drop"]["born"], drops);
}

#[rstest]
fn a_tape_can_come_from_a_file() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("two.tape");
    std::fs::write(&file, "at 1 s tap spit\nat 2 s tap spit\n").unwrap();
    let run = |file: &std::path::Path| {
        tickpond()
            .arg("run")
            .arg(shot())
            .args(["--for", "4s", "--json", "--tape"])
            .arg(file)
            .output()
    };
    let report: serde_json::Value = serde_json::from_slice(&run(&file).unwrap().stdout).unwrap();
    assert_eq!(report["kinds"]["drop"]["born"], 2);
    std::fs::write(&file, "at 1 s tap spti\n").unwrap();
    let out = run(&file).unwrap();
    assert_eq!(out.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&out.stderr).contains("two.tape:1:12: error[E0301]"));
    let missing = tickpond().arg("run").arg(shot()).args(["--tape", "nothing"]).output().unwrap();
    assert_eq!(missing.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&missing.stderr).contains("taps, then held"));
}

#[rstest]
fn threads_and_shuffling_leave_the_digest_alone() {
    let digest = |args: &[&str]| {
        let out =
            tickpond().arg("run").arg(dusk()).args(["--for", "20s", "--json"]).args(args).output();
        let report: serde_json::Value = serde_json::from_slice(&out.unwrap().stdout).unwrap();
        report["digest"].as_str().unwrap().to_string()
    };
    let plain = digest(&[]);
    assert_eq!(digest(&["--threads", "2"]), plain);
    assert_eq!(digest(&["--shuffle", "5"]), plain);
}

#[rstest]
#[case::of_a_kind_that_is_not(&["--kinds", "swan"], "there is no kind `swan`")]
#[case::at_no_time(&["--what", "arena", "--at", "soon"], "no length of time")]
#[case::at_the_time_after(&["--what", "arena", "--at", "3s"], "behind the end of the run, which is 2 s long")]
#[case::from_behind_to(&["--from", "1s", "--to", "0.5s"], "--from comes first")]
#[case::at_and_from(&["--at", "1s", "--from", "0s"], "cannot be used with")]
#[case::what_is_not(&["--what", "everything"], "lifelines")]
#[case::a_tick_of_a_stretch(&["--at", "1s"], "the drawing `counts` has no use for --at")]
#[case::a_stretch_of_a_tick(&["--what", "tick", "--to", "1s"], "--at chooses its tick")]
#[case::one_run(&["--what", "family", "--beside", "drift=9"], "it is of one run")]
#[case::beside_what_is_not(&["--beside", "none.pond"], "none.pond")]
#[case::beside_a_knob_that_is_not(&["--beside", "speed=3"], "speed")]
fn what_cannot_be_drawn_is_told_and_nothing_written(#[case] args: &[&str], #[case] words: &str) {
    let folder = tempfile::tempdir().unwrap();
    let out = folder.path().join("x.svg");
    let mut command = tickpond();
    command.arg("draw").arg(dusk()).args(["--for", "2s"]).args(args).arg("--out").arg(&out);
    command.assert().failure().stderr(contains(words));
    assert!(!out.exists());
}

#[rstest]
#[case::another_value(&["--beside", "drift=18"], "grey: drift=18, 3 s")]
#[case::a_stretch(&["--from", "1s", "--to", "2s"], "shown: 1 s to 2 s")]
#[case::the_same_twice(&["--set", "drift=9"], "drift = 9")]
#[case::one_kind(&["--kinds", "midge,frog"], "only midge, frog")]
#[case::a_tick(&["--what", "arena", "--at", "1s"], "at 1 s, tick 60")]
#[case::lives(&["--what", "lifelines", "--to", "2s"], "shown: 0 s to 2 s")]
#[case::one_life(&["--what", "lifelines", "--kinds", "frog"], "; 1 life<")]
#[case::ends(&["--what", "ends"], "what ended them")]
#[case::shares(&["--what", "lifetimes"], "how long they live")]
#[case::states(&["--what", "states"], "no kind here has states")]
#[case::watches(&["--what", "watches"], "crowd (")]
fn each_drawing_says_what_it_shows(#[case] args: &[&str], #[case] words: &str) {
    let folder = tempfile::tempdir().unwrap();
    let draw = |name: &str| {
        let out = folder.path().join(name);
        let mut command = tickpond();
        command.arg("draw").arg(dusk()).args(["--for", "3s"]).args(args).arg("--out").arg(&out);
        command.assert().success();
        std::fs::read(out).unwrap()
    };
    let svg = String::from_utf8(draw("x.svg")).unwrap();
    assert!(svg.contains(words), "{svg}");
    assert_eq!(svg.as_bytes(), draw("y.svg"), "the same bytes");
    assert!(draw("x.pdf").starts_with(b"%PDF"));
}

#[rstest]
fn signs_a_pdf_has_no_picture_for_are_named() {
    let (folder, path) = folder_with(
        "a.pond",
        "pond \"蛙 and frogs\" { arena 9 x 9 }\nkind frog { }\nplace frog at (1, 1)\n",
    );
    let draw = |name: &str| {
        let out = folder.path().join(name);
        let done =
            tickpond().args(["draw", &path, "--for", "1s", "--out"]).arg(&out).assert().success();
        String::from_utf8_lossy(&done.get_output().stderr).into_owned()
    };
    assert!(draw("a.pdf").contains("the PDF has no picture for 蛙"));
    assert!(!draw("a.svg").contains("no picture"));
}

#[rstest]
fn a_spawner_alone_is_drawn_where_it_is_counted_and_said_to_be_nothing_elsewhere() {
    let folder = tempfile::tempdir().unwrap();
    let draw = |what: &str| {
        let out = folder.path().join(format!("{what}.svg"));
        let args = ["--for", "2s", "--kinds", "nest", "--what", what, "--out"];
        tickpond().arg("draw").arg(dusk()).args(args).arg(&out).assert().success();
        std::fs::read_to_string(out).unwrap()
    };
    assert!(draw("counts").contains("nothing of these kinds in this time"));
    assert!(draw("lifelines").contains("nest#1"));
    assert!(draw("family").contains(">nest<"));
}

#[rstest]
fn another_pond_beneath_is_named_by_its_file() {
    let (folder, path) = folder_with(
        "other.pond",
        "pond \"B\" { arena 9 x 9 }\nkind frog { }\nplace frog at (1, 1)\n",
    );
    let out = folder.path().join("x.svg");
    tickpond()
        .arg("draw")
        .arg(dusk())
        .args(["--for", "1s", "--beside", &path, "--out"])
        .arg(&out)
        .assert()
        .success();
    let svg = std::fs::read_to_string(out).unwrap();
    assert!(svg.contains("grey: other.pond, 1 s"), "{svg}");
}
