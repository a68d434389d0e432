//! From places to pixels, and what is filled and drawn there.

use tiny_skia::{
    Color, FillRule, Paint, Path, PathBuilder, Pixmap, Rect as Box2, Stroke, StrokeDash, Transform,
};

use crate::workbench::arena::View;
use crate::workbench::palette::Rgb;

/// From places in u to pixels.
pub struct Map<'a> {
    pub view: &'a View,
    /// Pixels of a cell.
    pub cell: (f32, f32),
}

impl Map<'_> {
    /// The pixels of a place.
    pub fn at(&self, place: (f64, f64)) -> (f32, f32) {
        let (x, y) = self.view.place(place);
        let area = self.view.area();
        let (x, y) = (x - f64::from(area.x), y - f64::from(area.y));
        (x as f32 * self.cell.0, y as f32 * self.cell.1)
    }

    /// Pixels of a length in u, sideways and upright.
    pub fn length(&self, u: f64) -> (f32, f32) {
        let cells = (u * self.view.cells_per_u()) as f32;
        (cells * self.cell.0, cells / 2.0 * self.cell.1)
    }

    /// Size of the letters, in pixels: a little smaller than those of the terminal.
    pub fn letters(&self) -> f32 {
        (self.cell.1 * 0.75).max(6.0)
    }
}

/// A colour with so much of it over what lies beneath.
pub fn paint(colour: Rgb, opacity: f32) -> Paint<'static> {
    let mut paint = Paint { anti_alias: true, ..Paint::default() };
    let alpha = (opacity.clamp(0.0, 1.0) * 255.0) as u8;
    paint.set_color(Color::from_rgba8(colour.0, colour.1, colour.2, alpha));
    paint
}

/// An ellipse around a place.
pub fn ellipse((x, y): (f32, f32), (rx, ry): (f32, f32)) -> Option<Path> {
    let place = Box2::from_xywh(x - rx, y - ry, (rx * 2.0).max(0.1), (ry * 2.0).max(0.1))?;
    PathBuilder::from_oval(place)
}

/// A rectangle between two corners.
pub fn rectangle(a: (f32, f32), b: (f32, f32)) -> Option<Path> {
    let (left, top) = (a.0.min(b.0), a.1.min(b.1));
    let size = ((a.0 - b.0).abs().max(0.1), (a.1 - b.1).abs().max(0.1));
    Box2::from_xywh(left, top, size.0, size.1).map(PathBuilder::from_rect)
}

/// A shape with corners.
pub fn polygon(corners: &[(f32, f32)]) -> Option<Path> {
    let mut path = PathBuilder::new();
    for (at, (x, y)) in corners.iter().enumerate() {
        if at == 0 { path.move_to(*x, *y) } else { path.line_to(*x, *y) }
    }
    path.close();
    path.finish()
}

/// Fills a shape.
pub fn fill(picture: &mut Pixmap, path: Option<&Path>, paint: Paint<'_>) {
    if let Some(path) = path {
        picture.fill_path(path, &paint, FillRule::Winding, Transform::identity(), None);
    }
}

/// Draws around a shape, or along a way.
pub fn outline(picture: &mut Pixmap, path: Option<&Path>, width: f32, paint: Paint<'_>) {
    dashed(picture, path, width, &[], paint);
}

/// The same, in dashes.
pub fn dashed(
    picture: &mut Pixmap,
    path: Option<&Path>,
    width: f32,
    dashes: &[f32],
    paint: Paint<'_>,
) {
    if let Some(path) = path {
        let dash = StrokeDash::new(dashes.to_vec(), 0.0);
        let stroke = Stroke { width, dash, ..Stroke::default() };
        picture.stroke_path(path, &paint, &stroke, Transform::identity(), None);
    }
}

/// A straight way from one place to another.
pub fn way(from: (f32, f32), to: (f32, f32)) -> Option<Path> {
    let mut path = PathBuilder::new();
    path.move_to(from.0, from.1);
    path.line_to(to.0, to.1);
    path.finish()
}

/// A straight line.
pub fn line(
    picture: &mut Pixmap,
    (from, to): ((f32, f32), (f32, f32)),
    width: f32,
    paint: Paint<'_>,
) {
    outline(picture, way(from, to).as_ref(), width, paint);
}

/// A square of pixels around a place, in one colour that hides what lies beneath. Costs its pixels.
pub fn stamp(picture: &mut Pixmap, (x, y): (f32, f32), side: u32, (r, g, b): Rgb) {
    let (width, height) = (picture.width() as i64, picture.height() as i64);
    let Some(colour) = tiny_skia::PremultipliedColorU8::from_rgba(r, g, b, 255) else { return };
    let first = |middle: f32| (middle - side as f32 / 2.0).round() as i64;
    let of = |first: i64, end: i64| first.max(0)..(first + i64::from(side)).min(end).max(0);
    let pixels = picture.pixels_mut();
    for row in of(first(y), height) {
        for column in of(first(x), width) {
            pixels[(row * width + column) as usize] = colour;
        }
    }
}
