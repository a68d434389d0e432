//! The promises of the tick, over generated ponds and the demo.

use std::collections::BTreeMap;

use crate::common::{Play, play};
use proptest::prelude::*;
use rstest::rstest;
use tickpond_lang::program::{Cause, InputId};
use tickpond_sim::{InputChange, What, carry::carry};

const DUSK: &str = include_str!("../../../ponds/dusk.pond");

/// Handlers that together use most of what an entity can do.
const HANDLERS: &[&str] = &[
    "on birth { heading = any angle; speed = random(1 u/s .. 30 u/s) }",
    "every 0.2 s { turn by random(-40 deg .. 40 deg) }",
    "every tick { if pos.x > 80 u { heading = 180 deg } else if age > 4 s { n += 1 } }",
    "every 0.3 s { n = n + 1; if n > 6 { end self because \"worn out\" } }",
    "after 1.5 s { spawn 2 bit at here, spread 360 deg, speed 5 u/s }",
    "on touch any as t { damage t by 1; n += 1 }",
    "on first touch bit as t { damage t by 2 credit maker; speed = speed * 1.1 }",
    "on hurt { send ow(n) to each any within 6 u }",
    "on ow(level) from who { heading = direction to who; n = level }",
    "on end by damage { spawn 3 bit at here, spread 180 deg, speed 9 u/s, spaced 0.1 s }",
    "on leave arena { end self }",
    "after 3 s { if nearest(bit) as b { damage b by 1 } else { wait 0.2 s; end self } }",
    "on press fire { spawn bit at here, facing heading, speed 20 u/s }",
    "while held fire every 0.25 s { spawn bit at here, speed 14 u/s }",
    "every 0.5 s { if count(bit where health < 3 and age > 1 s) > 2 { turn by 90 deg } }",
    "when n > 3 { become lit for 0.4 s; push self by 3 u/s along 45 deg }",
    "in state lit { on becoming lit { n += 1 }\n after 0.2 s { turn by 30 deg; become calm } }",
    "on quitting lit { n -= 2 }",
    "every 0.7 s { each bit within 8 u as b { push b by 4 u/s along direction to b } }",
    "every 0.9 s { blast at here, radius 9 u, damage 1, push 6 u/s, falloff straight, spares maker }",
    "on enter pool { deactivate each bit within 10 u }",
    "on wake while inactive { activate self }",
    "every 1.1 s { send wake to each any where not active }",
    "every 0.6 s { ray along heading, reach 20 u, hits bit as r { damage r.target by 1; show r for 0.1 s } else { turn by 10 deg } }",
    "while touching any every 0.3 s as t { heal t by 1 }",
    "on part any { n += 1 }",
    "every 1.3 s { if random one of bit as b { attach b at arm } }",
    "on below y 20 u { turn by 180 deg }",
    "on down { wait 0.5 s; end self because \"down\" }",
    // The rest is for the first kind alone: it would multiply the second.
    "after 2.2 s { replace self with 2 bit, keeping velocity, spread 90 deg }",
    "after 0.8 s { spawn bit anywhere, not within 10 u of fly as b; if b is alive { end b } }",
    "after 0.9 s { spawn 2 bit at here, inactive }",
    // What is asked of a maker may be asked of the pond.
    "after 1.2 s { end maker }",
    "every 0.8 s { push maker by 3 u/s along 0 deg; if n > 4 { deactivate maker } }",
    "every 1.7 s { attach maker at arm }",
    // Chains: what hangs on one has others hanging on it.
    "every 1.6 s { attach self to nearest(any) at arm outlives owner }",
    "every 1.9 s { activate each bit where not active }",
    // Numbers that are none, now and then.
    "every 0.4 s { n = n + 1 / (n - 5) }",
    "when 1 / (n - 4) > 0.5 { turn by 5 deg }",
    "every 1.4 s { send ow(1) to all }",
    "on touch edge { n += 1 }",
    "on touch edge bottom { turn by 15 deg }",
    "on leave pool { activate each bit within 9 u }",
    "every 0.55 s { spin = random(-300 deg/s .. 300 deg/s) }",
    "on end { send ow(2) to each bit within 5 u }",
    "every 0.35 s { repeat n times { n += 0.5 } }",
];

/// The handlers both kinds can have.
const SHARED: u64 = !(1 << 4 | 1 << 29 | 1 << 30 | 1 << 31);

/// A pond of two kinds whose handlers are picked by the bits of two numbers, in some order.
fn pond_of(fly: u64, bit: u64, backwards: bool, edges: &str) -> String {
    let pick = |bits: u64| {
        let mut picked: Vec<&str> = HANDLERS
            .iter()
            .enumerate()
            .filter(|(i, _)| bits >> i & 1 == 1)
            .map(|(_, h)| *h)
            .collect();
        if backwards {
            picked.reverse();
        }
        picked.join("\n  ")
    };
    let mut items = vec![
        "input fire = key f".to_string(),
        "message ow(level: number)".to_string(),
        "message wake".to_string(),
        "zone pool = circle (50, 50) radius 12 u".to_string(),
        "spots reeds { (20, 20), (50, 50) facing 90 deg, (80, 70) }".to_string(),
        "place fly at (30, 30)".to_string(),
        "place fly at (60, 40)".to_string(),
        // At one place, told apart by what else is said of them; and two that say nothing else.
        "place fly at (60, 40) { n = 2 }".to_string(),
        "place bit anywhere { n = 1 }".to_string(),
        "place bit anywhere { n = 3 }".to_string(),
        "place bit at (31, 30), inactive".to_string(),
        "place ledge at (50, 10)".to_string(),
        "place ledge at (50, 10), facing 90 deg".to_string(),
        "place ledge at (97, 50), facing 80 deg".to_string(),
        "place src".to_string(),
        "place src { gap = 0.9 s }".to_string(),
        "kind ledge { body box 20 u x 2 u, solid fixed; vars { hits = 0 }; on touch edge { hits += 1 }\n  \
         on touch any as t { hits += 1 } }"
            .to_string(),
        "spawner src(gap: time = 0.4 s, what: kind = fly) { makes what at reeds; every gap; keep at most 9 alive }"
            .to_string(),
        format!(
            "kind fly {{ body circle 2 u, {}; health 4; vars {{ n = random(0 .. 3) }}\n  \
             states {{ calm, lit }}; mount arm at (2 u, 0 u)\n  {} }}",
            // Solids do not go with edges that wrap.
            if fly & 1 << 63 != 0 && edges != "wrap" { "solid, bounce 50 %" } else { "sensor" },
            pick(fly)
        ),
        format!(
            "kind bit {{ body box 1 u x 2 u; health 2; vars {{ n = 0 }}\n  {}\n  \
             states {{ calm, lit }}; mount arm at (1 u, 0 u)\n  \
             after 2.5 s {{ end self because \"old\" }} }}",
            pick(bit & SHARED)
        ),
        "routine tides { wait 1 s\n repeat 2 times { wave as w { spawn 3 fly at reeds, spaced 0.2 s }\n wait until count(w) == 0 } }".to_string(),
    ];
    if backwards {
        items.reverse();
    }
    format!(
        "pond \"p\" {{ arena 100 x 100; edges {edges}; limit 80 entities, 40 steps }}\n{}",
        items.join("\n")
    )
}

fn ponds() -> impl Strategy<Value = (u64, u64, &'static str)> {
    let edges = prop::sample::select(vec!["open, margin 3 u", "wrap", "wall"]);
    (any::<u64>(), any::<u64>(), edges)
}

/// Plays with the fire key held now and then.
fn press_and_play(play: &mut Play, ticks: u64) {
    for _ in 0..ticks {
        let change = match play.state.tick % 50 {
            10 => vec![InputChange::Key { input: InputId(0), down: true }],
            31 => vec![InputChange::Key { input: InputId(0), down: false }],
            _ => vec![],
        };
        play.engine.step(&mut play.state, &change, &mut play.events);
    }
}

/// Everything that happened, by names instead of identities, for runs of different texts.
fn story(play: &Play) -> Vec<String> {
    let program = play.program();
    let name =
        |w: tickpond_sim::Who| format!("{}#{}", program.kinds[w.kind.index()].name, w.number);
    play.events
        .iter()
        .map(|e| {
            let other = e.other.map(name).unwrap_or_default();
            format!(
                "{} {} {} {} {other} {:?} {:?}",
                e.tick,
                e.phase.name(),
                e.what.name(),
                name(e.who),
                e.cause,
                e.value
            )
        })
        .collect()
}

fn recount(play: &Play) {
    let mut live: BTreeMap<u32, i64> = BTreeMap::new();
    let mut ended: BTreeMap<(u32, Cause), u64> = BTreeMap::new();
    for event in &play.events {
        match event.what {
            What::Born => *live.entry(event.who.kind.0).or_default() += 1,
            What::Ended => {
                *live.entry(event.who.kind.0).or_default() -= 1;
                *ended.entry((event.who.kind.0, event.cause.unwrap())).or_default() += 1;
            }
            _ => {}
        }
    }
    for (k, columns) in play.state.kinds.iter().enumerate().skip(1) {
        assert_eq!(columns.len() as i64, live.get(&(k as u32)).copied().unwrap_or(0));
        for cause in Cause::ALL {
            let counted = play.state.totals[k].ended[cause as usize];
            assert_eq!(counted, ended.get(&(k as u32, cause)).copied().unwrap_or(0));
        }
        assert!(columns.serial.is_sorted(), "rows stay in the order of birth");
        for (row, id) in columns.id.iter().enumerate() {
            assert_eq!(play.state.find(*id).unwrap().1, row);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, max_shrink_iters: 60, ..ProptestConfig::default() })]

    #[test]
    fn the_same_seed_gives_the_same_run((fly, bit, edges) in ponds(), seed: u64) {
        let text = pond_of(fly, bit, false, edges);
        let (mut a, mut b) = (play(&text, seed), play(&text, seed));
        press_and_play(&mut a, 200);
        press_and_play(&mut b, 200);
        prop_assert_eq!(a.state.digest(), b.state.digest());
        prop_assert_eq!(&a.events, &b.events);
        recount(&a);
    }

    #[test]
    fn shuffled_handlers_change_nothing((fly, bit, edges) in ponds(), shuffle: u64) {
        let text = pond_of(fly, bit, false, edges);
        let (mut a, mut b) = (play(&text, 7), play(&text, 7));
        b.engine.shuffle = Some(shuffle);
        press_and_play(&mut a, 200);
        press_and_play(&mut b, 200);
        prop_assert!(a.events == b.events, "the same events in the same order");
        prop_assert_eq!(a.state.digest(), b.state.digest());
    }

    #[test]
    fn two_threads_change_nothing((fly, bit, edges) in ponds()) {
        let text = pond_of(fly, bit, false, edges);
        let (mut a, mut b) = (play(&text, 7), play(&text, 7));
        (b.engine.threads, b.engine.grain) = (2, 2);
        press_and_play(&mut a, 150);
        press_and_play(&mut b, 150);
        prop_assert!(a.events == b.events, "the same events in the same order");
        prop_assert_eq!(a.state.digest(), b.state.digest());
        prop_assert_eq!(a.state.fired, b.state.fired);
    }

    #[test]
    fn the_order_of_definitions_changes_nothing((fly, bit, edges) in ponds()) {
        let mut a = play(&pond_of(fly, bit, false, edges), 3);
        let mut b = play(&pond_of(fly, bit, true, edges), 3);
        press_and_play(&mut a, 200);
        press_and_play(&mut b, 200);
        prop_assert_eq!(a.state.digest(), b.state.digest());
        let (mut a, mut b) = (story(&a), story(&b));
        // Requests of different kinds in one phase are told kind by kind: the order of telling is
        // by age of the asker, so only what has no asker may stand elsewhere.
        a.sort();
        b.sort();
        prop_assert_eq!(a, b);
    }

    #[test]
    fn going_on_from_a_saved_state_is_going_on((fly, bit, edges) in ponds(), at in 1u64..180) {
        let text = pond_of(fly, bit, false, edges);
        let mut a = play(&text, 5);
        press_and_play(&mut a, at);
        let saved = a.state.clone();
        press_and_play(&mut a, 190 - at);
        let mut b = play(&text, 5);
        b.state = saved;
        press_and_play(&mut b, 190 - at);
        prop_assert_eq!(a.state.digest(), b.state.digest());
        let since = |play: &Play| play.events.iter().filter(|e| e.tick > at).cloned().collect::<Vec<_>>();
        prop_assert!(since(&a) == since(&b), "the same events");
    }

    #[test]
    fn carrying_over_to_the_same_text_changes_nothing((fly, bit, edges) in ponds(), at in 1u64..120) {
        let text = pond_of(fly, bit, false, edges);
        let mut a = play(&text, 5);
        press_and_play(&mut a, at);
        // Comments and blank lines move every line, and mean nothing.
        let mut b = play(&format!("// moved\n\n{text}"), 5);
        b.state = carry(&a.state, &a.engine.compiled, &b.engine.compiled).unwrap();
        prop_assert_eq!(a.state.digest(), b.state.digest());
        press_and_play(&mut a, 100);
        press_and_play(&mut b, 100);
        prop_assert_eq!(a.state.digest(), b.state.digest());
        let happened = |play: &Play| story(play).into_iter().filter(|line| {
            line.split(' ').next().and_then(|tick| tick.parse::<u64>().ok()).is_some_and(|tick| tick > at)
        }).collect::<Vec<_>>();
        prop_assert_eq!(happened(&a), happened(&b));
    }

    /// More entities than fit into two blocks, some of which go over a limit or come to no number.
    #[test]
    fn threads_and_order_change_nothing_where_limits_are_near(
        steps in 3u32..40,
        most in prop::sample::select(vec!["20_000 steps per tick", "3_000 messages per tick", "2_000 requests per tick", "400 touches", "100 births waiting"]),
        seed: u64,
        shuffle: u64,
    ) {
        let text = format!(
            "pond \"p\" {{ arena 60 x 60; limit 3_000 entities, {steps} steps, {most} }}\nmessage hi\n\
             kind m {{ body circle 0.4 u, sensor; health 5; vars {{ n = random(0 .. 30); k = 0 }}\n\
             every 3 ticks {{ repeat n times as i {{ k += i }} }}\n\
             every 5 ticks {{ each m within 2 u as o {{ damage o by 0.1 }} }}\n\
             every 7 ticks {{ if n > 28 {{ send hi to each m within 6 u }} }}\n\
             every 11 ticks {{ k = 1 / (n - 3) }}\n\
             on hi {{ n = random(0 .. 30) }}\n\
             on touch m {{ turn by 5 deg }}\n\
             every 13 ticks {{ if n > 29 {{ spawn 9 m at here, spaced 1 s }} }}\n\
             on birth {{ heading = any angle; speed = 4 u/s }} }}\n\
             after 1 ticks {{ spawn 900 m anywhere }}"
        );
        let (mut a, mut b) = (play(&text, seed), play(&text, seed));
        (b.engine.threads, b.engine.grain, b.engine.shuffle) = (2, 2, Some(shuffle));
        for _ in 0..30 {
            a.ticks(1);
            b.ticks(1);
            let told = |play: &Play| play.state.stopped.as_ref().map(|s| (s.guard, s.tick, s.who));
            prop_assert_eq!(told(&a), told(&b));
            prop_assert_eq!(a.state.digest(), b.state.digest(), "tick {}", a.state.tick);
        }
        prop_assert!(a.events == b.events, "the same events in the same order");
    }
}

#[rstest]
fn another_seed_gives_another_run() {
    let text = pond_of(0x7fff, 0, false, "wrap");
    let (mut a, mut b) = (play(&text, 1), play(&text, 2));
    a.ticks(200);
    b.ticks(200);
    assert_ne!(a.state.digest(), b.state.digest());
}

#[rstest]
fn one_more_kind_leaves_the_chance_of_the_others_alone() {
    let more =
        format!("{DUSK}\nplace carp at (5, 5)\nkind carp {{ every 1 s {{ turn by any angle }} }}");
    let (mut a, mut b) = (play(DUSK, 9), play(&more, 9));
    a.ticks(900);
    b.ticks(900);
    assert_eq!(a.columns("midge").x, b.columns("midge").x);
    assert_eq!(a.columns("midge").heading, b.columns("midge").heading);
}

#[rstest]
fn an_edit_carries_the_living_over() {
    let mut a = play(DUSK, 1);
    a.ticks(400);
    let faster = DUSK
        .replace("drift  = 6 u/s", "drift  = 12 u/s")
        .replace("vars { calm = true }", "vars { calm = true; hops = 3 }");
    let mut b = play(&faster, 1);
    b.state = carry(&a.state, &a.engine.compiled, &b.engine.compiled).unwrap();
    assert_eq!(a.count("midge"), b.count("midge"));
    assert_eq!(b.columns("midge").vars[1][0], 3f64.to_bits(), "a new variable starts fresh");
    b.ticks(300);
    recount_live(&b);
}

fn recount_live(play: &Play) {
    for columns in &play.state.kinds {
        for (row, id) in columns.id.iter().enumerate() {
            assert_eq!(play.state.find(*id).unwrap().1, row);
        }
    }
}

#[rstest]
#[case::arena("arena 160 x 90", "arena 170 x 90")]
#[case::rate("rate 60 per s", "rate 30 per s")]
#[case::body("body circle 2 u, sensor", "body circle 3 u, sensor")]
#[case::placed("place frog at (80, 8)", "place frog at (70, 8)")]
#[case::waiting("wait 4 s", "wait 5 s")]
fn some_edits_mean_another_run(#[case] from: &str, #[case] to: &str) {
    let mut a = play(DUSK, 1);
    a.ticks(100);
    let b = play(&DUSK.replace(from, to), 1);
    assert!(carry(&a.state, &a.engine.compiled, &b.engine.compiled).is_err());
}
