//! What lies beneath: water, zones with their names, spots, sides, what the player sees.

use tickpond_lang::program::{Edge, Spot, Spots, ZoneShape};
use tiny_skia::{Pixmap, Rect as Box2, Transform};

use super::letters::{self, Letters};
use super::shown::Shown;
use super::strokes::{Map, dashed, ellipse, fill, outline, paint, rectangle, way};
use crate::workbench::arena::ground::water;
use crate::workbench::palette::{Palette, Role};

/// Side of a tile of water, in pixels.
const TILE: usize = 8;

/// Draws all of it.
pub fn draw(shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    let layers = shown.looks.layers;
    if layers.water {
        tiles(shown, map, picture, palette);
    }
    if layers.zones {
        zones(shown, map, picture, palette);
    }
    sides(shown, map, picture, palette);
    if layers.spots {
        for group in &shown.cast.spots {
            spots(group, shown, map, picture, palette);
        }
    }
    if let Some(sight) = shown.cast.view.filter(|_| layers.sight) {
        let (x, y) = shown.scene.view;
        let corners =
            [-1.0, 1.0].map(|way| map.at((x + way * sight.half.0, y + way * sight.half.1)));
        let path = rectangle(corners[0], corners[1]);
        dashed(
            picture,
            path.as_ref(),
            1.5,
            &[10.0, 6.0],
            paint(palette.role_rgb(Role::Ghost), 0.8),
        );
        if layers.names {
            let (left, top) = (corners[0].0.min(corners[1].0), corners[0].1.min(corners[1].1));
            let at = (left + 5.0, top + map.letters() * 1.1);
            letters::write(picture, "view", at, faint(map, palette), palette);
        }
    }
}

/// The spots of a group, and beside the first that is in sight its name.
fn spots(group: &Spots, shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    let style = faint(map, palette);
    let in_sight = |spot: &&Spot| shown.view.cell(spot.at).is_some();
    if let Some(first) = group.spots.iter().find(in_sight).filter(|_| shown.looks.layers.names) {
        let (x, y) = map.at(first.at);
        let at = (x + style.size * 0.7, y + style.size * 0.36);
        letters::write(picture, &group.name, at, style, palette);
    }
    for spot in &group.spots {
        letters::sign(picture, '¤', map.at(spot.at), style, palette);
    }
}

/// Letters for what does not live.
pub fn faint(map: &Map<'_>, palette: &Palette) -> Letters {
    let colour = palette.role_rgb(Role::Ghost);
    Letters { size: map.letters(), colour, opacity: 0.9, halo: false }
}

fn tiles(shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    let area = shown.view.area();
    let (width, height) = (picture.width() as usize, picture.height() as usize);
    for y in (0..height).step_by(TILE) {
        for x in (0..width).step_by(TILE) {
            let half = TILE as f32 / 2.0;
            let cells = ((x as f32 + half) / map.cell.0, (y as f32 + half) / map.cell.1);
            let place = shown.view.unplace_at(
                f64::from(area.x) + f64::from(cells.0),
                f64::from(area.y) + f64::from(cells.1),
            );
            let Some(colour) = water(place, &shown.cast.arena, palette) else { continue };
            if let Some(tile) = Box2::from_xywh(x as f32, y as f32, TILE as f32, TILE as f32) {
                picture.fill_rect(tile, &paint(colour, 1.0), Transform::identity(), None);
            }
        }
    }
}

/// The ground of each zone, and its name below its upper side, as much of it as there is room for.
fn zones(shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    let sand = palette.kind_rgb(Some("sand"), 1);
    for zone in &shown.cast.zones {
        let (shape, middle, room, top) = match zone.shape {
            ZoneShape::Circle { at, radius } => {
                let (middle, reach) = (map.at(at), map.length(radius));
                (ellipse(middle, reach), middle.0, reach.0, middle.1 - reach.1)
            }
            ZoneShape::Box { low, high } => {
                let (a, b) = (map.at(low), map.at(high));
                (rectangle(a, b), (a.0 + b.0) / 2.0, (a.0 - b.0).abs(), a.1.min(b.1))
            }
        };
        fill(picture, shape.as_ref(), paint(sand, 0.14));
        outline(picture, shape.as_ref(), 1.0, paint(sand, 0.4));
        if shown.looks.layers.names {
            let size = map.letters();
            let mut name = zone.name.clone();
            while letters::wide(&name, size) > room - 4.0 && name.pop().is_some() {}
            // A circle is as wide as its half a little below its top.
            let below = if matches!(zone.shape, ZoneShape::Circle { .. }) { 1.6 } else { 1.1 };
            let at = (middle - letters::wide(&name, size) / 2.0, top + size * below);
            letters::write(picture, &name, at, faint(map, palette), palette);
        }
    }
}

/// The arena's sides: walls thick, open ones thin, wrapped ones dashed; and the places of two corners.
fn sides(shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    let arena = &shown.cast.arena;
    let (low, high, edges) = (arena.low, arena.high, arena.edges);
    let corners = [low, (high.0, low.1), high, (low.0, high.1)].map(|place| map.at(place));
    let of = [edges.low, edges.right, edges.high, edges.left];
    for (at, edge) in of.into_iter().enumerate() {
        let path = way(corners[at], corners[(at + 1) % 4]);
        let (role, width, dashes): (Role, f32, &[f32]) = match edge {
            Edge::Wall => (Role::Caution, 5.0, &[]),
            Edge::Open => (Role::Ghost, 1.0, &[]),
            Edge::Wrap => (Role::Ghost, 2.0, &[8.0, 8.0]),
        };
        dashed(picture, path.as_ref(), width, dashes, paint(palette.role_rgb(role), 0.8));
    }
    let told = |(x, y): (f64, f64)| format!("({x}, {y})");
    let up = arena.y_up;
    let (right, left) =
        ((high.0, if up { high.1 } else { low.1 }), (low.0, if up { low.1 } else { high.1 }));
    let style = faint(map, palette);
    let (x, y) = map.at(right);
    let at = (x - letters::wide(&told(right), style.size) - 6.0, y + style.size * 1.1);
    letters::write(picture, &told(right), at, style, palette);
    let (x, y) = map.at(left);
    letters::write(picture, &told(left), (x + 6.0, y - style.size * 0.4), style, palette);
}
