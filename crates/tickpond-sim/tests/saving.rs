//! Saving: a copy, into new memory or into that of another state, is the state, and goes on as it does.

use std::path::PathBuf;

use crate::common::{Play, play};
use rstest::rstest;
use tickpond_sim::State;

/// Plays on from a state with an engine of its own.
fn goes_on(play: &Play, from: &State, ticks: u64) -> (u64, usize) {
    let mut engine = tickpond_sim::Engine::of(play.engine.compiled.clone());
    let (mut state, mut events) = (from.clone(), Vec::new());
    for _ in 0..ticks {
        engine.step(&mut state, &[], &mut events);
    }
    (state.digest(), events.len())
}

/// A pond in which everything is in use: waves, labels, waits, letters, states, attachments, rest.
const BUSY: &str = r#"
pond "Busy" { arena 60 x 60; edges wrap; limit 3000 entities }
message plain
kind midge {
    states { calm, wild }
    vars { n = random(0 .. 5); at = (1, 2) u }
    body circle 0.5 u, sensor
    health 3
    on birth { heading = any angle; speed = 9 u/s }
    every 20 ticks { become wild for 5 ticks; if random one of midge as m { send plain to m } }
    on plain { n += 1; wait 7 ticks; n += 1 }
    on touch midge as m { damage m by 1 }
    when n > 6 { deactivate self }
    after 200 ticks { end self because "old" }
    on end { spawn hat at here, label "left" }
}
kind hat { after 30 ticks { end self } }
every 3 ticks { spawn 4 midge anywhere }
"#;

#[rstest]
#[case::over_an_earlier_one(20)]
#[case::over_a_later_one(300)]
fn a_copy_over_another_state_of_the_run_is_the_state(#[case] other: u64) {
    let mut early = play(BUSY, 4);
    early.ticks(120);
    let mut kept = play(BUSY, 9);
    kept.ticks(other);
    let mut memory = kept.state;
    memory.clone_from(&early.state);
    assert!(memory == early.state);
    assert!(memory == early.state.clone());
    assert_eq!(memory.digest(), early.state.digest());
    assert_eq!(goes_on(&early, &memory, 90), goes_on(&early, &early.state, 90));
    // What was copied is left alone by what happens to the copy, and the other way about.
    let digest = early.state.digest();
    early.ticks(5);
    assert_eq!(memory.digest(), digest);
}

#[rstest]
fn a_state_can_be_saved_again_and_again_into_the_same_memory() {
    let mut play = play(BUSY, 2);
    let mut kept = play.state.clone();
    let mut digests = Vec::new();
    for _ in 0..40 {
        play.ticks(9);
        kept.clone_from(&play.state);
        assert!(kept == play.state);
        digests.push(kept.digest());
    }
    digests.dedup();
    assert_eq!(digests.len(), 40, "each is another state");
    assert!(play.count("midge") > 60 && play.count("hat") > 0);
}

#[rstest]
fn the_gallery_is_saved_into_memory_of_another_pond(
    #[files("../../ponds/gallery/*.pond")] path: PathBuf,
) {
    let mut this = play(&std::fs::read_to_string(&path).unwrap(), 3);
    let mut other = play(BUSY, 1);
    other.ticks(60);
    let mut memory = other.state;
    for _ in 0..3 {
        this.ticks(45);
        memory.clone_from(&this.state);
        assert!(memory == this.state, "{}", path.display());
        assert_eq!(goes_on(&this, &memory, 30), goes_on(&this, &this.state, 30));
    }
}

#[rstest]
fn a_state_that_grew_small_is_saved_as_it_is() {
    // Rows that are left over must not show: all but a few end.
    let text = "pond \"Few\" { arena 50 x 50; limit 5000 entities }\n\
                kind midge { vars { n = 1 }\n after 10 ticks { end self } }\n\
                after 1 ticks { spawn 900 midge anywhere }\n\
                after 8 ticks { spawn 3 midge anywhere }";
    let mut play = play(text, 1);
    play.ticks(6);
    let mut kept = play.state.clone();
    assert_eq!(kept.live(), 900);
    play.ticks(8);
    kept.clone_from(&play.state);
    assert_eq!((kept.live(), play.count("midge")), (3, 3));
    assert!(kept == play.state);
    assert!(kept.bytes() == play.state.bytes());
    assert_eq!(goes_on(&play, &kept, 20), goes_on(&play, &play.state, 20));
}
