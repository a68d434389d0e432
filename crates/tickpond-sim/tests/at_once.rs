//! What a handler writes takes hold when its phase closes; where nobody could see it before that, at
//! once. Nobody can tell which.

use std::path::PathBuf;
use std::sync::Arc;

use crate::common::{Play, play};
use proptest::prelude::*;
use rstest::rstest;
use tickpond_sim::Engine;

/// The same pond, where all writes wait for the close.
pub fn patient(text: &str, seed: u64) -> Play {
    let compiled = tickpond_lang::compile(text);
    let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
    let mut code = (*Engine::new(program).compiled).clone();
    for handler in code.kinds.iter_mut().flat_map(|kind| &mut kind.handlers) {
        handler.alone = false;
    }
    let mut engine = Engine::of(Arc::new(code));
    let mut events = Vec::new();
    let state = engine.open(seed, &mut events);
    Play { engine, state, events }
}

/// How many handlers of a pond have what they write to themselves.
fn alone(play: &Play) -> usize {
    let handlers = play.engine.compiled.kinds.iter().flat_map(|kind| &kind.handlers);
    handlers.filter(|handler| handler.alone).count()
}

fn same_either_way(text: &str, ticks: u64) {
    let (mut quick, mut slow) = (play(text, 3), patient(text, 3));
    assert_eq!(alone(&slow), 0);
    for tick in 0..ticks {
        quick.ticks(1);
        slow.ticks(1);
        assert_eq!(quick.state.digest(), slow.state.digest(), "tick {tick} of\n{text}");
        assert!(quick.state == slow.state, "tick {tick} of\n{text}");
    }
    assert_eq!(quick.events, slow.events, "{text}");
}

#[rstest]
fn the_gallery_is_the_same(#[files("../../ponds/gallery/*.pond")] path: PathBuf) {
    same_either_way(&std::fs::read_to_string(path).unwrap(), 150);
}

#[rstest]
#[case::logic(include_str!("../benches/ponds/logic.pond"), 1)]
#[case::chatter(include_str!("../benches/ponds/chatter.pond"), 1)]
fn the_scenarios_are_the_same(#[case] text: &str, #[case] expected: usize) {
    // More than a block, and not a whole number of blocks.
    let text = text.replace("= 10_000", "= 700").replace("= 1000 in", "= 700 in");
    assert_eq!(alone(&play(&text, 1)), expected);
    same_either_way(&text, 40);
}

/// Statements on three variables: some add, some set, some draw, some ask.
const STATEMENTS: &[&str] = &[
    "a += 1",
    "a = a * 0.5 + random(-1.0 .. 1.0)",
    "b += random(0.0 .. 2.0)",
    "b = max(a, 3 - b)",
    "c += a",
    "if a > b { c += 0.25 } else { c = c * 0.75 }",
    "if c > 2 and random(0.0 .. 1.0) < 0.5 { a = 0; b += c }",
    "b = 1 / (b - 1)",
];

fn handler(head: &'static str) -> impl Strategy<Value = String> {
    let statement = prop::sample::select(STATEMENTS);
    prop::collection::vec(statement, 1..4)
        .prop_map(move |body| format!("    {head} {{ {} }}\n", body.join("; ")))
}

/// Which handlers there are: of each a few statements, or none.
fn handlers() -> impl Strategy<Value = String> {
    let maybe = |head| prop::option::of(handler(head));
    let all = (
        maybe("every tick"),
        maybe("when a > 1"),
        maybe("on nudge"),
        maybe("on poke(by) from who"),
        maybe("every 0.1 s"),
    );
    all.prop_map(|(a, b, c, d, e)| [a, b, c, d, e].into_iter().flatten().collect())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn any_handlers_are_the_same(handlers in handlers(), count in 1..300usize, reads in any::<bool>()) {
        // With a question about all, the variable it asks for is nobody's alone.
        let asks = if reads { "    when count(midge where a > 3) > 4 { d = 1 }\n" } else { "" };
        let text = format!(
            "pond \"once\" {{ arena 50 x 50 }}\nmessage nudge\nmessage poke(by: number)\n\
             kind midge {{\n    vars {{ a = 0; b = 0; c = 0; d = 0 }}\n{handlers}{asks}\
             \x20   every 3 ticks {{ if random one of midge as m {{ send nudge to m; send poke(a) to m }} }}\n}}\n\
             after 1 ticks {{ spawn {count} midge anywhere }}\n"
        );
        let (mut quick, mut slow) = (play(&text, 5), patient(&text, 5));
        for _ in 0..12 {
            quick.ticks(1);
            slow.ticks(1);
            // A number that is none stops a run: what was written before it may differ by then.
            if quick.state.stopped.is_some() || slow.state.stopped.is_some() {
                prop_assert_eq!(quick.state.stopped.is_some(), slow.state.stopped.is_some());
                break;
            }
            prop_assert_eq!(quick.state.digest(), slow.state.digest(), "{}", text);
        }
    }

    #[test]
    fn two_threads_stop_where_one_does(count in 1..700usize, at in 1..6u32) {
        // One variable runs out of numbers, each entity at its own time.
        let text = format!(
            "pond \"stop\" {{ arena 50 x 50 }}\nkind midge {{\n    vars {{ a = 0; b = 0 }}\n\
             \x20   every tick {{ a += random(0..{at}); b = 1 / (a - {at}) }}\n}}\n\
             watch w = sum(midge.b)\nafter 1 ticks {{ spawn {count} midge anywhere }}\n"
        );
        let (mut one, mut two) = (play(&text, 7), play(&text, 7));
        (two.engine.threads, two.engine.grain) = (2, 1);
        for _ in 0..10 {
            one.ticks(1);
            two.ticks(1);
            prop_assert_eq!(&one.state.stopped, &two.state.stopped);
            prop_assert!(one.state == two.state);
            if one.state.stopped.is_some() {
                break;
            }
        }
    }
}
