//! Mistakes that are none before play: what `expect` tells of them names who did it, and on which line.

use crate::common::program;
use rstest::rstest;
use tickpond_lab::{Outcome, Played, Player, RunOptions};

#[rstest]
#[case::hits_its_maker("06_hits_its_maker", "frog#1 was hurt once (line 17, drop#1)")]
#[case::turned_differently("17_turned_differently", "shell#1.heading was 0 deg, not 90 deg")]
#[case::which_rule("19_which_rule", "midge#1 ended by line (line 11)")]
fn a_mistake_is_told_by_who_and_where(#[case] name: &str, #[case] saw: &str) {
    let path = format!("{}/../../ponds/wrong/played/{name}.wrong", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(path).unwrap();
    assert!(tickpond_lang::compile(&text).diagnostics.is_empty());
    let program = program(&text);
    let ticks = program.lasts.unwrap();
    let mut player = Player::new(program, &RunOptions::default()).unwrap();
    assert!(player.play_to(ticks, &mut []).unwrap());
    player.close();
    let verdicts = player.verdicts();
    assert_eq!(verdicts.len(), 1);
    assert_eq!(verdicts[0].outcome(), Outcome::Failed);
    assert_eq!(verdicts[0].saw.as_deref(), Some(saw));
}
