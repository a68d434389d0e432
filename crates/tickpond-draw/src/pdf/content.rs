//! Marks as operators of a page's content.

use pdf_writer::{Content, Name, Str};

use super::embed::Used;
use crate::drawing::{Anchor, Drawing, Ink, Mark, Step};
use crate::fonts::{Font, Fonts, Glyph};

/// How far the handles of four cubic curves stand from the ends for a circle, as a share of the radius:
/// 4/3 tan(pi/8).
const HANDLE: f64 = 0.552_284_749_8;

/// Draws all marks; gives the names of the graphics states they use, with how much of what is behind they cover.
pub(super) fn draw(
    drawing: &Drawing,
    fonts: &Fonts,
    used: &mut Used,
    content: &mut Content,
) -> Vec<(String, f32)> {
    let mut pen = Pen { content, height: drawing.height, shares: Vec::new() };
    for mark in &drawing.marks {
        pen.mark(mark, fonts, used);
    }
    pen.shares
}

struct Pen<'c> {
    content: &'c mut Content,
    height: f64,
    shares: Vec<(String, f32)>,
}

/// Red, green and blue of `#rrggbb`, each `0.0..=1.0`; black for anything else.
fn colour(text: &str) -> [f32; 3] {
    let part = |at: usize| {
        let digits = text.get(at..at + 2).and_then(|two| u8::from_str_radix(two, 16).ok());
        f32::from(digits.unwrap_or(0)) / 255.0
    };
    [part(1), part(3), part(5)]
}

impl Pen<'_> {
    /// A place of the drawing in the page's coordinates, which go up.
    fn at(&self, (x, y): (f64, f64)) -> (f32, f32) {
        (x as f32, (self.height - y) as f32)
    }

    fn fill(&mut self, name: &str) {
        let [r, g, b] = colour(name);
        self.content.set_fill_rgb(r, g, b);
    }

    fn stroke(&mut self, name: &str, width: f64, dashes: &[f64]) {
        let [r, g, b] = colour(name);
        let dashes = dashes.iter().map(|length| *length as f32);
        self.content.set_stroke_rgb(r, g, b).set_line_width(width as f32);
        self.content.set_dash_pattern(dashes, 0.0);
    }

    /// Sets the ink, and draws with it what has been laid out.
    fn finish(&mut self, ink: &Ink) {
        match ink {
            Ink::Fill(_) => self.content.fill_nonzero(),
            Ink::Stroke { .. } => self.content.stroke(),
        };
    }

    fn begin(&mut self, ink: &Ink) {
        match ink {
            Ink::Fill(name) => self.fill(name),
            Ink::Stroke { colour, width, dashes } => {
                self.stroke(colour, *width, dashes);
                self.content.set_line_join(pdf_writer::types::LineJoinStyle::RoundJoin);
            }
        }
    }

    fn mark(&mut self, mark: &Mark, fonts: &Fonts, used: &mut Used) {
        match mark {
            Mark::Rect { at, size, fill, share } => {
                let (x, y) = self.at((at.0, at.1 + size.1));
                self.content.save_state();
                if *share < 1.0 {
                    let name = format!("S{:.0}", share * 1000.0);
                    self.content.set_parameters(Name(name.as_bytes()));
                    if !self.shares.iter().any(|(known, _)| *known == name) {
                        self.shares.push((name, *share as f32));
                    }
                }
                self.fill(fill);
                self.content.rect(x, y, size.0 as f32, size.1 as f32).fill_nonzero();
                self.content.restore_state();
            }
            Mark::Line { from, to, stroke, width } => {
                self.stroke(stroke, *width, &[]);
                let ((x, y), (to_x, to_y)) = (self.at(*from), self.at(*to));
                self.content.move_to(x, y).line_to(to_x, to_y).stroke();
            }
            Mark::Path { steps, ink } => {
                self.begin(ink);
                self.outline(steps);
                self.finish(ink);
            }
            Mark::Circle { at, radius, ink } => {
                self.begin(ink);
                self.circle(*at, *radius);
                self.finish(ink);
            }
            Mark::Text { at, anchor, size, bold, colour, words } => {
                let glyphs: Vec<Glyph> = words.chars().map(|s| fonts.glyph(s, *bold)).collect();
                let width = glyphs.iter().map(|glyph| glyph.advance).sum::<f64>() * size;
                let back = match anchor {
                    Anchor::Start => 0.0,
                    Anchor::Middle => width / 2.0,
                    Anchor::End => width,
                };
                self.fill(colour);
                self.text((at.0 - back, at.1), *size, &glyphs, used);
            }
        }
    }

    fn outline(&mut self, steps: &[Step]) {
        let (mut now, mut began) = ((0.0, 0.0), (0.0, 0.0));
        for step in steps {
            let to = match *step {
                Step::Move(x, y) | Step::Line(x, y) => (x, y),
                Step::Across(x) => (x, now.1),
                Step::Along(y) => (now.0, y),
                Step::Close => began,
            };
            let (x, y) = self.at(to);
            match step {
                Step::Move(..) => {
                    began = to;
                    self.content.move_to(x, y);
                }
                Step::Close => {
                    self.content.close_path();
                }
                Step::Line(..) | Step::Across(_) | Step::Along(_) => {
                    self.content.line_to(x, y);
                }
            }
            now = to;
        }
    }

    fn circle(&mut self, (x, y): (f64, f64), r: f64) {
        let h = r * HANDLE;
        let curves = [
            [(x + r, y + h), (x + h, y + r), (x, y + r)],
            [(x - h, y + r), (x - r, y + h), (x - r, y)],
            [(x - r, y - h), (x - h, y - r), (x, y - r)],
            [(x + h, y - r), (x + r, y - h), (x + r, y)],
        ];
        let (from_x, from_y) = self.at((x + r, y));
        self.content.move_to(from_x, from_y);
        for curve in curves {
            let [one, two, end] = curve.map(|place| self.at(place));
            self.content.cubic_to(one.0, one.1, two.0, two.1, end.0, end.1);
        }
        self.content.close_path();
    }

    /// One piece for each font, each where the one before ends.
    fn text(&mut self, (mut x, y): (f64, f64), size: f64, glyphs: &[Glyph], used: &mut Used) {
        self.content.begin_text();
        for piece in glyphs.chunk_by(|a, b| a.font == b.font) {
            let Some(first) = piece.first() else { continue };
            let font: Font = first.font;
            let words: Vec<u8> =
                piece.iter().flat_map(|glyph| used.note(glyph).to_be_bytes()).collect();
            let (at_x, at_y) = self.at((x, y));
            self.content.set_font(Name(font.name().as_bytes()), size as f32);
            self.content.set_text_matrix([1.0, 0.0, 0.0, 1.0, at_x, at_y]);
            self.content.show(Str(&words));
            x += piece.iter().map(|glyph| glyph.advance).sum::<f64>() * size;
        }
        self.content.end_text();
    }
}
