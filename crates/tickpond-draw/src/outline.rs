//! Texts as outlines, for pictures made of pixels.

pub use ttf_parser::OutlineBuilder;

use crate::fonts::FONTS;

/// How wide a text is, in letters of size 1.
pub fn text_width(text: &str, bold: bool) -> f64 {
    FONTS.width(text, bold)
}

/// Gives the outlines of a text to a pen, in the letters of drawings: from its lower left corner on, in letters of a
/// size, downwards being positive. A sign that no font has is an empty box.
pub fn outline(text: &str, bold: bool, size: f32, at: (f32, f32), pen: &mut dyn OutlineBuilder) {
    let mut x = at.0;
    for sign in text.chars() {
        let glyph = FONTS.glyph(sign, bold);
        if let Some(face) = FONTS.face(glyph.font) {
            let scale = size / f32::from(face.units_per_em());
            let id = ttf_parser::GlyphId(glyph.id);
            face.outline_glyph(id, &mut Placed { pen, scale, at: (x, at.1) });
        }
        x += glyph.advance as f32 * size;
    }
}

/// A pen that draws at another place and in another size, downwards for upwards.
struct Placed<'p> {
    pen: &'p mut dyn OutlineBuilder,
    scale: f32,
    at: (f32, f32),
}

impl Placed<'_> {
    fn to(&self, x: f32, y: f32) -> (f32, f32) {
        (self.at.0 + x * self.scale, self.at.1 - y * self.scale)
    }
}

impl OutlineBuilder for Placed<'_> {
    fn move_to(&mut self, x: f32, y: f32) {
        let (x, y) = self.to(x, y);
        self.pen.move_to(x, y);
    }

    fn line_to(&mut self, x: f32, y: f32) {
        let (x, y) = self.to(x, y);
        self.pen.line_to(x, y);
    }

    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        let ((x1, y1), (x, y)) = (self.to(x1, y1), self.to(x, y));
        self.pen.quad_to(x1, y1, x, y);
    }

    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        let ((x1, y1), (x2, y2), (x, y)) = (self.to(x1, y1), self.to(x2, y2), self.to(x, y));
        self.pen.curve_to(x1, y1, x2, y2, x, y);
    }

    fn close(&mut self) {
        self.pen.close();
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// How far the outlines reach: left, right, top, bottom.
    struct Reach([f32; 4]);

    impl OutlineBuilder for Reach {
        fn move_to(&mut self, x: f32, y: f32) {
            let [left, right, top, bottom] = self.0;
            self.0 = [left.min(x), right.max(x), top.min(y), bottom.max(y)];
        }
        fn line_to(&mut self, x: f32, y: f32) {
            self.move_to(x, y);
        }
        fn quad_to(&mut self, _: f32, _: f32, x: f32, y: f32) {
            self.move_to(x, y);
        }
        fn curve_to(&mut self, _: f32, _: f32, _: f32, _: f32, x: f32, y: f32) {
            self.move_to(x, y);
        }
        fn close(&mut self) {}
    }

    #[rstest]
    #[case::letters("reeds")]
    #[case::signs("⌂→◦")]
    fn a_text_stands_on_its_line_and_is_as_wide_as_it_is_said_to_be(#[case] text: &str) {
        let mut reach = Reach([f32::MAX, f32::MIN, f32::MAX, f32::MIN]);
        outline(text, false, 20.0, (100.0, 50.0), &mut reach);
        let [left, right, top, bottom] = reach.0;
        let wide = text_width(text, false) as f32 * 20.0;
        assert!(left >= 100.0 && right <= 100.0 + wide + 1.0, "{left} {right} of {wide}");
        assert!(right > 100.0 + wide * 0.8, "{right} of {wide}");
        assert!(top > 30.0 && top < 42.0 && bottom < 55.0, "{top} {bottom}");
    }
}
