//! Files a command writes: opened before the work begins, written beside what is there, and put in its place when all
//! of it is written. A command that fails leaves the last good file.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use rustix::fs::{Mode, OFlags};
use rustix::io::Errno;

use super::interrupt;
use crate::failure::Failure;
use crate::same::is_same;
use crate::writing::Beside;

/// A file that is being written.
pub struct Output {
    path: PathBuf,
    to: To,
}

enum To {
    /// What takes its place.
    Beside(Box<Beside>),
    /// What is written to as it is, such as a pipe.
    AsItIs(File),
}

/// How long somebody may take to begin to read from a pipe.
const PATIENCE: Duration = Duration::from_secs(2);

/// Opens what is no file. A pipe can be opened when somebody reads from it; whoever has just been started is waited for.
fn open_as_it_is(path: &Path) -> io::Result<File> {
    let began = Instant::now();
    let flags = OFlags::WRONLY | OFlags::NONBLOCK | OFlags::CLOEXEC;
    let open = loop {
        match rustix::fs::open(path, flags, Mode::empty()) {
            Err(Errno::NXIO) if began.elapsed() < PATIENCE && !interrupt::wanted() => {
                std::thread::sleep(Duration::from_millis(20));
            }
            Err(Errno::NXIO) => {
                return Err(io::Error::new(io::ErrorKind::NotConnected, "nobody reads from it"));
            }
            open => break open?,
        }
    };
    // From here on it is waited for whoever reads slowly.
    let flags = rustix::fs::fcntl_getfl(&open)?;
    rustix::fs::fcntl_setfl(&open, flags - OFlags::NONBLOCK)?;
    Ok(File::from(open))
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
            let open = open_as_it_is(path).map_err(failed)?;
            return Ok(Output { path: path.to_path_buf(), to: To::AsItIs(open) });
        }
        // What may not be written over is told before the work begins.
        let beside = Beside::new(path).map_err(failed)?;
        Ok(Output { path: path.to_path_buf(), to: To::Beside(Box::new(beside)) })
    }

    /// Where to write.
    ///
    /// # Errors
    /// [`Failure`] if it cannot be opened.
    pub fn writer(&self) -> Result<BufWriter<File>, Failure> {
        let file = match &self.to {
            To::Beside(beside) => beside.file().reopen(),
            To::AsItIs(open) => open.try_clone(),
        };
        Ok(BufWriter::new(file.map_err(|e| Failure::writing(&self.path, &e))?))
    }

    /// Puts what was written in the place of what was there.
    ///
    /// # Errors
    /// [`Failure`] if that cannot be done.
    pub fn keep(self) -> Result<(), Failure> {
        let path = self.path;
        let To::Beside(beside) = self.to else { return Ok(()) };
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
