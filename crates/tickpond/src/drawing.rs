//! Drawings to files: the command line and the workbench write the same.

use std::path::Path;

use tickpond_draw::{Drawing, Wanted, drawing_named};
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

/// A drawing of a run, by its name, as the bytes of a file.
pub fn of_run(
    run: &Run,
    what: &str,
    wanted: &Wanted<'_>,
    format: Format,
) -> Result<Vec<u8>, Failure> {
    let Some(kind) = drawing_named(what) else {
        return Err(Failure::wrong(format!("there is no drawing `{what}`")));
    };
    bytes(&(kind.draw)(run, wanted), format)
}

/// A drawing as the bytes of a file.
pub fn bytes(drawing: &Drawing, format: Format) -> Result<Vec<u8>, Failure> {
    Ok(match format {
        Format::Svg => tickpond_draw::to_svg(drawing).into_bytes(),
        Format::Pdf => tickpond_draw::to_pdf(drawing).map_err(Failure::wrong)?,
    })
}
