//! Drawings of lab results, for print: SVG, and PDF made from the SVG.
//!
//! [`counts`] draws how many of each kind live over time. [`pdf`] turns any drawing into a PDF with
//! real text; the fonts are part of the program, so the same drawing gives the same bytes on every
//! machine.

mod axis;
pub mod counts;
pub mod grid;
pub mod pdf;
mod svg;

pub use counts::draw_counts;
pub use pdf::{PdfError, missing_signs, to_pdf};
