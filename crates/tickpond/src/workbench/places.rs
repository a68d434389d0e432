//! Where the workbench keeps its own things: the last pond, and texts saved from a crash.

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
