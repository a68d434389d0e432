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

/// Those whose health comes to nothing end by their own `on down`.
#[divan::bench(args = [2_000, 8_000, 32_000], sample_count = 5)]
fn down_and_end(bencher: Bencher, count: usize) {
    let items = format!(
        "kind a {{ health 1; on down {{ end self }}; after 1 s {{ damage self by 1 }} }}\n\
         after 1 ticks {{ spawn {count} a anywhere }}"
    );
    tick(bencher, count, before(&items, 60));
}

/// Each of a crowd counts those it touches.
#[divan::bench(args = [500, 2_000, 8_000], sample_count = 5)]
fn count_touching(bencher: Bencher, count: usize) {
    let items = format!(
        "kind a {{ body circle 1 u, sensor; vars {{ n = 0 }}; every tick {{ n = count(a touching) }} }}\n\
         watch w = sum(a.n)\nafter 1 ticks {{ spawn {count} a anywhere }}"
    );
    tick(bencher, count, before(&items, 10));
}

/// Births that keep away from each other.
#[divan::bench(args = [500, 2_000, 8_000], sample_count = 5)]
fn born_apart(bencher: Bencher, count: usize) {
    let items = format!(
        "kind a {{ body circle 0.5 u, sensor }}\nafter 1 ticks {{ spawn {count} a anywhere, not within 1 u of a }}"
    );
    tick(bencher, count, before(&items, 0));
}

/// Births clear of what is solid.
#[divan::bench(args = [500, 2_000, 8_000], sample_count = 5)]
fn born_clear(bencher: Bencher, count: usize) {
    let items = format!(
        "kind a {{ body circle 0.5 u, solid }}\nafter 1 ticks {{ spawn {count} a anywhere, clear of solid }}"
    );
    tick(bencher, count, before(&items, 0));
}

/// Each of a crowd waits for one it has spawned.
#[divan::bench(args = [2_000, 8_000, 32_000], sample_count = 5)]
fn spawn_and_go_on(bencher: Bencher, count: usize) {
    let items = format!(
        "kind b {{ }}\nkind a {{ vars {{ mine: b }}; after 10 ticks {{ spawn b at here as e; mine = e }} }}\n\
         watch w = count(a where mine is alive)\nafter 1 ticks {{ spawn {count} a anywhere }}"
    );
    tick(bencher, count, before(&items, 11));
}

/// Letters of many to one.
#[divan::bench(args = [2_000, 8_000, 32_000], sample_count = 5)]
fn letters_to_one(bencher: Bencher, count: usize) {
    let items = format!(
        "message hi(n: number)\nkind k {{ vars {{ got = 0 }}; on hi(n) {{ got += n }} }}\nplace k at (9, 9)\nwatch w = sum(k.got)\n\
         kind a {{ every tick {{ send hi(2) to k#1 }} }}\nafter 1 ticks {{ spawn {count} a anywhere }}"
    );
    tick(bencher, count, before(&items, 10));
}

/// Bodies that lie over each other and do not move.
#[divan::bench(args = [2_000, 8_000, 32_000], sample_count = 5)]
fn standing_overlaps(bencher: Bencher, count: usize) {
    let items = format!(
        "kind a {{ body box 4 u x 4 u, sensor; vars {{ n = 0 }}; on touch b {{ n += 1 }} }}\nkind b {{ body box 4 u x 4 u, sensor }}\n\
         watch w = sum(a.n)\nafter 1 ticks {{ spawn {count} a anywhere, facing 30 deg; spawn {count} b anywhere, facing 50 deg }}"
    );
    tick(bencher, count, before(&items, 10));
}

/// Many kinds, each with a touch of its own, and few of each.
#[divan::bench(args = [50, 200, 800], sample_count = 5)]
fn kinds_with_touch(bencher: Bencher, count: usize) {
    let kinds: String = (0..count)
        .map(|n| {
            format!(
                "kind k{n} {{ tag thing; body circle 1 u, sensor; vars {{ n = 0 }}; on touch k{} {{ n += 1 }} }}\nplace k{n} at ({}, {})\n",
                (n + 1) % count,
                n % 20 * 19 + 5,
                n / 20 * 9 + 5
            )
        })
        .collect();
    tick(bencher, count, before(&format!("{kinds}watch w = sum(thing.n)"), 10));
}

/// A chain of things that hang on each other.
#[divan::bench(args = [900, 3_600, 14_400], sample_count = 10)]
fn chains(bencher: Bencher, count: usize) {
    let items = format!(
        "kind a {{ vars {{ n = 0 }}; mount m at (1 u, 0 u)\n\
         after 2 ticks {{ each a where n == self.n + 1 as b {{ attach self to b at m outlives owner }} }} }}\n\
         after 1 ticks {{ repeat {count} times as i {{ spawn a at (50, 50) {{ n = i }} }} }}"
    );
    tick(bencher, count, before(&items, 10));
}

/// Movers that wait for zones, most of which are elsewhere; counted by movers and zones.
#[divan::bench(args = [15, 60, 240], sample_count = 10)]
fn zones(bencher: Bencher, count: usize) {
    let zones: String = (0..count)
        .map(|n| format!("zone z{n} = box ({}, {}) size 8 x 8\n", n % 20 * 20, n / 20 * 30))
        .collect();
    let handlers: String = (0..count).map(|n| format!("on enter z{n} {{ n += 1 }}\n")).collect();
    let items = format!(
        "{zones}kind a {{ vars {{ n = 0 }}\non birth {{ heading = any angle; speed = 20 u/s }}\n{handlers}}}\n\
         watch w = sum(a.n)\nafter 1 ticks {{ spawn 1_000 a anywhere }}"
    );
    tick(bencher, count * 1_000, before(&items, 10));
}
