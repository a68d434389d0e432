//! Where the workbench keeps its own things: the last pond, and texts saved from a crash.

use std::io;
use std::path::{Path, PathBuf};

use etcetera::{BaseStrategy, choose_base_strategy};

fn folder() -> Option<PathBuf> {
    let strategy = choose_base_strategy().ok()?;
    Some(strategy.state_dir().unwrap_or_else(|| strategy.data_dir()).join("tickpond"))
}

/// The pond that was open last.
pub fn last_pond() -> Option<PathBuf> {
    let path = std::fs::read_to_string(folder()?.join("last-pond")).ok()?;
    Some(PathBuf::from(path.trim_end_matches('\n')))
}

/// Notes the pond that is open. Not being able to is no reason not to open it.
pub fn remember_pond(path: &Path) {
    let Some(folder) = folder() else { return };
    let absolute = std::path::absolute(path).unwrap_or_else(|_| path.to_path_buf());
    let _ = std::fs::create_dir_all(&folder).and_then(|()| {
        std::fs::write(folder.join("last-pond"), format!("{}\n", absolute.display()))
    });
}

/// Writes a text that would be lost, and tells where it is.
pub fn rescue(name: &str, text: &str) -> Option<PathBuf> {
    let folder = folder().unwrap_or_else(std::env::temp_dir);
    std::fs::create_dir_all(&folder).ok()?;
    let path = folder.join(format!("rescued-{name}"));
    std::fs::write(&path, text).ok()?;
    Some(path)
}

/// Writes a file all at once: beside it first, so that a full disk does not cost the old text.
/// Links are followed and permissions kept.
///
/// # Errors
/// Whatever the system reports, or that the file is read-only; the old file is as it was.
pub fn write_whole(path: &Path, text: &str) -> io::Result<()> {
    let target = std::fs::canonicalize(path).unwrap_or_else(|_| path.to_path_buf());
    let permissions = std::fs::metadata(&target).ok().map(|m| m.permissions());
    // Putting another file in its place would get round this.
    if permissions.as_ref().is_some_and(std::fs::Permissions::readonly) {
        return Err(io::Error::new(io::ErrorKind::PermissionDenied, "the file is read-only"));
    }
    let mut name = target.file_name().unwrap_or_default().to_os_string();
    name.push(".saving");
    let beside = target.with_file_name(name);
    let written = std::fs::write(&beside, text)
        .and_then(|()| match permissions {
            Some(permissions) => std::fs::set_permissions(&beside, permissions),
            None => Ok(()),
        })
        .and_then(|()| std::fs::rename(&beside, &target));
    if written.is_err() {
        let _ = std::fs::remove_file(&beside);
    }
    written
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_read_only_file_stays_as_it_is() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.pond");
        write_whole(&path, "one").unwrap();
        let mut permissions = std::fs::metadata(&path).unwrap().permissions();
        permissions.set_readonly(true);
        std::fs::set_permissions(&path, permissions).unwrap();
        assert!(write_whole(&path, "two").is_err());
        assert_eq!(std::fs::read_to_string(&path).unwrap(), "one");
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);
    }
}
