//! How long a tick of a demo-like pond takes, by the number of entities that live.
//!
//! Real time at 60 ticks per second is 16.7 ms a tick.

use divan::{Bencher, counter::ItemsCount};
use tickpond_sim::{Engine, State};

fn main() {
    divan::main();
}

/// Midges that drift and turn, drops that fly among them, hurt and end, with respawn.
fn pond(entities: usize) -> (Engine, State) {
    let side = (entities as f64).sqrt() * 8.0;
    let (midges, drops) = (entities * 9 / 10, entities / 10);
    let text = format!(
        "pond \"bench\" {{ arena {side} x {side}; edges wrap; limit 4_000_000 entities }}
         kind midge {{ tag insect; body circle 0.5 u, sensor; health 3
             on birth {{ heading = any angle; speed = 6 u/s }}
             every 0.4 s {{ turn by random(-30 deg .. 30 deg) }} }}
         kind drop {{ body circle 0.2 u, sensor; vars {{ bite = 1 }}
             on birth {{ heading = any angle; speed = 40 u/s }}
             on first touch insect as t {{ damage t by bite credit maker; end self because \"spent\" }}
             after 1.5 s {{ end self }} }}
         spawner midges {{ makes midge anywhere; every 1 ticks; {midges} at a time; keep at most {midges} alive }}
         spawner drops {{ makes drop anywhere; every 1 ticks; {drops} at a time; keep at most {drops} alive }}
         place midges; place drops"
    );
    let compiled = tickpond_lang::compile(&text);
    let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
    let mut engine = Engine::new(program);
    let mut state = engine.open(1, &mut Vec::new());
    for _ in 0..120 {
        engine.step(&mut state, &[], &mut Vec::new());
    }
    assert!(state.live() >= entities * 9 / 10);
    (engine, state)
}

#[divan::bench(args = [1_000, 10_000, 100_000], sample_count = 20)]
fn tick(bencher: Bencher, entities: usize) {
    let (mut engine, mut state) = pond(entities);
    let mut events = Vec::new();
    bencher.counter(ItemsCount::new(entities)).bench_local(|| {
        events.clear();
        engine.step(&mut state, &[], &mut events);
    });
}

#[divan::bench(args = [1_000, 10_000, 100_000], sample_count = 20)]
fn keyframe(bencher: Bencher, entities: usize) {
    let (_, state) = pond(entities);
    // As in a run: into the memory of one that was given up.
    let mut kept = state.clone();
    bencher.counter(ItemsCount::new(entities)).bench_local(|| kept.clone_from(&state));
}

#[divan::bench(args = [1_000, 10_000, 100_000], sample_count = 20)]
fn digest(bencher: Bencher, entities: usize) {
    let (_, state) = pond(entities);
    bencher.counter(ItemsCount::new(entities)).bench_local(|| state.digest());
}
