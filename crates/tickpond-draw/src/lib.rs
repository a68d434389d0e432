//! Drawings of lab results, for print: marks on a page, written as SVG and as PDF.
//!
//! A drawing is a list of marks ([`drawing`]). [`counts`] draws how many of each kind live over time, [`grid`] a
//! screen of characters. [`to_svg`] and [`to_pdf`] write any drawing; both keep text as text. The fonts are part of
//! the program ([`missing_signs`] tells what they lack), so the same drawing gives the same bytes on every machine.

mod axis;
pub mod counts;
pub mod drawing;
mod fonts;
pub mod grid;
pub mod pdf;
mod svg;

pub use counts::draw_counts;
pub use drawing::Drawing;
pub use fonts::missing_signs;
pub use pdf::{PdfError, to_pdf};
pub use svg::to_svg;
