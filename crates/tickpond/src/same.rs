//! Whether two names are of one file.

use std::path::Path;

/// Whether two paths lead to one file, be it there or yet to be made.
pub fn is_same(a: &Path, b: &Path) -> bool {
    let place = |path: &Path| {
        std::fs::canonicalize(path).ok().or_else(|| {
            let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
            let folder = std::fs::canonicalize(folder.unwrap_or(Path::new("."))).ok()?;
            Some(folder.join(path.file_name()?))
        })
    };
    place(a).zip(place(b)).is_some_and(|(a, b)| a == b)
}
