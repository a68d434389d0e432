//! The same work by hand: columns, one thread, the same results.

mod skirmish;

pub use skirmish::skirmish;

use tickpond_lang::program::{Cause, KindId};
use tickpond_sim::state::Columns;
use tickpond_sim::{Engine, State, angle, luck};

/// What a hand-written loop did.
#[derive(Default)]
pub struct Done {
    /// Entities lived, summed over the ticks.
    pub entity_ticks: u64,
    /// Messages sent.
    pub messages: u64,
    /// What must come out of the script, too: what it is, and its value.
    results: Vec<(Told, f64)>,
}

/// A result that both must have.
pub enum Told {
    /// The sum of x of a kind.
    SumX(&'static str),
    /// The sum of the first variable of a kind.
    SumVar(&'static str),
    /// How many of a kind ended by a cause.
    Ended(&'static str, Cause),
    /// How many of a kind are in a state.
    InState(&'static str, u64),
}

impl Done {
    fn tell(&mut self, what: Told, value: f64) {
        self.results.push((what, value));
    }

    /// Compares with what the script came to.
    pub fn check(&self, engine: &Engine, state: &State) {
        let kind = |name: &str| engine.program().kind_named(name).unwrap_or(KindId(0));
        for (told, value) in &self.results {
            let (name, scripted) = match told {
                Told::SumX(name) => (name, columns(state, kind(name)).x.iter().sum::<f64>()),
                Told::SumVar(name) => {
                    let words = &columns(state, kind(name)).vars[0];
                    (name, words.iter().map(|w| f64::from_bits(*w)).sum())
                }
                Told::Ended(name, cause) => {
                    (name, state.totals[kind(name).index()].ended[*cause as usize] as f64)
                }
                Told::InState(name, at) => (name, state.in_state(kind(name), 0, *at) as f64),
            };
            let near = (scripted - value).abs() <= value.abs() * 1e-9;
            assert!(near, "{name}: {scripted} by script, {value} by hand");
        }
    }
}

fn columns(state: &State, kind: KindId) -> &Columns {
    &state.kinds[kind.index()]
}

/// The hash a kind's handler draws by.
fn handler_hash(engine: &Engine, kind: KindId, head: &str) -> u64 {
    let heads = &engine.program().kinds[kind.index()].handlers;
    let site = heads.iter().find(|h| h.head == head).map(|h| h.site);
    let code = engine.compiled.kinds[kind.index()].handlers.iter();
    code.into_iter().find(|h| Some(h.site) == site).map_or(0, |h| h.hash)
}

/// Sine and cosine of an angle of at most 45 degrees: the polynomials of [`angle::sin_cos`], of which
/// nothing else is needed here.
#[inline(always)]
fn small_sin_cos(degrees: f64) -> (f64, f64) {
    let x = degrees * (std::f64::consts::PI / 180.0);
    let z = x * x;
    let sin_tail = 8.333_333_333_322_49e-3
        + z * (-1.984_126_982_985_795e-4
            + z * (2.755_731_370_707_007e-6
                + z * (-2.505_076_025_340_686_4e-8 + z * 1.589_690_995_211_55e-10)));
    let cos_tail = z
        * (4.166_666_666_666_66e-2
            + z * (-1.388_888_888_887_411e-3
                + z * (2.480_158_728_947_673e-5
                    + z * (-2.755_731_435_139_066_3e-7
                        + z * (2.087_572_321_298_175e-9 - z * 1.135_964_755_778_819_5e-11)))));
    (x + x * z * (-1.666_666_666_666_663_2e-1 + z * sin_tail), 1.0 - (0.5 * z - z * cos_tail))
}

/// A place that went at most once around.
#[inline(always)]
fn once_around(value: f64, length: f64) -> f64 {
    let value = if value < 0.0 { value + length } else { value };
    if value >= length { value - length } else { value }
}

/// Movers with a heading that jitters on each tick.
pub fn drift(engine: &Engine, state: State, ticks: u64) -> Done {
    let kind = engine.program().kind_named("mover").unwrap_or(KindId(0));
    let hash = handler_hash(engine, kind, "every tick");
    let c = columns(&state, kind);
    let (mut x, mut y, mut vx, mut vy, mut heading) =
        (c.x.to_vec(), c.y.to_vec(), c.vx.to_vec(), c.vy.to_vec(), c.heading.to_vec());
    let luck = c.luck.to_vec();
    let mut done = Done::default();
    let step = 1.0 / 60.0;
    let mut live = 0u64;
    let arch = pulp::Arch::new();
    for tick in state.tick + 1..=state.tick + ticks {
        let base = luck::draw_base(state.seed, tick, hash);
        let places = x.iter_mut().zip(&mut y);
        let ways = vx.iter_mut().zip(&mut vy).zip(&mut heading);
        let rows = places.zip(ways).zip(&luck);
        // For the processor at hand, as the tick's own loops are.
        arch.dispatch(
            #[inline(always)]
            || {
                for (((x, y), ((vx, vy), heading)), luck) in rows {
                    let by = luck::between(luck::draw(base, *luck, 0, 0), -6.0, 6.0);
                    let (sin, cos) = small_sin_cos(by);
                    (*vx, *vy) = (*vx * cos - *vy * sin, *vx * sin + *vy * cos);
                    *heading = once_around(*heading + by, 360.0);
                    *x = once_around(*x + *vx * step, 1000.0);
                    *y = once_around(*y + *vy * step, 1000.0);
                }
            },
        );
        live = x.len() as u64;
        done.entity_ticks += live;
    }
    std::hint::black_box((&heading, live));
    done.tell(Told::SumX("mover"), x.iter().sum());
    done
}

/// Projectiles born on each tick; each ends past the edge or after 120 ticks. Their order is nobody's
/// business here: the last takes the place of one that goes.
pub fn churn(engine: &Engine, state: State, ticks: u64) -> Done {
    let rate = state.knobs[0] as u64;
    let kind = engine.program().kind_named("drop").unwrap_or(KindId(0));
    let c = columns(&state, kind);
    let (mut x, mut y, mut vx, mut vy, mut born) =
        (c.x.to_vec(), c.y.to_vec(), c.vx.to_vec(), c.vy.to_vec(), c.born.to_vec());
    let fan: Vec<(f64, f64)> =
        (0..rate).map(|nth| angle::sin_cos(360.0 * nth as f64 / rate as f64)).collect();
    let mut done = Done::default();
    let (mut by_edge, mut by_timer) = (0u64, 0u64);
    let step = 1.0 / 60.0;
    let arch = pulp::Arch::new();
    let mut gone: Vec<usize> = Vec::new();
    for tick in state.tick + 1..=state.tick + ticks {
        for (sin, cos) in &fan {
            x.push(100.0);
            y.push(100.0);
            vx.push(cos * 60.0);
            vy.push(sin * 60.0);
            born.push(tick);
        }
        let rows = x.iter_mut().zip(&mut y).zip(vx.iter().zip(&vy));
        arch.dispatch(
            #[inline(always)]
            || {
                for ((x, y), (vx, vy)) in rows {
                    *x += vx * step;
                    *y += vy * step;
                }
            },
        );
        for (row, ((x, y), born)) in x.iter().zip(&y).zip(&born).enumerate() {
            let inside = (*x >= 0.0) & (*x <= 200.0) & (*y >= 0.0) & (*y <= 200.0);
            if !(inside & (tick - born < 120)) {
                gone.push(row);
            }
        }
        for row in gone.drain(..).rev() {
            let spent = tick - born.swap_remove(row) >= 120;
            by_timer += u64::from(spent);
            by_edge += u64::from(!spent);
            for column in [&mut x, &mut y, &mut vx, &mut vy] {
                column.swap_remove(row);
            }
        }
        done.entity_ticks += x.len() as u64;
    }
    done.tell(Told::Ended("drop", Cause::Edge), by_edge as f64);
    done.tell(Told::Ended("drop", Cause::Timer), by_timer as f64);
    done.tell(Told::SumX("drop"), x.iter().sum());
    done
}

/// Each messages another by chance on each tick; each tenth message puts the receiver to sleep.
pub fn chatter(engine: &Engine, state: State, ticks: u64) -> Done {
    let kind = engine.program().kind_named("frog").unwrap_or(KindId(0));
    let hash = handler_hash(engine, kind, "every tick");
    let c = columns(&state, kind);
    let count = c.x.len();
    let mut heard: Vec<f64> = c.vars[0].iter().map(|w| f64::from_bits(*w)).collect();
    let until = c.tracks[0].until.iter();
    let mut asleep_until: Vec<u64> = until.map(|until| until.to_word()).collect();
    let mut counts = [count as u64, 0u64];
    let mut mail = vec![0u32; count];
    let luck = c.luck.to_vec();
    let arch = pulp::Arch::new();
    let mut done = Done::default();
    for tick in state.tick + 1..=state.tick + ticks {
        // For the processor at hand, as the tick's own loops are.
        counts = arch.dispatch(
            #[inline(always)]
            || {
                let mut woken = 0u64;
                for until in &mut asleep_until {
                    let wakes = *until <= tick;
                    *until = if wakes { u64::MAX } else { *until };
                    woken += u64::from(wakes);
                }
                [counts[0] + woken, counts[1] - woken]
            },
        );
        let base = luck::draw_base(state.seed, tick, hash);
        let last = (count - 2) as u32;
        arch.dispatch(
            #[inline(always)]
            || {
                for ((row, to), luck) in (0u32..).zip(&mut mail).zip(&luck) {
                    let draw = luck::draw(base, *luck, 0, 0);
                    let at = ((luck::unit(draw) * (count - 1) as f64) as u32).min(last);
                    // The asker is left out.
                    *to = at + u32::from(at >= row);
                }
            },
        );
        for to in &mail {
            let to = *to as usize;
            heard[to] += 1.0;
            if heard[to] >= 10.0 {
                heard[to] = 0.0;
                if asleep_until[to] == u64::MAX {
                    counts[0] -= 1;
                    counts[1] += 1;
                }
                asleep_until[to] = tick + 30;
            }
        }
        done.messages += mail.len() as u64;
        done.entity_ticks += count as u64;
    }
    done.tell(Told::SumVar("frog"), heard.iter().sum());
    done.tell(Told::InState("frog", 1), counts[1] as f64);
    done
}

/// About twenty operations, three branches, two draws and a timer.
pub fn logic(engine: &Engine, state: State, ticks: u64) -> Done {
    let kind = engine.program().kind_named("cell").unwrap_or(KindId(0));
    let hash = handler_hash(engine, kind, "every tick");
    let c = columns(&state, kind);
    let column =
        |at: usize| -> Vec<f64> { c.vars[at].iter().map(|w| f64::from_bits(*w)).collect() };
    let (mut energy, mut hunger, mut mood, mut meals) =
        (column(0), column(1), column(2), column(3));
    let mut due: Vec<u64> = c.born.iter().map(|born| born + 10).collect();
    let luck = c.luck.to_vec();
    let arch = pulp::Arch::new();
    let mut done = Done::default();
    for tick in state.tick + 1..=state.tick + ticks {
        let base = luck::draw_base(state.seed, tick, hash);
        let cells = energy.iter_mut().zip(&mut hunger).zip(&mut mood);
        let clocks = meals.iter_mut().zip(&mut due).zip(&luck);
        let rows = cells.zip(clocks);
        // For the processor at hand, as the tick's own loops are: both ways of a branch are worked out, one is kept.
        arch.dispatch(
            #[inline(always)]
            || {
                for (((energy, hunger), mood), ((meals, due), luck)) in rows {
                    let (mut e, mut h, mut m) = (*energy, *hunger, *mood);
                    let eats = *due <= tick;
                    let eaten = *meals + 1.0;
                    let fed = e + (0.01 * m + 0.001 * if eaten < 1.0 { eaten } else { 1.0 });
                    *meals = if eats { eaten } else { *meals };
                    *due = if eats { tick + 10 } else { *due };
                    e = if eats { fed } else { e };
                    e += luck::between(luck::draw(base, *luck, 0, 0), -1.0, 1.0) * 0.1;
                    m = m * 0.9 + luck::between(luck::draw(base, *luck, 0, 1), 0.0, 1.0) * 0.1;
                    let weak = e < 2.0;
                    let (hungrier, rested) = (h + (0.5 + m * 0.25), e + 0.05 * (2.0 - e));
                    let calmer = h - 0.1;
                    let calmer = if calmer < 0.0 { 0.0 } else { calmer };
                    h = if weak { hungrier } else { calmer };
                    e = if weak { rested } else { e };
                    let starved = h > 3.0;
                    let found = e + (h * 0.2 + m);
                    e = if starved { found } else { e };
                    h = if starved { 0.0 } else { h };
                    let played = e - (m - 0.7) * 0.5;
                    e = if (m > 0.7) & (e > 4.0) { played } else { e };
                    (*energy, *hunger, *mood) = (e, h, m);
                }
            },
        );
        done.entity_ticks += energy.len() as u64;
    }
    done.tell(Told::SumVar("cell"), energy.iter().sum());
    done
}
