//! Where the workbench keeps its own things, and which ponds were opened.

use std::path::{Path, PathBuf};

use etcetera::{BaseStrategy, choose_base_strategy};

use crate::reading::read_text;
use crate::writing::write_whole;

/// Most ponds that are remembered.
const MOST_RECENT: usize = 12;

/// The folder of what is kept from one start to the next.
pub fn folder() -> Option<PathBuf> {
    // Tests leave what a person has kept alone.
    if cfg!(test) {
        return Some(std::env::temp_dir().join(format!("tickpond-tests-{}", std::process::id())));
    }
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
    // A path a line: one that is no text, or has several lines, cannot be listed.
    let names = recent.iter().filter_map(|path| path.to_str()).filter(|name| !name.contains('\n'));
    let list: String = names.map(|name| format!("{name}\n")).collect();
    let _ = std::fs::create_dir_all(&folder)
        .and_then(|()| write_whole(&folder.join("recent-ponds"), list.as_bytes()));
}

/// The ponds that were opened, the last first; those that are gone are left out.
pub fn recent_ponds() -> Vec<PathBuf> {
    let text = folder().and_then(|f| read_text(&f.join("recent-ponds")).ok());
    let paths = text.unwrap_or_default();
    paths.lines().map(PathBuf::from).filter(|path| path.is_file()).take(MOST_RECENT).collect()
}

/// A path from the root.
pub fn absolute(path: &Path) -> PathBuf {
    std::path::absolute(path).unwrap_or_else(|_| path.to_path_buf())
}
