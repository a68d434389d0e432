//! Timers, ends by time and spawners' gaps, against counting them out.

use crate::common::{Play, play};
use proptest::prelude::*;
use rstest::rstest;
use tickpond_sim::What;

fn pond(items: &str) -> Play {
    play(&format!("pond \"t\" {{ arena 100 x 60; limit 100_000 entities }}\n{items}"), 1)
}

fn var(play: &Play, kind: &str, word: usize) -> f64 {
    f64::from_bits(play.columns(kind).vars[word][0])
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn a_timer_runs_as_often_as_its_period_fits(period in 1..200u64, ticks in 1..600u64) {
        let mut play = pond(&format!(
            "kind frog {{ vars {{ n = 0 }}; every {period} ticks {{ n += 1 }} }}\nplace frog at (1, 1)"
        ));
        play.ticks(ticks);
        prop_assert_eq!(var(&play, "frog", 0), (ticks / period) as f64);
    }

    #[test]
    fn a_life_lasts_as_many_ticks_as_it_is_given(life in 1..200u64, gap in 1..40u64, ticks in 1..500u64) {
        let mut play = pond(&format!(
            "kind midge {{ after {life} ticks {{ end self because \"old\" }} }}
             spawner bed {{ makes midge at here; every {gap} ticks }}
             place bed at (1, 1)"
        ));
        play.ticks(ticks);
        let births: Vec<u64> = play
            .events
            .iter()
            .filter(|e| e.what == What::Born && e.who.kind == play.program().kind_named("midge").unwrap())
            .map(|e| e.tick)
            .collect();
        // One every gap, and each ends when its time is over.
        prop_assert!(births.windows(2).all(|pair| pair[1] - pair[0] == gap), "{:?}", births);
        let ended = births.iter().filter(|born| *born + life <= ticks).count();
        prop_assert_eq!(play.happened(What::Ended), ended);
        prop_assert_eq!(play.count("midge"), births.len() - ended);
        for event in play.events.iter().filter(|e| e.what == What::Ended) {
            prop_assert_eq!(event.value, Some(life as f64));
        }
    }

    #[test]
    fn a_population_is_kept_as_long_as_it_is_told(keep in 1..60u64, life in 2..50u64, ticks in 60..400u64) {
        let mut play = pond(&format!(
            "kind midge {{ after {life} ticks {{ end self }} }}
             spawner bed {{ makes midge at here; keep {keep} alive }}
             place bed at (1, 1)"
        ));
        for _ in 0..ticks {
            play.ticks(1);
            prop_assert!(play.count("midge") as u64 <= keep);
        }
        let spawner = play.columns("bed");
        prop_assert_eq!(u64::from(spawner.made_in_all[0]), play.born("midge"));
        prop_assert!(play.born("midge") >= keep);
    }

    #[test]
    fn a_state_that_is_timed_is_over_in_time(time in 1..120u64, at in 1..60u64) {
        let mut play = pond(&format!(
            "kind frog {{ states {{ calm, scared }}; vars {{ n = 0 }}
               after {at} ticks {{ become scared for {time} ticks }}
               in state scared {{ every tick {{ n += 1 }} }} }}
             place frog at (1, 1)"
        ));
        play.ticks(at);
        let frog = play.program().kind_named("frog").unwrap();
        prop_assert_eq!(play.state.in_state(frog, 0, 1), 1);
        play.ticks(time - 1);
        prop_assert_eq!(play.state.in_state(frog, 0, 1), 1);
        play.ticks(1);
        prop_assert_eq!(play.state.in_state(frog, 0, 1), 0, "it goes back to calm by itself");
        play.ticks(200);
        prop_assert!(var(&play, "frog", 0) <= time as f64, "{}", var(&play, "frog", 0));
    }

    #[test]
    fn a_wait_goes_on_after_its_time(first in 1..80u64, second in 1..80u64) {
        let mut play = pond(&format!(
            "kind frog {{ after {first} ticks {{ say \"a\"; wait {second} ticks; say \"b\" }} }}
             place frog at (1, 1)"
        ));
        play.ticks(first + second + 5);
        let said: Vec<u64> =
            play.events.iter().filter(|e| e.what == What::Said).map(|e| e.tick).collect();
        prop_assert_eq!(said, vec![first, first + second]);
    }

    #[test]
    fn rest_stops_the_clock(rest in 1..100u64, life in 20..80u64) {
        // Asleep for a while, it ends as much later.
        let mut play = pond(&format!(
            "kind frog {{ after {life} ticks {{ end self }} }}
             after 10 ticks {{ deactivate each frog }}
             after {} ticks {{ activate each frog }}
             place frog at (1, 1)",
            10 + rest
        ));
        play.ticks(life + rest + 20);
        let ended = play.events.iter().find(|e| e.what == What::Ended).map(|e| e.tick);
        prop_assert_eq!(ended, Some(life + rest));
    }
}

#[rstest]
#[case::at_once("every 0.5 s, first at once", &[1, 31, 61])]
#[case::after_a_gap("every 0.5 s", &[30, 60, 90])]
#[case::from_then_on("every 0.5 s; from 1 s", &[90, 120])]
#[case::so_many_in_all("every 0.1 s; at most 2 in all", &[6, 12])]
fn a_spawner_keeps_its_times(#[case] when: &str, #[case] ticks: &[u64]) {
    let mut play = pond(&format!(
        "kind midge {{ look \"m\" }}\nspawner bed {{ makes midge at here; {when} }}\nplace bed at (1, 1)"
    ));
    play.ticks(125);
    let midge = play.program().kind_named("midge").unwrap();
    let born = play.events.iter().filter(|e| e.what == What::Born && e.who.kind == midge);
    let born: Vec<u64> = born.map(|e| e.tick).collect();
    assert_eq!(&born[..ticks.len().min(born.len())], ticks, "{born:?}");
}
