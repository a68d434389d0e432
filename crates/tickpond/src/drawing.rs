//! Drawings to files: the command line and the workbench write the same.

use std::path::Path;

use tickpond_draw::{Beside, Drawing, Wanted};
use tickpond_lab::Run;

use crate::failure::Failure;

/// The formats a drawing can be written in.
#[derive(Clone, Copy, PartialEq)]
pub enum Format {
    Svg,
    Pdf,
}

impl Format {
    /// The format a file's ending stands for.
    pub fn of(path: &Path) -> Result<Format, Failure> {
        match path.extension().and_then(|e| e.to_str()).map(str::to_lowercase).as_deref() {
            Some("svg") => Ok(Format::Svg),
            Some("pdf") => Ok(Format::Pdf),
            _ => Err(Failure::wrong(format!(
                "`{}` has no ending that says what to write\nhelp: end it with .svg or .pdf",
                path.display()
            ))),
        }
    }
}

/// The counts of a run as the bytes of a file; with the run before beneath, if that is wanted and there is one.
pub fn counts(run: &Run, beside: bool, format: Format) -> Result<Vec<u8>, Failure> {
    let beside = Beside::before(run).filter(|_| beside);
    let wanted = Wanted { beside, ..Wanted::default() };
    bytes(&tickpond_draw::draw_counts(run, &wanted), format)
}

/// A drawing as the bytes of a file.
pub fn bytes(drawing: &Drawing, format: Format) -> Result<Vec<u8>, Failure> {
    Ok(match format {
        Format::Svg => tickpond_draw::to_svg(drawing).into_bytes(),
        Format::Pdf => tickpond_draw::to_pdf(drawing).map_err(Failure::wrong)?,
    })
}
