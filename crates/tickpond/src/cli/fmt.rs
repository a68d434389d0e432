//! `tickpond fmt PATH...`

use std::path::PathBuf;

use clap::Args;
use tickpond_lang::format::format;
use tickpond_lang::lines::LineIndex;

use super::check::ponds_in;
use super::{colour, complain, print};
use crate::failure::{Code, Failure, read_text};
use crate::show;
use crate::workbench::write_whole;

#[derive(Args)]
pub struct FmtArgs {
    /// Ponds, or folders that are searched for ponds
    #[arg(required = true)]
    paths: Vec<PathBuf>,
    /// Write nothing; list the ponds that are not formatted, and fail if there is one
    #[arg(long)]
    check: bool,
}

/// Formats every pond. One that cannot be read is left as it is; the others are done all the same.
pub fn fmt(args: &FmtArgs) -> Result<(), Failure> {
    let mut worst: Option<Code> = None;
    for file in ponds_in(&args.paths)? {
        let text = read_text(&file)?;
        let name = file.display().to_string();
        match format(&text) {
            Ok(formatted) if formatted == text => {}
            Ok(_) if args.check => {
                print(&format!("{name}\n"))?;
                worst = worst.or(Some(Code::Expectation));
            }
            Ok(formatted) => {
                write_whole(&file, &formatted).map_err(|e| Failure::writing(&file, &e))?;
                print(&format!("{name}\n"))?;
            }
            Err(diagnostics) => {
                let lines = LineIndex::new(&text);
                for d in &diagnostics {
                    complain(&show::diagnostic(&name, &text, &lines, d, colour()));
                }
                complain(&format!("{name}: left as it is"));
                worst = Some(Code::Wrong);
            }
        }
    }
    worst.map_or(Ok(()), |code| Err(Failure::said(code)))
}
