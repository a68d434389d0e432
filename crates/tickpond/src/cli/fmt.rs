//! `tickpond fmt PATH...`

use std::path::PathBuf;

use clap::Args;
use tickpond_lang::format::format;
use tickpond_lang::lines::LineIndex;

use super::check::ponds_in;
use super::say::{colour, complain, complain_as_it_is, print};
use crate::failure::{Code, Failure, read_text};
use crate::show;
use crate::writing::write_whole;

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
    let found = ponds_in(&args.paths);
    worst = worst.or(found.unread);
    for file in found.ponds {
        let text = match read_text(&file) {
            Ok(text) => text,
            Err(failure) => {
                // The others are formatted all the same.
                complain(&format!("error: {}", failure.words));
                worst = Some(failure.code);
                continue;
            }
        };
        let name = file.display().to_string();
        match format(&text) {
            Ok(formatted) if formatted == text => {}
            Ok(_) if args.check => {
                print(&format!("{name}\n"))?;
                worst = worst.or(Some(Code::Expectation));
            }
            Ok(formatted) => {
                if let Err(error) = write_whole(&file, formatted.as_bytes()) {
                    complain(&format!("error: {}", Failure::writing(&file, &error).words));
                    worst = Some(Code::Files);
                    continue;
                }
                print(&format!("{name}\n"))?;
            }
            Err(diagnostics) => {
                let lines = LineIndex::new(&text);
                let told = show::diagnostics(&name, &text, &lines, &diagnostics, colour());
                complain_as_it_is(told.trim_end_matches('\n'));
                complain(&format!("{name}: left as it is"));
                worst = Some(Code::Wrong);
            }
        }
    }
    worst.map_or(Ok(()), |code| Err(Failure::said(code)))
}
