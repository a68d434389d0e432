//! Names and signs in a picture, in the letters of drawings.

use tickpond_draw::outline::{OutlineBuilder, outline as outlines, text_width};
use tiny_skia::{Path, PathBuilder, Pixmap, Transform};

use super::strokes::{fill, outline, paint};
use crate::workbench::palette::{Palette, Rgb};

/// How letters look.
#[derive(Clone, Copy)]
pub struct Letters {
    /// Their size in pixels.
    pub size: f32,
    pub colour: Rgb,
    pub opacity: f32,
    /// Whether the ground shines around them, so that they can be read on anything.
    pub halo: bool,
}

/// How wide a text is, in pixels.
pub fn wide(text: &str, size: f32) -> f32 {
    text_width(text, true) as f32 * size
}

/// Writes a text from its lower left corner on.
pub fn write(
    picture: &mut Pixmap,
    text: &str,
    at: (f32, f32),
    letters: Letters,
    palette: &Palette,
) {
    ink(picture, path_of(text, letters.size, at), letters, palette);
}

/// Draws a sign with the middle of what is to be seen of it at a place.
pub fn sign(
    picture: &mut Pixmap,
    sign: char,
    (x, y): (f32, f32),
    letters: Letters,
    palette: &Palette,
) {
    let path = path_of(sign.encode_utf8(&mut [0; 4]), letters.size, (0.0, 0.0));
    let path = path.and_then(|path| {
        let seen = path.bounds();
        let middle = ((seen.left() + seen.right()) / 2.0, (seen.top() + seen.bottom()) / 2.0);
        path.transform(Transform::from_translate(x - middle.0, y - middle.1))
    });
    ink(picture, path, letters, palette);
}

/// How high what is to be seen of a sign is, in pixels.
pub fn tall(sign: char, size: f32) -> f32 {
    let path = path_of(sign.encode_utf8(&mut [0; 4]), size, (0.0, 0.0));
    path.map_or(0.0, |path| path.bounds().height())
}

fn path_of(text: &str, size: f32, at: (f32, f32)) -> Option<Path> {
    let mut pen = Pen(PathBuilder::new());
    outlines(text, true, size, at, &mut pen);
    pen.0.finish()
}

fn ink(picture: &mut Pixmap, path: Option<Path>, letters: Letters, palette: &Palette) {
    if letters.halo {
        let ground = paint(palette.base(), 0.6 * letters.opacity);
        outline(picture, path.as_ref(), (letters.size / 4.0).max(2.0), ground);
    }
    fill(picture, path.as_ref(), paint(letters.colour, letters.opacity));
}

/// The outlines of letters as a way of pixels.
struct Pen(PathBuilder);

impl OutlineBuilder for Pen {
    fn move_to(&mut self, x: f32, y: f32) {
        self.0.move_to(x, y);
    }

    fn line_to(&mut self, x: f32, y: f32) {
        self.0.line_to(x, y);
    }

    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        self.0.quad_to(x1, y1, x, y);
    }

    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        self.0.cubic_to(x1, y1, x2, y2, x, y);
    }

    fn close(&mut self) {
        self.0.close();
    }
}
