//! The arena at one tick: bodies to scale, headings, zones, spots, the view; density where there are many.

use std::collections::BTreeMap;

use tickpond_lab::{Run, Timeline};
use tickpond_lang::program::{Arena, Body, Edge, KindId, Spot, Spots, ZoneShape};

use crate::axis::{plain, round_between};
use crate::drawing::{Anchor, Drawing, Ink, Mark, Step, Type};
use crate::labels::Labels;
use crate::pens::{FAINT, INK, pen_of};
use crate::plot::{LABEL, LEFT, NOTE, TOP, WIDTH, fitted};
use crate::wanted::{Wanted, page};

/// White to the right of the arena, for the key.
const RIGHT: f64 = 170.0;
/// Highest picture of an arena.
const HIGHEST: f64 = 620.0;
/// More than so many are drawn as density.
const CROWD: usize = 1500;
/// Side of a cell of density, in points.
const CELL: f64 = 9.0;
/// Bodies smaller than this, in points, are drawn as their kind's marker.
const SMALLEST: f64 = 5.0;

const WATER: &str = "#eef5f4";
const SHORE: &str = "#7d8c8b";

/// From places in the arena to places on the page.
struct Map {
    scale: f64,
    low: (f64, f64),
    size: (f64, f64),
    y_up: bool,
}

impl Map {
    fn of(arena: &Arena) -> Map {
        let (width, height) = arena.size();
        let scale = ((WIDTH - LEFT - RIGHT) / width).min(HIGHEST / height);
        Map { scale, low: arena.low, size: (width, height), y_up: arena.y_up }
    }

    fn at(&self, (x, y): (f64, f64)) -> (f64, f64) {
        let down = (y - self.low.1) * self.scale;
        let height = self.size.1 * self.scale;
        let y = if self.y_up { TOP + height - down } else { TOP + down };
        (LEFT + (x - self.low.0) * self.scale, y)
    }

    /// The page's corners of the arena: left, top, right, base.
    fn corners(&self) -> [f64; 4] {
        [LEFT, TOP, LEFT + self.size.0 * self.scale, TOP + self.size.1 * self.scale]
    }

    fn holds(&self, (x, y): (f64, f64)) -> bool {
        let [left, top, right, base] = self.corners();
        (left..=right).contains(&x) && (top..=base).contains(&y)
    }
}

/// Where each went, as a thin line; a way round to the other side of the arena, or out of it, is not joined.
fn ways(page: &mut Drawing, run: &Run, map: &Map, wanted: &Wanted<'_>) {
    let half = (map.size.0 / 2.0, map.size.1 / 2.0);
    for way in &wanted.prepared.ways {
        let Some(kind) = run.cast().kinds.get(way.kind.index()) else { continue };
        if kind.is_spawner || !wanted.has(&kind.name) {
            continue;
        }
        let mut steps: Vec<Step> = Vec::new();
        let mut before: Option<(f64, f64)> = None;
        for place in &way.places {
            let (x, y) = map.at(*place);
            if !map.holds((x, y)) {
                before = None;
                continue;
            }
            let joins = before.is_some_and(|(bx, by)| {
                (place.0 - bx).abs() < half.0 && (place.1 - by).abs() < half.1
            });
            steps.push(if joins { Step::Line(x, y) } else { Step::Move(x, y) });
            before = Some(*place);
        }
        if steps.iter().any(|step| matches!(step, Step::Line(..))) {
            page.path(steps, pen_of(run.cast(), &kind.name).colour, 0.7, &[]);
        }
    }
}

/// One who is drawn.
struct Seen {
    kind: KindId,
    at: (f64, f64),
    heading: f64,
    active: bool,
}

/// The arena at the run's present tick. Up to 1,500 are drawn one by one, bodies to scale and with a line to where they face;
/// more as cells, each in the colour of the kind it has most of, the darker the more are in it. Who is outside of the arena
/// is counted, not drawn.
pub fn arena(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let cast = run.cast().clone();
    let map = Map::of(&cast.arena);
    let [left, top, right, base] = map.corners();
    let state = run.state();
    let mut seen: Vec<Seen> = Vec::new();
    let mut outside = 0usize;
    let mut counts: BTreeMap<KindId, usize> = BTreeMap::new();
    for (at, columns) in state.kinds.iter().enumerate().skip(1) {
        let kind = KindId(at as u32);
        let Some(member) = cast.kinds.get(at).filter(|kind| wanted.has(&kind.name)) else {
            continue;
        };
        if member.is_spawner {
            continue;
        }
        for row in 0..columns.len() {
            *counts.entry(kind).or_default() += 1;
            let at = map.at((columns.x[row], columns.y[row]));
            if !map.holds(at) {
                outside += 1;
                continue;
            }
            let (heading, active) = (columns.heading[row], columns.is_active(row));
            seen.push(Seen { kind, at, heading, active });
        }
    }
    let when = format!("at {} s, tick {}", plain(run.tick() as f64 / cast.rate), run.tick());
    let mut more = vec![when];
    if outside > 0 {
        more.push(format!("not drawn: {outside} outside of the arena"));
    }
    if let Some(from) = wanted.from {
        let since = plain(from as f64 / cast.rate);
        more.push(match wanted.prepared.too_many {
            true => format!("too many to draw the ways since {since} s"),
            false => format!("with the ways since {since} s"),
        });
    }
    let kept = Wanted { from: None, to: None, ..wanted.clone() };
    let mut page = page(run, &kept, "the arena", base + 50.0, &more);
    page.rect(left, top, right - left, base - top, WATER);
    let mut labels = Labels::within(map.corners());
    for zone in &cast.zones {
        zone_mark(&mut page, &map, &mut labels, &zone.name, &zone.shape);
    }
    for group in &cast.spots {
        spots(&mut page, &map, &mut labels, group);
    }
    let sight = cast.view.map(|view| in_sight(&mut page, run, &map, &mut labels, view.half));
    ways(&mut page, run, &map, wanted);
    let crowded = seen.len() > CROWD;
    match crowded {
        true => density(&mut page, run, &map, &seen),
        false => seen.iter().for_each(|one| body(&mut page, run, &map, one)),
    }
    if let Some(steps) = sight {
        page.path(steps, INK, 0.9, &[4.0, 3.0]);
    }
    sides(&mut page, &cast.arena, &map);
    scales(&mut page, &map);
    if !labels.without_room.is_empty() {
        let words = format!("no room for the names of {}", labels.without_room.join(", "));
        let words = fitted(&words, (right - left) / 2.0 - 40.0, NOTE);
        page.text((right, base + 38.0), Anchor::End, NOTE, &words);
    }
    key(&mut page, run, &counts, (right + 18.0, crowded));
    page
}

/// Names of places: small, beneath whatever lives.
const NAME: Type<'_> = Type { size: 9.5, bold: false, colour: FAINT };

/// The spots of a group as crosses; its name beside the first that has room for it.
fn spots(page: &mut Drawing, map: &Map, labels: &mut Labels, group: &Spots) {
    for spot in &group.spots {
        let (x, y) = map.at(spot.at);
        page.line((x - 3.0, y), (x + 3.0, y), FAINT, 0.8);
        page.line((x, y - 3.0), (x, y + 3.0), FAINT, 0.8);
    }
    let beside = |spot: &Spot| {
        let (x, y) = map.at(spot.at);
        [(x + 6.0, y + 3.5, Anchor::Start), (x - 6.0, y + 3.5, Anchor::End)]
    };
    let places: Vec<(f64, f64, Anchor)> = group.spots.iter().flat_map(beside).collect();
    labels.put(page, &places, NAME, &group.name);
}

/// The rectangle the player sees, clipped to the arena, with its name in a corner.
fn in_sight(
    page: &mut Drawing,
    run: &Run,
    map: &Map,
    labels: &mut Labels,
    half: (f64, f64),
) -> Vec<Step> {
    let [left, top, right, base] = map.corners();
    let (x, y) = map.at(run.state().view);
    let (w, h) = (half.0 * map.scale, half.1 * map.scale);
    let clip = |x: f64, y: f64| (x.clamp(left, right), y.clamp(top, base));
    let ((l, t), (r, b)) = (clip(x - w, y - h), clip(x + w, y + h));
    let places = [(l + 4.0, t + 11.0, Anchor::Start), (r - 4.0, b - 4.0, Anchor::End)];
    labels.put(page, &places, NAME, "view");
    vec![Step::Move(l, t), Step::Across(r), Step::Along(b), Step::Across(l), Step::Close]
}

fn zone_mark(page: &mut Drawing, map: &Map, labels: &mut Labels, name: &str, shape: &ZoneShape) {
    let [left, top, right, base] = map.corners();
    let clip = |(x, y): (f64, f64)| (x.clamp(left, right), y.clamp(top, base));
    match shape {
        ZoneShape::Box { low, high } => {
            let ((a, b), (c, d)) = (clip(map.at(*low)), clip(map.at(*high)));
            let (l, r, t, e) = (a.min(c), a.max(c), b.min(d), b.max(d));
            page.shade((l, t), (r - l, e - t), SHORE, 0.14);
            let name = fitted(name, (r - l - 6.0).max(24.0), NAME);
            let places = [(l + 4.0, t + 11.0, Anchor::Start), (r - 4.0, e - 4.0, Anchor::End)];
            labels.put(page, &places, NAME, &name);
        }
        ZoneShape::Circle { at, radius } => {
            let (x, y) = map.at(*at);
            let reach = radius * map.scale;
            let ink = Ink::Stroke { colour: SHORE.into(), width: 0.9, dashes: vec![3.0, 2.0] };
            page.marks.push(Mark::Circle { at: (x, y), radius: reach, ink });
            let places = [y - reach + 11.0, y + reach - 4.0, y + 3.5].map(|y| {
                let (x, y) = clip((x, y));
                (x, y, Anchor::Middle)
            });
            labels.put(page, &places, NAME, name);
        }
    }
}

fn body(page: &mut Drawing, run: &Run, map: &Map, one: &Seen) {
    let Some(kind) = run.cast().kinds.get(one.kind.index()) else { return };
    let pen = pen_of(run.cast(), &kind.name);
    let (x, y) = one.at;
    let up = if map.y_up { -1.0 } else { 1.0 };
    let (sin, cos) = one.heading.to_radians().sin_cos();
    let place = |along: f64, left: f64| {
        (
            x + (along * cos - left * sin) * map.scale,
            y + (along * sin + left * cos) * map.scale * up,
        )
    };
    let share = if one.active { 0.75 } else { 0.25 };
    let reach = kind.body.reach() * map.scale;
    if reach * 2.0 < SMALLEST {
        pen.mark(page, one.at);
    } else {
        match kind.body {
            Body::None => {}
            Body::Circle { radius } => {
                let radius = radius * map.scale;
                match one.active {
                    true => page.dot(x, y, radius, pen.colour),
                    false => page.ring(x, y, radius, pen.colour, 1.0),
                }
            }
            Body::Box { half, upright } => {
                let corner = |a: f64, b: f64| match upright {
                    true => (x + a * map.scale, y + b * map.scale * up),
                    false => place(a, b),
                };
                let corners = [
                    corner(half.0, half.1),
                    corner(-half.0, half.1),
                    corner(-half.0, -half.1),
                    corner(half.0, -half.1),
                ];
                let mut steps = vec![Step::Move(corners[0].0, corners[0].1)];
                steps.extend(corners[1..].iter().map(|(x, y)| Step::Line(*x, *y)));
                steps.push(Step::Close);
                match share > 0.5 {
                    true => page.shape(steps, pen.colour),
                    false => page.path(steps, pen.colour, 1.0, &[]),
                }
            }
        }
    }
    let far = (kind.body.reach() + 4.0 / map.scale).max(kind.body.reach() * 1.4);
    let tip = place(far, 0.0);
    if map.holds(tip) {
        page.line(one.at, tip, INK, 0.8);
    }
}

/// How many are in each cell, by kind, and the cell's shade; the most in any cell.
fn density(page: &mut Drawing, run: &Run, map: &Map, seen: &[Seen]) {
    let mut cells: BTreeMap<(usize, usize), BTreeMap<KindId, usize>> = BTreeMap::new();
    for one in seen {
        let cell = ((one.at.0 - LEFT) / CELL, (one.at.1 - TOP) / CELL);
        let cell = (cell.0 as usize, cell.1 as usize);
        *cells.entry(cell).or_default().entry(one.kind).or_default() += 1;
    }
    let most = cells.values().map(|cell| cell.values().sum::<usize>()).max().unwrap_or(1);
    let [_, _, right, base] = map.corners();
    for ((column, row), kinds) in &cells {
        let all: usize = kinds.values().sum();
        let (x, y) = (LEFT + *column as f64 * CELL, TOP + *row as f64 * CELL);
        let (w, h) = ((right - x).min(CELL), (base - y).min(CELL));
        // The mix: each kind has its share of the cell's width.
        let mut from = x;
        for (kind, count) in kinds {
            let part = w * *count as f64 / all as f64;
            let name = run.cast().kinds.get(kind.index()).map_or("", |kind| kind.name.as_str());
            let share = 0.15 + 0.85 * all as f64 / most as f64;
            page.shade((from, y), (part, h), pen_of(run.cast(), name).colour, share);
            from += part;
        }
    }
    let words = format!("by density: a full cell of {} x {} u has {most}", side(map), side(map));
    page.text((LEFT, base + 40.0), Anchor::Start, NOTE, &words);
}

fn side(map: &Map) -> String {
    plain(CELL / map.scale)
}

/// Walls are thick, open sides thin, wrapped ones dashed.
fn sides(page: &mut Drawing, arena: &Arena, map: &Map) {
    let [left, top, right, base] = map.corners();
    let (upper, lower) = match map.y_up {
        true => (arena.edges.high, arena.edges.low),
        false => (arena.edges.low, arena.edges.high),
    };
    let all = [
        (arena.edges.left, (left, top), (left, base)),
        (arena.edges.right, (right, top), (right, base)),
        (upper, (left, top), (right, top)),
        (lower, (left, base), (right, base)),
    ];
    for (edge, from, to) in all {
        let (width, dashes): (f64, &[f64]) = match edge {
            Edge::Wall => (3.0, &[]),
            Edge::Open => (0.8, &[]),
            Edge::Wrap => (1.4, &[5.0, 4.0]),
        };
        page.path(vec![Step::Move(from.0, from.1), Step::Line(to.0, to.1)], SHORE, width, dashes);
    }
}

fn scales(page: &mut Drawing, map: &Map) {
    let [left, top, right, base] = map.corners();
    let (low, high) = (map.low, (map.low.0 + map.size.0, map.low.1 + map.size.1));
    for mark in round_between(low.0, high.0, 8, false) {
        let x = map.at((mark, low.1)).0;
        if (left - 0.5..=right + 0.5).contains(&x) {
            page.line((x, base), (x, base + 4.0), INK, 0.8);
            page.text((x, base + 18.0), Anchor::Middle, LABEL, &plain(mark));
        }
    }
    for mark in round_between(low.1, high.1, 5, false) {
        let y = map.at((low.0, mark)).1;
        if (top - 0.5..=base + 0.5).contains(&y) {
            page.line((left - 4.0, y), (left, y), INK, 0.8);
            page.text((left - 8.0, y + 4.0), Anchor::End, LABEL, &plain(mark));
        }
    }
    page.text((left, top - 10.0), Anchor::Start, NOTE, "places in u");
}

/// The kinds with how many are there, and what the sides mean.
fn key(page: &mut Drawing, run: &Run, counts: &BTreeMap<KindId, usize>, (x, crowded): (f64, bool)) {
    page.text((x, TOP - 10.0), Anchor::Start, NOTE, "kind (alive)");
    let mut y = TOP + 12.0;
    for (kind, count) in counts.iter().take(16) {
        let Some(kind) = run.cast().kinds.get(kind.index()) else { continue };
        let pen = pen_of(run.cast(), &kind.name);
        match crowded {
            true => page.rect(x, y - 9.0, 10.0, 10.0, pen.colour),
            false => pen.mark(page, (x + 5.0, y - 4.0)),
        }
        let room = WIDTH - 8.0 - x - 18.0;
        let words = fitted(&format!("{} ({count})", kind.name), room, LABEL);
        page.text((x + 18.0, y), Anchor::Start, LABEL, &words);
        y += 20.0;
    }
    if counts.len() > 16 {
        let words = format!("+{} more kinds", counts.len() - 16);
        page.text((x + 18.0, y), Anchor::Start, NOTE, &words);
        y += 20.0;
    }
    if counts.is_empty() {
        page.text((x, y), Anchor::Start, LABEL, "nobody is alive");
        y += 20.0;
    }
    y += 8.0;
    for (words, width, dashes) in
        [("wall", 3.0, &[][..]), ("open", 0.8, &[]), ("wraps", 1.4, &[5.0, 4.0])]
    {
        y += 18.0;
        let steps = vec![Step::Move(x, y - 4.0), Step::Across(x + 16.0)];
        page.path(steps, SHORE, width, dashes);
        page.text((x + 24.0, y), Anchor::Start, NOTE, words);
    }
}
