//! The rules of the tick, one small pond each.

use crate::common::{play, pond};
use rstest::rstest;
use tickpond_sim::{Guard, What};

// Clocks.

#[rstest]
#[case::a_second("after 1 s { end self }", 60)]
#[case::rounded_up("after 0.4999 s { end self }", 30)]
#[case::never_under_one("after 0 s { end self }", 1)]
#[case::in_ticks("after 7 ticks { end self }", 7)]
#[case::a_knob("after life { end self }", 120)]
fn a_lifetime_is_exact(#[case] handler: &str, #[case] tick: u64) {
    let mut play = pond(&format!("knob life = 2 s\nplace a at (1, 1)\nkind a {{ {handler} }}"));
    assert_eq!(play.ticks(200).ends(), [format!("a {tick} timer")]);
}

#[rstest]
fn every_is_first_due_after_one_period_of_its_own_age() {
    let mut play = pond("place a at (1, 1)\nkind a { every 0.5 s { say \"{age}\" } }");
    assert_eq!(play.ticks(100).said(), ["0.5 s", "1 s", "1.5 s"]);
}

#[rstest]
#[case::delay("3 s", 180)]
#[case::none("0 s", 1)]
fn respawn_waits_exactly(#[case] delay: &str, #[case] ticks: u64) {
    let mut play = pond(&format!(
        "spawner nest {{ makes a at here; again {delay} after its end }}\nplace nest at (5, 5)\n\
         kind a {{ after 10 ticks {{ end self }} }}"
    ));
    play.ticks(11 + ticks);
    let births: Vec<u64> = play
        .events
        .iter()
        .filter(|e| e.what == What::Born && e.who.kind == play.program().kind_named("a").unwrap())
        .map(|e| e.tick)
        .collect();
    assert_eq!(births, [1, 11 + ticks]);
    assert_eq!(play.count("a"), 1);
}

#[rstest]
fn a_spawner_keeps_its_cap_and_its_total() {
    let mut play = pond(
        "spawner bed { makes a at here; every 1 ticks; 3 at a time; keep at most 5 alive; at most 12 in all }\n\
         place bed\nkind a { after 10 ticks { end self } }",
    );
    let mut most = 0;
    for _ in 0..200 {
        play.ticks(1);
        most = most.max(play.count("a"));
    }
    assert_eq!((most, play.born("a")), (5, 12));
}

// Input.

#[rstest]
fn one_press_is_one_shot_however_long_it_is_held() {
    let mut play = pond(
        "input fire = key f\nplace frog at (5, 5)\nkind frog { on press fire { spawn drop } }\n\
         kind drop { after 9 s { end self } }",
    );
    play.key(true).ticks(100).key(false);
    assert_eq!(play.count("drop"), 1);
    play.key(true);
    assert_eq!(play.count("drop"), 2);
}

#[rstest]
fn held_fires_at_once_and_then_by_its_period() {
    let mut play = pond(
        "input fire = key f\nplace frog at (5, 5)\n\
         kind frog { while held fire every 0.5 s { spawn drop } }\nkind drop { after 9 s { end self } }",
    );
    play.key(true);
    assert_eq!(play.count("drop"), 1);
    play.ticks(60);
    assert_eq!(play.count("drop"), 3);
    // Letting go and pressing again does not get round the period.
    play.key(false).key(true);
    assert_eq!(play.count("drop"), 3);
}

// Places, facings, velocities.

#[rstest]
#[case::point("at (30, 40)", (30.0, 40.0), 90.0)]
#[case::here("at here", (10.0, 20.0), 90.0)]
#[case::offset("at here + (2, 0)", (12.0, 20.0), 90.0)]
#[case::mount("at mouth", (10.0, 23.0), 90.0)]
#[case::entity("at self", (10.0, 20.0), 90.0)]
#[case::spot("at reeds.2", (3.0, 4.0), 180.0)]
#[case::facing("at here, facing 45 deg", (10.0, 20.0), 45.0)]
#[case::toward("at here, toward (20, 20)", (10.0, 20.0), 0.0)]
fn a_birth_has_its_place_and_facing(
    #[case] place: &str,
    #[case] at: (f64, f64),
    #[case] heading: f64,
) {
    let mut play = pond(&format!(
        "spots reeds {{ (1, 2), (3, 4) facing 180 deg }}\nplace frog at (10, 20), facing 90 deg\n\
         kind frog {{ mount mouth at (3 u, 0 u); after 1 s {{ spawn a {place} }} }}\nkind a {{ look \"a\" }}"
    ));
    play.ticks(60);
    let a = play.columns("a");
    let near = |x: f64, y: f64| (x - y).abs() < 1e-9;
    assert!(near(a.x[0], at.0) && near(a.y[0], at.1), "{} {}", a.x[0], a.y[0]);
    assert_eq!(a.heading[0], heading);
}

#[rstest]
fn a_speed_is_per_second_at_any_rate() {
    for rate in [10, 60, 144] {
        let text = format!(
            "pond \"t\" {{ arena 100 x 100; rate {rate} per s }}\nplace a at (10, 50)\n\
             kind a {{ on birth {{ speed = 6 u/s }} }}"
        );
        let mut play = play(&text, 1);
        play.ticks(rate * 5);
        assert!((play.columns("a").x[0] - 40.0).abs() < 1e-9, "{}", play.columns("a").x[0]);
    }
}

#[rstest]
fn turning_swings_the_velocity_along() {
    let mut play =
        pond("place a at (10, 10), speed 6 u/s\nkind a { after 1 s { turn by 90 deg } }");
    play.ticks(120);
    let a = play.columns("a");
    // 59 ticks along x, then along y: the turn is before the move of its tick.
    assert!((a.x[0] - 15.9).abs() < 1e-9 && (a.y[0] - 16.1).abs() < 1e-9);
}

#[rstest]
#[case::open("edges open", 130.0, 6.0)]
#[case::wrap("edges wrap", 30.0, 6.0)]
#[case::wall("edges wall", 99.0, 0.0)]
#[case::one_side("edges wall right, open", 99.0, 0.0)]
fn edges_do_what_they_say(#[case] edges: &str, #[case] x: f64, #[case] speed: f64) {
    let text = format!(
        "pond \"t\" {{ arena 100 x 100; {edges} }}\nplace a at (70, 50), speed 6 u/s\nkind a {{ body circle 1 u }}"
    );
    let mut play = play(&text, 1);
    play.ticks(600);
    assert!((play.columns("a").x[0] - x).abs() < 1e-6, "{}", play.columns("a").x[0]);
    assert_eq!(play.columns("a").vx[0], speed);
}

#[rstest]
fn leaving_is_past_the_margin_and_the_whole_body() {
    let text = "pond \"t\" { arena 100 x 100; edges open, margin 4 u }\n\
        place a at (94, 50), speed 60 u/s\nkind a { body circle 1 u; on leave arena { end self } }";
    let mut play = play(text, 1);
    // From 94 past 105 at 1 u a tick: the 12th tick is the first beyond.
    assert_eq!(play.ticks(60).ends(), ["a 12 edge"]);
}

// Touch.

const DUEL: &str = "place frog at (10, 10)\nplace midge at (40, 10)\n\
    kind frog { body circle 2 u; after 1 s { spawn drop at here, speed 3000 u/s } }\n";

#[rstest]
fn a_fast_drop_hits_what_it_flies_through_and_not_its_maker() {
    let mut play = pond(&format!(
        "{DUEL}kind midge {{ body circle 0.5 u; health 1 }}\n\
         kind drop {{ body circle 0.1 u; on touch any as t {{ damage t by 1 credit maker; end self because \"spent\" }} }}"
    ));
    assert_eq!(play.ticks(62).ends(), ["midge 60 damage", "drop 60 touch spent"]);
    let end = play.events.iter().find(|e| e.what == What::Ended).unwrap();
    let frog = play.program().kind_named("frog").unwrap();
    assert_eq!(end.other.unwrap().kind, frog, "credit goes to the maker");
}

#[rstest]
fn first_touch_takes_only_the_earliest() {
    let mut play = pond(&format!(
        "{DUEL}place midge at (30, 10)\nkind midge {{ body circle 0.5 u; health 1 }}\n\
         kind drop {{ body circle 0.1 u; on first touch midge as t {{ say \"{{t.pos}}\" }} }}"
    ));
    assert_eq!(play.ticks(61).said(), ["(30, 10) u"]);
}

#[rstest]
fn touch_begins_once_while_it_lasts() {
    let mut play = pond(
        "place a at (10, 10), speed 6 u/s\nplace b at (13, 10)\nkind a { body circle 1 u }\n\
         kind b { body circle 1 u; on touch a { say \"hi\" } }",
    );
    assert_eq!(play.ticks(200).said().len(), 1);
}

#[rstest]
fn a_touch_crosses_the_seam() {
    let text = "pond \"t\" { arena 100 x 100; edges wrap }\nplace a at (99.5, 50)\nplace b at (0.5, 50)\n\
        kind a { body circle 1 u; on touch b { say \"hi\" } }\nkind b { body circle 1 u }";
    assert_eq!(play(text, 1).ticks(3).said(), ["hi"]);
}

// Ends.

#[rstest]
fn one_end_one_cause_the_earlier_phase_and_order_win() {
    let mut play = pond(
        "place a at (10, 10)\nplace b at (11, 10)\nkind b { body circle 1 u }\n\
         kind a { body circle 1 u; health 1\n\
           on touch b as t { damage self by 5; end self because \"bumped\" }\n\
           after 1 ticks { end self because \"old\" }\n\
           on end { say \"bye\" } }",
    );
    play.ticks(5);
    assert_eq!(play.ends(), ["a 1 timer old"]);
    assert_eq!(play.said(), ["bye"]);
    assert_eq!(play.happened(What::Outvoted), 2);
}

#[rstest]
fn damage_adds_up_and_credits_who_took_the_last_of_it() {
    let mut play = pond(
        "place a at (10, 10)\nplace b at (11, 10)\nplace c at (9, 10)\n\
         kind a { body circle 1 u; health 3; on hurt { say \"{health}\" } }\n\
         kind b { body circle 1 u; on touch a as t { damage t by 2 } }\n\
         kind c { body circle 1 u; on touch a as t { damage t by 2 } }",
    );
    play.ticks(2);
    assert_eq!(play.ends(), ["a 1 damage"]);
    // Four of three: health stops at 0.
    assert_eq!(play.said(), ["0"]);
    let end = play.events.iter().find(|e| e.what == What::Ended).unwrap();
    assert_eq!(end.other.unwrap().kind, play.program().kind_named("c").unwrap());
}

#[rstest]
fn asking_the_gone_is_harmless_and_on_record() {
    let mut play = pond(
        "place a at (10, 10)\nplace b at (11, 10)\nkind b { body circle 1 u; after 1 s { end self } }\n\
         kind a { body circle 1 u; vars { friend: b }\n\
           on touch b as t { friend = t }\n\
           after 2 s { if friend is gone { say \"gone\" }; end friend; damage friend by 1 } }",
    );
    play.ticks(200);
    assert_eq!(play.said(), ["gone"]);
    assert_eq!(play.happened(What::Stale), 2);
    assert_eq!(play.ends(), ["b 60 timer"]);
}

#[rstest]
fn an_end_by_cause_runs_only_for_that_cause() {
    let kinds = "kind a { health 1; on end by damage { say \"hurt\" } on end by timer { say \"old\" }\n\
        after 2 s { end self } }\nkind b { every 1 s { if nearest(a) as t { damage t by 1 } } }";
    let mut hurt = pond(&format!("place a at (1, 1)\nplace b at (2, 2)\n{kinds}"));
    assert_eq!(hurt.ticks(200).said(), ["hurt"]);
    let mut old = pond(&format!("place a at (1, 1)\n{kinds}"));
    assert_eq!(old.ticks(200).said(), ["old"]);
}

// Messages.

#[rstest]
fn a_message_carries_values_and_its_sender() {
    let mut play = pond(
        "message warn(level: number, where_to: place)\nplace a at (10, 10)\nplace b at (20, 10)\nplace b at (90, 10)\n\
         kind a { after 1 s { send warn(3, (5, 6)) to each b within 20 u } }\n\
         kind b { on warn(n, p) from who { say \"{name} {n} {p} {who.name}\" } }",
    );
    assert_eq!(play.ticks(61).said(), ["b#1 3 (5, 6) u a#1"]);
}

#[rstest]
fn what_nobody_hears_is_on_record() {
    let mut play = pond(
        "message ho\nplace a at (10, 10)\nplace b at (11, 10)\nkind b { look \"b\" }\n\
         kind a { after 1 s { send ho to each b; send ho to each a } }",
    );
    play.ticks(60);
    assert_eq!(play.happened(What::Unheard), 2);
    assert_eq!((play.state.mail_totals[0].sent, play.state.mail_totals[0].unheard), (2, 2));
}

#[rstest]
fn messages_in_the_mail_phase_are_heard_in_the_next_round() {
    let mut play = pond(
        "message ping; message pong\nplace a at (1, 1)\nplace b at (2, 2)\n\
         kind a { after 1 s { send ping to each b } on pong { say \"{age}\" } }\n\
         kind b { on ping from who { send pong to who } }",
    );
    assert_eq!(play.ticks(61).said(), ["1 s"]);
}

#[rstest]
fn several_letters_in_one_tick_see_what_the_one_before_wrote() {
    let mut play = pond(
        "message one\nplace a at (1, 1)\nplace b at (2, 2)\nplace b at (3, 3)\nplace b at (4, 4)\n\
         kind a { vars { seen = 0; tens = 0 } on one { seen += 1; tens = tens + 10; say \"{seen} {tens}\" } }\n\
         kind b { after 1 s { send one to each a } }",
    );
    play.ticks(61);
    assert_eq!(play.said(), ["1 10", "2 20", "3 30"]);
    assert_eq!(play.columns("a").vars[0][0], 3f64.to_bits());
    assert_eq!(play.columns("a").vars[1][0], 30f64.to_bits());
}

// Writers.

#[rstest]
fn assignments_go_first_then_additions_and_neither_saw_the_other() {
    let mut play = pond(
        "place a at (1, 1)\nkind a { vars { n = 1 }\n\
           after 1 s { n += 10 }\n every 1 s { n = n * 2 }\n after 2 s { say \"{n}\" } }",
    );
    // At 1 s: set to 2, then 10 more. At 2 s it reads the phase's start.
    assert_eq!(play.ticks(121).said(), ["12"]);
}

// Routines.

#[rstest]
fn a_routine_reads_from_top_to_bottom() {
    let mut play = pond(
        "kind a { after 1 s { end self } }\nspots reeds { (1, 1), (2, 2) }\n\
         routine r { wait 1 s\n repeat 2 times as n { wave as w { spawn 2 a at reeds, spaced 0.5 s }\n\
           say \"{n} {count(w)}\"\n wait until count(w) == 0\n say \"clear {count(a)}\" } }",
    );
    play.ticks(600);
    assert_eq!(play.said(), ["1 2", "clear 0", "2 2", "clear 0"]);
    assert_eq!(play.born("a"), 4);
}

#[rstest]
fn an_end_by_waiting_names_the_timer() {
    let mut play = pond(
        "message go\nplace a at (1, 1)\nafter 1 s { send go to all }\nkind a { on go { wait 1 s; end self } }",
    );
    assert_eq!(play.ticks(200).ends(), ["a 120 timer"]);
}

#[rstest]
fn a_handler_that_waits_is_not_started_twice() {
    let mut play = pond(
        "place a at (1, 1)\nkind a { every 10 ticks { say \"go\"; wait 25 ticks; say \"done\" } }",
    );
    play.ticks(60);
    // Due at 10, 20, 30, …: those at 20 and 30 find it waiting, until it is done at 35.
    assert_eq!(play.said(), ["go", "done", "go"]);
    assert_eq!(play.happened(What::Missed), 4);
}

// Guards.

#[rstest]
#[case::full(
    "pond \"t\" { arena 9 x 9; limit 50 entities }\nspawner src { makes a at here; every 1 ticks; 20 at a time }\nplace src\nkind a { look \"a\" }",
    Guard::Entities,
    2
)]
#[case::rounds(
    "pond \"t\" { arena 9 x 9 }\nplace a at (1, 1)\nkind a { after 1 s { spawn b } }\nkind b { on birth { spawn b } }",
    Guard::BirthRounds,
    4
)]
#[case::steps(
    "pond \"t\" { arena 9 x 9 }\nafter 1 s { repeat 1000000 times { say \"x\" } }",
    Guard::Steps,
    2
)]
#[case::not_finite(
    "pond \"t\" { arena 9 x 9 }\nplace a at (1, 1)\nkind a { vars { n = 0 }\nafter 1 s { n = 1 / n } }",
    Guard::NotFinite,
    4
)]
fn guards_stop_the_run_with_the_line(#[case] text: &str, #[case] guard: Guard, #[case] line: u32) {
    let mut play = play(text, 1);
    for _ in 0..100 {
        play.ticks(1);
        if play.state.stopped.is_some() {
            break;
        }
    }
    let stopped = play.state.stopped.clone().expect("it stops");
    assert_eq!(stopped.guard, guard);
    assert_eq!(play.program().line_of(stopped.site.expect("a line")), line);
    assert!(play.state.kinds.iter().all(|c| c.x.iter().all(|x| x.is_finite())));
}
