//! Where the workbench keeps its own things: the last pond, and texts saved from a crash.

use std::io;
use std::path::{Path, PathBuf};

use etcetera::{BaseStrategy, choose_base_strategy};
use serde::{Deserialize, Serialize};

/// Most ponds that are remembered.
const MOST_RECENT: usize = 12;

fn folder() -> Option<PathBuf> {
    let strategy = choose_base_strategy().ok()?;
    Some(strategy.state_dir().unwrap_or_else(|| strategy.data_dir()).join("tickpond"))
}

/// Notes the pond that is open. Not being able to is no reason not to open it.
pub fn remember_pond(path: &Path) {
    let Some(folder) = folder() else { return };
    let absolute = absolute(path);
    let mut recent = vec![absolute.clone()];
    recent.extend(recent_ponds().into_iter().filter(|known| *known != absolute));
    recent.truncate(MOST_RECENT);
    let list: String = recent.iter().map(|p| format!("{}\n", p.display())).collect();
    let _ = std::fs::create_dir_all(&folder)
        .and_then(|()| std::fs::write(folder.join("recent-ponds"), list));
}

/// The ponds that were opened, the last first; those that are gone are left out.
pub fn recent_ponds() -> Vec<PathBuf> {
    let text = folder().and_then(|f| std::fs::read_to_string(f.join("recent-ponds")).ok());
    let paths = text.unwrap_or_default();
    paths.lines().map(PathBuf::from).filter(|path| path.is_file()).take(MOST_RECENT).collect()
}

/// What was kept of a text that is being typed, for after a crash.
#[derive(Debug, PartialEq, Serialize, Deserialize)]
struct Kept {
    /// The file it belongs to; none for one without.
    path: Option<PathBuf>,
    /// The process that kept it: while that runs, it is not left behind.
    process: u32,
    text: String,
}

/// Where the text of a pond is kept while it is not saved.
fn kept_at(path: Option<&Path>, name: &str) -> Option<PathBuf> {
    let whose = path.map_or_else(|| name.to_string(), |p| absolute(p).display().to_string());
    let hash = tickpond_sim::luck::hash(&whose.bytes().map(u64::from).collect::<Vec<u64>>());
    Some(folder()?.join("unsaved").join(format!("{hash:016x}.json")))
}

fn absolute(path: &Path) -> PathBuf {
    std::path::absolute(path).unwrap_or_else(|_| path.to_path_buf())
}

/// Keeps an unsaved text. Not being able to is no reason not to go on.
pub fn keep(path: Option<&Path>, name: &str, text: &str) {
    let Some(at) = kept_at(path, name) else { return };
    let kept =
        Kept { path: path.map(absolute), process: std::process::id(), text: text.to_string() };
    let Ok(json) = serde_json::to_string(&kept) else { return };
    let folder = at.parent().map(Path::to_path_buf).unwrap_or_default();
    let _ = std::fs::create_dir_all(folder).and_then(|()| write_whole(&at, &json));
}

/// Forgets what was kept: the text is saved, or not wanted.
pub fn forget(path: Option<&Path>, name: &str) {
    if let Some(at) = kept_at(path, name) {
        let _ = std::fs::remove_file(at);
    }
}

/// The text a program left behind that did not end well, if it differs from this one.
pub fn left_behind(path: Option<&Path>, name: &str, text: &str) -> Option<String> {
    let json = std::fs::read_to_string(kept_at(path, name)?).ok()?;
    let kept: Kept = serde_json::from_str(&json).ok()?;
    let runs = kept.process != std::process::id()
        && Path::new(&format!("/proc/{}", kept.process)).exists();
    (!runs && kept.text != text).then_some(kept.text)
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
    // A pipe or a device is written to; another file must not take its place.
    if std::fs::metadata(&target).is_ok_and(|m| !m.is_file()) {
        return std::fs::write(&target, text);
    }
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

    #[cfg(target_os = "linux")]
    #[test]
    fn what_is_no_file_is_written_to_and_not_replaced() {
        let full = Path::new("/dev/full");
        let before = std::fs::metadata(full).map(|m| m.file_type()).ok();
        assert!(write_whole(full, "one").is_err());
        assert_eq!(std::fs::metadata(full).map(|m| m.file_type()).ok(), before);
    }

    #[test]
    fn a_link_stays_one_and_its_file_is_written() {
        let folder = tempfile::tempdir().unwrap();
        let (file, link) = (folder.path().join("a.pond"), folder.path().join("b.pond"));
        write_whole(&file, "one").unwrap();
        std::os::unix::fs::symlink(&file, &link).unwrap();
        write_whole(&link, "two").unwrap();
        assert!(std::fs::symlink_metadata(&link).unwrap().is_symlink());
        assert_eq!(std::fs::read_to_string(&file).unwrap(), "two");
    }
}
