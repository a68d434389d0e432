//! Drawings to files: the command line and the workbench write the same.

use std::path::Path;

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

/// Writes the counts of a run.
pub fn write_drawing(run: &Run, path: &Path, format: Format) -> Result<(), Failure> {
    let svg = tickpond_draw::draw_counts(run);
    let bytes = match format {
        Format::Svg => svg.into_bytes(),
        Format::Pdf => tickpond_draw::to_pdf(&svg).map_err(Failure::wrong)?,
    };
    std::fs::write(path, bytes).map_err(|e| Failure::writing(path, &e))
}
