//! Whether two names are of one file.

use std::path::Path;

/// Whether two paths lead to one file, be it there or yet to be made. A file that is there may have several names: then the
/// device and its number there decide.
pub fn is_same(a: &Path, b: &Path) -> bool {
    match (identity(a), identity(b)) {
        (Some(a), Some(b)) => a == b,
        (None, None) => place(a).zip(place(b)).is_some_and(|(a, b)| a == b),
        _ => false,
    }
}

/// Which file of which device a path leads to; none if nothing is there.
#[cfg(unix)]
fn identity(path: &Path) -> Option<(u64, u64)> {
    use std::os::unix::fs::MetadataExt;
    std::fs::metadata(path).ok().map(|there| (there.dev(), there.ino()))
}

#[cfg(not(unix))]
fn identity(path: &Path) -> Option<std::path::PathBuf> {
    std::fs::canonicalize(path).ok()
}

/// Where a path leads that is yet to be made. A link that leads nowhere stands for what it names.
fn place(path: &Path) -> Option<std::path::PathBuf> {
    let named = std::fs::read_link(path).map(|to| match path.parent() {
        Some(folder) => folder.join(to),
        None => to,
    });
    let path = named.unwrap_or_else(|_| path.to_path_buf());
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
    let folder = std::fs::canonicalize(folder.unwrap_or(Path::new("."))).ok()?;
    Some(folder.join(path.file_name()?))
}

#[cfg(all(test, unix))]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::itself("a", "a", true)]
    #[case::by_another_way("a", "inner/../a", true)]
    #[case::hard_link("a", "hard", true)]
    #[case::link("a", "soft", true)]
    #[case::another("a", "b", false)]
    #[case::not_there("new", "inner/../new", true)]
    #[case::link_to_what_is_not_there("new", "dangling", true)]
    #[case::two_that_are_not_there("new", "newer", false)]
    #[case::there_and_not("a", "new", false)]
    fn names_of_one_file(#[case] one: &str, #[case] other: &str, #[case] same: bool) {
        let folder = tempfile::tempdir().unwrap();
        let at = |name: &str| folder.path().join(name);
        std::fs::create_dir(at("inner")).unwrap();
        std::fs::write(at("a"), "a").unwrap();
        std::fs::write(at("b"), "a").unwrap();
        std::fs::hard_link(at("a"), at("hard")).unwrap();
        std::os::unix::fs::symlink(at("a"), at("soft")).unwrap();
        std::os::unix::fs::symlink("new", at("dangling")).unwrap();
        assert_eq!(is_same(&at(one), &at(other)), same);
        assert_eq!(is_same(&at(other), &at(one)), same);
    }
}
