//! What a frame takes at 160 x 48 over a large recorded run: the snapshot on the simulation's thread and the
//! drawing on the screen's, for each view of the drawer; and what a jump in time takes.
//!
//! `cargo bench -p tickpond --bench frames`. At 30 frames a second each of the two has 33 ms.

use divan::Bencher;
use tickpond::frames::Frames;

const POND: &str = "pond \"Crowd\" {
    arena 1000 x 600
    edges wrap
    limit 50_000 entities
}
kind midge {
    look \"∙\" teal
    body circle 0.4 u, sensor
    health 3
    on birth { heading = any angle; speed = 6 u/s }
    every 0.4 s { turn by random(-40 deg .. 40 deg) }
    after 60 s { end self }
}
spawner bed { makes midge anywhere; keep 10_000 alive }
place bed
watch crowd = count(midge)
expect \"a crowd\": always count(midge) <= 10_100
";

const VIEWS: [usize; 8] = [0, 1, 2, 3, 4, 5, 6, 7];

fn main() {
    divan::main();
}

fn frames() -> Frames {
    let frames = Frames::new(POND, 1200, (160, 48));
    assert!(frames.live() > 10_000);
    frames
}

#[divan::bench(args = VIEWS, sample_count = 20)]
fn snapshot(bencher: Bencher<'_, '_>, view: usize) {
    let mut frames = frames();
    frames.show(view);
    bencher.bench_local(|| frames.snapshot());
}

#[divan::bench(args = VIEWS, sample_count = 20)]
fn draw(bencher: Bencher<'_, '_>, view: usize) {
    let mut frames = frames();
    frames.show(view);
    frames.snapshot();
    bencher.bench_local(|| frames.draw());
}

/// So many alive on the arena, or on a part of it.
fn crowd(alive: usize, closer: usize) -> Frames {
    let width = 1000 / closer;
    let pond = POND
        .replace("arena 1000 x 600", &format!("arena {width} x 600"))
        .replace("limit 50_000", "limit 120_000")
        .replace("keep 10_000", &format!("keep {alive}"))
        .replace("10_100", "120_000");
    let mut frames = Frames::new(&pond, 60, (160, 48));
    assert!(frames.live() > alive);
    frames.snapshot();
    frames
}

/// The screen with so many alive, all over the arena and all on a tenth of it.
#[divan::bench(args = [(10_000, 1), (10_000, 10), (100_000, 1), (100_000, 10)], sample_count = 40)]
fn draw_crowd(bencher: Bencher<'_, '_>, (alive, closer): (usize, usize)) {
    let mut frames = crowd(alive, closer);
    bencher.bench_local(|| frames.draw());
}

/// The same arena in pixels, 10 x 20 to a cell.
#[divan::bench(args = [(10_000, 1), (100_000, 1), (100_000, 10)], sample_count = 20)]
fn pixels_of_a_crowd(bencher: Bencher<'_, '_>, (alive, closer): (usize, usize)) {
    let frames = crowd(alive, closer);
    assert!(frames.picture((10, 20)) > 0);
    bencher.bench_local(|| frames.picture((10, 20)));
}

/// Back by a whole keyframe's distance but one tick: the longest way inside the newest minute.
#[divan::bench(sample_count = 20)]
fn jump(bencher: Bencher<'_, '_>) {
    let mut frames = frames();
    let mut late = false;
    bencher.bench_local(|| {
        late = !late;
        frames.seek(if late { 1199 } else { 59 });
    });
}
