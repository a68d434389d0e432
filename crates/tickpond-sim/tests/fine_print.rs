//! Rules of the reference that only an odd pond comes upon, one at a time.

use crate::common::{Play, play, pond};
use rstest::rstest;
use tickpond_lang::program::InputId;
use tickpond_sim::{InputChange, What};

/// The ticks in which something was said.
fn said_at(play: &Play, words: &str) -> Vec<u64> {
    let said = play.events.iter().filter(|e| e.what == What::Said);
    said.filter(|e| e.words.as_deref() == Some(words)).map(|e| e.tick).collect()
}

// States, clocks, waits.

#[rstest]
#[case::awake("", 120)]
// It begins in tick 60, rests from the settle phase of 90 to that of 210: 120 ticks that do not count.
#[case::at_rest("place waker at (50, 50)", 240)]
fn a_timed_state_stands_still_at_rest(#[case] more: &str, #[case] over: u64) {
    let mut play = pond(&format!(
        "kind frog {{ states {{ calm, wild }}; after 1 s {{ become wild for 1 s }}\n\
         in state wild {{ on quitting wild {{ say \"over\" }} }} }}\nplace frog at (5, 5)\n\
         kind waker {{ after 1.5 s {{ deactivate each frog }}; after 3.5 s {{ activate each frog }} }}\n{more}"
    ));
    play.ticks(300);
    assert_eq!(said_at(&play, "over"), [over]);
}

#[rstest]
#[case::one_handler("after 1 s { become wild; wait 1 s; say \"no\" }")]
#[case::two_handlers("after 1 s { become wild }; every 1 s { wait 1 s; say \"no\" }")]
#[case::the_later_line_leaves("every 1 s { wait 1 s; say \"no\" }; after 60 ticks { become wild }")]
#[case::until("after 1 s { become wild; wait until age > 2 s; say \"no\" }")]
fn a_wait_asked_for_in_the_phase_that_leaves_its_state_is_dropped(#[case] handlers: &str) {
    let mut play = pond(&format!(
        "kind frog {{ states {{ calm, wild }}\nin state calm {{ {handlers} }} }}\nplace frog at (5, 5)"
    ));
    play.ticks(300);
    assert_eq!(play.said(), [""; 0]);
    assert_eq!(play.state.waits.len(), 0);
}

#[rstest]
fn each_of_very_many_conditions_is_kept_apart_and_one_too_many_is_refused() {
    // Each turns true at a tick of its own; what is kept of one must not be taken for another's.
    let with = |count: usize| {
        let when =
            |n| format!("when age >= {n} ticks and age < {} ticks {{ say \"{n}\" }}\n", n + 2);
        let whens: String = (5..5 + count).map(when).collect();
        format!("pond \"t\" {{ arena 9 x 9 }}\nkind frog {{\n{whens}}}\nplace frog at (5, 5)")
    };
    let mut play = play(&with(130), 1);
    play.ticks(200);
    let said: Vec<u64> = (5..135).flat_map(|n| said_at(&play, &n.to_string())).collect();
    assert_eq!(said, (5..135).collect::<Vec<_>>(), "once each, in its tick");
    assert!(tickpond_lang::compile(&with(4_096)).program.is_some());
    let refused = tickpond_lang::compile(&with(4_097));
    assert!(refused.program.is_none());
    assert!(refused.diagnostics[0].message.contains("at most 4096 handlers"));
}

/// Four bits of any edge do not go over the end of a word, whatever stands before them.
#[rstest]
fn edges_and_zones_behind_very_many_conditions_are_told_apart(
    #[values(59, 61, 62, 64)] before: usize,
) {
    let whens: String = (0..before).map(|n| format!("when age < {n} ticks {{ }}\n")).collect();
    let text = format!(
        "pond \"t\" {{ arena 100 x 100 }}\nzone mud = box (60, 0) size 20 x 100\n\
         kind frog {{ body circle 1 u, sensor\n{whens}\
         on touch edge {{ say \"edge\" }}\non enter mud {{ say \"in\" }}\non leave mud {{ say \"out\" }} }}\n\
         place frog at (50, 50), vel (60, 0) u/s"
    );
    let mut play = play(&text, 1);
    play.ticks(80);
    assert_eq!((said_at(&play, "in"), said_at(&play, "out")), (vec![10], vec![31]));
    // Its rim is at the edge a u earlier.
    assert_eq!(said_at(&play, "edge"), [49]);
}

#[rstest]
fn the_last_key_there_can_be_is_heard_and_one_more_is_refused() {
    let with = |pointers: usize| {
        let inputs: String = (0..pointers).map(|n| format!("input at{n} = pointer\n")).collect();
        format!(
            "pond \"t\" {{ arena 9 x 9 }}\n{inputs}input fire = key f\n\
             kind frog {{ on press fire {{ say \"bang\" }} }}\nplace frog at (5, 5)"
        )
    };
    let mut play = play(&with(63), 1);
    let down = InputChange::Key { input: InputId(63), down: true };
    play.engine.step(&mut play.state, &[down], &mut play.events);
    play.ticks(3);
    assert_eq!(play.said(), ["bang"]);
    for pointers in [64, 65, 200] {
        let refused = tickpond_lang::compile(&with(pointers));
        assert!(refused.program.is_none(), "{pointers} pointers and a key");
        assert!(refused.diagnostics[0].message.contains("at most 64 inputs"));
    }
}

// Attachments.

/// Where the last of a chain of three lies: 5 u behind the first, as it turns.
fn assert_chained(play: &Play, tick: u64) {
    let frog = play.columns("frog");
    let bead = play.columns("bead");
    let heading = frog.heading[0].to_radians();
    let wanted = (frog.x[0] - 5.0 * heading.cos(), frog.y[0] - 5.0 * heading.sin());
    assert!((bead.x[0] - wanted.0).abs() < 1e-9, "tick {tick}: {} {wanted:?}", bead.x[0]);
    assert!((bead.y[0] - wanted.1).abs() < 1e-9, "tick {tick}: {} {wanted:?}", bead.y[0]);
    assert!((bead.heading[0] - frog.heading[0]).abs() < 1e-9, "tick {tick}");
}

#[rstest]
#[case::born_so(
    "kind bead { }\nkind lamp { mount top at (-3 u, 0 u); on birth { spawn bead at top, attached } }\n\
     kind frog { mount back at (-2 u, 0 u); on birth { speed = 6 u/s; spin = 90 deg/s; spawn lamp at back, attached } }\n\
     place frog at (50, 50)"
)]
#[case::owners_are_younger(
    "kind bead { after 2 ticks { if nearest(lamp) as l { attach self to l at top } } }\n\
     kind lamp { mount top at (-3 u, 0 u); after 2 ticks { if nearest(frog) as f { attach self to f at back } } }\n\
     kind frog { mount back at (-2 u, 0 u); on birth { speed = 6 u/s; spin = 90 deg/s } }\n\
     place bead at (50, 50)\nplace lamp at (50, 50)\nkind source { after 1 ticks { spawn frog at (40, 40) } }\nplace source at (1, 1)"
)]
fn a_chain_is_placed_from_its_owner_on_in_one_tick(#[case] items: &str) {
    let mut play = pond(items);
    play.ticks(3);
    for tick in 0..120 {
        play.ticks(1);
        assert_chained(&play, tick);
    }
}

// Births.

#[rstest]
fn one_over_its_maker_is_crowded_when_it_is_a_second_old_and_not_before() {
    let mut play = pond(
        "kind frog { body circle 2 u, sensor; on touch drop { }; after 7 ticks { spawn drop at here } }\n\
         kind drop { body circle 1 u, sensor }\nplace frog at (50, 50)",
    );
    play.ticks(300);
    let crowded = play.events.iter().filter(|e| e.what == What::Crowded);
    assert_eq!(crowded.map(|e| e.tick).collect::<Vec<_>>(), [67]);
}

#[rstest]
#[case::there("", &[20.0, 21.0])]
// It ends in tick 30, half a second on its way of 1 u a second; the second birth is due in tick 61.
#[case::gone("after 0.5 s { end self }", &[20.0, 20.5])]
fn a_birth_at_one_who_is_gone_is_where_that_one_last_was(#[case] end: &str, #[case] at: &[f64]) {
    for place in ["f", "self"] {
        let keeper = if place == "f" {
            "kind bed { after 1 ticks { if nearest(frog) as f { spawn 2 drop at f, spaced 1 s } } }\nplace bed at (1, 1)"
        } else {
            ""
        };
        let own = if place == "self" {
            "mount mouth at (0 u, 0 u); after 1 ticks { spawn 2 drop at mouth, spaced 1 s }"
        } else {
            ""
        };
        let mut play = pond(&format!(
            "{keeper}\nkind frog {{ on birth {{ vel = (1, 0) u/s }}; {own}; {end} }}\nplace frog at (20, 50)\nkind drop {{ }}"
        ));
        play.ticks(200);
        let x: Vec<f64> = play.columns("drop").x.to_vec();
        assert_eq!(x.len(), 2);
        for (x, wanted) in x.iter().zip(at) {
            // The births phase lies before the move: one tick's way at the most lies between.
            assert!((x - wanted).abs() <= 1.0 / 60.0 + 1e-9, "{place}: {x} {wanted}");
        }
    }
}

#[rstest]
fn a_choice_of_a_place_is_tried_64_times() {
    // A try succeeds in the corner that is further away than a distance: all fail with the share of the rest
    // to the 64th. One try more or less would be 2.6 standard deviations away from the bounds.
    let (far, births) = (131.0_f64, 200_000);
    let steps = 200_000;
    let strip = |n: usize| {
        let x = (n as f64 + 0.5) * 100.0 / f64::from(steps);
        100.0 - (far * far - x * x).sqrt().clamp(0.0, 100.0)
    };
    let share = (0..steps as usize).map(strip).sum::<f64>() / f64::from(steps) / 100.0;
    let fail = |tries: i32| (1.0 - share).powi(tries);
    let mut play = play(
        &format!(
            "pond \"t\" {{ arena 100 x 100; limit 300_000 entities }}\nkind mote {{ }}\n\
             after 1 ticks {{ spawn {births} mote anywhere, not within {far} u of (0, 0) }}"
        ),
        1,
    );
    play.ticks(2);
    let failed = 1.0 - play.count("mote") as f64 / f64::from(births);
    let room = (fail(63) - fail(65)) / 4.0;
    assert!((failed - fail(64)).abs() < room, "{failed} {} {} {}", fail(63), fail(64), fail(65));
}

#[rstest]
#[case::awake("", 0)]
#[case::at_rest(", inactive", 1)]
fn clear_of_solid_looks_at_those_that_take_part(#[case] how: &str, #[case] born: usize) {
    let mut play = pond(&format!(
        "kind stone {{ body box 20 u x 20 u, solid fixed }}\nplace stone at (50, 50){how}\n\
         kind frog {{ body circle 1 u, solid }}\nafter 1 s {{ spawn frog at (50, 50), clear of solid }}"
    ));
    play.ticks(70);
    assert_eq!(play.born("frog"), born as u64);
}

#[rstest]
fn a_wave_is_over_though_a_birth_of_it_found_no_place() {
    let mut play = pond(
        "kind midge { after 1 s { end self } }\nroutine dusk {\n\
         wave as some { spawn 3 midge anywhere, spaced 0.5 s, not within 10 u of frog; spawn midge at (1, 1) }\n\
         wait until count(some) == 0\nsay \"over\"\n}\n\
         kind frog { }\n place frog at (50, 50)\n\
         kind source { after 0.25 s { spawn 400 frog anywhere } }\nplace source at (1, 1)",
    );
    play.ticks(400);
    assert!(play.happened(What::NoPlace) > 0, "a birth found no place");
    assert_eq!(play.said(), ["over"]);
}

// Touch, blasts, the view.

#[rstest]
fn those_that_part_at_once_are_told_oldest_first() {
    let mut play = pond(
        "kind frog { body circle 9 u, sensor; on part midge as m { say \"{m.name}\" }; after 1 s { pos = (90, 90) } }\n\
         place frog at (20, 20)\n\
         kind midge { body circle 1 u, sensor }\n\
         after 1 ticks { spawn midge at (26, 20); spawn midge at (22, 20); spawn midge at (18, 20); spawn midge at (24, 20) }",
    );
    play.ticks(100);
    assert_eq!(play.said(), ["midge#1", "midge#2", "midge#3", "midge#4"]);
}

#[rstest]
fn one_that_ends_is_parted_from_and_its_place_among_the_others_is_by_age() {
    let mut play = pond(
        "kind frog { body circle 9 u, sensor; on part midge as m { say \"{m.name}\" } }\nplace frog at (20, 20)\n\
         kind midge { body circle 1 u, sensor; vars { nth = 0 }; after 1 s { if nth == 2 { end self } else { pos = (90, 90) } } }\n\
         after 1 ticks { repeat 3 times as i { spawn midge at (20 + i, 20) { nth = i } } }",
    );
    play.ticks(100);
    // Those that went are told in the tick of it, the one that ended in the next.
    assert_eq!(play.said(), ["midge#1", "midge#3", "gone"]);
}

#[rstest]
#[case::of_its_own_kind("bank", 1.0)]
#[case::of_another("frog", 5.0)]
fn a_shield_does_not_shield_from_its_own_blast(#[case] asker: &str, #[case] health: f64) {
    // The asker is of the shielding kind, and lies in the middle of its own blast.
    let mut play = pond(&format!(
        "kind bank {{ health 9; body box 1 u x 4 u, solid fixed; vars {{ asks = false }}\n\
         after 1 s {{ if asks {{ blast at here, radius 20 u, damage 4, shielded by bank }} }} }}\n\
         kind frog {{ health 9; body circle 0.1 u, sensor; vars {{ asks = false }}\n\
         after 1 s {{ if asks {{ blast at here, radius 20 u, damage 4, shielded by bank }} }} }}\n\
         place {asker} at (50, 50) {{ asks = true }}\n\
         kind midge {{ health 5; body circle 1 u, sensor }}\nplace midge at (60, 50)\n{}",
        if asker == "frog" { "place bank at (55, 50)" } else { "" }
    ));
    play.ticks(70);
    assert_eq!(play.columns("midge").health[0], health);
}

#[rstest]
fn the_view_goes_on_to_the_oldest_that_is_left() {
    let mut play = play(
        "pond \"t\" { arena 100 x 100; view 10 x 10 follows frog }\nkind frog { vars { span = 9 }; every 1 s { if age >= span * 1 s { end self } } }\n\
         place frog at (20, 20) { span = 1 }\nplace frog at (40, 40) { span = 2 }\n\
         place frog at (60, 60) { span = 4 }\nplace frog at (80, 80) { span = 3 }\n",
        1,
    );
    let mut views = Vec::new();
    for _ in 0..6 {
        views.push(play.state.view.0);
        play.ticks(62);
    }
    assert_eq!(views, [20.0, 40.0, 60.0, 60.0, 60.0, 60.0]);
}

// Numbers.

#[rstest]
fn a_sum_over_several_kinds_goes_from_the_oldest_to_the_youngest() {
    // By age the one is lost in the great number; kind by kind it is not.
    let mut play = pond(
        "vars { total = 9 }\nkind midge { tag insect; vars { n = 0 } }\nkind moth { tag insect; vars { n = 0 } }\n\
         after 1 ticks { spawn midge at (1, 1) { n = 1_000_000 * 1_000_000_000_000 } }\nafter 2 ticks { spawn moth at (1, 1) { n = 1 } }\n\
         after 3 ticks { spawn midge at (1, 1) { n = -1_000_000 * 1_000_000_000_000 } }\nafter 9 ticks { total = sum(insect.n) }",
    );
    play.ticks(10);
    assert_eq!(f64::from_bits(play.state.kinds[0].vars[0][0]), 0.0);
}

#[rstest]
fn a_stored_minus_nothing_is_nothing() {
    let mut play = pond(
        "message take(n: number)\n\
         kind frog { health 3; vars { n = 1; p = (1, 1); kept = 1; given = 1 }\n\
         on take(v) { given = v }\n\
         after 1 ticks { n = 0 * -1; p = (0 * -1, 0 * -1); pos = (0 * -1, 0 * -1); vel = (0 * -1, 0 * -1) u/s; spin = 0 deg/s * -1\n\
         send take(0 * -1) to self; let low = 0 * -1; wait 1 s; kept = low } }\n\
         place frog at (5, 5)",
    );
    play.ticks(90);
    let frog = play.columns("frog");
    for word in &frog.vars {
        assert_eq!(word[0], 0, "{:?}", frog.vars.iter().map(|w| w[0]).collect::<Vec<_>>());
    }
    for number in [frog.x[0], frog.y[0], frog.vx[0], frog.vy[0], frog.spin[0]] {
        assert_eq!(number.to_bits(), 0);
    }
}

// Ends.

#[rstest]
fn who_is_asked_to_end_before_the_damage_is_settled_is_not_down() {
    // Both in one tick: the end was asked for in the clocks phase, the health is judged in settle.
    let mut play = pond(
        "kind frog { health 1; on down { say \"down\" }; on end { say \"end\" }; after 1 s { damage self by 5; end self because \"old\" } }\n\
         place frog at (5, 5)",
    );
    play.ticks(70);
    assert_eq!(play.ends(), ["frog 60 timer old"]);
    assert_eq!(play.said(), ["end"]);
}

/// The head of a long chain flies; the chain is joined from its end, so each mount hangs on nobody when it is asked for.
#[rstest]
fn however_long_a_chain_moves_as_a_whole() {
    let text = "pond \"t\" { arena 4000 x 100 }\n\
                kind lily { vars { n = 0 }; mount stem at (1 u, 0 u)\n\
                after 2 ticks { each lily where n == self.n + 1 as next { attach self to next at stem } }\n\
                after 5 ticks { if n == 1500 { vel = (60, 0) u/s } } }\n\
                after 1 ticks { repeat 1500 times as i { spawn lily at (50, 50) { n = i } } }";
    let mut play = play(text, 1);
    play.ticks(30);
    assert_eq!(play.state.attached.len(), 1_499);
    let xs = &play.columns("lily").x;
    let head = xs[1_499];
    assert!(head > 60.0, "{head}");
    let off = (0..1_500).find(|row| xs[*row] != head + (1_499 - row) as f64);
    assert_eq!(off, None, "each is one u ahead of the one it hangs on, in the same tick");
}

#[rstest]
#[case(1_001, 1_001, None)]
#[case(1_002, 1_001, Some("what it would hang on hangs on more than 1,000 others"))]
#[case(1_003, 1_002, Some("what it would hang on hangs on more than 1,000 others"))]
fn one_hangs_on_no_more_than_a_thousand_above_its_mount(
    #[case] count: usize,
    #[case] attached: usize,
    #[case] refused: Option<&str>,
) {
    // The elder asks first: each mount hangs on all before it by then.
    let text = format!(
        "pond \"t\" {{ arena 4000 x 100 }}\n\
         kind lily {{ vars {{ n = 0 }}; mount stem at (1 u, 0 u)\n\
         after 2 ticks {{ each lily where n == self.n + 1 as next {{ attach next at stem }} }} }}\n\
         after 1 ticks {{ repeat {} times as i {{ spawn lily at (50, 50) {{ n = i }} }} }}",
        count + 1
    );
    let mut play = play(&text, 1);
    play.ticks(4);
    assert_eq!(play.state.attached.len(), attached);
    let words = play.events.iter().filter(|e| e.what == What::Refused).map(|e| e.words.as_deref());
    assert_eq!(words.collect::<Vec<_>>(), Vec::from_iter(refused.map(Some)));
}
