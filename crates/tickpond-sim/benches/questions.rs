//! What questions about others cost: rays, the nearest, those within a distance, those of which something holds.

use divan::{Bencher, counter::ItemsCount};
use tickpond_sim::{Engine, State};

fn main() {
    divan::main();
}

const EDGES: [&str; 2] = ["open", "wrap"];

/// Ten thousand bodies in a pond, and so many that ask in each tick.
fn pond(edges: &str, asked: usize, line: &str, asking: usize) -> (Engine, State) {
    let text = format!(
        "pond \"bench\" {{ arena 400 x 400; edges {edges}; limit 500_000 entities, 1_000_000 births per tick }}\n\
         kind m {{ body circle 0.5 u, sensor; health 3; vars {{ q = 1 }}; after 900 s {{ q = 2; damage self by 1 }} }}\n\
         kind wall {{ body circle 0.5 u, sensor }}\n\
         kind a {{ vars {{ n = 0; who: m }}; {line} }}\nwatch w = sum(a.n) + count(a where who is alive)\n\
         after 1 ticks {{ spawn {asked} m anywhere; spawn {asking} a anywhere, facing any angle; spawn 1_000 wall anywhere }}"
    );
    let compiled = tickpond_lang::compile(&text);
    let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
    let mut engine = Engine::new(program);
    let mut state = engine.open(1, &mut Vec::new());
    for _ in 0..5 {
        engine.step(&mut state, &[], &mut Vec::new());
    }
    assert_eq!(state.stopped, None);
    (engine, state)
}

/// One tick, again and again from the same state; counted by those that ask.
fn tick(bencher: Bencher, asking: usize, (mut engine, state): (Engine, State)) {
    bencher
        .counter(ItemsCount::new(asking))
        .with_inputs(|| (state.clone(), Vec::new()))
        .bench_local_values(|(mut state, mut events)| {
            engine.step(&mut state, &[], &mut events);
            (state, events)
        });
}

#[divan::bench(args = EDGES, sample_count = 10)]
fn rays_1_000_of_20_u_among_10_000(bencher: Bencher, edges: &str) {
    let line = "every tick { ray along heading, reach 20 u, hits m as r { n += 1 } }";
    tick(bencher, 1_000, pond(edges, 10_000, line, 1_000));
}

/// Long rays, which end at the first of many in their way.
#[divan::bench(args = EDGES, sample_count = 10)]
fn rays_1_000_of_180_u_among_10_000(bencher: Bencher, edges: &str) {
    let line = "every tick { ray along heading, reach 180 u, hits m as r { n += 1 } }";
    tick(bencher, 1_000, pond(edges, 10_000, line, 1_000));
}

#[divan::bench(args = EDGES, sample_count = 10)]
fn shielded_blasts_1_000_of_10_u_among_10_000(bencher: Bencher, edges: &str) {
    let line = "every tick { blast at here, radius 10 u, damage 0.001, shielded by wall }";
    tick(bencher, 1_000, pond(edges, 10_000, line, 1_000));
}

#[divan::bench(args = EDGES, sample_count = 10)]
fn nearest_2_000_among_10_000(bencher: Bencher, edges: &str) {
    tick(bencher, 2_000, pond(edges, 10_000, "every tick { who = nearest(m) }", 2_000));
}

#[divan::bench(args = EDGES, sample_count = 10)]
fn nearest_with_a_condition_2_000_among_10_000(bencher: Bencher, edges: &str) {
    let line = "every tick { who = nearest(m where health > 1) }";
    tick(bencher, 2_000, pond(edges, 10_000, line, 2_000));
}

/// Whether there is one of which something holds that reads nothing of the asker.
#[divan::bench(sample_count = 10)]
fn any_with_a_condition_2_000_among_10_000(bencher: Bencher) {
    let line = "every tick { if any(m where health > 1) { n += 1 } }";
    tick(bencher, 2_000, pond("open", 10_000, line, 2_000));
}

#[divan::bench(args = EDGES, sample_count = 10)]
fn counts_within_10_u_2_000_among_10_000(bencher: Bencher, edges: &str) {
    let line = "every tick { n = count(m within 10 u) }";
    tick(bencher, 2_000, pond(edges, 10_000, line, 2_000));
}

/// One that asks: what a candidate costs.
#[divan::bench(sample_count = 10)]
fn a_count_with_a_condition_of_100_000_by_1(bencher: Bencher) {
    let line = "every tick { n = count(m where q > 0) }";
    tick(bencher, 100_000, pond("open", 100_000, line, 1));
}

/// The same for nobody: what is left is the tick itself.
#[divan::bench(sample_count = 10)]
fn a_tick_without_a_question(bencher: Bencher) {
    tick(bencher, 100_000, pond("open", 100_000, "every tick { n += 1 }", 1));
}

#[divan::bench(sample_count = 10)]
fn counts_that_read_nothing_of_2_000_that_ask_10_000(bencher: Bencher) {
    let line = "every tick { n = count(m where q > 0) }";
    tick(bencher, 2_000, pond("open", 10_000, line, 2_000));
}

#[divan::bench(sample_count = 10)]
fn sums_that_read_nothing_of_2_000_that_ask_10_000(bencher: Bencher) {
    tick(bencher, 2_000, pond("open", 10_000, "every tick { n = sum(m.q) }", 2_000));
}

/// Questions that read the asker, on one thread and on two: with much to work out handlers are worth dividing.
#[divan::bench(args = [1, 2], sample_count = 10)]
fn counts_that_read_the_asker_2_000_among_10_000_on_threads(bencher: Bencher, threads: usize) {
    let line = "every tick { let mine = n * 0.5; n = count(m where q > mine) }";
    let (mut engine, state) = pond("open", 10_000, line, 2_000);
    engine.threads = threads;
    tick(bencher, 2_000, (engine, state));
}
