//! `tickpond new FILE`

use std::io::Write;
use std::path::PathBuf;

use clap::Args;

use super::say::complain;
use crate::failure::Failure;
use crate::ponds;

#[derive(Args)]
pub struct NewArgs {
    /// The file to write; it must not exist yet
    file: PathBuf,
}

/// Writes a starter pond; never over something that is there.
pub fn new(args: &NewArgs) -> Result<(), Failure> {
    let file = std::fs::OpenOptions::new().write(true).create_new(true).open(&args.file);
    file.and_then(|mut file| file.write_all(ponds::STARTER.as_bytes()))
        .map_err(|e| Failure::writing(&args.file, &e))?;
    complain(&format!("wrote {0}; open it with `tickpond open {0}`", args.file.display()));
    Ok(())
}
