//! Why a drawing could not become a PDF.

use thiserror::Error;

/// The longest side a page can have, in points (ISO 32000-1, annex C).
pub(super) const LONGEST: f64 = 14_400.0;

/// Why a drawing could not become a PDF.
#[derive(Debug, Error)]
pub enum PdfError {
    /// The page cannot be made.
    #[error(
        "a page of {0} x {1} points cannot be made: its sides may be 1 to {LONGEST} points long"
    )]
    Size(f64, f64),
    /// A font of the program cannot be embedded.
    #[error("the font {0} cannot be embedded: {1}")]
    Font(&'static str, String),
}
