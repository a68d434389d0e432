//! Where, when and how things are born.

mod common;

use common::{Play, play, pond};
use rstest::rstest;
use tickpond_sim::{Guard, What};

/// The places of a kind, rounded, in the order of birth.
fn places(play: &Play, kind: &str) -> Vec<(i64, i64)> {
    let c = play.columns(kind);
    let round = |v: f64| v.round() as i64;
    c.x.iter().zip(&c.y).map(|(x, y)| (round(*x), round(*y))).collect()
}

fn birth_ticks(play: &Play, kind: &str) -> Vec<u64> {
    let kind = play.program().kind_named(kind).unwrap();
    let born = play.events.iter().filter(|e| e.what == What::Born && e.who.kind == kind);
    born.map(|e| e.tick).collect()
}

#[rstest]
fn a_spread_goes_all_around() {
    let mut play = pond(
        "place frog at (50, 50)\nkind frog { after 1 s { spawn 4 bit at here, spread 360 deg, speed 60 u/s } }\n\
         kind bit { look \"b\" }",
    );
    play.ticks(70);
    assert_eq!(places(&play, "bit"), [(61, 50), (50, 61), (39, 50), (50, 39)]);
}

#[rstest]
fn a_fan_goes_from_one_end_to_the_other() {
    let mut play = pond(
        "place frog at (50, 50), facing 90 deg\n\
         kind frog { after 1 s { spawn 3 bit, spread 90 deg } }\nkind bit { look \"b\" }",
    );
    play.ticks(60);
    assert_eq!(play.columns("bit").heading, [45.0, 90.0, 135.0]);
}

#[rstest]
fn spaced_births_come_one_after_another_and_from_where_the_mount_is_then() {
    let mut play = pond(
        "place frog at (10, 50), speed 60 u/s\n\
         kind frog { mount tail at (-2 u, 0 u); after 1 s { spawn 3 bit at tail, spaced 0.5 s } }\nkind bit { look \"b\" }",
    );
    play.ticks(130);
    assert_eq!(birth_ticks(&play, "bit"), [60, 90, 120]);
    // Births come before the move of their tick: after 59, 89 and 119 moves of 1 u.
    assert_eq!(places(&play, "bit"), [(67, 50), (97, 50), (127, 50)]);
}

#[rstest]
fn births_of_one_who_ends_meanwhile_happen_where_it_was() {
    let mut play = pond(
        "place frog at (10, 50), speed 60 u/s\n\
         kind frog { mount tail at (-2 u, 0 u)\n after 1 s { spawn 3 bit at tail, spaced 0.5 s } after 1.2 s { end self } }\n\
         kind bit { look \"b\" }",
    );
    play.ticks(130);
    assert_eq!(places(&play, "bit"), [(67, 50), (80, 50), (80, 50)]);
}

#[rstest]
fn each_spot_gets_one_and_chance_stays_in_the_group() {
    let items = "spots reeds { (10, 10), (20, 20), (30, 30) }\nkind fly { look \"f\" }\n";
    let each = pond(&format!("{items}place fly at reeds each"));
    assert_eq!(places(&each, "fly"), [(10, 10), (20, 20), (30, 30)]);
    let mut chance = pond(&format!(
        "{items}spawner src {{ makes fly at reeds; every 1 ticks; at most 90 in all }}\nplace src at (1, 1)"
    ));
    chance.ticks(100);
    let mut count = [0; 3];
    for (x, y) in places(&chance, "fly") {
        assert_eq!(x, y);
        count[(x / 10 - 1) as usize] += 1;
    }
    assert!(count.iter().all(|n| *n > 15), "evenly: {count:?}");
}

#[rstest]
#[case::left("left", |x: i64, _| x == 0)]
#[case::right("right", |x: i64, _| x == 100)]
#[case::top("top", |_, y: i64| y == 100)]
#[case::bottom("bottom", |_, y: i64| y == 0)]
fn along_an_edge_is_on_that_edge(#[case] side: &str, #[case] lies: fn(i64, i64) -> bool) {
    let mut play = pond(&format!(
        "kind fly {{ look \"f\" }}\nspawner src {{ makes fly along edge {side}; every 1 ticks }}\nplace src"
    ));
    play.ticks(50);
    assert!(places(&play, "fly").into_iter().all(|(x, y)| lies(x, y)));
}

#[rstest]
fn anywhere_is_all_over_the_arena() {
    let mut play = pond(
        "kind fly { look \"f\" }\nspawner src { makes fly anywhere; every 1 ticks; 4 at a time }\nplace src",
    );
    play.ticks(101);
    let mut quarters = [0; 4];
    for (x, y) in places(&play, "fly") {
        quarters[usize::from(x > 50) + 2 * usize::from(y > 50)] += 1;
    }
    assert!(quarters.iter().all(|n| *n > 70), "{quarters:?}");
}

#[rstest]
fn options_are_taken() {
    let mut play = pond(
        "place frog at (10, 10)\n\
         kind frog { after 1 s { spawn fly at here, vel (3, 4) u/s, health 9, label \"no {1 + 1}\" { n = 5 } } }\n\
         kind fly { health 2; vars { n = 1; m = n + 1 } }",
    );
    play.ticks(60);
    let c = play.columns("fly");
    assert_eq!((c.vx[0], c.vy[0], c.health[0]), (3.0, 4.0, 9.0));
    assert_eq!(c.vars[0][0], 5f64.to_bits());
    assert_eq!(c.vars[1][0], 2f64.to_bits(), "first values are reckoned before the given ones");
    assert_eq!(play.state.labels[&c.id[0]].as_ref(), "no 2");
}

#[rstest]
fn facing_falls_back_to_the_place_then_the_maker_then_nothing() {
    let mut play = pond(
        "spots reeds { (1, 1) facing 30 deg, (2, 2) }\nplace frog at (10, 10), facing 200 deg\n\
         kind frog { after 1 s { spawn a at reeds.1; spawn b at reeds.2 } }\nkind a { look \"a\" }\nkind b { look \"b\" }\n\
         after 1 s { spawn c at (5, 5) }\nkind c { look \"c\" }",
    );
    play.ticks(60);
    let heading = |kind| play.columns(kind).heading[0];
    assert_eq!((heading("a"), heading("b"), heading("c")), (30.0, 200.0, 0.0));
}

#[rstest]
fn who_is_born_in_a_tick_moves_in_it_and_its_clocks_start_after() {
    let mut play = pond(
        "after 1 s { spawn fly at (10, 10), facing 0 deg, speed 60 u/s }\nkind fly { every 1 ticks { say \"{age}\" } }",
    );
    play.ticks(60);
    assert_eq!(places(&play, "fly"), [(11, 10)]);
    assert!(play.said().is_empty());
    play.ticks(1);
    assert_eq!(play.said(), ["0.017 s"]);
}

#[rstest]
fn on_birth_births_join_the_same_tick() {
    let mut play = pond(
        "after 1 s { spawn a at (1, 1) }\nkind a { on birth { spawn 2 b } }\nkind b { on birth { spawn c } }\nkind c { look \"c\" }",
    );
    play.ticks(60);
    assert_eq!((birth_ticks(&play, "b"), birth_ticks(&play, "c")), (vec![60, 60], vec![60, 60]));
}

#[rstest]
fn what_is_placed_is_numbered_by_kind_then_place_whatever_the_text_says() {
    let a = pond(
        "place b at (9, 9)\nplace a at (5, 5)\nplace a at (2, 7)\nkind a { look \"a\" }\nkind b { look \"b\" }",
    );
    let b = pond(
        "kind b { look \"b\" }\nkind a { look \"a\" }\nplace a at (2, 7)\nplace a at (5, 5)\nplace b at (9, 9)",
    );
    assert_eq!(places(&a, "a"), [(2, 7), (5, 5)]);
    assert_eq!(places(&a, "a"), places(&b, "a"));
    assert_eq!(a.columns("b").serial, b.columns("b").serial);
}

#[rstest]
fn a_spawner_can_be_told_and_ended_and_its_parameters_given() {
    let mut play = pond(
        "message stop\nplace src at (5, 5) { gap = 0.25 s; what = b }\nplace src at (9, 9)\n\
         spawner src(what: kind = a, gap: time = 1 s) { makes what at here; every gap\n\
           on stop { end self because \"told\" } }\n\
         after 2.1 s { send stop to each src }\nkind a { after 9 s { end self } }\nkind b { after 9 s { end self } }",
    );
    play.ticks(400);
    assert_eq!((play.born("a"), play.born("b")), (2, 8));
    assert_eq!(play.ends().iter().filter(|e| e.contains("told")).count(), 2);
}

#[rstest]
fn one_more_than_the_limit_is_refused_and_the_rest_lives() {
    let text = "pond \"t\" { arena 9 x 9; limit 4 entities }\nafter 1 s { spawn 9 fly at (1, 1) }\nkind fly { look \"f\" }";
    let mut play = play(text, 1);
    play.ticks(60);
    assert_eq!(play.count("fly"), 4);
    let stopped = play.state.stopped.clone().unwrap();
    assert_eq!((stopped.guard, stopped.times), (Guard::Entities, 5));
    assert_eq!(play.happened(What::Refused), 1, "one record a line and tick");
    play.ticks(1);
    assert!(play.state.stopped.is_none(), "it goes on if asked to");
}

#[rstest]
fn a_refused_wave_does_not_wait_for_ever() {
    let text = "pond \"t\" { arena 9 x 9; limit 3 entities }\nspots s1 { (1, 1) }\nkind fly { look \"f\" }\n\
        routine r { wave as w { spawn 9 fly at s1 } say \"{count(w)}\" }";
    let mut play = play(&text.replace("} say", "}\nsay"), 1);
    play.ticks(10);
    assert_eq!(play.said(), ["3"]);
}

#[rstest]
#[case::never("keep at most 0 alive", 0)]
#[case::some("keep at most 3 alive", 3)]
#[case::by_a_knob("keep at most most alive", 2)]
fn a_cap_is_a_cap(#[case] line: &str, #[case] alive: usize) {
    let mut play = pond(&format!(
        "knob most = 2\nkind fly {{ look \"f\" }}\nspawner src {{ makes fly at here; every 1 ticks; {line} }}\nplace src\n\
         after 9 s {{ say \"{{most}}\" }}"
    ));
    play.ticks(50);
    assert_eq!(play.count("fly"), alive);
}
