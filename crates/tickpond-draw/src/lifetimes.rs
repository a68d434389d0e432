//! How long the entities of each kind live: survival curves with their intervals, and what ended them.

use tickpond_lab::record::Life;
use tickpond_lab::survival::{Survival, survival};
use tickpond_lab::{Run, Timeline};
use tickpond_lang::program::Cause;

use crate::axis::{plain, round_between};
use crate::competing::{self, Competing};
use crate::drawing::{Anchor, Drawing, Step};
use crate::pens::{GRID, Pen, pen_of};
use crate::plot::{HEIGHT, LABEL, LEFT, NOTE, Plot, STRONG, TOP, WIDTH, fitted};
use crate::wanted::{Wanted, page};

const ROW: f64 = 20.0;

/// A kind's lives.
struct Lives {
    name: String,
    pen: Pen,
    found: Survival,
    /// Ages of those alive, in ticks, ascending.
    alive: Vec<u64>,
    causes: Vec<(&'static str, u64)>,
    /// What ended them, by age.
    competing: Option<Competing>,
}

/// The share of each kind that lives longer than an age, by the product-limit estimate: those still alive count as long as
/// they have lived, and are marked on the curve. The band is the interval that holds the true share in 95 of 100 cases.
/// Beneath stand, for each kind, the age that half of them reach, how many have ended and how many are alive, and what ended
/// them; and beneath that, of the kinds of which most ended, the share that each cause has ended by each age. Drawn for
/// the run's present tick; lives that ended before the first wanted tick are left out.
pub fn lifetimes(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    // Those alive now are those of the present tick: who ended later is among them.
    let all = wanted.ticks(run.record());
    let ticks = all.start..all.end.min(run.tick() as usize + 1);
    let everyone = run.alive();
    let kinds = run.record().kinds.iter().filter(|s| s.ever_lived() && wanted.has(&s.name));
    let mut lives: Vec<Lives> = kinds
        .map(|series| {
            let within = |life: &&Life| ticks.contains(&(life.end as usize));
            let lives: Vec<(u64, Cause)> =
                series.lives.iter().filter(within).map(|life| (life.ticks, life.cause)).collect();
            let ended: Vec<u64> = lives.iter().map(|life| life.0).collect();
            let kind = run.cast().kind_named(&series.name);
            let own = everyone.iter().filter(|alive| Some(alive.who.kind) == kind);
            let mut alive: Vec<u64> = own.map(|alive| alive.age).collect();
            alive.sort_unstable();
            Lives {
                name: series.name.clone(),
                pen: pen_of(run.cast(), &series.name),
                found: survival(&ended, &alive),
                competing: Competing::of(&series.name, &lives, &alive),
                alive,
                causes: series.ends_within(&ticks),
            }
        })
        .collect();
    let rate = run.cast().rate;
    let room = if lives.is_empty() { 0.0 } else { 34.0 + lives.len() as f64 * ROW };
    let panels =
        competing::chosen(lives.iter_mut().filter_map(|lives| lives.competing.take()).collect());
    let beneath = TOP + HEIGHT + 58.0 + room + 16.0;
    let height = beneath + competing::room(panels.0.len());
    let mut page = page(run, wanted, "how long they live", height, &[]);
    let oldest = lives.iter().filter_map(|l| l.found.steps.last()).map(|step| step.0).max();
    let plot = Plot { ticks: (0.0, oldest.unwrap_or(0).max(2) as f64), values: (0.0, 100.0) };
    plot.value_axis(&mut page, &round_between(0.0, 100.0, 5, true), "still alive (% of the kind)");
    plot.time_axis(&mut page, rate, "age (s)");
    lives.iter().for_each(|lives| band(&mut page, &plot, lives));
    lives.iter().for_each(|lives| curve(&mut page, &plot, lives));
    let names: Vec<(String, Pen)> = lives.iter().map(|l| (l.name.clone(), l.pen)).collect();
    plot.legend(&mut page, "kind", &names);
    match lives.is_empty() {
        true => plot.empty(&mut page, wanted.why_empty("nothing was born in this run")),
        false => table(&mut page, &lives, rate),
    }
    competing::draw(&mut page, plot.right(), &panels, (beneath, rate));
    page
}

/// The steps that can be told apart: of those in one point of the page's width the last. Places, shares, intervals.
fn seen(plot: &Plot, found: &Survival) -> Vec<(f64, f64, (f64, f64))> {
    let mut seen: Vec<(f64, f64, (f64, f64))> = Vec::new();
    for ((age, share), interval) in found.steps.iter().zip(&found.interval) {
        let x = plot.x(*age as f64);
        match seen.last_mut().filter(|last| x - last.0 < 0.5 && last.0 > LEFT) {
            Some(last) => (last.1, last.2) = (*share, *interval),
            None => seen.push((x, *share, *interval)),
        }
    }
    seen
}

fn band(page: &mut Drawing, plot: &Plot, lives: &Lives) {
    for pair in seen(plot, &lives.found).windows(2) {
        let ((from, _, (low, high)), (to, ..)) = (pair[0], pair[1]);
        let (top, base) = (plot.y(high * 100.0), plot.y(low * 100.0));
        if base - top > 0.5 {
            page.shade((from, top), (to - from, base - top), lives.pen.colour, 0.12);
        }
    }
}

fn curve(page: &mut Drawing, plot: &Plot, lives: &Lives) {
    let seen = seen(plot, &lives.found);
    let mut steps = Vec::new();
    for (at, (x, share, _)) in seen.iter().enumerate() {
        let y = plot.y(share * 100.0);
        match at {
            0 => steps.push(Step::Move(*x, y)),
            _ => steps.extend([Step::Across(*x), Step::Along(y)]),
        }
    }
    page.path(steps, lives.pen.colour, 1.8, lives.pen.dashes);
    // Those still alive, on the curve; of those in two points of the page's width one.
    let mut last = f64::MIN;
    for age in &lives.alive {
        let x = plot.x(*age as f64);
        if x - last < 2.0 {
            continue;
        }
        let at = lives.found.steps.partition_point(|step| step.0 <= *age);
        let y = plot.y(lives.found.steps[at.max(1) - 1].1 * 100.0);
        page.line((x, y - 4.0), (x, y + 4.0), lives.pen.colour, 1.0);
        last = x;
    }
}

fn table(page: &mut Drawing, lives: &[Lives], rate: f64) {
    let head = TOP + HEIGHT + 66.0;
    let columns = [LEFT + 96.0, LEFT + 196.0, LEFT + 276.0, LEFT + 356.0];
    page.text((LEFT, head), Anchor::Start, STRONG, "Lives");
    for (x, name) in columns.iter().zip(["half reach", "ended", "alive", "ended by"]) {
        page.text((*x, head), Anchor::Start, NOTE, name);
    }
    for (row, lives) in lives.iter().enumerate() {
        let y = head + 22.0 + row as f64 * ROW;
        page.line((LEFT, y + 5.0), (WIDTH - 16.0, y + 5.0), GRID, 1.0);
        let half = lives.found.median.map_or("over half live".to_string(), |median| {
            format!("{} s", plain(median as f64 / rate))
        });
        let mut causes = lives.causes.clone();
        causes.sort_by_key(|(name, count)| (std::cmp::Reverse(*count), *name));
        let causes: Vec<String> = causes.iter().map(|(name, n)| format!("{n} {name}")).collect();
        page.text((LEFT, y), Anchor::Start, LABEL, &fitted(&lives.name, 90.0, LABEL));
        let cells = [
            fitted(&half, 94.0, LABEL),
            lives.found.ended.to_string(),
            lives.found.alive.to_string(),
            fitted(&causes.join(", "), WIDTH - 16.0 - columns[3], LABEL),
        ];
        for (x, cell) in columns.iter().zip(cells) {
            page.text((*x, y), Anchor::Start, LABEL, &cell);
        }
    }
}
