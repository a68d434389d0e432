//! What is typed and not saved is kept against a crash, for each window by itself; what a window left behind that did
//! not end well is offered to the next.

use std::fs::{File, TryLockError};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use tempfile::{Builder, NamedTempFile};
use tickpond_lab::Recipe;

use super::places;

/// What was kept of a text.
#[derive(Serialize, Deserialize)]
struct Kept {
    /// The file it belongs to, for people; none for one without.
    path: Option<String>,
    /// What was in the file when this was typed into its text, as [`fingerprint`] has it.
    #[serde(default)]
    base: Option<u64>,
    text: String,
    /// What it takes to play again what was left behind, the oldest first.
    #[serde(default)]
    branches: Vec<Arc<Recipe>>,
}

/// A text that was left behind.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Left {
    pub text: String,
    /// What was in the pond's file when it was typed; none if it had none, or that is not known.
    pub base: Option<u64>,
    /// The branches that were kept with it.
    pub branches: Vec<Arc<Recipe>>,
    /// The file it is kept in.
    pub(super) file: PathBuf,
}

/// Keeps the text of one window.
#[derive(Default)]
pub struct Recovery {
    window: Option<Window>,
    /// Held as long as the document is open.
    _open: Option<File>,
}

/// Where a window keeps its text. That it is alive is told by a lock, which ends with the program however that ends.
struct Window {
    whose: u64,
    text: PathBuf,
    lock: PathBuf,
    _held: File,
}

impl Drop for Window {
    fn drop(&mut self) {
        // The lock of a text that is kept on is left with it; nobody holds it any more.
        if !self.text.exists() {
            let _ = std::fs::remove_file(&self.lock);
        }
    }
}

/// What tells one document from another: its file, or its name if it has none.
fn whose(path: Option<&Path>, name: &str) -> u64 {
    let bytes: Vec<u64> = match path {
        Some(path) => {
            let path = std::fs::canonicalize(path).unwrap_or_else(|_| places::absolute(path));
            path.as_os_str().as_encoded_bytes().iter().map(|b| u64::from(*b)).collect()
        }
        None => name.bytes().map(u64::from).collect(),
    };
    tickpond_sim::luck::hash(&bytes)
}

/// Tells what is in a file from what was in it.
pub fn fingerprint(bytes: &[u8]) -> u64 {
    let words = bytes.chunks(8).map(|chunk| {
        let mut word = [0; 8];
        word[..chunk.len()].copy_from_slice(chunk);
        u64::from_le_bytes(word)
    });
    let all: Vec<u64> = words.chain([bytes.len() as u64]).collect();
    tickpond_sim::luck::hash(&all)
}

fn folder() -> io::Result<PathBuf> {
    let none = || io::Error::new(io::ErrorKind::NotFound, "there is no folder for it");
    let folder = places::folder().ok_or_else(none)?.join("unsaved");
    std::fs::create_dir_all(&folder)?;
    Ok(folder)
}

impl Recovery {
    /// Notes that a document is open; false if it is open in another window, too.
    pub fn open(&mut self, path: Option<&Path>, name: &str) -> bool {
        self.window = None;
        self._open = None;
        // Without a file nobody writes over the other.
        if path.is_none() {
            return true;
        }
        let Ok(folder) = folder() else { return true };
        let lock = File::create(folder.join(format!("{:016x}.open", whose(path, name))));
        let Ok(lock) = lock else { return true };
        let is_alone = !matches!(lock.try_lock(), Err(TryLockError::WouldBlock));
        self._open = Some(lock);
        is_alone
    }

    /// Keeps an unsaved text.
    ///
    /// # Errors
    /// What the system reports; typing goes on.
    pub fn keep(
        &mut self,
        path: Option<&Path>,
        name: &str,
        text: &str,
        base: Option<u64>,
        branches: &[Arc<Recipe>],
    ) -> io::Result<()> {
        let whose = whose(path, name);
        let window = match self.window.take().filter(|window| window.whose == whose) {
            Some(window) => window,
            None => begin(whose)?,
        };
        let kept = Kept {
            path: path.map(|path| places::absolute(path).display().to_string()),
            base,
            text: text.to_string(),
            branches: branches.to_vec(),
        };
        // Whole at every moment; that it may be lost with the power is the price of keeping it this often.
        let mut beside = NamedTempFile::new_in(folder()?)?;
        serde_json::to_writer(&mut beside, &kept)?;
        beside.persist(&window.text).map_err(|e| e.error)?;
        self.window = Some(window);
        Ok(())
    }

    /// Forgets what this window keeps: it is saved, or not wanted.
    pub fn forget(&mut self) {
        if let Some(window) = &self.window {
            let _ = std::fs::remove_file(&window.text);
        }
        self.window = None;
    }
}

/// A new place for a window's text.
fn begin(whose: u64) -> io::Result<Window> {
    let folder = folder()?;
    let prefix = format!("{whose:016x}-");
    let named = Builder::new().prefix(&prefix).suffix(".lock").tempfile_in(&folder)?;
    let (held, lock) = named.keep().map_err(|e| e.error)?;
    held.try_lock().map_err(|_| io::Error::other("it cannot be locked"))?;
    Ok(Window { whose, text: lock.with_extension("json"), lock, _held: held })
}

/// The newest text that a window left behind, if it is not what is in the file. What is in the file is not offered, and
/// forgotten.
pub fn left_behind(path: Option<&Path>, name: &str, text: &str) -> Option<Left> {
    let prefix = format!("{:016x}-", whose(path, name));
    let entries = std::fs::read_dir(folder().ok()?).ok()?;
    let mut files: Vec<(std::time::SystemTime, PathBuf)> = entries
        .flatten()
        .map(|entry| entry.path())
        .filter(|file| file.extension().is_some_and(|end| end == "json"))
        .filter(|file| file.file_name().is_some_and(|n| n.to_string_lossy().starts_with(&prefix)))
        .filter_map(|file| Some((std::fs::metadata(&file).and_then(|m| m.modified()).ok()?, file)))
        .collect();
    files.sort();
    files.into_iter().rev().find_map(|(_, file)| {
        if is_alive(&file) {
            return None;
        }
        let kept: Kept = serde_json::from_slice(&std::fs::read(&file).ok()?).ok()?;
        let left = Left { text: kept.text, base: kept.base, branches: kept.branches, file };
        // A byte before the first letter is none that was typed.
        if left.text.trim_start_matches('\u{feff}') == text.trim_start_matches('\u{feff}') {
            left.forget();
            return None;
        }
        Some(left)
    })
}

/// Whether the window that keeps a text is open.
fn is_alive(file: &Path) -> bool {
    let lock = File::open(file.with_extension("lock"));
    lock.is_ok_and(|lock| matches!(lock.try_lock(), Err(TryLockError::WouldBlock)))
}

impl Left {
    /// What was taken up is kept by its new window.
    pub fn forget(&self) {
        let _ = std::fs::remove_file(&self.file);
        let _ = std::fs::remove_file(self.file.with_extension("lock"));
    }

    /// Puts it where it is offered no more, and tells where: the only copy is never deleted.
    ///
    /// # Errors
    /// What the system reports; it is where it was.
    pub fn set_aside(&self, name: &str) -> io::Result<PathBuf> {
        let path = rescue(name, &self.text)?;
        self.forget();
        Ok(path)
    }
}

/// Writes a text that would be lost, and tells where it is.
///
/// # Errors
/// What the system reports.
pub fn rescue(name: &str, text: &str) -> io::Result<PathBuf> {
    let folder = places::folder().unwrap_or_else(std::env::temp_dir);
    std::fs::create_dir_all(&folder)?;
    let prefix = format!("{}-", name.trim_end_matches(".pond"));
    let mut file = Builder::new().prefix(&prefix).suffix(".pond").tempfile_in(&folder)?;
    io::Write::write_all(&mut file, text.as_bytes())?;
    let (_, path) = file.keep().map_err(|e| e.error)?;
    Ok(path)
}
