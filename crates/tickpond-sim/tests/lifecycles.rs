//! Finer points of states, rest, attachment, replacement, places, guards: one small pond each.

use crate::common::{play, pond};
use rstest::rstest;
use tickpond_sim::{Guard, What};

#[rstest]
fn a_timed_state_again_begins_its_time_anew_and_another_cancels_it() {
    let mut play = pond(
        "place a at (1, 1)\nkind a { states { plain, lit, dark }\n\
         after 10 ticks { become lit for 20 ticks }\n after 20 ticks { become lit for 20 ticks }\n\
         after 50 ticks { become lit for 20 ticks }\n after 60 ticks { become dark }\n\
         on becoming plain { say \"plain {age}\" } on becoming dark { say \"dark\" } }",
    );
    play.ticks(200);
    assert_eq!(play.said(), ["plain 0.017 s", "plain 0.667 s", "dark"]);
}

#[rstest]
fn leaving_a_state_drops_its_waits_and_clocks() {
    let mut play = pond(
        "place a at (1, 1)\nkind a { states { one, two }\n\
         in state one { on becoming one { wait 30 ticks; say \"waited\" } after 40 ticks { say \"late\" } \
         every 12 ticks { say \"tick\" } }\n\
         after 20 ticks { become two }\n after 50 ticks { become one }\n after 70 ticks { become two } }",
    );
    play.ticks(200);
    assert_eq!(play.said(), ["tick", "tick"], "one in each stay, counted from its beginning");
}

#[rstest]
fn rest_keeps_clocks_waits_and_age_where_they_stood() {
    let mut play = pond(
        "place a at (1, 1)\nplace k at (2, 2)\n\
         kind a { after 30 ticks { say \"{age}\" } routine r { wait 25 ticks; say \"waited\" } }\n\
         kind k { after 20 ticks { deactivate each a } after 50 ticks { activate each a } }",
    );
    play.ticks(100);
    assert_eq!(play.said(), ["waited", "0.5 s"]);
    let said: Vec<u64> =
        play.events.iter().filter(|e| e.what == What::Said).map(|e| e.tick).collect();
    assert_eq!(said, [56, 60], "thirty ticks later than without the rest");
}

#[rstest]
fn what_would_hang_on_itself_is_refused() {
    let mut play = pond(
        "place a at (1, 1)\nplace b at (5, 5)\nkind a { mount m at (1 u, 0 u); \
         after 1 ticks { attach b#1 to self at m } }\n\
         kind b { mount m at (1 u, 0 u); after 5 ticks { attach a#1 to self at m } }",
    );
    play.ticks(20);
    assert_eq!(play.happened(What::Attached), 1);
    assert_eq!(play.happened(What::Refused), 1);
}

#[rstest]
fn a_replace_that_comes_second_brings_forth_nothing() {
    let mut play = pond(
        "place a at (1, 1)\nkind a { every 5 ticks { end self } after 5 ticks { replace self with b } }\n\
         kind b { after 1 s { end self } }",
    );
    play.ticks(20);
    assert_eq!((play.born("b"), play.ends()), (1, vec!["a 5 replaced".to_string()]));
    let mut play = pond(
        "place a at (1, 1)\nkind a { after 5 ticks { end self } every tick { if age > 4.5 ticks { replace self with b } } }\n\
         kind b { after 1 s { end self } }",
    );
    play.ticks(20);
    assert_eq!((play.born("b"), play.ends()), (0, vec!["a 5 timer".to_string()]));
}

#[rstest]
fn down_is_told_once_and_healing_brings_back() {
    let mut play = pond(
        "place a at (1, 1)\nkind a { health 2; on down { say \"down\" } on hurt { say \"hurt\" } \
         after 5 ticks { damage self by 5 } after 10 ticks { damage self by 1 } \
         after 20 ticks { heal self by 9 } after 30 ticks { damage self by 9 } }",
    );
    play.ticks(15);
    assert!(play.columns("a").down[0]);
    play.ticks(10);
    assert!(!play.columns("a").down[0]);
    play.ticks(10);
    let said = play.said();
    assert_eq!(said.iter().filter(|s| *s == "down").count(), 2);
    // The damage to one who is down already took nothing from it.
    assert_eq!(said.iter().filter(|s| *s == "hurt").count(), 2);
    assert_eq!(play.count("a"), 1);
}

#[rstest]
fn one_still_over_its_maker_after_a_second_is_noted() {
    let mut play = pond(
        "place a at (10, 10)\nkind a { body circle 2 u; on touch b { say \"touch\" } after 1 ticks { spawn b } }\n\
         kind b { body circle 1 u; after 90 ticks { speed = 20 u/s } after 150 ticks { turn by 180 deg } }",
    );
    play.ticks(70);
    assert_eq!((play.happened(What::Crowded), play.happened(What::Touched)), (1, 0));
    play.ticks(180);
    assert_eq!(play.said(), ["touch"], "after they were apart, it is a touch");
}

#[rstest]
#[case::entities("limit 20 entities", "after 1 ticks { spawn 50 b anywhere }", Guard::Entities)]
#[case::births("limit 10 births per tick", "after 1 ticks { spawn 50 b anywhere }", Guard::Births)]
#[case::rounds("limit 4 rounds", "after 1 ticks { spawn c anywhere }", Guard::BirthRounds)]
#[case::steps("limit 50 steps", "after 1 ticks { repeat 100 times { say \"x\" } }", Guard::Steps)]
#[case::division("", "vars { z = 0; n = 1 } after 1 ticks { n = 1 / z }", Guard::NotFinite)]
#[case::root("", "vars { z = -1; n = 1 } after 1 ticks { n = sqrt(z) }", Guard::NotFinite)]
fn a_guard_stops_the_run_with_its_line(
    #[case] header: &str,
    #[case] items: &str,
    #[case] guard: Guard,
) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100; {header} }}\n{items}\nkind b {{ look \"b\" }}\n\
         kind c {{ on birth {{ spawn c }} }}"
    );
    let mut play = play(&text, 1);
    play.ticks(1);
    let stopped = play.state.stopped.clone().unwrap();
    assert_eq!(stopped.guard, guard);
    assert!(stopped.site.is_some());
}

#[rstest]
#[case::zero_direction("after 1 ticks { head toward self }", "30")]
#[case::no_radius("after 1 ticks { blast at here, radius 0 u, damage 1 }", "30")]
#[case::negative_reach("after 1 ticks { ray along 0 deg, reach -5 u as r { say \"hit\" } }", "30")]
#[case::negative_count("after 1 ticks { repeat -3 times { turn by 9 deg } }", "30")]
fn odd_values_have_a_defined_result(#[case] handler: &str, #[case] heading: &str) {
    let mut play = pond(&format!("place a at (5, 5), facing 30 deg\nkind a {{ {handler} }}"));
    play.ticks(5);
    assert_eq!(play.columns("a").heading[0].to_string(), heading);
    assert!(play.state.stopped.is_none() && play.said().is_empty());
}

#[rstest]
fn a_fault_of_one_changes_nothing_of_another() {
    let mut play = pond(
        "place a at (1, 1) { z = 0 }\nplace a at (2, 2) { z = 2 }\n\
         kind a { vars { z = 1; n = 7 } after 3 ticks { n = 1 / z } }",
    );
    play.ticks(5);
    let n: Vec<f64> = play.columns("a").vars[1].iter().map(|w| f64::from_bits(*w)).collect();
    assert_eq!(n, [7.0, 0.5]);
}

#[rstest]
fn a_solid_does_not_push_its_maker_until_apart() {
    let mut play = play(
        "pond \"t\" { arena 100 x 100 }\nplace a at (50, 50)\n\
         kind a { body circle 3 u, solid; after 1 ticks { spawn b at here + (1, 0), vel (6, 0) u/s } }\n\
         kind b { body circle 1 u, solid }",
        1,
    );
    play.ticks(30);
    let (a, b) = (play.columns("a"), play.columns("b"));
    assert!((a.x[0] - 50.0).abs() < 1e-6, "{}", a.x[0]);
    assert!((b.vx[0] - 6.0).abs() < 1e-3, "{}", b.vx[0]);
}

#[rstest]
fn solids_saved_and_restored_go_on_alike() {
    let text = "pond \"t\" { arena 40 x 40; edges wall; gravity (0, -20) u/s2 }\n\
        kind crate_box { body box 2 u x 2 u, solid, bounce 40 %; on birth { spin = 50 deg/s } }\n\
        after 1 ticks { spawn 12 crate_box anywhere }";
    let mut a = play(text, 4);
    a.ticks(90);
    let saved = a.state.clone();
    a.ticks(200);
    let mut b = play(text, 4);
    b.state = saved;
    b.ticks(200);
    assert_eq!(a.state.digest(), b.state.digest());
    assert!(a.columns("crate_box").y.iter().all(|y| *y > 0.5), "{:?}", a.columns("crate_box").y);
}

#[rstest]
fn a_pond_without_solids_has_no_solver() {
    assert!(pond("place a at (1, 1)\nkind a { body circle 1 u, sensor }").state.solids.is_none());
}
