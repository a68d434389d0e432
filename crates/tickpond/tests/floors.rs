//! The house: a floor knows only the floors under it, and only the top floor knows a terminal.

use std::path::{Path, PathBuf};
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

/// The files of a folder and of those in it.
fn files(folder: &Path) -> Vec<PathBuf> {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten().map(|e| e.path());
    entries.flat_map(|path| if path.is_dir() { files(&path) } else { vec![path] }).collect()
}

/// A crate can be packed by itself: what it takes in lies in its own folder, if only by a link.
#[rstest]
fn no_crate_takes_in_a_file_from_outside() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap();
    let mut taken = 0;
    for name in FLOORS {
        let root = crates.join(name);
        for file in files(&root.join("src")).iter().filter(|f| f.extension() == Some("rs".as_ref()))
        {
            let text = std::fs::read_to_string(file).unwrap();
            for part in text.split("include_").skip(1) {
                let Some(path) = part.split_once("!(\"").map(|(_, path)| path) else { continue };
                if !part.starts_with("str!(\"") && !part.starts_with("bytes!(\"") {
                    continue;
                }
                let path = path.split('"').next().unwrap();
                let up = path.matches("../").count();
                let depth = file.strip_prefix(&root).unwrap().components().count() - 1;
                assert!(up <= depth, "{}: {path}", file.display());
                taken += 1;
            }
        }
    }
    assert!(taken > 3);
}

/// Tests that are linked together are listed by hand: none is forgotten.
#[rstest]
#[case("tickpond-lang")]
#[case("tickpond-sim")]
#[case("tickpond-lab")]
fn every_file_of_tests_is_run(#[case] name: &str) {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap().join(name).join("tests");
    let list = std::fs::read_to_string(folder.join("all.rs")).unwrap();
    let mut found = 0;
    for entry in std::fs::read_dir(&folder).unwrap().flatten() {
        let path = entry.path();
        let stem = path.file_stem().unwrap().to_str().unwrap();
        if path.extension() == Some("rs".as_ref()) && stem != "all" {
            assert!(list.lines().any(|line| line == format!("mod {stem};")), "{stem}");
            found += 1;
        }
    }
    assert!(found > 8, "{found}");
}
