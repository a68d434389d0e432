//! Letters: however they are kept, counted and delivered, the run is the same; who hears what, in which
//! order, and what nobody hears.

use std::path::PathBuf;

use crate::common::{Play, play, pond};
use proptest::prelude::*;
use rstest::rstest;
use tickpond_sim::What;

/// Plays a pond twice, with its letters listed one by one and only counted: the states must not differ.
fn same_listed_or_counted(text: &str, seed: u64, ticks: u64) {
    let (mut listed, mut counted) = (play(text, seed), play(text, seed));
    counted.engine.lists_mail = false;
    for tick in 1..=ticks {
        listed.ticks(1);
        counted.ticks(1);
        assert_eq!(listed.state.digest(), counted.state.digest(), "tick {tick} of\n{text}");
        assert!(listed.state == counted.state, "tick {tick} of\n{text}");
    }
    let kept = |play: &Play| -> Vec<_> {
        let mail = |what| matches!(what, What::Sent | What::Heard);
        play.events.iter().filter(|e| !mail(e.what)).cloned().collect()
    };
    assert_eq!(kept(&listed), kept(&counted), "{text}");
}

#[rstest]
fn the_gallery_is_the_same_listed_or_counted(#[files("../../ponds/gallery/*.pond")] path: PathBuf) {
    same_listed_or_counted(&std::fs::read_to_string(path).unwrap(), 5, 150);
}

#[rstest]
fn the_scenario_of_letters_is_the_same_listed_or_counted() {
    let text = include_str!("../benches/ponds/chatter.pond").replace("= 1000 in", "= 600 in");
    same_listed_or_counted(&text, 2, 45);
}

/// A letter to one by chance and no more is sent for all at once: the others see the same of it.
#[rstest]
#[case::alone(1)]
#[case::two(2)]
#[case::many(700)]
fn a_letter_to_one_by_chance_goes_where_it_would_one_by_one(#[case] count: usize) {
    let text = |more: &str| {
        format!(
            r#"pond "Letters" {{ arena 100 x 100; limit 2000 entities }}
message plain
kind frog {{
    vars {{ heard = 0; n = 0; extra = 0 }}
    every tick {{
        if random one of frog as other {{ send plain to other{more} }}
        n = random(0 .. 5)
        if n > 4 {{ if random one of frog as other {{ send plain to other{more} }} }}
    }}
    on plain {{ heard += 1 }}
    every 3 ticks {{ if random one of midge as other {{ send plain to other{more} }} }}
}}
kind midge {{
    vars {{ heard = 0 }}
    on plain {{ heard += 1; if heard > 9 {{ end self because "told" }} }}
}}
after 1 ticks {{ spawn {count} frog anywhere; spawn {count} midge anywhere }}
"#
        )
    };
    let (mut at_once, mut singly) = (play(&text(""), 3), play(&text("; extra += 1"), 3));
    at_once.ticks(60);
    singly.ticks(60);
    let told = |play: &Play, kind: &str| {
        let columns = play.columns(kind);
        (columns.serial.to_vec(), columns.vars[0].to_vec())
    };
    assert_eq!(told(&at_once, "frog"), told(&singly, "frog"));
    assert_eq!(told(&at_once, "midge"), told(&singly, "midge"));
    assert_eq!(at_once.columns("frog").vars[1], singly.columns("frog").vars[1]);
    assert_eq!(at_once.state.mail_totals, singly.state.mail_totals);
    assert!(count == 1 || at_once.state.mail_totals[0].heard > count as u64 * 50);
}

#[rstest]
fn letters_that_wait_for_the_next_tick_lie_in_one_order() {
    let text = r#"pond "Letters" { arena 100 x 100 }
message plain
kind frog {
    health 9
    on plain { damage self by 1 }
    every tick { send plain to all }
    on hurt { if random one of frog as other { send plain to other; send plain to self } }
}
after 1 ticks { spawn 2 frog anywhere }
"#;
    same_listed_or_counted(text, 0, 10);
}

/// A way to send, and what hears it.
fn sends() -> impl Strategy<Value = String> {
    let to = prop_oneof![
        Just("if random one of frog as other { send plain to other }"),
        Just("if random one of midge as other { send plain to other }"),
        Just("if nearest(frog) as other { send plain to other }"),
        Just("if random one of frog as other { send told(n) to other }"),
        Just("if random one of frog as other { send named to other }"),
        Just("if random one of frog as other { send plain to other; send plain to self }"),
        Just("if n > 2 { if random one of frog as other { send plain to other } }"),
        Just("if random one of frog or midge as other { send plain to other }"),
        Just("send plain to each frog within 30 u"),
        Just("send plain to maker"),
        Just("send plain to all"),
        Just("send plain to pond"),
    ];
    let when = prop_oneof![
        Just("every tick"),
        Just("every 3 ticks"),
        Just("on plain"),
        Just("on end"),
        Just("on hurt"),
        Just("on birth"),
        Just("when n > 4"),
    ];
    (when, to).prop_map(|(when, to)| format!("{when} {{ {to} }}"))
}

/// What a frog does when it hears.
fn hears() -> impl Strategy<Value = String> {
    prop_oneof![
        Just("on plain { n += 1 }"),
        Just("on plain { n += 1; if n > 6 { n = 0; become asleep for 5 ticks } }"),
        Just("on plain from who { n += 1; if who is alive { last = who } }"),
        Just("on plain { n = n + random(0 .. 3) }"),
        Just("in state awake { on plain { n += 1 } }"),
        Just("on plain { if n > 8 { end self because \"full\" } n += 1 }"),
        Just("on plain { damage self by 1; n += 1 }"),
    ]
    .prop_map(String::from)
}

prop_compose! {
    fn letter_ponds()(
        head in prop::collection::vec(sends(), 1..4),
        hears in hears(),
        frogs in 2..40usize,
        midges in 0..20usize,
    ) -> String {
        // Two handlers with one head would be an error.
        let mut handlers: Vec<String> = Vec::new();
        for handler in head {
            let first = |h: &str| h.split('{').next().unwrap().to_string();
            let taken = first(&handler) == "on plain " && hears.contains("on plain");
            if !taken && handlers.iter().all(|h| first(h) != first(&handler)) {
                handlers.push(handler);
            }
        }
        format!(
            "pond \"Letters\" {{ arena 100 x 100; limit 2000 entities }}\n\
             message plain\nmessage told(value: number)\nmessage named\n\
             on plain {{ heard += 1 }}\nvars {{ heard = 0 }}\nwatch all_heard = heard\n\
             kind frog {{\n states {{ awake, asleep }}\n health 9\n\
             vars {{ n = random(0 .. 3); last: any }}\n{hears}\n on told(value) {{ n += value }}\n\
             on named from who {{ last = who }}\n every 7 ticks {{ if last is alive {{ n += 1 }} }}\n\
             {handlers}\n}}\n\
             kind midge {{ on plain {{ end self because \"told\" }}; after 2 s {{ end self }} }}\n\
             after 1 ticks {{ spawn {frogs} frog anywhere; spawn {midges} midge anywhere }}\n",
            handlers = handlers.join("\n"),
        )
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn any_letters_are_the_same_listed_or_counted(text in letter_ponds(), seed in 0..1000u64) {
        prop_assume!(tickpond_lang::compile(&text).program.is_some());
        same_listed_or_counted(&text, seed, 30);
    }

    #[test]
    fn any_letters_are_the_same_with_two_threads_and_shuffled(
        text in letter_ponds(),
        seed in 0..1000u64,
    ) {
        prop_assume!(tickpond_lang::compile(&text).program.is_some());
        let (mut plain, mut other) = (play(&text, seed), play(&text, seed));
        for play in [&mut plain, &mut other] {
            play.engine.lists_mail = false;
        }
        other.engine.threads = 2;
        other.engine.grain = 2;
        other.engine.shuffle = Some(seed ^ 77);
        plain.ticks(25);
        other.ticks(25);
        prop_assert_eq!(plain.state.digest(), other.state.digest());
        prop_assert!(plain.state == other.state);
    }

    #[test]
    fn letters_sent_are_letters_heard_and_unheard(text in letter_ponds(), seed in 0..1000u64) {
        prop_assume!(tickpond_lang::compile(&text).program.is_some());
        let mut play = play(&text, seed);
        play.ticks(30);
        let count = |what| play.events.iter().filter(|e| e.what == what).count() as u64;
        let totals = &play.state.mail_totals;
        let heard: u64 = totals.iter().map(|t| t.heard).sum();
        prop_assert_eq!(count(What::Heard), heard);
        // Each listed letter says to how many it went; none is delivered twice.
        let meant: f64 = play
            .events
            .iter()
            .filter(|e| e.what == What::Sent)
            .map(|e| e.value.unwrap_or(0.0))
            .sum();
        let unheard: u64 = totals.iter().map(|t| t.unheard).sum();
        let waiting = play.state.letters.len() as u64;
        prop_assert!(heard <= meant as u64);
        prop_assert!(heard + unheard <= meant as u64 + count(What::Unheard) + waiting);
    }
}

#[rstest]
#[case::to_one("send hail to nearest(midge)", 1)]
#[case::to_a_kind("send hail to each midge", 3)]
#[case::to_a_tag("send hail to each small", 4)]
#[case::within_a_distance("send hail to each midge within 12 u", 2)]
#[case::in_a_state("send hail to each midge where state == awake", 3)]
#[case::with_a_condition("send hail to each midge where age > 20 s", 0)]
#[case::to_the_pond("send hail to pond", 1)]
#[case::to_all("send hail to all", 6)]
#[case::to_oneself("send hail to self", 1)]
fn a_letter_reaches_whom_it_is_for(#[case] sends: &str, #[case] wanted: usize) {
    let mut play = pond(&format!(
        "message hail\non hail {{ say \"pond\" }}\n\
         kind midge {{ tag small; states {{ awake, asleep }}; on hail {{ say \"midge\" }} }}\n\
         kind fly {{ tag small; on hail {{ say \"fly\" }} }}\n\
         kind frog {{ on hail {{ say \"frog\" }}; after 1 s {{ {sends} }} }}\n\
         place frog at (50, 50)\nplace midge at (55, 50)\nplace midge at (60, 50)\n\
         place midge at (90, 50)\nplace fly at (50, 55)\n"
    ));
    assert_eq!(play.ticks(70).said().len(), wanted, "{:?}", play.said());
}

#[rstest]
fn the_maker_is_told_and_the_pond_is_the_maker_of_what_it_spawns() {
    let mut play = pond(
        "message done\non done from who { say \"pond: {who.name}\" }\n\
         kind midge { after 5 ticks { send done to maker } }\n\
         kind frog { on done from who { say \"frog: {who.name}\" }; after 1 ticks { spawn midge at here } }\n\
         place frog at (5, 5)\nafter 3 ticks { spawn midge at (1, 1) }",
    );
    assert_eq!(play.ticks(20).said(), ["frog: midge#1", "pond: midge#2"]);
}

#[rstest]
fn letters_are_heard_in_the_order_of_the_roll() {
    // Whoever was born first is heard first, whatever the handlers' order in the text.
    let mut play = pond(
        "message hail(from_whom: number)\n\
         kind heron { after 1 s { send hail(2) to each frog } }\n\
         kind frog { on hail(from_whom) { say \"{from_whom}\" } }\n\
         kind midge { after 1 s { send hail(3) to each frog }; every 1 s { send hail(4) to each frog } }\n\
         place frog at (5, 5)\nplace midge at (9, 9)\nplace heron at (1, 1)",
    );
    assert_eq!(play.ticks(61).said(), ["2", "3", "4"]);
}

#[rstest]
#[case::input("on press go { send hail to each frog }", 1)]
#[case::clocks("after 10 ticks { send hail to each frog }", 10)]
#[case::think("when count(frog) > 0 { send hail to each frog }", 1)]
#[case::settle("after 10 ticks { damage self by 1 }; on hurt { send hail to each frog }", 11)]
#[case::ends("after 10 ticks { end self }; on end { send hail to each frog }", 11)]
fn a_letter_comes_in_its_tick_or_in_the_next_if_mail_was_over(
    #[case] handlers: &str,
    #[case] tick: u64,
) {
    let mut play = pond(&format!(
        "message hail\ninput go = key g\nkind frog {{ on hail {{ say \"heard\" }} }}\n\
         kind midge {{ health 3; {handlers} }}\nplace frog at (5, 5)\nplace midge at (9, 9)"
    ));
    play.key(true);
    play.ticks(20);
    let said = play.events.iter().find(|e| e.what == What::Said);
    assert_eq!(said.map(|e| e.tick), Some(tick), "{handlers}");
}

#[rstest]
fn mail_that_never_falls_quiet_is_put_off_and_said() {
    let mut play = pond(
        "message ping\nvars { n = 0 }\n\
         kind frog { vars { heard = 0 }; on ping { heard += 1; send ping to self }\n\
         after 1 ticks { send ping to self } }\nplace frog at (5, 5)\nwatch w = mean(frog.heard)",
    );
    play.ticks(3);
    let refused: Vec<&str> = play
        .events
        .iter()
        .filter(|e| e.what == What::Refused)
        .filter_map(|e| e.words.as_deref())
        .collect();
    assert_eq!(refused, ["1 messages wait for the next tick"; 3]);
    // Sixteen rounds a tick, none of them lost.
    let heard = f64::from_bits(play.columns("frog").vars[0][0]);
    assert_eq!(heard, 48.0);
    assert_eq!(play.state.letters.len(), 1);
}

#[rstest]
fn what_waits_for_the_next_tick_is_saved_with_the_rest() {
    let text = "pond \"t\" { arena 10 x 10 }\nmessage ping\n\
        kind frog { vars { heard = 0 }; on ping { heard += 1; if random one of frog as f { send ping to f } }\n\
        after 1 ticks { send ping to self } }\nafter 1 ticks { spawn 5 frog anywhere }\n\
        watch w = sum(frog.heard)";
    let mut straight = play(text, 1);
    straight.engine.lists_mail = false;
    straight.ticks(5);
    assert!(!straight.state.letters.is_empty());
    let mut restored = play(text, 1);
    restored.engine.lists_mail = false;
    restored.state = straight.state.clone();
    straight.ticks(20);
    restored.ticks(20);
    assert_eq!(straight.state.digest(), restored.state.digest());
}

#[rstest]
fn one_who_went_between_sending_and_hearing_leaves_a_stale_letter() {
    // The letter is sent as its sender ends; in the next tick the addressee has gone, too.
    let mut play = pond(
        "message hail\nkind frog { on hail { say \"heard\" }; after 10 ticks { end self } }\n\
         kind midge { vars { friend: frog }; after 10 ticks { end self }\n\
         on birth { if nearest(frog) as f { friend = f } }\n\
         on end { send hail to friend } }\nplace frog at (5, 5)\nplace midge at (9, 9)",
    );
    play.ticks(20);
    assert_eq!(play.said(), Vec::<String>::new());
    assert_eq!(play.happened(What::Stale), 1);
}

#[rstest]
fn unheard_letters_are_counted_by_message_and_name_their_line() {
    let mut play = pond(
        "message hail; message warn\nkind frog { on warn { say \"warned\" } }\n\
         kind midge { every 10 ticks { send hail to each frog; send warn to each frog } }\n\
         place frog at (5, 5)\nplace midge at (9, 9)",
    );
    play.ticks(30);
    let totals: Vec<(u64, u64, u64)> =
        play.state.mail_totals.iter().map(|t| (t.sent, t.heard, t.unheard)).collect();
    assert_eq!(totals, [(3, 0, 3), (3, 3, 0)]);
    let unheard: Vec<u32> = play
        .events
        .iter()
        .filter(|e| e.what == What::Unheard)
        .map(|e| play.program().line_of(e.site.unwrap()))
        .collect();
    assert_eq!(unheard, [4, 4, 4]);
}

#[rstest]
fn nobody_there_to_hear_is_told_once() {
    let mut play = pond(
        "message hail\nkind frog { on hail { say \"heard\" } }\n\
         kind midge { after 10 ticks { send hail to each frog } }\nplace midge at (9, 9)\n\
         after 5 s { spawn frog at (1, 1) }",
    );
    play.ticks(30);
    let words: Vec<&str> = play
        .events
        .iter()
        .filter(|e| e.what == What::Unheard)
        .filter_map(|e| e.words.as_deref())
        .collect();
    assert_eq!(words, ["nobody was there to hear it"]);
}
