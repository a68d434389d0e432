//! SVG to PDF with real text.

use std::sync::Arc;

use krilla::Document;
use krilla::geom::Size;
use krilla::page::PageSettings;
use krilla_svg::{SurfaceExt, SvgSettings};
use thiserror::Error;
use usvg::fontdb::Database;

const REGULAR: &[u8] = include_bytes!("../assets/Inter-Regular.ttf");
const SEMI_BOLD: &[u8] = include_bytes!("../assets/Inter-SemiBold.ttf");
/// For the signs that letters alone do not have: stars, arrows, frames.
const SIGNS: &[u8] = include_bytes!("../assets/DejaVuSans.ttf");

/// Why a drawing could not become a PDF.
#[derive(Debug, Error)]
pub enum PdfError {
    /// The SVG cannot be read.
    #[error("the drawing is no SVG that can be read: {0}")]
    Svg(#[from] usvg::Error),
    /// The page cannot be made.
    #[error("the page cannot be made: {0}")]
    Page(String),
}

fn fonts() -> Database {
    let mut fonts = Database::new();
    fonts.load_font_data(REGULAR.to_vec());
    fonts.load_font_data(SEMI_BOLD.to_vec());
    fonts.load_font_data(SIGNS.to_vec());
    fonts.set_sans_serif_family("Inter");
    fonts
}

/// The signs of a drawing's texts that no font of the program has: a PDF has an empty box in their places. In the order
/// in which they come, none twice.
pub fn missing_signs(svg: &str) -> Vec<char> {
    let has = |face: &[u8], sign: char| {
        ttf_parser::Face::parse(face, 0).is_ok_and(|face| face.glyph_index(sign).is_some())
    };
    let mut missing = Vec::new();
    for sign in svg.chars().filter(|sign| !sign.is_ascii()) {
        if !missing.contains(&sign) && !has(REGULAR, sign) && !has(SIGNS, sign) {
            missing.push(sign);
        }
    }
    missing
}

/// The drawing as a PDF of one page of the drawing's size. Fonts come from the program alone.
///
/// # Errors
/// [`PdfError`] if `svg` is no SVG, or of a size no page can have.
pub fn to_pdf(svg: &str) -> Result<Vec<u8>, PdfError> {
    let fonts = fonts();
    let options = usvg::Options {
        fontdb: Arc::new(fonts),
        font_family: "Inter".into(),
        ..usvg::Options::default()
    };
    let tree = usvg::Tree::from_str(svg, &options)?;
    let (width, height) = (tree.size().width(), tree.size().height());
    let size = Size::from_wh(width, height);
    let size = size.ok_or_else(|| PdfError::Page(format!("{width} x {height}")))?;
    let settings = PageSettings::from_wh(width, height);
    let settings = settings.ok_or_else(|| PdfError::Page(format!("{width} x {height}")))?;
    let mut document = Document::new();
    let mut page = document.start_page_with(settings);
    let mut surface = page.surface();
    let drawn =
        surface.draw_svg(&tree, size, SvgSettings { embed_text: true, ..Default::default() });
    surface.finish();
    page.finish();
    if drawn.is_none() {
        return Err(PdfError::Page("the drawing holds something a page cannot".into()));
    }
    document.finish().map_err(|e| PdfError::Page(format!("{e:?}")))
}
