//! What a jump takes anywhere in an hour of play with 10,000 living: median and longest of many, and
//! the memory the keyframes use for it.
//!
//! `cargo bench -p tickpond-lab --bench hour`, some minutes. After `--`: how many minutes are played (60),
//! and how many MiB the keyframes may take (the usual budget).

use std::sync::Arc;
use std::time::{Duration, Instant};

use tickpond_lab::{Run, RunOptions};

/// Ten thousand that drift.
const CROWD: &str = "pond \"Crowd\" {
    arena 1000 x 600
    edges wrap
    limit 50_000 entities
}
kind midge {
    body circle 0.4 u, sensor
    health 3
    on birth { heading = any angle; speed = 6 u/s }
    every 0.4 s { turn by random(-40 deg .. 40 deg) }
    after 60 s { end self }
}
spawner bed { makes midge anywhere; keep 10_000 alive }
place bed
watch crowd = count(midge)
";

/// Nine thousand that drift, a thousand that fly among them, touch, hurt and end.
const HUNT: &str = "pond \"Hunt\" {
    arena 800 x 800
    edges wrap
    limit 50_000 entities
}
kind midge {
    tag insect
    body circle 0.5 u, sensor
    health 3
    on birth { heading = any angle; speed = 6 u/s }
    every 0.4 s { turn by random(-30 deg .. 30 deg) }
}
kind drop {
    body circle 0.2 u, sensor
    on birth { heading = any angle; speed = 40 u/s }
    on first touch insect as t { damage t by 1 credit maker; end self because \"spent\" }
    after 1.5 s { end self }
}
spawner bed { makes midge anywhere; keep 9_000 alive }
spawner cloud { makes drop anywhere; keep 1_000 alive }
place bed
place cloud
";

/// How many places are jumped to.
const JUMPS: u64 = 60;

fn main() {
    for (name, pond) in [("crowd", CROWD), ("hunt", HUNT)] {
        println!("{name}");
        measure(pond);
    }
}

fn measure(pond: &str) {
    let numbers: Vec<u64> = std::env::args().filter_map(|word| word.parse().ok()).collect();
    let minutes = numbers.first().copied().unwrap_or(60);
    let program = tickpond_lang::compile(pond).program.expect("the pond compiles");
    let mut run = Run::new(Arc::clone(&program), RunOptions::default()).expect("no options");
    if let Some(mib) = numbers.get(1) {
        run.set_memory(*mib as usize * (1 << 20));
    }
    let last = minutes * 3600;
    let began = Instant::now();
    run.play_to(last);
    let played = began.elapsed();
    let (count, bytes) = run.memory();
    println!(
        "  {minutes} min, {} living: {:.2} ms a tick; {count} keyframes in {} MiB",
        run.state().live(),
        played.as_secs_f64() * 1000.0 / last as f64,
        bytes >> 20
    );
    let mut times: Vec<Duration> = (0..JUMPS)
        .map(|nth| {
            // Spread over the run without a pattern that could fit the keyframes'.
            let tick = (nth * 7_919 * last / 10_007) % last;
            let began = Instant::now();
            run.seek(tick);
            began.elapsed()
        })
        .collect();
    times.sort();
    println!(
        "  jump: median {:.1?}, longest {:.1?}",
        times[times.len() / 2],
        times[times.len() - 1]
    );
}
