//! A drawing as a PDF of one page, written from its marks: text stays text, fonts are embedded.

mod content;
mod embed;
mod error;

pub use error::PdfError;

use pdf_writer::{Content, Filter, Finish, Name, Pdf, Rect, Ref, TextStr};

use crate::drawing::Drawing;
use crate::fonts::{FONTS, Font};
use embed::Used;
use error::LONGEST;

/// Where the objects of the file are.
struct Refs {
    catalog: Ref,
    pages: Ref,
    page: Ref,
    content: Ref,
    info: Ref,
    next: i32,
}

impl Refs {
    fn take(&mut self) -> Ref {
        self.next += 1;
        Ref::new(self.next)
    }
}

/// The drawing as a PDF of one page of the drawing's size. Fonts come from the program alone, so the same drawing
/// gives the same bytes.
///
/// # Errors
/// [`PdfError`] if the drawing is of a size no page can have.
pub fn to_pdf(drawing: &Drawing) -> Result<Vec<u8>, PdfError> {
    let (width, height) = (drawing.width, drawing.height);
    if ![width, height].iter().all(|side| (1.0..=LONGEST).contains(side)) {
        return Err(PdfError::Size(width, height));
    }
    let fonts = &*FONTS;
    let mut used = Used::default();
    let mut content = Content::new();
    let shares = content::draw(drawing, fonts, &mut used, &mut content);

    let [catalog, pages, page, content_at, info] = [1, 2, 3, 4, 5].map(Ref::new);
    let mut refs = Refs { catalog, pages, page, content: content_at, info, next: 5 };
    let mut pdf = Pdf::new();
    pdf.catalog(refs.catalog).pages(refs.pages);
    pdf.pages(refs.pages).kids([refs.page]).count(1);
    pdf.document_info(refs.info).title(TextStr(&drawing.title)).producer(TextStr("Tick Pond"));
    let embedded: Vec<(Font, Ref)> = used.fonts().map(|font| (font, refs.take())).collect();
    let mut sheet = pdf.page(refs.page);
    sheet.media_box(Rect::new(0.0, 0.0, width as f32, height as f32));
    sheet.parent(refs.pages).contents(refs.content);
    let mut resources = sheet.resources();
    let mut names = resources.fonts();
    for (font, at) in &embedded {
        names.pair(Name(font.name().as_bytes()), *at);
    }
    names.finish();
    let mut states = resources.ext_g_states();
    for (name, share) in &shares {
        let mut state = states
            .insert(Name(name.as_bytes()))
            .start::<pdf_writer::writers::ExtGraphicsState<'_>>();
        state.non_stroking_alpha(*share);
    }
    states.finish();
    resources.finish();
    sheet.finish();
    let stream = miniz_oxide::deflate::compress_to_vec_zlib(&content.finish(), 6);
    pdf.stream(refs.content, &stream).filter(Filter::FlateDecode);
    for (font, at) in embedded {
        let parts = [(); 4].map(|()| refs.take());
        used.embed(font, fonts, at, parts, &mut pdf)?;
    }
    Ok(pdf.finish())
}
