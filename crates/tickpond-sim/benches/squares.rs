//! Ticks in which many do at once what is easily done in a time that grows with the square of their number. Each
//! is to grow with the number itself: four times as many, about four times as long.

use divan::{Bencher, counter::ItemsCount};
use tickpond_sim::{Engine, State};

fn main() {
    divan::main();
}

/// A pond played up to the tick in which it happens.
fn before(items: &str, ticks: u64) -> (Engine, State) {
    let text = format!(
        "pond \"bench\" {{ arena 400 x 400; edges open, margin 4 u; limit 500_000 entities, 1_000_000 births per tick }}\n{items}"
    );
    let compiled = tickpond_lang::compile(&text);
    let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
    let mut engine = Engine::new(program);
    let mut state = engine.open(1, &mut Vec::new());
    for _ in 0..ticks {
        engine.step(&mut state, &[], &mut Vec::new());
    }
    assert_eq!(state.stopped, None);
    (engine, state)
}

/// One tick, again and again from the same state.
fn tick(bencher: Bencher, count: usize, (mut engine, state): (Engine, State)) {
    bencher
        .counter(ItemsCount::new(count))
        .with_inputs(|| (state.clone(), Vec::new()))
        .bench_local_values(|(mut state, mut events)| {
            engine.step(&mut state, &[], &mut events);
            (state, events)
        });
}

/// Owners with one attached each end in one tick.
#[divan::bench(args = [2_000, 8_000, 32_000], sample_count = 10)]
fn owners_end(bencher: Bencher, count: usize) {
    let items = format!(
        "kind a {{ mount m at (2 u, 0 u); on birth {{ spawn b at m, attached }}; after 1 s {{ end self }} }}\n\
         kind b {{ }}\nafter 1 ticks {{ spawn {count} a anywhere }}"
    );
    tick(bencher, count, before(&items, 60));
}

/// Those that wait are put to rest in one tick.
#[divan::bench(args = [2_000, 8_000, 32_000], sample_count = 10)]
fn waiting_fall_asleep(bencher: Bencher, count: usize) {
    let items = format!(
        "kind a {{ after 1 ticks {{ wait 60 s; end self }} }}\nafter 1 ticks {{ spawn {count} a anywhere }}\n\
         kind k {{ after 1 s {{ deactivate each a }} }}\nplace k at (1, 1)"
    );
    tick(bencher, count, before(&items, 59));
}

/// Bodies that fly further in a tick than the arena is wide.
#[divan::bench(args = [2_000, 8_000, 32_000], sample_count = 10)]
fn fly_far(bencher: Bencher, count: usize) {
    let items = format!(
        "kind a {{ body circle 1 u, sensor; on birth {{ heading = any angle; speed = 100_000 u/s }} }}\n\
         kind k {{ body circle 1 u, sensor; on touch a {{ }} }}\nplace k at (1, 1)\n\
         after 1 ticks {{ spawn {count} a anywhere }}"
    );
    tick(bencher, count, before(&items, 10));
}
