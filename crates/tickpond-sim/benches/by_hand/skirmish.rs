//! Midges, drops and specks by hand, with the same chance.

use tickpond_lang::program::{Cause, Event, KindId};
use tickpond_sim::state::PlaceRequest;
use tickpond_sim::{Engine, State, angle, luck};

use super::{Done, Told};

const MIDGE: f64 = 0.8;
const DROP: f64 = 0.4;

#[derive(Default)]
struct Flock {
    x: Vec<f64>,
    y: Vec<f64>,
    vx: Vec<f64>,
    vy: Vec<f64>,
    heading: Vec<f64>,
    health: Vec<f64>,
    gone: Vec<bool>,
}

/// Where the members of a kind come from: all that their chance is drawn from.
struct Nest {
    /// Luck of the spawner.
    luck: u64,
    /// Hash of the spawner's rule, of the kind's name, and of what is done on birth.
    hashes: (u64, u64, u64),
    seed: u64,
    speed: f64,
}

impl Nest {
    fn of(engine: &Engine, state: &State, spawner: KindId, kind: KindId, speed: f64) -> Nest {
        let compiled = &engine.compiled;
        let rule = compiled.kinds[spawner.index()].spawner.as_ref().map_or(0, |s| s.make.hash);
        let made = &compiled.kinds[kind.index()];
        let on_birth = made.handlers.iter().find(|h| h.event == Event::Birth).map_or(0, |h| h.hash);
        Nest {
            luck: state.kinds[spawner.index()].luck[0],
            hashes: (rule, made.name_hash, on_birth),
            seed: state.seed,
            speed,
        }
    }

    /// As many as are missing are born anywhere, and go somewhere.
    fn fill(&self, flock: &mut Flock, size: usize, tick: u64, side: f64) {
        let (rule, name, on_birth) = self.hashes;
        let request = luck::fold(luck::hash(&[self.luck, rule, tick]), name);
        let base = luck::draw_base(self.seed, tick, on_birth);
        for nth in 0..size.saturating_sub(flock.x.len()) as u64 {
            let own = luck::fold(request, nth);
            let place = |axis: u64| luck::unit(luck::hash(&[own, axis])) * side;
            let heading = luck::between(luck::draw(base, own, 0, 0), 0.0, 360.0);
            flock.put((place(0), place(1)), heading, self.speed);
        }
    }
}

impl Flock {
    fn put(&mut self, (x, y): (f64, f64), heading: f64, speed: f64) {
        let (sin, cos) = angle::sin_cos(heading);
        self.x.push(x);
        self.y.push(y);
        self.vx.push(cos * speed);
        self.vy.push(sin * speed);
        self.heading.push(heading);
        self.health.push(3.0);
        self.gone.push(false);
    }

    fn advance(&mut self, arch: pulp::Arch, side: f64) {
        let rows = self.x.iter_mut().zip(&mut self.y).zip(self.vx.iter().zip(&self.vy));
        arch.dispatch(
            #[inline(always)]
            || {
                for ((x, y), (vx, vy)) in rows {
                    *x = super::once_around(*x + vx * (1.0 / 60.0), side);
                    *y = super::once_around(*y + vy * (1.0 / 60.0), side);
                }
            },
        );
    }

    fn sweep_out(&mut self) {
        let Some(mut kept) = self.gone.iter().position(|gone| *gone) else { return };
        let first = kept;
        for row in first..self.x.len() {
            if !self.gone[row] {
                self.x[kept] = self.x[row];
                self.y[kept] = self.y[row];
                self.vx[kept] = self.vx[row];
                self.vy[kept] = self.vy[row];
                self.heading[kept] = self.heading[row];
                self.health[kept] = self.health[row];
                kept += 1;
            }
        }
        let ways = [&mut self.x, &mut self.y, &mut self.vx, &mut self.vy, &mut self.heading];
        for column in ways.into_iter().chain([&mut self.health]) {
            column.truncate(kept);
        }
        self.gone.clear();
        self.gone.resize(kept, false);
    }
}

/// Which drops a midge may meet, by cells: each drop lies in all from which a midge can reach it.
struct Cells {
    across: i32,
    /// Cells in a u.
    per_unit: f64,
    heads: Vec<u32>,
    entries: Vec<(u32, u32)>,
}

impl Cells {
    fn new(side: f64) -> Cells {
        let across = (side / 3.2) as i32;
        let heads = vec![u32::MAX; (across * across) as usize];
        Cells { across, per_unit: f64::from(across) / side, heads, entries: Vec::new() }
    }

    /// The newest entry where a midge is.
    #[inline(always)]
    fn head(&self, x: f64, y: f64) -> u32 {
        let cell = |place: f64| ((place * self.per_unit) as i32).min(self.across - 1);
        self.heads[(cell(y) * self.across + cell(x)) as usize]
    }

    /// Enters the drops that have just moved, with room for a midge and its own step.
    fn enter(&mut self, drops: &Flock) {
        self.heads.fill(u32::MAX);
        self.entries.clear();
        let room = MIDGE + DROP + 0.2;
        let (across, per_unit) = (self.across, self.per_unit);
        // A whole arena is added, so that cutting off is rounding down.
        let cell = |place: f64| (place * per_unit + f64::from(across)) as i32 - across;
        let span = |end: f64, speed: f64| {
            let start = end - speed * (1.0 / 60.0);
            cell(start.min(end) - room)..=cell(start.max(end) + room)
        };
        let around = |cell: i32| {
            if cell < 0 {
                cell + across
            } else if cell >= across {
                cell - across
            } else {
                cell
            }
        };
        for row in 0..drops.x.len() {
            let columns = span(drops.x[row], drops.vx[row]);
            for cy in span(drops.y[row], drops.vy[row]) {
                let first = around(cy) * across;
                for cx in columns.clone() {
                    let head = &mut self.heads[(first + around(cx)) as usize];
                    self.entries.push((row as u32, *head));
                    *head = self.entries.len() as u32 - 1;
                }
            }
        }
    }
}

/// The short way from one place to another.
fn short(way: f64, side: f64) -> f64 {
    if way > side / 2.0 {
        way - side
    } else if way < -side / 2.0 {
        way + side
    } else {
        way
    }
}

/// Drifting midges with health 3 and a tenth as many drops; touch, damage, ends, three pieces each,
/// respawn.
pub fn skirmish(engine: &Engine, state: State, ticks: u64) -> Done {
    let size = state.knobs[0] as usize;
    let kind = |name: &str| engine.program().kind_named(name).unwrap_or(KindId(0));
    let swarm = Nest::of(engine, &state, kind("swarm"), kind("midge"), 6.0);
    let rain = Nest::of(engine, &state, kind("rain"), kind("drop"), 40.0);
    let (mut midges, mut drops, mut specks) =
        (Flock::default(), Flock::default(), Flock::default());
    let mut speck_born: Vec<u64> = Vec::new();
    for (flock, name) in [(&mut midges, "midge"), (&mut drops, "drop")] {
        let c = &state.kinds[kind(name).index()];
        flock.x = c.x.to_vec();
        flock.y = c.y.to_vec();
        flock.vx = c.vx.to_vec();
        flock.vy = c.vy.to_vec();
        flock.heading = c.heading.to_vec();
        flock.health = c.health.iter().collect();
        flock.gone.resize(c.x.len(), false);
    }
    let mut done = Done::default();
    let arch = pulp::Arch::new();
    let side = engine.program().arena.size().0;
    let mut cells = Cells::new(side);
    // For each drop, when it first met a midge, and which.
    let mut first: Vec<(f64, u32)> = Vec::new();
    // Where midges ended in the last tick, and which way they faced: pieces are born in the next.
    let asked = state.births.iter().filter_map(|birth| match birth.place {
        PlaceRequest::Point(x, y) => Some(((x, y), birth.maker_heading.unwrap_or(0.0))),
        _ => None,
    });
    let mut broken: Vec<((f64, f64), f64)> = asked.collect();
    let mut ended = state.totals[kind("midge").index()].ended[Cause::Damage as usize];
    for tick in state.tick + 1..=state.tick + ticks {
        swarm.fill(&mut midges, size, tick, side);
        rain.fill(&mut drops, size / 10, tick, side);
        for (place, heading) in broken.drain(..) {
            for piece in 0..3 {
                let heading = (heading + f64::from(piece) * 120.0) % 360.0;
                specks.put(place, heading, 5.0);
                speck_born.push(tick);
            }
        }
        midges.advance(arch, side);
        drops.advance(arch, side);
        specks.advance(arch, side);
        cells.enter(&drops);
        first.clear();
        first.resize(drops.x.len(), (2.0, u32::MAX));
        for m in 0..midges.x.len() {
            let mut at = cells.head(midges.x[m], midges.y[m]);
            while at != u32::MAX {
                let (drop, before) = cells.entries[at as usize];
                at = before;
                let d = drop as usize;
                // The way of the drop as the midge sees it.
                let (ex, ey) =
                    (short(drops.x[d] - midges.x[m], side), short(drops.y[d] - midges.y[m], side));
                let step = 1.0 / 60.0;
                let (wx, wy) =
                    ((drops.vx[d] - midges.vx[m]) * step, (drops.vy[d] - midges.vy[m]) * step);
                let (sx, sy) = (ex - wx, ey - wy);
                let c = sx * sx + sy * sy - (MIDGE + DROP) * (MIDGE + DROP);
                let (a, b) = (wx * wx + wy * wy, sx * wx + sy * wy);
                let root = b * b - a * c;
                let time = match c <= 0.0 {
                    true => 0.0,
                    false if b >= 0.0 || root < 0.0 => continue,
                    false => (-b - root.sqrt()) / a,
                };
                if time <= 1.0 && (time, m as u32) < first[d] {
                    first[d] = (time, m as u32);
                }
            }
        }
        for (d, (_, m)) in first.iter().enumerate().filter(|(_, (_, m))| *m != u32::MAX) {
            midges.health[*m as usize] -= 1.0;
            drops.gone[d] = true;
        }
        for row in 0..midges.x.len() {
            if midges.health[row] <= 0.0 {
                midges.gone[row] = true;
                ended += 1;
                broken.push(((midges.x[row], midges.y[row]), midges.heading[row]));
            }
        }
        // They are in the order of their births: those that are spent come first.
        let spent = speck_born.partition_point(|born| tick - born >= 36);
        specks.gone[..spent].fill(true);
        midges.sweep_out();
        drops.sweep_out();
        specks.sweep_out();
        speck_born.drain(..spent);
        done.entity_ticks += (midges.x.len() + drops.x.len() + specks.x.len()) as u64;
    }
    done.tell(Told::Ended("midge", Cause::Damage), ended as f64);
    done.tell(Told::SumX("midge"), midges.x.iter().sum());
    done.tell(Told::SumX("drop"), drops.x.iter().sum());
    done.tell(Told::SumX("speck"), specks.x.iter().sum());
    done
}
