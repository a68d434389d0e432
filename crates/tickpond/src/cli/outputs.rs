//! Files a command writes: opened before the work begins, written beside what is there, and put in its place when all
//! of it is written. A command that fails leaves the last good file.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};

use crate::failure::Failure;
use crate::same::is_same;
use crate::writing::Beside;

/// A file that is being written.
pub struct Output {
    path: PathBuf,
    /// What takes its place; `None` if it is written to as it is, such as a pipe.
    beside: Option<Beside>,
}

impl Output {
    /// Opens a file to be written.
    ///
    /// # Errors
    /// [`Failure`] if it cannot be written, or is one of those that the command reads or writes otherwise.
    pub fn open(path: &Path, others: &[&Path]) -> Result<Output, Failure> {
        if let Some(other) = others.iter().find(|other| is_same(path, other)) {
            return Err(Failure::wrong(format!(
                "{} would be written over {}\nhelp: choose another name",
                path.display(),
                other.display()
            )));
        }
        let failed = |e: io::Error| Failure::writing(path, &e);
        let there = std::fs::metadata(path).ok();
        if there.as_ref().is_some_and(|there| there.is_dir()) {
            return Err(Failure::wrong(format!(
                "{} is a folder\nhelp: choose a file",
                path.display()
            )));
        }
        if there.as_ref().is_some_and(|there| !there.is_file()) {
            return Ok(Output { path: path.to_path_buf(), beside: None });
        }
        // What may not be written over is told before the work begins.
        let beside = Beside::new(path).map_err(failed)?;
        Ok(Output { path: path.to_path_buf(), beside: Some(beside) })
    }

    /// Where to write.
    ///
    /// # Errors
    /// [`Failure`] if it cannot be opened.
    pub fn writer(&self) -> Result<BufWriter<File>, Failure> {
        let file = match &self.beside {
            Some(beside) => beside.file().reopen(),
            None => File::options().write(true).open(&self.path),
        };
        Ok(BufWriter::new(file.map_err(|e| Failure::writing(&self.path, &e))?))
    }

    /// Puts what was written in the place of what was there.
    ///
    /// # Errors
    /// [`Failure`] if that cannot be done.
    pub fn keep(self) -> Result<(), Failure> {
        let path = self.path;
        let Some(beside) = self.beside else { return Ok(()) };
        beside.put_in_place().map_err(|e| Failure::writing(&path, &e))
    }

    /// Writes a whole file at once.
    ///
    /// # Errors
    /// As [`Output::keep`].
    pub fn write(self, bytes: &[u8]) -> Result<(), Failure> {
        let mut to = self.writer()?;
        let done = to.write_all(bytes).and_then(|()| to.flush());
        done.map_err(|e| Failure::writing(&self.path, &e))?;
        self.keep()
    }

    /// What a writer reports, as a failure of this file.
    pub fn failed(&self, error: &io::Error) -> Failure {
        Failure::writing(&self.path, error)
    }
}
