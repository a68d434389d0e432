//! The five scenarios, one of them in two crowds, each beside a hand-written loop that does the same work
//! over columns without any script, in the same run.
//!
//! `cargo bench -p tickpond-sim --bench scenarios -- [NAME...] [SIZE...] [ticks=N] [threads=N]` prints, for each size, the
//! time of an entity and tick (of a message for chatter), scripted and by hand, and their ratio; then how
//! much the cost of one grows from the smallest to the largest size.

mod by_hand;

use std::time::Instant;

use tickpond_sim::{Engine, State};

/// One scenario: its pond, the knob with the size, the sizes, and how many ticks are played.
struct Scenario {
    name: &'static str,
    pond: &'static str,
    sizes: &'static [usize],
    ticks: u64,
    /// What the ratio should be at most, if that is said.
    at_most: Option<f64>,
    /// How many of the size there are on a square u, where the arena grows with the size; else it is
    /// the pond's own.
    crowding: Option<f64>,
    hand: fn(&Engine, State, u64) -> by_hand::Done,
}

const SCENARIOS: &[Scenario] = &[
    Scenario {
        name: "drift",
        pond: include_str!("ponds/drift.pond"),
        sizes: &[1_000, 10_000, 100_000, 1_000_000],
        ticks: 600,
        at_most: Some(2.0),
        crowding: None,
        hand: by_hand::drift,
    },
    Scenario {
        name: "churn",
        pond: include_str!("ponds/churn.pond"),
        sizes: &[10, 100, 1_000, 10_000],
        ticks: 1200,
        at_most: Some(2.5),
        crowding: None,
        hand: by_hand::churn,
    },
    Scenario {
        name: "skirmish",
        pond: include_str!("ponds/skirmish.pond"),
        sizes: &[2_000, 20_000, 200_000],
        ticks: 600,
        at_most: Some(2.5),
        crowding: Some(0.02),
        hand: by_hand::skirmish,
    },
    Scenario {
        // The same, ten times as crowded: a drop lives three ticks, and one in thirty of all is born or
        // ends in each.
        name: "crowd",
        pond: include_str!("ponds/skirmish.pond"),
        sizes: &[2_000, 20_000, 200_000],
        ticks: 600,
        at_most: None,
        crowding: Some(0.2),
        hand: by_hand::skirmish,
    },
    Scenario {
        name: "chatter",
        pond: include_str!("ponds/chatter.pond"),
        sizes: &[1_000, 10_000, 100_000],
        ticks: 600,
        at_most: Some(3.5),
        crowding: None,
        hand: by_hand::chatter,
    },
    Scenario {
        name: "logic",
        pond: include_str!("ponds/logic.pond"),
        sizes: &[10_000, 100_000, 1_000_000],
        ticks: 300,
        at_most: Some(2.0),
        crowding: None,
        hand: by_hand::logic,
    },
];

fn main() {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let ticks = words.iter().find_map(|w| w.strip_prefix("ticks=")?.parse().ok());
    let threads = words.iter().find_map(|w| w.strip_prefix("threads=")?.parse().ok()).unwrap_or(1);
    let sizes: Vec<usize> = words.iter().filter_map(|w| w.parse().ok()).collect();
    let named: Vec<&String> =
        words.iter().filter(|w| SCENARIOS.iter().any(|s| s.name == **w)).collect();
    println!(
        "{:<10}{:>10}{:>8}{:>14}{:>14}{:>8}{:>9}",
        "scenario", "size", "ticks", "scripted ns", "by hand ns", "ratio", "at most"
    );
    for scenario in SCENARIOS {
        if named.is_empty() || named.iter().any(|n| *n == scenario.name) {
            measure(scenario, (ticks, threads), &sizes);
        }
    }
}

/// Plays a scenario at each of its sizes. The opening and the first tick, in which all are born, are
/// outside the time.
fn measure(scenario: &Scenario, (ticks, threads): (Option<u64>, usize), wanted: &[usize]) {
    let mut costs: Vec<f64> = Vec::new();
    let sizes: Vec<usize> =
        if wanted.is_empty() { scenario.sizes.to_vec() } else { wanted.to_vec() };
    for size in &sizes {
        let ticks = ticks.unwrap_or(scenario.ticks);
        let (mut engine, start) = opened(scenario, *size);
        engine.threads = threads;
        let mut state = start.clone();
        let mut events = Vec::new();
        let clock = Instant::now();
        let mut done = 0u64;
        for _ in 0..ticks {
            events.clear();
            engine.step(&mut state, &[], &mut events);
            done += state.live() as u64;
        }
        let scripted = clock.elapsed().as_nanos() as f64;
        let sent: u64 = state.mail_totals.iter().map(|t| t.sent).sum();
        let units = if sent > 0 { sent } else { done } as f64;
        let clock = Instant::now();
        let hand = (scenario.hand)(&engine, start, ticks);
        let by_hand = clock.elapsed().as_nanos() as f64;
        hand.check(&engine, &state);
        let hand_units = if sent > 0 { hand.messages } else { hand.entity_ticks } as f64;
        let (scripted, by_hand) = (scripted / units, by_hand / hand_units);
        println!(
            "{:<10}{size:>10}{ticks:>8}{scripted:>14.1}{by_hand:>14.1}{:>8.2}{:>9}",
            scenario.name,
            scripted / by_hand,
            scenario.at_most.map_or("-".into(), |most| most.to_string())
        );
        costs.push(scripted);
    }
    let (first, last) = (costs[0], costs[costs.len() - 1]);
    println!(
        "{:<10}one costs {:.2} times as much at the largest size as at the smallest\n",
        "",
        last / first
    );
}

/// A pond with its first knob set to a size, after the tick in which all are born.
fn opened(scenario: &Scenario, size: usize) -> (Engine, State) {
    let side = scenario.crowding.map_or(1000.0, |crowding| (size as f64 / crowding).sqrt().round());
    let pond = scenario.pond.replace("arena 1000 x 1000", &format!("arena {side} x {side}"));
    let compiled = tickpond_lang::compile(&pond);
    let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
    let mut engine = Engine::new(program);
    // As in a run nobody asks for the list of events of: letters are counted.
    engine.lists_mail = false;
    let mut state = engine.open_with(1, &[size as f64], &mut Vec::new());
    engine.step(&mut state, &[], &mut Vec::new());
    (engine, state)
}
