//! Reading texts: files alone, of a size that can be worked with.

use std::fs::File;
use std::io::{self, Read};
use std::path::Path;

/// Most bytes of a text: far more than anybody writes.
pub const MOST_BYTES: u64 = 64 << 20;

/// Reads a whole text.
///
/// # Errors
/// What the system reports; that it is no file (a pipe would be waited for, a device has no end), is too large, or is
/// no UTF-8.
pub fn read_text(path: &Path) -> io::Result<String> {
    String::from_utf8(read_bytes(path)?)
        .map_err(|_| io::Error::new(io::ErrorKind::InvalidData, "it is not UTF-8"))
}

/// The same for what need not be a text.
///
/// # Errors
/// As [`read_text`].
pub fn read_bytes(path: &Path) -> io::Result<Vec<u8>> {
    // Looked at before it is opened: opening a pipe waits for whoever writes to it. A shell's own pipes have a writer.
    let there = std::fs::metadata(path)?;
    if !there.is_file() && !is_given_by_shell(path) {
        let words = if there.is_dir() { "it is a folder" } else { "it is no file" };
        return Err(io::Error::new(io::ErrorKind::InvalidInput, words));
    }
    let mut bytes = Vec::new();
    File::open(path)?.take(MOST_BYTES + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > MOST_BYTES {
        let words = format!("it is larger than {} MiB", MOST_BYTES >> 20);
        return Err(io::Error::new(io::ErrorKind::FileTooLarge, words));
    }
    Ok(bytes)
}

fn is_given_by_shell(path: &Path) -> bool {
    path == Path::new("/dev/stdin")
        || path.starts_with("/dev/fd")
        || path.starts_with("/proc/self/fd")
}

#[cfg(all(test, unix))]
mod tests {
    use super::*;

    #[test]
    fn what_has_no_end_or_no_writer_is_not_waited_for() {
        let folder = tempfile::tempdir().unwrap();
        let pipe = folder.path().join("a.pond");
        assert!(std::process::Command::new("mkfifo").arg(&pipe).status().unwrap().success());
        assert!(read_text(&pipe).unwrap_err().to_string().contains("no file"));
        assert!(read_text(Path::new("/dev/zero")).unwrap_err().to_string().contains("no file"));
        assert!(read_text(folder.path()).unwrap_err().to_string().contains("folder"));
        let large = folder.path().join("large.pond");
        File::create(&large).unwrap().set_len(MOST_BYTES + 1).unwrap();
        assert!(read_text(&large).unwrap_err().to_string().contains("larger than 64 MiB"));
    }
}
