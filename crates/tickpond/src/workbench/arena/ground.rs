//! What lies beneath: water that is deeper in the middle, zones, and the arena's sides.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_draw::colours::{blend, rgb};
use tickpond_lab::Cast;
use tickpond_lang::program::{Arena, Edge, Zone, ZoneShape};

use super::View;
use super::canvas::Canvas;
use super::put::put;
use crate::workbench::palette::{Palette, Rgb, Role};

/// How much of a zone's ground is its own.
const ZONE: f64 = 0.16;

/// Paints the water and the zones in it. Costs the cells that are seen.
pub fn paint(view: &View, cast: &Cast, zones: bool, canvas: &mut Canvas, palette: &Palette) {
    if palette.ground().is_none() {
        return;
    }
    let sand = palette.kind_rgb(Some("sand"), 1);
    let arena = &cast.arena;
    let area = canvas.area();
    for y in area.y..area.bottom() {
        for x in area.x..area.right() {
            let place = view.unplace(x, y);
            let across = (place.0 - arena.low.0).min(arena.high.0 - place.0);
            let along = (place.1 - arena.low.1).min(arena.high.1 - place.1);
            // A cell that is half outside is ground, too.
            if across < -0.49 / view.cells_per_u() || along < -0.99 / view.cells_per_u() {
                continue;
            }
            let Some(mut colour) = water_at(place, arena, palette) else { continue };
            if zones && cast.zones.iter().any(|zone| holds(zone, place)) {
                colour = blend(colour, sand, ZONE);
            }
            let at = canvas.at(x, y);
            *canvas.ground(at) = Some(colour);
        }
    }
}

/// The water at a place; none outside of the arena, or where the theme has none.
pub fn water(place: (f64, f64), arena: &Arena, palette: &Palette) -> Option<Rgb> {
    let inside = (arena.low.0..=arena.high.0).contains(&place.0)
        && (arena.low.1..=arena.high.1).contains(&place.1);
    if inside { water_at(place, arena, palette) } else { None }
}

/// Deeper in the middle, with a faint swell, which stays where it is as one looks around.
fn water_at(place: (f64, f64), arena: &Arena, palette: &Palette) -> Option<Rgb> {
    let ground = palette.ground()?;
    let half = (arena.high.0 - arena.low.0).min(arena.high.1 - arena.low.1) / 2.0;
    let across = (place.0 - arena.low.0).min(arena.high.0 - place.0);
    let along = (place.1 - arena.low.1).min(arena.high.1 - place.1);
    let depth = (across.min(along).max(0.0) / half).sqrt();
    let swell = ((place.0 / half * 9.0).sin() + (place.1 / half * 14.0).cos()) * 0.06;
    Some(blend(rgb(ground.shallow), rgb(ground.deep), depth + swell))
}

fn holds(zone: &Zone, (x, y): (f64, f64)) -> bool {
    match zone.shape {
        ZoneShape::Box { low, high } => x >= low.0 && x <= high.0 && y >= low.1 && y <= high.1,
        ZoneShape::Circle { at, radius } => {
            (x - at.0).powi(2) + (y - at.1).powi(2) <= radius * radius
        }
    }
}

/// Signs of a side: most of it, and every so often.
fn signs(edge: Edge, side: &str) -> [&'static str; 2] {
    match (edge, side) {
        (Edge::Wall, "left") => ["▌", "▌"],
        (Edge::Wall, "right") => ["▐", "▐"],
        (Edge::Wall, "top") => ["▀", "▀"],
        (Edge::Wall, _) => ["▄", "▄"],
        (Edge::Open, "left" | "right") => ["┊", "┊"],
        (Edge::Open, _) => ["┈", "┈"],
        (Edge::Wrap, "left") => ["┊", "◂"],
        (Edge::Wrap, "right") => ["┊", "▸"],
        (Edge::Wrap, "top") => ["┈", "▴"],
        (Edge::Wrap, _) => ["┈", "▾"],
    }
}

/// The arena's sides, each as what happens there, and the places of two corners. A side that is out of sight is not
/// drawn.
pub fn sides(view: &View, cast: &Cast, area: Rect, cells: &mut Cells, palette: &Palette) {
    let (left, top) = view.corner();
    let (width, height) = view.size();
    let (right, bottom) = (left + width, top + height);
    let clamp_x = |x: f64| (x.max(f64::from(area.x)) as u16).min(area.right() - 1);
    let clamp_y = |y: f64| (y.max(f64::from(area.y)) as u16).min(area.bottom() - 1);
    let (l, r) = (clamp_x(left), clamp_x(right - 0.01));
    let (t, b) = (clamp_y(top), clamp_y(bottom - 0.01));
    let shows_x = |x: f64| x >= f64::from(area.x) && x <= f64::from(area.right());
    let shows_y = |y: f64| y >= f64::from(area.y) && y <= f64::from(area.bottom());
    let arena = &cast.arena;
    let edges = arena.edges;
    let (upper, lower) = if arena.y_up { (edges.high, edges.low) } else { (edges.low, edges.high) };
    let role = |edge: Edge| if edge == Edge::Wall { Role::Caution } else { Role::Frame };
    for (shows, row, edge, side) in
        [(shows_y(top), t, upper, "top"), (shows_y(bottom), b, lower, "bottom")]
    {
        for x in (l..=r).filter(|_| shows) {
            let sign = signs(edge, side)[usize::from((x - l) % 12 == 6)];
            put(cells, (x, row), sign, palette.style(role(edge)));
        }
    }
    for (shows, column, edge, side) in
        [(shows_x(left), l, edges.left, "left"), (shows_x(right), r, edges.right, "right")]
    {
        for y in (t..=b).filter(|_| shows) {
            let sign = signs(edge, side)[usize::from((y - t) % 6 == 3)];
            put(cells, (column, y), sign, palette.style(role(edge)));
        }
    }
    if shows_x(left) && shows_x(right) && shows_y(top) && shows_y(bottom) {
        corners(arena, (l, r, t, b), cells, palette);
    }
}

/// The places of two corners, so that one knows what is where.
fn corners(
    arena: &Arena,
    (l, r, t, b): (u16, u16, u16, u16),
    cells: &mut Cells,
    palette: &Palette,
) {
    let (low, high) = (arena.low, arena.high);
    let label = |(x, y): (f64, f64)| format!("({x}, {y})");
    let up = arena.y_up;
    let top_right = label((high.0, if up { high.1 } else { low.1 }));
    let bottom_left = label((low.0, if up { low.1 } else { high.1 }));
    let room = usize::from(r + 1 - l);
    let style = palette.style(Role::Faint);
    if top_right.len() < room && bottom_left.len() < room && b > t {
        put(cells, (r + 1 - top_right.len() as u16, t), &top_right, style);
        put(cells, (l, b), &bottom_left, style);
    }
}

/// What happens at the sides, in words.
pub fn sides_told(arena: &Arena) -> String {
    let word = |edge: Edge| match edge {
        Edge::Open => "open",
        Edge::Wrap => "wrap",
        Edge::Wall => "wall",
    };
    let edges = arena.edges;
    let (upper, lower) = if arena.y_up { (edges.high, edges.low) } else { (edges.low, edges.high) };
    let all = [edges.left, edges.right, upper, lower];
    if all.iter().all(|edge| *edge == all[0]) {
        return format!("sides {}", word(all[0]));
    }
    let [left, right, top, bottom] = all.map(word);
    format!("left {left}, right {right}, top {top}, bottom {bottom}")
}
