//! `tickpond new FILE`

use std::path::PathBuf;

use clap::Args;

use super::say::complain;
use crate::failure::Failure;
use crate::ponds;
use crate::writing::write_new;

#[derive(Args)]
pub struct NewArgs {
    /// The file to write; it must not exist yet
    file: PathBuf,
}

/// Writes a starter pond; never over something that is there, and all of it or nothing.
pub fn new(args: &NewArgs) -> Result<(), Failure> {
    write_new(&args.file, ponds::STARTER.as_bytes())
        .map_err(|e| Failure::writing(&args.file, &e))?;
    complain(&format!("wrote {0}; open it with `tickpond open {0}`", args.file.display()));
    Ok(())
}
