//! The arena in pixels, for terminals that can show them: the same water, bodies, ways and marks, as fine as the screen is.

use tickpond_lab::Cast;
use tickpond_lang::program::{Body, Edge, ZoneShape};
use tiny_skia::{
    Color, FillRule, Paint, Path, PathBuilder, Pixmap, Rect as Box2, Stroke, StrokeDash, Transform,
};

use super::View;
use super::ground::water;
use crate::workbench::palette::{Palette, Rgb, Role};
use crate::workbench::snapshot::{Scene, Seen};
use crate::workbench::tint::Tone;

/// Side of a tile of water, in pixels.
const TILE: usize = 8;
/// Least radius of one that is seen, in pixels.
const LEAST: f32 = 1.6;

/// What a picture is made of.
pub struct Shown<'a> {
    pub scene: &'a Scene,
    pub cast: &'a Cast,
    pub view: &'a View,
    pub focus: Option<&'a Seen>,
    pub trails: bool,
}

/// From places in u to pixels.
struct Map<'a> {
    view: &'a View,
    /// Pixels of a cell.
    cell: (f32, f32),
}

impl Map<'_> {
    fn at(&self, place: (f64, f64)) -> (f32, f32) {
        let (x, y) = self.view.place(place);
        let area = self.view.area();
        let (x, y) = (x - f64::from(area.x), y - f64::from(area.y));
        (x as f32 * self.cell.0, y as f32 * self.cell.1)
    }

    /// Pixels of a length in u, sideways and upright.
    fn length(&self, u: f64) -> (f32, f32) {
        let cells = (u * self.view.cells_per_u()) as f32;
        (cells * self.cell.0, cells / 2.0 * self.cell.1)
    }
}

/// The picture, with so many pixels to a cell; none if it would have no pixels, or more than a screen has.
pub fn raster(shown: &Shown<'_>, cell: (u16, u16), palette: &Palette) -> Option<Pixmap> {
    let area = shown.view.area();
    let (width, height) =
        (u32::from(area.width) * u32::from(cell.0), u32::from(area.height) * u32::from(cell.1));
    if width > 8000 || height > 8000 {
        return None;
    }
    let mut picture = Pixmap::new(width, height)?;
    let map = Map { view: shown.view, cell: (f32::from(cell.0), f32::from(cell.1)) };
    ground(shown, &map, &mut picture, palette);
    sides(shown, &map, &mut picture, palette);
    if shown.trails {
        for trail in &shown.scene.trails {
            let look =
                shown.cast.kinds.get(trail.kind.index()).and_then(|k| k.look.colour.as_deref());
            let colour = palette.kind_rgb(look, trail.kind.index());
            for pair in trail.places.windows(2) {
                let [(x, y, since, _), (to_x, to_y, _, moved)] = *pair else { continue };
                if moved {
                    let opacity = 0.7 - 0.6 * since.min(1.0) as f32;
                    let ends = (map.at((x, y)), map.at((to_x, to_y)));
                    line(&mut picture, ends, 1.5, paint(colour, opacity));
                }
            }
        }
    }
    for trace in &shown.scene.traces {
        let colour = palette.role_rgb(Role::Caution);
        let left = trace.left as f32;
        match trace.radius {
            Some(radius) => {
                let disc = ellipse(map.at(trace.from), map.length(radius));
                fill(&mut picture, disc.as_ref(), paint(colour, 0.45 * left));
                outline(&mut picture, disc.as_ref(), 1.5, paint(colour, left));
            }
            None => {
                line(&mut picture, (map.at(trace.from), map.at(trace.to)), 2.0, paint(colour, left))
            }
        }
    }
    // Larger bodies lie below.
    let mut groups: Vec<&[Seen]> =
        shown.scene.entities.chunk_by(|a, b| a.who.kind == b.who.kind).collect();
    let reach = |seen: &[Seen]| {
        let kind = seen.first().and_then(|seen| shown.cast.kinds.get(seen.who.kind.index()));
        kind.map_or(0.0, |kind| kind.body.reach())
    };
    groups.sort_by(|a, b| reach(b).total_cmp(&reach(a)));
    for seen in groups.into_iter().flatten() {
        one(seen, shown, &map, &mut picture, palette);
    }
    for mark in &shown.scene.marks {
        let role = if mark.cause.is_some() { Role::End } else { Role::Birth };
        let left = mark.left as f32;
        let size = 2.0 + 5.0 * (1.0 - left);
        let ring = ellipse(map.at(mark.at), (size, size));
        outline(&mut picture, ring.as_ref(), 1.5, paint(palette.role_rgb(role), left));
    }
    if let Some(seen) = shown.focus {
        let reach =
            shown.cast.kinds.get(seen.who.kind.index()).map_or(0.0, |kind| kind.body.reach());
        let (rx, ry) = map.length(reach);
        let ring = ellipse(map.at(seen.at), (rx + 5.0, ry + 5.0));
        outline(&mut picture, ring.as_ref(), 2.0, paint((250, 252, 252), 1.0));
    }
    Some(picture)
}

fn ground(shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
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
    let sand = palette.kind_rgb(Some("sand"), 1);
    for zone in &shown.cast.zones {
        let shape = match zone.shape {
            ZoneShape::Circle { at, radius } => ellipse(map.at(at), map.length(radius)),
            ZoneShape::Box { low, high } => {
                let (a, b) = (map.at(low), map.at(high));
                let (left, top) = (a.0.min(b.0), a.1.min(b.1));
                let size = ((a.0 - b.0).abs().max(0.1), (a.1 - b.1).abs().max(0.1));
                Box2::from_xywh(left, top, size.0, size.1).map(PathBuilder::from_rect)
            }
        };
        fill(picture, shape.as_ref(), paint(sand, 0.14));
        outline(picture, shape.as_ref(), 1.0, paint(sand, 0.4));
    }
}

/// The arena's sides: walls thick, open ones thin, wrapped ones dashed.
fn sides(shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    let arena = &shown.cast.arena;
    let (low, high, edges) = (arena.low, arena.high, arena.edges);
    let corners = [low, (high.0, low.1), high, (low.0, high.1)].map(|place| map.at(place));
    let of = [edges.low, edges.right, edges.high, edges.left];
    for (at, edge) in of.into_iter().enumerate() {
        let (from, to) = (corners[at], corners[(at + 1) % 4]);
        let (role, width, dash) = match edge {
            Edge::Wall => (Role::Caution, 5.0, None),
            Edge::Open => (Role::Ghost, 1.0, None),
            Edge::Wrap => (Role::Ghost, 2.0, StrokeDash::new(vec![8.0, 8.0], 0.0)),
        };
        let mut path = PathBuilder::new();
        path.move_to(from.0, from.1);
        path.line_to(to.0, to.1);
        if let Some(path) = path.finish() {
            let stroke = Stroke { width, dash, ..Stroke::default() };
            let paint = paint(palette.role_rgb(role), 0.8);
            picture.stroke_path(&path, &paint, &stroke, Transform::identity(), None);
        }
    }
}

fn one(seen: &Seen, shown: &Shown<'_>, map: &Map<'_>, picture: &mut Pixmap, palette: &Palette) {
    let Some(kind) = shown.cast.kinds.get(seen.who.kind.index()) else { return };
    if !shown.view.is_near(seen.at, kind.body.reach()) {
        return;
    }
    let own = palette.kind_rgb(kind.look.colour.as_deref(), seen.who.kind.index());
    let mut colour = match seen.tone {
        Tone::Own => own,
        Tone::Place(place) => palette.place_rgb(usize::from(place)),
        Tone::Share(share) => palette.share_rgb(f64::from(share)),
        Tone::Nothing => palette.role_rgb(Role::Ghost),
    };
    if let Some(left) = seen.hurt {
        colour = tickpond_draw::colours::blend(colour, palette.role_rgb(Role::Trouble), left);
    }
    let opacity = if !seen.active || kind.is_spawner { 0.35 } else { 0.95 };
    let middle = map.at(seen.at);
    let shape = match kind.body {
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
            ellipse(middle, (rx.max(LEAST), ry.max(LEAST)))
        }
    };
    fill(picture, shape.as_ref(), paint(colour, opacity));
    // Where it faces.
    let reach = map.length(kind.body.reach());
    if reach.0 > 6.0 && seen.speed > 1e-3 {
        let (sin, cos) = seen.heading.to_radians().sin_cos();
        let far = kind.body.reach();
        let tip = map.at((seen.at.0 + cos * far, seen.at.1 + sin * far));
        line(picture, (middle, tip), 2.0, paint(palette.upon(colour), 0.8));
    }
}

fn paint(colour: Rgb, opacity: f32) -> Paint<'static> {
    let mut paint = Paint { anti_alias: true, ..Paint::default() };
    let alpha = (opacity.clamp(0.0, 1.0) * 255.0) as u8;
    paint.set_color(Color::from_rgba8(colour.0, colour.1, colour.2, alpha));
    paint
}

fn ellipse((x, y): (f32, f32), (rx, ry): (f32, f32)) -> Option<Path> {
    let place = Box2::from_xywh(x - rx, y - ry, (rx * 2.0).max(0.1), (ry * 2.0).max(0.1))?;
    PathBuilder::from_oval(place)
}

fn polygon(corners: &[(f32, f32)]) -> Option<Path> {
    let mut path = PathBuilder::new();
    for (at, (x, y)) in corners.iter().enumerate() {
        if at == 0 { path.move_to(*x, *y) } else { path.line_to(*x, *y) }
    }
    path.close();
    path.finish()
}

fn fill(picture: &mut Pixmap, path: Option<&Path>, paint: Paint<'_>) {
    if let Some(path) = path {
        picture.fill_path(path, &paint, FillRule::Winding, Transform::identity(), None);
    }
}

fn outline(picture: &mut Pixmap, path: Option<&Path>, width: f32, paint: Paint<'_>) {
    if let Some(path) = path {
        let stroke = Stroke { width, ..Stroke::default() };
        picture.stroke_path(path, &paint, &stroke, Transform::identity(), None);
    }
}

fn line(picture: &mut Pixmap, (from, to): ((f32, f32), (f32, f32)), width: f32, paint: Paint<'_>) {
    let mut path = PathBuilder::new();
    path.move_to(from.0, from.1);
    path.line_to(to.0, to.1);
    outline(picture, path.finish().as_ref(), width, paint);
}

#[cfg(test)]
mod tests {
    use super::*;
    use ratatui::layout::Rect;
    use rstest::rstest;
    use tickpond_lab::{Run, RunOptions, Timeline};

    use crate::workbench::arena::Camera;
    use crate::workbench::befell::Befell;
    use crate::workbench::settings::Theme;
    use crate::workbench::snapshot::Snapshot;

    const CELL: (u16, u16) = (8, 16);

    fn picture(text: &str, camera: &Camera) -> (Pixmap, View) {
        let program = tickpond_lang::compile(text);
        let program = program.program.unwrap_or_else(|| panic!("{:?}", program.diagnostics));
        let mut run = Run::new(program, RunOptions::default()).unwrap();
        run.play_to(2);
        let snapshot = Snapshot::of(&run, 10, None, &mut Befell::default());
        let cast = run.cast().clone();
        let view = View::through(camera, &cast.arena, Rect::new(4, 3, 80, 20));
        let shown =
            Shown { scene: &snapshot.scene, cast: &cast, view: &view, focus: None, trails: true };
        let palette = Palette::full(Theme::Dark);
        (raster(&shown, CELL, &palette).unwrap(), view)
    }

    /// How many pixels are redder than blue and green together.
    fn red(picture: &Pixmap) -> usize {
        let is_red = |p: &&tiny_skia::PremultipliedColorU8| {
            u16::from(p.red()) > 110
                && u16::from(p.red()) > u16::from(p.green()) + u16::from(p.blue()) / 2
        };
        picture.pixels().iter().filter(is_red).count()
    }

    #[rstest]
    #[case::circle("body circle 6 u, sensor", std::f64::consts::PI * 36.0)]
    #[case::turned("body box 20 u x 6 u, sensor", 120.0)]
    fn a_body_has_as_many_pixels_as_it_is_large(#[case] body: &str, #[case] wanted: f64) {
        let text = format!(
            "pond \"t\" {{ arena 80 x 40 }}\nkind lily {{ look \"o\" rose; {body}\n on birth {{ heading = 30 deg }} }}\nplace lily at (40, 20)\n"
        );
        let (picture, view) = picture(&text, &Camera::default());
        assert_eq!((picture.width(), picture.height()), (640, 320));
        // A u is a cell wide: eight pixels, and as many high.
        let pixels = view.cells_per_u() * f64::from(CELL.0);
        let area = red(&picture) as f64 / (pixels * pixels);
        assert!((area - wanted).abs() < wanted * 0.05, "{area:.1} for {wanted:.1}");
    }

    #[rstest]
    fn one_stands_where_it_is_from_far_and_near() {
        let text = "pond \"t\" { arena 80 x 40 }\nkind midge { look \"m\" rose; body circle 1 u, sensor }\nplace midge at (30, 10)\n";
        for nearer in [1.0, 4.0] {
            let camera = Camera { centre: Some((32.0, 12.0)), nearer, follows: false };
            let (picture, view) = picture(text, &camera);
            let (mut sum, mut count) = ((0.0, 0.0), 0.0);
            for (at, p) in picture.pixels().iter().enumerate() {
                if p.red() > 120 && p.red() > p.green() + 40 {
                    sum.0 += (at % picture.width() as usize) as f64 + 0.5;
                    sum.1 += (at / picture.width() as usize) as f64 + 0.5;
                    count += 1.0;
                }
            }
            let cells = (sum.0 / count / 8.0 + 4.0, sum.1 / count / 16.0 + 3.0);
            let (x, y) = view.unplace_at(cells.0, cells.1);
            assert!((x - 30.0).abs() < 0.2 && (y - 10.0).abs() < 0.2, "({x}, {y}) at {nearer}");
        }
    }
}
