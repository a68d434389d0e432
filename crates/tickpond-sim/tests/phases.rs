//! The phases of a tick in their order, and what each sees.

use crate::common::{Play, play, pond};
use rstest::rstest;
use tickpond_sim::{Phase, What};

/// In which phase something happened first, and in which tick.
fn first(play: &Play, what: What) -> Option<(u64, Phase)> {
    play.events.iter().find(|e| e.what == what && e.tick > 0).map(|e| (e.tick, e.phase))
}

#[rstest]
#[case::press("on press go { say \"x\" }", Phase::Input, 1)]
#[case::held("while held go every 1 s { say \"x\" }", Phase::Input, 1)]
#[case::after("after 3 ticks { say \"x\" }", Phase::Clocks, 3)]
#[case::every("every 3 ticks { say \"x\" }", Phase::Clocks, 3)]
#[case::waited("on birth { wait 3 ticks; say \"x\" }", Phase::Clocks, 3)]
#[case::routine("routine r { wait 3 ticks; say \"x\" }", Phase::Clocks, 4)]
#[case::every_tick("every tick { say \"x\" }", Phase::Think, 1)]
#[case::when("when age > 2 ticks { say \"x\" }", Phase::Think, 3)]
#[case::becoming(
    "states { one, two }; after 3 ticks { become two }; on becoming two { say \"x\" }",
    Phase::Think,
    3
)]
#[case::touch("on touch b { say \"x\" }", Phase::Contact, 1)]
#[case::zone("on enter weir { say \"x\" }", Phase::Contact, 1)]
#[case::mail("after 3 ticks { send hail to self }; on hail { say \"x\" }", Phase::Mail, 3)]
#[case::hurt("after 3 ticks { damage self by 1 }; on hurt { say \"x\" }", Phase::Settle, 3)]
#[case::down("after 3 ticks { damage self by 9 }; on down { say \"x\" }", Phase::Settle, 3)]
#[case::end("after 3 ticks { end self }; on end { say \"x\" }", Phase::Ends, 3)]
fn a_handler_runs_in_its_phase(#[case] handlers: &str, #[case] phase: Phase, #[case] tick: u64) {
    let mut play = pond(&format!(
        "input go = key g\nmessage hail\nzone weir = box (40, 40) size 20 x 20\n\
         kind a {{ health 5; body circle 1 u, sensor; {handlers} }}\nkind b {{ body circle 1 u, sensor }}\n\
         place a at (50, 50)\nplace b at (50.5, 50)"
    ));
    play.key(true);
    play.ticks(6);
    assert_eq!(first(&play, What::Said), Some((tick, phase)), "{handlers}");
}

#[rstest]
#[case::a_birth_asked_in_clocks("after 3 ticks { spawn b at here }", What::Born, 3, Phase::Births)]
#[case::a_birth_asked_in_think(
    "when age > 2 ticks { spawn b at here }",
    What::Born,
    4,
    Phase::Births
)]
#[case::a_birth_asked_in_ends(
    "after 3 ticks { end self }; on end { spawn b at here }",
    What::Born,
    4,
    Phase::Births
)]
#[case::damage_asked_in_clocks(
    "after 3 ticks { damage each c by 1 }",
    What::Hurt,
    3,
    Phase::Settle
)]
#[case::damage_asked_in_settle(
    "after 3 ticks { damage self by 1 }; on hurt { damage each c by 1 }",
    What::Hurt,
    3,
    Phase::Settle
)]
#[case::an_end_asked_in_contact("on touch c { end self }", What::Ended, 1, Phase::Ends)]
#[case::rest_asked_in_clocks(
    "after 3 ticks { deactivate each c }",
    What::Deactivated,
    3,
    Phase::Settle
)]
fn a_request_is_carried_out_in_the_phase_that_owns_it(
    #[case] handlers: &str,
    #[case] what: What,
    #[case] tick: u64,
    #[case] phase: Phase,
) {
    let mut play = pond(&format!(
        "kind a {{ health 5; body circle 1 u, sensor; {handlers} }}\nkind b {{ look \"b\" }}\n\
         kind c {{ health 5; body circle 1 u, sensor }}\nplace a at (50, 50)\nplace c at (50.5, 50)"
    ));
    play.ticks(6);
    assert_eq!(first(&play, what), Some((tick, phase)), "{handlers}");
}

#[rstest]
fn damage_asked_for_in_settle_is_settled_in_the_next_tick() {
    let mut play = pond(
        "kind a { health 5; after 3 ticks { damage self by 1 }; on hurt { damage each c by 1 } }\n\
         kind c { health 5; on hurt { say \"hurt\" } }\nplace a at (50, 50)\nplace c at (60, 50)",
    );
    play.ticks(6);
    assert_eq!(play.events.iter().find(|e| e.what == What::Said).map(|e| e.tick), Some(4));
}

#[rstest]
fn the_opening_births_what_is_placed_and_nothing_else_runs() {
    let text = "pond \"t\" { arena 100 x 100; view 20 x 20 follows a }\n\
        kind a { on birth { say \"born\" }; every tick { say \"tick\" }; after 0 s { say \"after\" } }\n\
        spawner bed { makes b at here; keep 3 alive }\nkind b { look \"b\" }\n\
        place a at (30, 40)\nplace bed at (1, 1)\nafter 0 s { say \"pond\" }";
    let play = play(text, 1);
    assert_eq!((play.state.tick, play.said()), (0, vec!["born".to_string()]));
    assert_eq!((play.count("a"), play.count("b")), (1, 0));
    assert_eq!(play.state.view, (30.0, 40.0));
}

#[rstest]
fn handlers_of_a_phase_see_the_world_as_it_stood() {
    // Each doubles what it reads of the other: neither sees what the other wrote.
    let mut play = pond(
        "kind a { vars { n = 1 }; every tick { n = sum(b.n) + 1 } }\n\
         kind b { vars { n = 1 }; every tick { n = sum(a.n) + 1 } }\n\
         place a at (1, 1)\nplace b at (2, 2)\nwatch w = sum(a.n) + sum(b.n)",
    );
    for tick in 1..=6u32 {
        play.ticks(1);
        let n = |kind| f64::from_bits(play.columns(kind).vars[0][0]);
        assert_eq!((n("a"), n("b")), (f64::from(tick) + 1.0, f64::from(tick) + 1.0));
    }
}

#[rstest]
fn a_later_phase_sees_what_an_earlier_one_wrote() {
    let mut play = pond(
        "kind a { vars { n = 0 }; every 1 ticks { n = 5 }\n every tick { say \"{n}\"; n = 7 } }\nplace a at (1, 1)",
    );
    play.ticks(2);
    // The clocks set it to 5; thinking reads that.
    assert_eq!(play.said(), ["5", "5"]);
    assert_eq!(f64::from_bits(play.columns("a").vars[0][0]), 7.0);
}

#[rstest]
fn the_order_of_the_text_never_matters() {
    let parts = [
        "kind a { health 9; vars { n = 0 }; every tick { n += 1 }; every 2 ticks { n = 0 }; on hurt { n += 5 } }",
        "kind b { every 3 ticks { damage each a by 1; spawn c at here } }",
        "kind c { after 4 ticks { end self }; on end { damage each a by 1 } }",
        "place a at (1, 1)",
        "place b at (5, 5)",
        "after 7 ticks { spawn 2 a anywhere }",
        "watch w = sum(a.n)",
    ];
    let digest = |order: &[usize]| -> (u64, u64) {
        let items: Vec<&str> = order.iter().map(|at| parts[*at]).collect();
        let mut play = pond(&items.join("\n"));
        play.ticks(30);
        let n: f64 = play.columns("a").vars[0].iter().map(|w| f64::from_bits(*w)).sum();
        (n.to_bits(), play.state.born_in_all)
    };
    let first = digest(&[0, 1, 2, 3, 4, 5, 6]);
    for order in [[6, 5, 4, 3, 2, 1, 0], [3, 0, 5, 1, 6, 2, 4], [2, 4, 0, 6, 3, 5, 1]] {
        assert_eq!(digest(&order), first, "{order:?}");
    }
}

#[rstest]
fn phases_are_named_and_ordered_as_the_reference_has_them() {
    let all = [
        Phase::Input,
        Phase::Clocks,
        Phase::Births,
        Phase::Think,
        Phase::Move,
        Phase::Contact,
        Phase::Mail,
        Phase::Settle,
        Phase::Ends,
        Phase::Record,
    ];
    assert!(all.is_sorted());
    let reference = include_str!("../../../docs/language.md");
    let table = reference.split("| phase | what happens |").nth(1).unwrap();
    let named: Vec<&str> = table
        .lines()
        .skip(2)
        .map_while(|line| line.strip_prefix("| ")?.split(" |").next())
        .collect();
    assert_eq!(named, all.map(Phase::name));
}
