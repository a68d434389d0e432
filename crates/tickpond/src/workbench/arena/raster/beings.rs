//! Whoever lives: crowds, bodies, signs, headings; and what befell them a moment ago.

use tickpond_draw::colours::blend;
use tickpond_lang::program::Body;
use tiny_skia::Pixmap;

use super::letters::{self, Letters};
use super::shown::Shown;
use super::strokes::{Map, ellipse, fill, line, outline, paint, polygon, stamp};
use crate::workbench::arena::crowd::Crowd;
use crate::workbench::arena::draw::end_glyph;
use crate::workbench::arena::groups::{Group, colour_of, mounts_of, sign_of};
use crate::workbench::palette::{Palette, Rgb, Role};
use crate::workbench::snapshot::Seen;

/// Least radius of one that is seen, in pixels.
const LEAST: f32 = 1.6;

/// Where they were in the last second, fainter the longer ago.
pub fn trails(
    shown: &Shown<'_>,
    groups: &[Group<'_>],
    map: &Map<'_>,
    picture: &mut Pixmap,
    palette: &Palette,
) {
    for trail in &shown.scene.trails {
        let group = groups.iter().find(|group| group.id == trail.kind);
        if group.is_some_and(Group::is_crowd) {
            continue;
        }
        let colour = group.map_or(palette.role_rgb(Role::Ghost), |group| group.colour);
        for pair in trail.places.windows(2) {
            let [(x, y, since, _), (to_x, to_y, _, moved)] = *pair else { continue };
            if moved {
                let opacity = 0.7 - 0.6 * since.min(1.0) as f32;
                let ends = (map.at((x, y)), map.at((to_x, to_y)));
                line(picture, ends, 1.5, paint(colour, opacity));
            }
        }
    }
}

/// Rays, and blasts with the ground they reach.
pub fn traces(shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    let colour = palette.role_rgb(Role::Caution);
    for trace in &shown.scene.traces {
        let left = trace.left as f32;
        match trace.radius {
            Some(radius) => {
                let disc = ellipse(map.at(trace.from), map.length(radius));
                fill(picture, disc.as_ref(), paint(colour, 0.45 * left));
                outline(picture, disc.as_ref(), 1.5, paint(colour, left));
            }
            None => line(picture, (map.at(trace.from), map.at(trace.to)), 2.0, paint(colour, left)),
        }
    }
}

/// A crowd: the brightness of each cell is how many are in it, as the key has it; everyone is a point.
pub fn crowds(
    groups: &[Group<'_>],
    crowd: &Crowd,
    map: &Map<'_>,
    picture: &mut Pixmap,
    palette: &Palette,
) {
    let columns = usize::from(map.view.area().width.max(1));
    for (at, colour, share) in crowd.grounds() {
        let corner = ((at % columns) as f32 * map.cell.0, (at / columns) as f32 * map.cell.1);
        let tile = tiny_skia::Rect::from_xywh(corner.0, corner.1, map.cell.0, map.cell.1);
        if let Some(tile) = tile {
            let mut paint = paint(colour, share as f32);
            paint.anti_alias = false;
            picture.fill_rect(tile, &paint, tiny_skia::Transform::identity(), None);
        }
    }
    let side = ((map.cell.0 / 4.0).round() as u32).max(1);
    for group in groups.iter().filter(|group| group.is_crowd()) {
        for seen in group.seen.iter().filter(|seen| map.view.cell(seen.at).is_some()) {
            stamp(picture, map.at(seen.at), side, colour_of(seen, group, palette));
        }
    }
}

/// One with its body, and its sign where the body has room for it, else beside it.
pub fn one(
    seen: &Seen,
    group: &Group<'_>,
    shown: &Shown<'_>,
    map: &Map<'_>,
    picture: &mut Pixmap,
    palette: &Palette,
) {
    let (kind, layers) = (group.kind, shown.looks.layers);
    if !map.view.is_near(seen.at, kind.body.reach()) {
        return;
    }
    let mut colour = match kind.is_spawner {
        true => palette.role_rgb(Role::Ghost),
        false => colour_of(seen, group, palette),
    };
    if let Some(left) = seen.hurt {
        colour = blend(colour, palette.role_rgb(Role::Trouble), left);
    }
    let rests = !seen.active || kind.is_spawner;
    let opacity = if rests { 0.35 } else { 0.95 };
    let middle = map.at(seen.at);
    let size = map.letters();
    let letters =
        |colour: Rgb, halo| Letters { size, colour, opacity: if rests { 0.7 } else { 1.0 }, halo };
    let reach = map.length(kind.body.reach());
    // One that is no more than a point is its sign, as in cells; a spawner without a body, too.
    let is_point = reach.0.max(reach.1) < size * 0.3;
    if layers.bodies && !(is_point && layers.glyphs) {
        fill(picture, shape(seen, &kind.body, map).as_ref(), paint(colour, opacity));
    }
    let room = map.length(kind.body.thinnest());
    let fits = layers.bodies && room.0.min(room.1) > size * 0.55;
    // A mere dot beside a body says no more than the body does.
    let says_more = is_point || fits || letters::tall(sign_of(kind), size) > size * 0.45;
    if layers.glyphs && (says_more || !layers.bodies) {
        let (at, letters) = if is_point {
            (middle, letters(colour, true))
        } else if fits {
            (middle, letters(palette.upon(colour), false))
        } else {
            let aside = (reach.0 + size * 0.45, reach.1 + size * 0.25);
            ((middle.0 + aside.0, middle.1 - aside.1), letters(colour, true))
        };
        letters::sign(picture, sign_of(kind), at, letters, palette);
    }
    heading(seen, group, layers.headings, (map, picture), palette.upon(colour));
    if layers.mounts {
        for at in mounts_of(seen, kind, map.view.is_y_up()) {
            let ring = ellipse(map.at(at), (3.0, 3.0));
            outline(picture, ring.as_ref(), 1.5, paint(palette.role_rgb(Role::Caution), 1.0));
        }
    }
}

/// A body to scale; a point where it has none, or a smaller one.
fn shape(seen: &Seen, body: &Body, map: &Map<'_>) -> Option<tiny_skia::Path> {
    match *body {
        Body::Box { half, upright } => {
            let heading = if upright { 0.0 } else { seen.heading };
            let (sin, cos) = heading.to_radians().sin_cos();
            let corners = [(1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0), (1.0, -1.0)].map(|(a, b)| {
                let (x, y) = (half.0 * a, half.1 * b);
                map.at((seen.at.0 + x * cos - y * sin, seen.at.1 + x * sin + y * cos))
            });
            polygon(&corners)
        }
        body => {
            let (rx, ry) = map.length(body.reach());
            ellipse(map.at(seen.at), (rx.max(LEAST), ry.max(LEAST)))
        }
    }
}

/// Where it faces: a line inside the rim of one that moves, or beyond it if headings are wanted.
fn heading(
    seen: &Seen,
    group: &Group<'_>,
    wanted: bool,
    (map, picture): (&Map<'_>, &mut Pixmap),
    upon: Rgb,
) {
    let reach = group.kind.body.reach();
    let (sin, cos) = seen.heading.to_radians().sin_cos();
    let to = |far: f64| map.at((seen.at.0 + cos * far, seen.at.1 + sin * far));
    if wanted {
        let far = (reach * 1.6).max(3.0 / map.view.cells_per_u());
        line(picture, (to(0.0), to(far)), 1.5, paint(group.colour, 0.9));
    } else if map.length(reach).0 > 6.0 && seen.speed > 1e-3 {
        line(picture, (to(reach * 0.6), to(reach)), 2.0, paint(upon, 0.8));
    }
}

/// Where somebody was born or ended a moment ago: a ring that widens, an end with the sign of its cause.
pub fn marks(shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    for mark in &shown.scene.marks {
        let role = if mark.cause.is_some() { Role::End } else { Role::Birth };
        let (left, colour) = (mark.left as f32, palette.role_rgb(role));
        let size = 2.0 + 5.0 * (1.0 - left);
        let middle = map.at(mark.at);
        outline(picture, ellipse(middle, (size, size)).as_ref(), 1.5, paint(colour, left));
        if let Some(sign) = mark.cause.and_then(|cause| end_glyph(cause).chars().next()) {
            let size = map.letters();
            let letters = Letters { size, colour, opacity: 0.3 + 0.7 * left, halo: true };
            letters::sign(picture, sign, (middle.0, middle.1 - size), letters, palette);
        }
    }
}

/// The selected one with its name, the cross, and what is measured from it.
pub fn chosen(shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    let (looks, size) = (shown.looks, map.letters());
    if let Some(seen) = looks.focus {
        let kind = shown.cast.kinds.get(seen.who.kind.index());
        let (rx, ry) = map.length(kind.map_or(0.0, |kind| kind.body.reach()));
        let (x, y) = map.at(seen.at);
        let colour = palette.upon(palette.base());
        let ring = ellipse((x, y), (rx + 5.0, ry + 5.0));
        outline(picture, ring.as_ref(), 2.0, paint(colour, 1.0));
        let name = shown.cast.name_of(seen.who);
        let beyond = x + rx + 9.0 + letters::wide(&name, size) > picture.width() as f32;
        let from = if beyond { x - rx - 9.0 - letters::wide(&name, size) } else { x + rx + 9.0 };
        let letters = Letters { size, colour, opacity: 1.0, halo: true };
        letters::write(picture, &name, (from, y + ry + size), letters, palette);
    }
    let Some(cross) = looks.cross else { return };
    let (x, y) = map.at(cross);
    let colour = palette.role_rgb(Role::Caution);
    if let Some(from) = looks.measured_from {
        line(picture, (map.at(from), (x, y)), 1.5, paint(colour, 0.9));
    }
    line(picture, ((x - 7.0, y), (x + 7.0, y)), 2.0, paint(colour, 1.0));
    line(picture, ((x, y - 7.0), (x, y + 7.0)), 2.0, paint(colour, 1.0));
}
