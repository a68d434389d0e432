//! Drawings of lab results, for print: marks on a page, written as SVG and as PDF.
//!
//! A drawing is a list of marks ([`drawing`]). [`DRAWINGS`] lists those of a run by name, with what is [`Wanted`] of them; [`grid`]
//! draws a screen of characters. [`to_svg`] and [`to_pdf`] write any drawing; both keep text as text. The fonts are part of
//! the program ([`outline`] gives their letters to whoever paints, [`missing_signs`] tells what they lack), so the same drawing gives the same bytes on every machine.

mod arena;
mod axis;
mod changes;
pub mod colours;
mod competing;
pub mod counts;
pub mod drawing;
mod ends;
mod family;
mod fonts;
pub mod grid;
mod happened;
mod labels;
mod lifelines;
mod lifetimes;
pub mod of_run;
pub mod outline;
mod over_time;
pub mod pdf;
mod pens;
mod plot;
mod report;
mod svg;
mod tick;
mod wanted;

pub use counts::draw_counts;
pub use drawing::Drawing;
pub use fonts::missing_signs;
pub use of_run::{DRAWINGS, Ticks, drawing_named, prepare};
pub use pdf::{PdfError, to_pdf};
pub use svg::{fit_for_xml, to_svg};
pub use wanted::{Beside, Prepared, Wanted, Way};
