//! What the program writes, read by other programs, and one output held against another.

mod common;

use std::collections::BTreeMap;

use assert_cmd::Command;
use common::dusk;
use rstest::rstest;
use serde_json::Value;
use tempfile::TempDir;

const POND: &str = "pond \"Ledger\" {\n    arena 100 x 100\n    rate 60 per s\n}\n\
    knob pace = 6 u/s in 1..20 \"how fast\"\nmessage hail; message hush\ninput fire = key f\n\
    kind midge {\n    health 2\n    states { calm, wild }\n    body circle 1 u, sensor\n\
    on birth { heading = any angle; speed = pace }\n    every 1 s { become wild for 0.2 s; send hail to each midge within 5 u }\n\
    after 3 s { end self because \"old\" }\n    on leave arena { end self because \"out\" }\n\
    every 0.7 s { damage each midge within 4 u by 1; send hush to maker }\n    on press fire { say \"bang, \\\"{name}\\\"\" }\n}\n\
    spawner bed { makes midge at here; every 0.1 s; keep at most 30 alive }\nplace bed at (50, 50)\n\
    watch crowd = count(midge)\nwatch busy = count(midge) > 10\n\
    tape \"two taps\" { at 1 s tap fire; at 2 s tap fire }\n\
    expect \"never too many\": always count(midge) <= 30\nexpect \"it fills\": by 2 s, count(midge) >= 10\n\
    expect \"a \\\"quoted\\\" & <odd> name\": never count(midge) > 29\nexpect \"no occasion\": after fire_is_never, within 1 s, count(midge) > 0\n\
    watch fire_is_never = count(midge) > 900\n";

fn tickpond(args: &[&str]) -> std::process::Output {
    Command::new(common::PROGRAM).args(args).output().unwrap()
}

#[rstest]
fn the_drawings_of_the_docs_are_what_the_program_draws() {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let folder = TempDir::new().unwrap();
    let script = root.join("scripts/drawings");
    Command::new(script).arg(folder.path()).arg(common::PROGRAM).assert().success();
    let names = |folder: &std::path::Path| -> Vec<String> {
        let entries = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().file_name());
        let mut names: Vec<String> = entries.map(|name| name.into_string().unwrap()).collect();
        names.sort();
        names
    };
    let kept = root.join("docs/drawings");
    assert_eq!(names(&kept), names(folder.path()));
    let page = std::fs::read_to_string(root.join("docs/drawings.md")).unwrap();
    for name in names(&kept) {
        let read = |folder: &std::path::Path| std::fs::read_to_string(folder.join(&name)).unwrap();
        let (old, new) = (read(&kept), read(folder.path()));
        let apart = old.lines().zip(new.lines()).find(|(old, new)| old != new);
        assert!(
            old == new,
            "{name} is not as it is drawn now: `scripts/drawings` makes it; {apart:?}"
        );
        assert!(page.contains(&format!("drawings/{name}")), "{name} is not on the page");
    }
}

/// A folder with the pond, and its path.
fn ledger() -> (TempDir, String) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("ledger.pond");
    std::fs::write(&path, POND).unwrap();
    (folder, path.display().to_string())
}

fn json(args: &[&str]) -> Value {
    let output = tickpond(args);
    serde_json::from_slice(&output.stdout).unwrap_or_else(|e| panic!("{e}: {output:?}"))
}

/// All three outputs of one run.
struct Told {
    report: Value,
    series: Vec<BTreeMap<String, f64>>,
    events: Vec<Value>,
}

fn told(file: &str, more: &[&str]) -> Told {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name).display().to_string();
    let (series, events) = (path("s.csv"), path("e.jsonl"));
    let mut args = vec!["run", file, "--json", "--series", &series, "--events", &events];
    args.extend(more);
    let report = json(&args);
    let mut reader = csv::Reader::from_path(&series).unwrap();
    let series = reader.deserialize().map(|row| row.unwrap()).collect();
    let lines = std::fs::read_to_string(&events).unwrap();
    let events = lines.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    Told { report, series, events }
}

fn count(events: &[Value], tests: &[(&str, &str)]) -> u64 {
    let fits = |e: &&Value| tests.iter().all(|(field, value)| e[*field] == *value);
    events.iter().filter(fits).count() as u64
}

#[rstest]
fn the_report_the_table_and_the_events_tell_one_story() {
    let (_folder, file) = ledger();
    let told = told(&file, &["--for", "8s"]);
    let midge = &told.report["kinds"]["midge"];
    let of_midges: Vec<Value> = told
        .events
        .iter()
        .filter(|e| e["entity"].as_str().is_some_and(|name| name.starts_with("midge#")))
        .cloned()
        .collect();
    assert_eq!(midge["born"], count(&of_midges, &[("event", "born")]));
    for (cause, ended) in midge["ended"].as_object().unwrap() {
        let by_events = count(&of_midges, &[("event", "ended"), ("cause", cause)]);
        assert_eq!(*ended, by_events, "{cause}");
    }
    let ended: u64 = midge["ended"].as_object().unwrap().values().filter_map(Value::as_u64).sum();
    assert_eq!(midge["born"].as_u64().unwrap() - ended, midge["live"].as_u64().unwrap());
    // A row a tick, from the opening.
    assert_eq!(told.series.len(), 481);
    for (tick, row) in told.series.iter().enumerate() {
        assert_eq!(row["tick"], tick as f64);
        assert_eq!(row["crowd"], row["midge"]);
        assert_eq!(row["busy"], f64::from(u8::from(row["midge"] > 10.0)));
    }
    let peak = told.series.iter().map(|row| row["midge"]).fold(0.0, f64::max);
    assert_eq!(midge["peak"].as_f64().unwrap(), peak);
    let first = told.series.iter().position(|row| row["midge"] == peak).unwrap();
    assert_eq!(midge["peak_tick"].as_u64().unwrap(), first as u64);
    assert_eq!(midge["live"].as_f64().unwrap(), told.series[480]["midge"]);
    // The live count of each tick is what births and ends until then come to.
    let mut live = 0.0;
    let mut at = 0;
    for (tick, row) in told.series.iter().enumerate() {
        while at < of_midges.len() && of_midges[at]["tick"].as_u64().unwrap() <= tick as u64 {
            live += match of_midges[at]["event"].as_str().unwrap() {
                "born" => 1.0,
                "ended" => -1.0,
                _ => 0.0,
            };
            at += 1;
        }
        assert_eq!(row["midge"], live, "tick {tick}");
    }
}

#[rstest]
fn messages_add_up_in_the_report_and_the_events() {
    let (_folder, file) = ledger();
    let told = told(&file, &["--for", "6s"]);
    for (name, message) in told.report["messages"].as_object().unwrap() {
        let of = |event: &str| count(&told.events, &[("event", event), ("message", name)]);
        assert_eq!(message["heard"], of("heard"), "{name}");
        assert_eq!(message["unheard"], of("unheard"), "{name}");
    }
    // The bed has no handler: what it is told is unheard.
    assert!(told.report["messages"]["hush"]["unheard"].as_u64().unwrap() > 0);
}

#[rstest]
fn events_come_in_the_order_of_ticks_and_phases_and_have_all_their_fields() {
    let (_folder, file) = ledger();
    let told = told(&file, &["--for", "4s", "--tape", "two taps"]);
    let phases = [
        "input", "clocks", "births", "think", "move", "contact", "mail", "settle", "ends", "record",
    ];
    let mut last = (0, 0);
    for event in &told.events {
        let phase = phases.iter().position(|p| event["phase"] == *p).unwrap();
        let now = (event["tick"].as_u64().unwrap(), phase);
        assert!(now >= last, "{event} after {last:?}");
        last = now;
        for field in [
            "event", "entity", "other", "cause", "words", "value", "message", "line", "col",
            "version",
        ] {
            assert!(event.get(field).is_some(), "{field} is missing: {event}");
        }
        if event["event"] == "ended" {
            assert!(event["cause"].is_string() && event["value"].is_number(), "{event}");
        }
    }
    let said: Vec<&str> = told
        .events
        .iter()
        .filter(|e| e["event"] == "said")
        .filter_map(|e| e["words"].as_str())
        .collect();
    assert!(said.iter().any(|words| words.starts_with("bang, \"midge#")), "{said:?}");
}

#[rstest]
fn knobs_are_told_in_the_unit_of_the_text() {
    let (_folder, file) = ledger();
    let report = json(&["run", &file, "--ticks", "1", "--json", "--set", "pace=9"]);
    assert_eq!(report["knobs"]["pace"]["value"], 9.0);
    assert_eq!(report["knobs"]["pace"]["unit"], "u/s");
}

#[rstest]
fn expectations_are_held_failed_or_untried_each_with_its_tick() {
    let (_folder, file) = ledger();
    let report = json(&["run", &file, "--for", "8s", "--json"]);
    let told: Vec<(Value, bool)> = report["expectations"]
        .as_array()
        .unwrap()
        .iter()
        .map(|e| (e["held"].clone(), e["tick"].is_number()))
        .collect();
    assert_eq!(told[0], (Value::Bool(true), false));
    // One that was met `by` a time tells when.
    assert_eq!(told[1], (Value::Bool(true), true));
    assert_eq!(told[3].0, Value::Null);
}

#[rstest]
#[case::plainly(&["--shuffle"])]
#[case::by_a_seed(&["--shuffle", "9"])]
#[case::on_threads(&["--threads", "2"])]
#[case::both(&["--threads", "3", "--shuffle", "4"])]
#[case::without_tables(&[])]
fn however_it_is_played_the_report_is_the_same(#[case] how: &[&str]) {
    let (_folder, file) = ledger();
    let plain = json(&["run", &file, "--for", "5s", "--json"]);
    let mut args = vec!["run", &file, "--for", "5s", "--json"];
    args.extend(how);
    assert_eq!(json(&args), plain);
    assert_eq!(told(&file, &[&["--for", "5s"], how].concat()).report, plain);
}

#[rstest]
#[case::seconds("3s", 180)]
#[case::minutes("0.05min", 180)]
#[case::milliseconds("500ms", 30)]
fn a_time_is_so_many_ticks(#[case] time: &str, #[case] ticks: u64) {
    let (_folder, file) = ledger();
    assert_eq!(json(&["run", &file, "--for", time, "--json"])["ticks"], ticks);
}

#[rstest]
fn junit_has_a_suite_a_seed_and_a_case_an_expectation() {
    let (folder, file) = ledger();
    let out = folder.path().join("report.xml").display().to_string();
    let output = tickpond(&["test", &file, "--seeds", "1..3", "--for", "8s", "--junit", &out]);
    let xml = std::fs::read_to_string(&out).unwrap();
    assert_eq!(xml.matches("<testsuite ").count(), 3, "{xml}");
    // Four in the pond, on its usual keys.
    assert_eq!(xml.matches("<testcase ").count(), 12, "{xml}");
    assert_eq!(xml.matches("<skipped").count(), 3, "{xml}");
    let failures = xml.matches("<failure").count();
    assert_eq!(output.status.code(), Some(i32::from(failures > 0)));
    // Names with signs of XML in them are escaped.
    assert!(xml.contains("&amp; &lt;odd&gt;"), "{xml}");
    assert!(!xml.contains("& <odd>"));
}

#[rstest]
fn check_json_has_spans_and_mends_that_can_be_applied() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("wrong.pond");
    let text = "pond \"t\" { arena 9 x 9 }\nkind midge { on birth { sped = 3 u/s } }\nplace mige at (1, 1)\n";
    std::fs::write(&path, text).unwrap();
    let file = path.display().to_string();
    let report = json(&["check", "--json", &file]);
    assert_eq!(report["errors"], 2);
    let mut mended = text.to_string();
    let diagnostics = report["files"][0]["diagnostics"].as_array().unwrap().clone();
    for d in diagnostics.iter().rev() {
        let (start, end) = (d["mend"]["span"]["start"].as_u64(), d["mend"]["span"]["end"].as_u64());
        let range = start.unwrap() as usize..end.unwrap() as usize;
        mended.replace_range(range, d["mend"]["text"].as_str().unwrap());
        let line = text.lines().nth(d["line"].as_u64().unwrap() as usize - 1).unwrap();
        assert!(line.contains("sped") || line.contains("mige"));
    }
    std::fs::write(&path, &mended).unwrap();
    assert_eq!(json(&["check", "--json", &file])["errors"], 0, "{mended}");
}

#[rstest]
fn every_code_that_is_listed_has_a_page() {
    let list = String::from_utf8(tickpond(&["explain"]).stdout).unwrap();
    let codes: Vec<&str> = list.split_whitespace().filter(|w| is_code(w)).collect();
    assert!(codes.len() > 30, "{list}");
    for code in codes {
        let page = tickpond(&["explain", code]);
        assert!(page.status.success());
        let page = String::from_utf8(page.stdout).unwrap();
        assert!(page.contains(code) && page.len() > 200, "{page}");
    }
}

fn is_code(word: &str) -> bool {
    word.len() == 5
        && word.starts_with(['E', 'F', 'H'])
        && word[1..].bytes().all(|b| b.is_ascii_digit())
}

#[rstest]
fn a_reader_that_goes_away_is_a_normal_end() {
    // `head -1` closes the pipe while the program still writes.
    let file = dusk().display().to_string();
    let line = format!("{} run {file} --for 5s --json | head -1", common::PROGRAM);
    let output =
        std::process::Command::new("bash").args(["-o", "pipefail", "-c", &line]).output().unwrap();
    assert_eq!(String::from_utf8_lossy(&output.stdout).trim(), "{");
    assert!(!String::from_utf8_lossy(&output.stderr).contains("panic"), "{output:?}");
}

#[rstest]
fn nothing_but_results_goes_to_standard_output() {
    let (_folder, file) = ledger();
    let output = tickpond(&["run", &file, "--for", "2s", "--json"]);
    assert!(serde_json::from_slice::<Value>(&output.stdout).is_ok());
    assert!(output.stderr.is_empty(), "{}", String::from_utf8_lossy(&output.stderr));
}
