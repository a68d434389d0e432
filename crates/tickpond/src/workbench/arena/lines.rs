//! What is drawn in dots: outlines, rays, trails, headings.

use tickpond_lab::Cast;
use tickpond_lang::program::ZoneShape;

use super::View;
use super::canvas::{Canvas, faded};
use crate::workbench::palette::{Palette, Rgb, Role};
use crate::workbench::snapshot::{Scene, Seen, Trail};

/// A line of dots, so many dots apart.
pub fn line(
    view: &View,
    from: (f64, f64),
    to: (f64, f64),
    gap: f64,
    canvas: &mut Canvas,
    colour: Option<Rgb>,
) {
    let (a, b) = (view.place(from), view.place(to));
    along(a, b, gap, |x, y| canvas.dot(x, y, colour));
}

/// A circle of dots around a place.
pub fn ring(view: &View, at: (f64, f64), radius: f64, canvas: &mut Canvas, colour: Option<Rgb>) {
    if !view.is_near(at, radius) {
        return;
    }
    let (cx, cy) = view.place(at);
    let reach = radius * view.cells_per_u();
    let steps = (reach * 12.0).clamp(8.0, 800.0) as u32;
    for step in 0..steps {
        let angle = f64::from(step) / f64::from(steps) * std::f64::consts::TAU;
        canvas.dot(cx + reach * angle.cos(), cy + reach / 2.0 * angle.sin(), colour);
    }
}

fn rectangle(
    view: &View,
    (low, high): ((f64, f64), (f64, f64)),
    gap: f64,
    canvas: &mut Canvas,
    colour: Option<Rgb>,
) {
    let corners = [low, (high.0, low.1), high, (low.0, high.1)];
    for side in 0..4 {
        line(view, corners[side], corners[(side + 1) % 4], gap, canvas, colour);
    }
}

/// The outlines of the zones.
pub fn zones(cast: &Cast, view: &View, canvas: &mut Canvas, palette: &Palette) {
    let colour = palette.is_coloured().then(|| palette.role_rgb(Role::Frame));
    for zone in &cast.zones {
        match zone.shape {
            ZoneShape::Box { low, high } => rectangle(view, (low, high), 2.0, canvas, colour),
            ZoneShape::Circle { at, radius } => ring(view, at, radius, canvas, colour),
        }
    }
}

/// The rectangle the player sees.
pub fn sight(scene: &Scene, cast: &Cast, view: &View, canvas: &mut Canvas, palette: &Palette) {
    let Some(sight) = cast.view else { return };
    let (x, y) = scene.view;
    let (low, high) = ((x - sight.half.0, y - sight.half.1), (x + sight.half.0, y + sight.half.1));
    let colour = palette.is_coloured().then(|| palette.role_rgb(Role::Ghost));
    rectangle(view, (low, high), 6.0, canvas, colour);
}

/// Rays, and blasts with the ground they reach. A blast costs the cells it reaches.
pub fn traces(scene: &Scene, view: &View, canvas: &mut Canvas, palette: &Palette) {
    let bright = palette.role_rgb(Role::Caution);
    for trace in &scene.traces {
        let colour = faded(palette, bright, 0.25 + 0.75 * trace.left);
        let Some(radius) = trace.radius else {
            line(view, trace.from, trace.to, 1.0, canvas, colour);
            continue;
        };
        ring(view, trace.from, radius, canvas, colour);
        if palette.is_coloured() {
            glow(view, trace.from, radius, 0.45 * trace.left, canvas, (palette, bright));
        }
    }
}

fn glow(
    view: &View,
    at: (f64, f64),
    radius: f64,
    share: f64,
    canvas: &mut Canvas,
    (palette, colour): (&Palette, Rgb),
) {
    let area = canvas.area();
    let (cx, cy) = view.place(at);
    let (wide, high) = (radius * view.cells_per_u(), radius * view.cells_per_u() / 2.0);
    let within = |from: f64, low: u16, high: u16| (from.max(f64::from(low)) as u16).min(high);
    for y in
        within(cy - high, area.y, area.bottom())..within(cy + high + 1.0, area.y, area.bottom())
    {
        for x in
            within(cx - wide, area.x, area.right())..within(cx + wide + 1.0, area.x, area.right())
        {
            let (dx, dy) = ((f64::from(x) + 0.5 - cx) / wide, (f64::from(y) + 0.5 - cy) / high);
            if dx * dx + dy * dy <= 1.0 {
                let at = canvas.at(x, y);
                let ground = canvas.ground(at);
                let beneath = ground.unwrap_or(palette.base());
                *ground = Some(tickpond_draw::colours::blend(beneath, colour, share));
            }
        }
    }
}

/// Where one was in the last second, the fainter the longer ago.
pub fn trail(trail: &Trail, view: &View, canvas: &mut Canvas, (palette, colour): (&Palette, Rgb)) {
    for pair in trail.places.windows(2) {
        let [(x, y, since, _), (to_x, to_y, _, moved)] = *pair else { continue };
        let colour = faded(palette, colour, 0.65 - 0.5 * since.min(1.0));
        let (from, to) = ((x, y), (to_x, to_y));
        if view.cell(from).is_none() && view.cell(to).is_none() {
            continue;
        }
        if moved {
            line(view, from, to, 1.5, canvas, colour);
        } else {
            let (x, y) = view.place(from);
            canvas.dot(x, y, colour);
        }
    }
}

/// A line of dots that lies over bodies, so many dots apart.
pub fn line_over(
    view: &View,
    from: (f64, f64),
    to: (f64, f64),
    gap: f64,
    canvas: &mut Canvas,
    colour: Option<Rgb>,
) {
    let (a, b) = (view.place(from), view.place(to));
    along(a, b, gap, |x, y| canvas.dot_over(x, y, colour));
}

/// Calls `put` for the places of a line on the screen, so many dots apart.
fn along(a: (f64, f64), b: (f64, f64), gap: f64, mut put: impl FnMut(f64, f64)) {
    let (dx, dy) = (b.0 - a.0, b.1 - a.1);
    let steps = ((dx * 2.0).abs().max((dy * 4.0).abs()) / gap).clamp(1.0, 2000.0) as u32;
    for step in 0..=steps {
        let t = f64::from(step) / f64::from(steps);
        put(a.0 + dx * t, a.1 + dy * t);
    }
}

/// A line of dots from a body to where it faces.
pub fn heading(seen: &Seen, cast: &Cast, view: &View, canvas: &mut Canvas, colour: Option<Rgb>) {
    let Some(kind) = cast.kinds.get(seen.who.kind.index()) else { return };
    if view.cell(seen.at).is_none() {
        return;
    }
    let length = (kind.body.reach() * 1.6).max(3.0 * 4.0 / view.dots_per_u());
    let (sin, cos) = seen.heading.to_radians().sin_cos();
    let to = (seen.at.0 + cos * length, seen.at.1 + sin * length);
    line_over(view, seen.at, to, 1.0, canvas, colour);
}
