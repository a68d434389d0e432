//! The fonts of drawings, which are part of the program: the same drawing is the same on every machine.

use std::sync::LazyLock;

use ttf_parser::Face;

const REGULAR: &[u8] = include_bytes!("../assets/Inter-Regular.ttf");
const SEMI_BOLD: &[u8] = include_bytes!("../assets/Inter-SemiBold.ttf");
/// For the signs that letters alone do not have: stars, arrows, frames.
const SIGNS: &[u8] = include_bytes!("../assets/DejaVuSans.ttf");

/// One of the fonts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Font {
    Regular,
    SemiBold,
    Signs,
}

impl Font {
    /// All of them, in the order of their places.
    pub const ALL: [Font; 3] = [Font::Regular, Font::SemiBold, Font::Signs];

    /// The font file.
    pub fn data(self) -> &'static [u8] {
        match self {
            Font::Regular => REGULAR,
            Font::SemiBold => SEMI_BOLD,
            Font::Signs => SIGNS,
        }
    }

    /// Its name in a file.
    pub fn name(self) -> &'static str {
        match self {
            Font::Regular => "Inter-Regular",
            Font::SemiBold => "Inter-SemiBold",
            Font::Signs => "DejaVuSans",
        }
    }
}

/// A sign of a text, as a font has it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Glyph {
    pub font: Font,
    /// The glyph's place in the font; 0 is the empty box for a sign that no font has.
    pub id: u16,
    /// How far the next stands behind it, as a share of the size of the letters.
    pub advance: f64,
    pub sign: char,
}

/// The fonts of the program, read once.
pub(crate) static FONTS: LazyLock<Fonts> = LazyLock::new(Fonts::new);

/// The fonts, ready to be asked.
pub(crate) struct Fonts {
    faces: [Option<Face<'static>>; 3],
}

impl Fonts {
    /// Reads all of them.
    fn new() -> Fonts {
        Fonts { faces: Font::ALL.map(|font| Face::parse(font.data(), 0).ok()) }
    }

    /// A font, if it can be read.
    pub fn face(&self, font: Font) -> Option<&Face<'static>> {
        self.faces[font as usize].as_ref()
    }

    fn find(&self, font: Font, sign: char) -> Option<Glyph> {
        let face = self.face(font)?;
        let id = face.glyph_index(sign)?;
        let advance = f64::from(face.glyph_hor_advance(id).unwrap_or(0));
        Some(Glyph { font, id: id.0, advance: advance / f64::from(face.units_per_em()), sign })
    }

    /// The glyph of a sign: of the letters if they have it, else of the signs, else an empty box.
    pub fn glyph(&self, sign: char, bold: bool) -> Glyph {
        let letters = if bold { Font::SemiBold } else { Font::Regular };
        let found = self.find(letters, sign).or_else(|| self.find(Font::Signs, sign));
        found.unwrap_or(Glyph { font: letters, id: 0, advance: 0.6, sign })
    }

    /// How wide a text is, as a share of the size of its letters.
    pub fn width(&self, text: &str, bold: bool) -> f64 {
        text.chars().map(|sign| self.glyph(sign, bold).advance).sum()
    }

    /// Whether any font has a sign.
    pub fn has(&self, sign: char) -> bool {
        [Font::Regular, Font::Signs].into_iter().any(|font| self.find(font, sign).is_some())
    }
}

/// The signs of these texts that no font of the program has: a PDF has an empty box in their places. In the
/// order in which they come, none twice.
pub fn missing_signs<'t>(texts: impl IntoIterator<Item = &'t str>) -> Vec<char> {
    let fonts = &*FONTS;
    let mut missing = Vec::new();
    for sign in texts.into_iter().flat_map(str::chars).filter(|sign| !sign.is_ascii()) {
        if !missing.contains(&sign) && !fonts.has(sign) {
            missing.push(sign);
        }
    }
    missing
}
