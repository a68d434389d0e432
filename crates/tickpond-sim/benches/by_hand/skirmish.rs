//! Midges, drops and specks by hand. Chance is drawn from a counter, not from the luck of entities, so
//! the counts come out alike, not the same.

use tickpond_lang::program::KindId;
use tickpond_sim::{Engine, State, angle, luck};

use super::{Done, Told};

const SIDE: f64 = 1000.0;
const MIDGE: f64 = 0.8;
const DROP: f64 = 0.4;

#[derive(Default)]
struct Flock {
    x: Vec<f64>,
    y: Vec<f64>,
    vx: Vec<f64>,
    vy: Vec<f64>,
    health: Vec<f64>,
    gone: Vec<bool>,
}

impl Flock {
    fn put(&mut self, draw: &mut u64, speed: f64) {
        let mut next = || {
            *draw += 1;
            luck::unit(luck::mix(*draw))
        };
        let (x, y, heading) = (next() * SIDE, next() * SIDE, next() * 360.0);
        let (sin, cos) = angle::sin_cos(heading);
        self.x.push(x);
        self.y.push(y);
        self.vx.push(cos * speed);
        self.vy.push(sin * speed);
        self.health.push(3.0);
        self.gone.push(false);
    }

    fn advance(&mut self) {
        for row in 0..self.x.len() {
            self.x[row] = super::wrapped(self.x[row] + self.vx[row] / 60.0, 0.0, SIDE);
            self.y[row] = super::wrapped(self.y[row] + self.vy[row] / 60.0, 0.0, SIDE);
        }
    }

    fn sweep_out(&mut self) {
        let mut kept = 0;
        for row in 0..self.x.len() {
            if !self.gone[row] {
                self.x[kept] = self.x[row];
                self.y[kept] = self.y[row];
                self.vx[kept] = self.vx[row];
                self.vy[kept] = self.vy[row];
                self.health[kept] = self.health[row];
                kept += 1;
            }
        }
        for column in [&mut self.x, &mut self.y, &mut self.vx, &mut self.vy, &mut self.health] {
            column.truncate(kept);
        }
        self.gone.clear();
        self.gone.resize(kept, false);
    }
}

/// Drifting midges with health 3 and a tenth as many drops; touch, damage, ends, three pieces each,
/// respawn.
pub fn skirmish(engine: &Engine, state: State, ticks: u64) -> Done {
    let size = state.knobs[0] as usize;
    let kind = |name: &str| engine.program().kind_named(name).unwrap_or(KindId(0));
    let mut draw = 1u64;
    let (mut midges, mut drops, mut specks) =
        (Flock::default(), Flock::default(), Flock::default());
    let mut speck_born: Vec<u64> = Vec::new();
    for (flock, name) in [(&mut midges, "midge"), (&mut drops, "drop")] {
        let c = &state.kinds[kind(name).index()];
        flock.x = c.x.to_vec();
        flock.y = c.y.to_vec();
        flock.vx = c.vx.to_vec();
        flock.vy = c.vy.to_vec();
        flock.health = c.health.iter().collect();
        flock.gone.resize(c.x.len(), false);
    }
    let mut done = Done::default();
    // Cells a little wider than the way of a drop and both bodies.
    let cells = 400usize;
    let width = SIDE / cells as f64;
    let mut heads = vec![u32::MAX; cells * cells];
    let mut next: Vec<u32> = Vec::new();
    let (mut ended, mut counts) = (0u64, [0usize; 3]);
    for tick in 1..=ticks {
        while midges.x.len() < size {
            midges.put(&mut draw, 6.0);
        }
        while drops.x.len() < size / 10 {
            drops.put(&mut draw, 40.0);
        }
        midges.advance();
        drops.advance();
        specks.advance();
        heads.fill(u32::MAX);
        next.clear();
        let cell = |place: f64| ((place / width) as usize).min(cells - 1);
        for row in 0..midges.x.len() {
            let at = cell(midges.y[row]) * cells + cell(midges.x[row]);
            next.push(heads[at]);
            heads[at] = row as u32;
        }
        for row in 0..drops.x.len() {
            let (x, y) = (drops.x[row], drops.y[row]);
            let (cx, cy) = (cell(x) + cells, cell(y) + cells);
            let mut first: Option<(f64, usize)> = None;
            for gy in cy - 1..=cy + 1 {
                for gx in cx - 1..=cx + 1 {
                    let mut at = heads[(gy % cells) * cells + gx % cells];
                    while at != u32::MAX {
                        let m = at as usize;
                        let (dx, dy) = (midges.x[m] - x, midges.y[m] - y);
                        let reach = MIDGE + DROP;
                        // How far along its way the drop came nearest.
                        let (wx, wy) = (drops.vx[row] / 60.0, drops.vy[row] / 60.0);
                        let along = (-(dx * wx + dy * wy) / (wx * wx + wy * wy)).clamp(0.0, 1.0);
                        let (nx, ny) = (dx + wx * along, dy + wy * along);
                        if nx * nx + ny * ny <= reach * reach
                            && first.is_none_or(|f| (-along, m) < f)
                        {
                            first = Some((-along, m));
                        }
                        at = next[m];
                    }
                }
            }
            if let Some((_, m)) = first {
                midges.health[m] -= 1.0;
                drops.gone[row] = true;
            }
        }
        for row in 0..midges.x.len() {
            if midges.health[row] <= 0.0 {
                midges.gone[row] = true;
                ended += 1;
                for piece in 0..3 {
                    let (sin, cos) = angle::sin_cos(f64::from(piece) * 120.0);
                    specks.x.push(midges.x[row]);
                    specks.y.push(midges.y[row]);
                    specks.vx.push(cos * 5.0);
                    specks.vy.push(sin * 5.0);
                    specks.health.push(0.0);
                    specks.gone.push(false);
                    speck_born.push(tick);
                }
            }
        }
        for (gone, born) in specks.gone.iter_mut().zip(&speck_born) {
            *gone = tick - born >= 36;
        }
        midges.sweep_out();
        drops.sweep_out();
        specks.sweep_out();
        speck_born.retain(|born| tick - born < 36);
        counts = [midges.x.len(), drops.x.len(), specks.x.len()];
        done.entity_ticks += counts.iter().sum::<usize>() as u64;
    }
    std::hint::black_box(ended);
    done.tell(Told::About("midge"), counts[0] as f64);
    done.tell(Told::About("drop"), counts[1] as f64);
    done
}
