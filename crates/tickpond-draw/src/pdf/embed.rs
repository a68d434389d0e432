//! The part of each font that a page uses, embedded with what its glyphs mean.

use std::collections::BTreeMap;

use pdf_writer::types::{CidFontType, FontFlags, SystemInfo, UnicodeCmap};
use pdf_writer::{Filter, Name, Pdf, Rect, Ref, Str};
use subsetter::GlyphRemapper;

use super::error::PdfError;
use crate::fonts::{Font, Fonts, Glyph};

const ADOBE: SystemInfo<'_> =
    SystemInfo { registry: Str(b"Adobe"), ordering: Str(b"Identity"), supplement: 0 };

/// The glyphs that a page uses.
#[derive(Default)]
pub(super) struct Used {
    fonts: BTreeMap<Font, Glyphs>,
}

#[derive(Default)]
struct Glyphs {
    renumbered: GlyphRemapper,
    /// By the new number: width as a share of the size of the letters, and what it means.
    known: BTreeMap<u16, (f64, Option<char>)>,
}

impl Used {
    /// Notes that a glyph is used; gives its number in the embedded font.
    pub fn note(&mut self, glyph: &Glyph) -> u16 {
        let of_font = self.fonts.entry(glyph.font).or_default();
        let number = of_font.renumbered.remap(glyph.id);
        // An empty box stands for signs that no font has: it means none of them.
        let means = (glyph.id != 0).then_some(glyph.sign);
        of_font.known.entry(number).or_insert((glyph.advance, means));
        number
    }

    /// The fonts of which anything is used.
    pub fn fonts(&self) -> impl Iterator<Item = Font> + '_ {
        self.fonts.keys().copied()
    }

    /// Writes a font: itself, its descendant, descriptor, file and the meaning of its glyphs.
    ///
    /// # Errors
    /// [`PdfError::Font`] if it cannot be read or cut down.
    pub fn embed(
        &self,
        font: Font,
        fonts: &Fonts,
        at: Ref,
        [descendant, descriptor, file, meaning]: [Ref; 4],
        pdf: &mut Pdf,
    ) -> Result<(), PdfError> {
        let failed = |why: &str| PdfError::Font(font.name(), why.to_string());
        let face = fonts.face(font).ok_or_else(|| failed("it cannot be read"))?;
        let glyphs = self.fonts.get(&font).ok_or_else(|| failed("it is not used"))?;
        let part = subsetter::subset(font.data(), 0, &glyphs.renumbered)
            .map_err(|why| failed(&why.to_string()))?;
        // Six capitals mark a font as a part of itself (ISO 32000-1, 9.6.4).
        let name = format!("TKPOND+{}", font.name());
        let name = Name(name.as_bytes());
        pdf.type0_font(at)
            .base_font(name)
            .encoding_predefined(Name(b"Identity-H"))
            .descendant_font(descendant)
            .to_unicode(meaning);
        let mut cid = pdf.cid_font(descendant);
        cid.subtype(CidFontType::Type2).base_font(name).system_info(ADOBE);
        cid.font_descriptor(descriptor).cid_to_gid_map_predefined(Name(b"Identity"));
        cid.default_width(0.0);
        let mut widths = cid.widths();
        for (number, (advance, _)) in &glyphs.known {
            widths.consecutive(*number, [(advance * 1000.0) as f32]);
        }
        drop(widths);
        drop(cid);
        let scale = 1000.0 / f32::from(face.units_per_em());
        let of = |units: i16| f32::from(units) * scale;
        let bounds = face.global_bounding_box();
        pdf.font_descriptor(descriptor)
            .name(name)
            .flags(FontFlags::SYMBOLIC)
            .bbox(Rect::new(of(bounds.x_min), of(bounds.y_min), of(bounds.x_max), of(bounds.y_max)))
            .italic_angle(0.0)
            .ascent(of(face.ascender()))
            .descent(of(face.descender()))
            .cap_height(of(face.capital_height().unwrap_or(face.ascender())))
            .stem_v(if font == Font::SemiBold { 120.0 } else { 80.0 })
            .font_file2(file);
        let packed = miniz_oxide::deflate::compress_to_vec_zlib(&part, 6);
        pdf.stream(file, &packed)
            .filter(Filter::FlateDecode)
            .pair(Name(b"Length1"), part.len() as i32);
        let mut cmap = UnicodeCmap::new(Name(b"TickPond"), ADOBE);
        for (number, (_, means)) in &glyphs.known {
            if let Some(sign) = means {
                cmap.pair(*number, *sign);
            }
        }
        pdf.cmap(meaning, &cmap.finish());
        Ok(())
    }
}
