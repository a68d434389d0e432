//! Guards: what they stop, whom they name, and that nothing of others is lost.

use crate::common::{Play, play};
use rstest::rstest;
use tickpond_sim::{Guard, Stopped, What};

fn stopped(text: &str, ticks: u64) -> (Play, Option<Stopped>) {
    let mut play = play(text, 1);
    for _ in 0..ticks {
        if play.state.stopped.is_some() {
            break;
        }
        play.ticks(1);
    }
    let stopped = play.state.stopped.clone();
    (play, stopped)
}

/// The lines a guard names, and how often each asked.
fn lines(play: &Play, stopped: &Stopped) -> Vec<(u32, u64)> {
    stopped.lines().map(|(site, times)| (play.program().line_of(site), times)).collect()
}

#[rstest]
fn a_full_pond_names_the_lines_that_asked_most_three_at_most() {
    let text = "pond \"t\" { arena 100 x 100; limit 10 entities }\n\
        kind a { look \"a\" }\nkind b { every 5 ticks {\n\
        spawn 2 a at here\nspawn 9 a at here\nspawn 4 a at here\nspawn 7 a at here } }\nplace b at (1, 1)";
    let (play, stopped) = stopped(text, 50);
    let stopped = stopped.unwrap();
    assert_eq!((stopped.guard, stopped.tick), (Guard::Entities, 5));
    // Nine have room in the order of the roll: two, and seven of the nine.
    assert_eq!(lines(&play, &stopped), [(7, 7), (6, 4), (5, 2)]);
    assert_eq!(play.count("a"), 9);
    // One record for each line, not for each birth.
    assert_eq!(play.happened(What::Refused), 3);
}

#[rstest]
fn too_many_births_in_a_tick_are_refused_and_the_rest_is_born() {
    let text = "pond \"t\" { arena 100 x 100; limit 1000 entities, 20 births per tick }\n\
        kind a { look \"a\" }\nafter 3 ticks { spawn 50 a at (1, 1) }";
    let (play, stopped) = stopped(text, 10);
    let stopped = stopped.unwrap();
    assert_eq!((stopped.guard, stopped.tick), (Guard::Births, 3));
    assert_eq!(lines(&play, &stopped), [(3, 30)]);
    assert_eq!(play.count("a"), 20);
}

#[rstest]
fn births_without_end_are_cut_off() {
    let text = "pond \"t\" { arena 100 x 100; limit 1000 entities, 8 rounds }\n\
        kind a { on birth { spawn a at here } }\nafter 3 ticks { spawn a at (1, 1) }";
    let (play, stopped) = stopped(text, 10);
    let stopped = stopped.unwrap();
    assert_eq!((stopped.guard, stopped.tick), (Guard::BirthRounds, 3));
    assert_eq!(play.count("a"), 8);
    // The line asked for eight births; the ninth was one round too many.
    assert_eq!(lines(&play, &stopped), [(2, 8)]);
}

#[rstest]
fn a_firing_that_goes_round_and_round_is_cut_off() {
    let text = "pond \"t\" { arena 100 x 100; limit 1000 entities, 50 steps }\n\
        kind a { vars { n = 0 }; after 3 ticks {\nrepeat 100 times { n += 1 } } }\nplace a at (1, 1)";
    let (play, stopped) = stopped(text, 10);
    let stopped = stopped.unwrap();
    assert_eq!((stopped.guard, stopped.tick), (Guard::Steps, 3));
    assert_eq!(lines(&play, &stopped)[0].0, 3);
}

#[rstest]
#[case::division("n = 1 / n", "n = 1")]
#[case::zero_by_zero("n = n / n", "n = 1")]
#[case::root("n = sqrt(n - 0.5)", "n = 1")]
#[case::added("n += 1 / n", "n = 1")]
#[case::place("pos = here + (1 u, 1 u) * (1 / n)", "n = 1")]
#[case::velocity("vel = (1, 0) u/s * (1 / n)", "n = 1")]
#[case::heading("heading = 1 deg / n", "n = 1")]
#[case::turn("turn by 1 deg / n", "n = 1")]
#[case::speed("speed = 1 u/s / n", "n = 1")]
#[case::spin("spin = 1 deg/s / n", "n = 1")]
#[case::a_pair("home = (1 u, 1 u) * (1 / n)", "n = 1")]
fn a_number_that_is_none_names_the_line_and_whose_it_is(
    #[case] statement: &str,
    #[case] fine: &str,
) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100 }}\n\
         kind a {{ vars {{ n = 1; home = (1, 1) u }}; on birth {{ vel = (3, 0) u/s }}\nafter 3 ticks {{\n{statement} }} }}\n\
         place a at (1, 1) {{ {fine} }}\nplace a at (2, 1) {{ {fine} }}\nplace a at (3, 1) {{ n = 0 }}\nplace a at (4, 1) {{ n = 0 }}"
    );
    let (play, stopped) = stopped(&text, 10);
    let stopped = stopped.unwrap_or_else(|| panic!("{statement}"));
    assert_eq!((stopped.guard, stopped.tick), (Guard::NotFinite, 3));
    assert_eq!(lines(&play, &stopped)[0].0, 4);
    // The first of those whose fault it was.
    assert_eq!(stopped.who.map(|who| who.number), Some(3), "{statement}");
    // Nothing stored is anything but a number, and the others have theirs.
    let c = play.columns("a");
    for column in [&c.x, &c.y, &c.vx, &c.vy, &c.heading] {
        assert!(column.iter().all(|n| n.is_finite()), "{statement}");
    }
    for column in &c.vars {
        assert!(column.iter().all(|word| f64::from_bits(*word).is_finite()), "{statement}");
    }
}

#[rstest]
#[case::damage("damage self by 1 / n")]
#[case::heal("heal self by 1 / n")]
#[case::push("push self by 1 u/s / n along 0 deg")]
#[case::born_speed("spawn b at here, speed 1 u/s / n")]
#[case::born_facing("spawn b at here, facing 1 deg / n")]
#[case::born_place("spawn b at here + (1 u, 1 u) * (1 / n)")]
#[case::how_many("spawn 1 / n b at here")]
fn a_request_with_a_number_that_is_none_stops_the_run_and_is_not_carried_out(
    #[case] statement: &str,
) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100 }}\nkind b {{ after 1 s {{ end self }} }}\n\
         kind a {{ health 5; vars {{ n = 0 }}\nafter 3 ticks {{\n{statement} }} }}\nplace a at (1, 1)"
    );
    let (play, stopped) = stopped(&text, 10);
    let stopped = stopped.unwrap_or_else(|| panic!("{statement}"));
    assert_eq!((stopped.guard, stopped.tick), (Guard::NotFinite, 3), "{statement}");
    let c = play.columns("a");
    assert_eq!((c.len(), c.health[0], c.vx[0], play.count("b")), (1, 5.0, 0.0, 0));
}

#[rstest]
fn a_run_that_was_stopped_can_be_played_on() {
    let text = "pond \"t\" { arena 100 x 100; limit 5 entities }\n\
        kind a { after 20 ticks { end self } }\nspawner bed { makes a at here; every 1 ticks }\nplace bed at (1, 1)";
    let mut play = play(text, 1);
    let mut stops = 0;
    for _ in 0..100 {
        play.ticks(1);
        stops += usize::from(play.state.stopped.is_some());
        assert!(play.count("a") <= 4);
    }
    assert!(stops > 50, "{stops}");
    assert!(play.born("a") > 10);
}

#[rstest]
#[case::entities(Guard::Entities)]
#[case::births(Guard::Births)]
#[case::rounds(Guard::BirthRounds)]
#[case::steps(Guard::Steps)]
#[case::not_finite(Guard::NotFinite)]
fn every_guard_has_a_name_and_words(#[case] guard: Guard) {
    assert!(!guard.name().is_empty() && guard.words().len() > 10);
    assert!(!guard.words().ends_with('.'));
}
