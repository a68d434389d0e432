//! The house: a floor knows only the floors under it, and only the top floor knows a terminal.

use std::process::Command;

use rstest::rstest;

const FLOORS: [&str; 6] =
    ["tickpond-lang", "tickpond-ide", "tickpond-sim", "tickpond-lab", "tickpond-draw", "tickpond"];
const TERMINAL: [&str; 6] =
    ["ratatui", "crossterm", "clap", "indicatif", "annotate-snippets", "ropey"];

fn dependencies(name: &str) -> Vec<String> {
    let output = Command::new(env!("CARGO"))
        .args(["metadata", "--format-version", "1", "--no-deps", "--offline"])
        .current_dir(env!("CARGO_MANIFEST_DIR"))
        .output()
        .unwrap();
    let metadata: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    let packages = metadata["packages"].as_array().unwrap();
    let package = packages.iter().find(|p| p["name"] == name).unwrap();
    let all = package["dependencies"].as_array().unwrap();
    all.iter().map(|d| d["name"].as_str().unwrap().to_string()).collect()
}

#[rstest]
#[case(0)]
#[case(1)]
#[case(2)]
#[case(3)]
#[case(4)]
fn a_floor_knows_only_those_under_it(#[case] floor: usize) {
    let known = dependencies(FLOORS[floor]);
    for above in &FLOORS[floor..] {
        assert!(!known.iter().any(|d| d == above), "{} uses {above}", FLOORS[floor]);
    }
    for crate_ in TERMINAL {
        assert!(!known.iter().any(|d| d == crate_), "{} uses {crate_}", FLOORS[floor]);
    }
}
