//! Drawings to files: the command line and the workbench write the same.

use std::path::Path;

use tickpond_draw::{Drawing, Wanted, drawing_named, missing_signs};
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

/// A drawing of a run, by its name.
pub fn of_run(run: &Run, what: &str, wanted: &Wanted<'_>) -> Result<Drawing, Failure> {
    match drawing_named(what) {
        Some(kind) => Ok((kind.draw)(run, wanted)),
        None => Err(Failure::wrong(format!("there is no drawing `{what}`"))),
    }
}

/// What is said of signs that a PDF has an empty box for; nothing if it has all, or in SVG.
pub fn without_picture(drawing: &Drawing, format: Format) -> Option<String> {
    let missing = missing_signs(drawing.texts());
    let signs: Vec<String> = missing.iter().map(char::to_string).collect();
    let told = format == Format::Pdf && !signs.is_empty();
    told.then(|| format!("the PDF has no picture for {}", signs.join(" ")))
}

/// A drawing as the bytes of a file.
pub fn bytes(drawing: &Drawing, format: Format) -> Result<Vec<u8>, Failure> {
    Ok(match format {
        Format::Svg => tickpond_draw::to_svg(drawing).into_bytes(),
        Format::Pdf => tickpond_draw::to_pdf(drawing).map_err(Failure::wrong)?,
    })
}
