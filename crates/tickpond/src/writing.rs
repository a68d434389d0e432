//! Writing files so that nothing is lost: what is new is written beside the old under a name nobody can foresee, made
//! sure of on the disk, and put in its place.

use std::fs::{File, Metadata};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;

/// A file that is written beside the one whose place it takes.
pub struct Beside {
    /// Where it goes: a link leads to what it stands for.
    target: PathBuf,
    /// What is there, if something is.
    there: Option<Metadata>,
    temp: NamedTempFile,
}

impl Beside {
    /// Makes a new file in the folder of a path.
    ///
    /// # Errors
    /// What the system reports; that the path is no file, or that it is read-only.
    pub fn new(path: &Path) -> io::Result<Beside> {
        // A link stays one: what it leads to is replaced.
        let target = std::fs::canonicalize(path).unwrap_or_else(|_| path.to_path_buf());
        let there = std::fs::metadata(&target).ok();
        if there.as_ref().is_some_and(|there| !there.is_file()) {
            return Err(io::Error::new(io::ErrorKind::InvalidInput, "it is no file"));
        }
        if there.as_ref().is_some_and(|there| there.permissions().readonly()) {
            return Err(io::Error::new(io::ErrorKind::PermissionDenied, "the file is read-only"));
        }
        if there.is_some() {
            // Putting another file in its place would get round this.
            File::options().write(true).open(&target)?;
        }
        let folder = target.parent().filter(|folder| !folder.as_os_str().is_empty());
        let temp = NamedTempFile::new_in(folder.unwrap_or(Path::new(".")))?;
        match &there {
            Some(there) => temp.as_file().set_permissions(there.permissions())?,
            None => open_to_all(temp.as_file())?,
        }
        Ok(Beside { target, there, temp })
    }

    /// The file that is written.
    pub fn file(&self) -> &NamedTempFile {
        &self.temp
    }

    /// Puts it in the place it was made for. A file that has other names, or another owner, is written into, so that
    /// it stays what it is.
    ///
    /// # Errors
    /// What the system reports; what was there is as it was, or, where it had to be written into and that failed, what
    /// is new lies beside it and the error says where.
    pub fn put_in_place(self) -> io::Result<()> {
        self.temp.as_file().sync_all()?;
        if self.there.as_ref().is_some_and(|there| !can_be_replaced(there, self.temp.as_file())) {
            return self.write_into();
        }
        self.temp.persist(&self.target).map_err(|e| e.error)?;
        sync_folder(&self.target);
        Ok(())
    }

    fn write_into(self) -> io::Result<()> {
        let copy = || -> io::Result<()> {
            let mut from = self.temp.reopen()?;
            let mut to = File::options().write(true).truncate(true).open(&self.target)?;
            io::copy(&mut from, &mut to)?;
            to.sync_all()
        };
        copy().map_err(|error| match self.temp.keep() {
            Ok((_, beside)) => {
                let words = format!("{error}; all of the text is in {}", beside.display());
                io::Error::new(error.kind(), words)
            }
            Err(_) => error,
        })
    }

    /// Puts it in the place it was made for, if nothing has come there since.
    ///
    /// # Errors
    /// That something is there, or what the system reports.
    pub fn put_in_free_place(self) -> io::Result<()> {
        self.temp.as_file().sync_all()?;
        self.temp.persist_noclobber(&self.target).map_err(|e| e.error)?;
        sync_folder(&self.target);
        Ok(())
    }
}

/// Writes a whole file: over what is there, which stays as it is if that fails.
///
/// # Errors
/// As [`Beside::new`] and [`Beside::put_in_place`].
pub fn write_whole(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let beside = Beside::new(path)?;
    beside.file().as_file().write_all(bytes)?;
    beside.put_in_place()
}

/// Writes a whole new file, never over one that is there.
///
/// # Errors
/// That something is there, or what the system reports.
pub fn write_new(path: &Path, bytes: &[u8]) -> io::Result<()> {
    if path.symlink_metadata().is_ok() {
        return Err(io::Error::new(io::ErrorKind::AlreadyExists, "it is there already"));
    }
    let beside = Beside::new(path)?;
    beside.file().as_file().write_all(bytes)?;
    beside.put_in_free_place()
}

/// Whether another file can take this one's place without taking a name or its owner from it.
#[cfg(unix)]
fn can_be_replaced(there: &Metadata, by: &File) -> bool {
    use std::os::unix::fs::MetadataExt;
    let Ok(new) = by.metadata() else { return false };
    if there.nlink() > 1 {
        return false;
    }
    (there.uid(), there.gid()) == (new.uid(), new.gid())
        || std::os::unix::fs::fchown(by, Some(there.uid()), Some(there.gid())).is_ok()
}

#[cfg(not(unix))]
fn can_be_replaced(_: &Metadata, _: &File) -> bool {
    true
}

/// So that the new name outlives a loss of power. Where folders cannot be opened there is no need.
fn sync_folder(path: &Path) {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
    if let Ok(folder) = File::open(folder.unwrap_or(Path::new("."))) {
        let _ = folder.sync_all();
    }
}

/// A new file has the permissions that new files have; one written beside has fewer.
#[cfg(unix)]
fn open_to_all(file: &File) -> io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    // What the user takes away from new files, as a file made in the usual way shows.
    let usual =
        tempfile::Builder::new().permissions(PermissionsExt::from_mode(0o666)).tempfile()?;
    file.set_permissions(usual.as_file().metadata()?.permissions())
}

#[cfg(not(unix))]
fn open_to_all(_: &File) -> io::Result<()> {
    Ok(())
}

#[cfg(all(test, unix))]
mod tests {
    use std::os::unix::fs::{MetadataExt, PermissionsExt};

    use super::*;
    use rstest::rstest;

    fn names(folder: &Path) -> Vec<String> {
        let entries = std::fs::read_dir(folder).unwrap().flatten();
        let mut names: Vec<String> =
            entries.map(|e| e.file_name().to_string_lossy().into_owned()).collect();
        names.sort();
        names
    }

    #[rstest]
    fn a_read_only_file_stays_as_it_is() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.pond");
        write_whole(&path, b"one").unwrap();
        std::fs::set_permissions(&path, PermissionsExt::from_mode(0o444)).unwrap();
        assert!(write_whole(&path, b"two").is_err());
        assert_eq!(std::fs::read_to_string(&path).unwrap(), "one");
        assert_eq!(names(folder.path()), ["a.pond"]);
    }

    #[rstest]
    fn what_is_no_file_is_not_written() {
        let folder = tempfile::tempdir().unwrap();
        assert!(write_whole(folder.path(), b"one").is_err());
        #[cfg(target_os = "linux")]
        assert!(write_whole(Path::new("/dev/full"), b"one").is_err());
    }

    #[rstest]
    fn a_link_stays_one_and_its_file_is_written() {
        let folder = tempfile::tempdir().unwrap();
        let (file, link) = (folder.path().join("a.pond"), folder.path().join("b.pond"));
        write_whole(&file, b"one").unwrap();
        std::os::unix::fs::symlink(&file, &link).unwrap();
        write_whole(&link, b"two").unwrap();
        assert!(std::fs::symlink_metadata(&link).unwrap().is_symlink());
        assert_eq!(std::fs::read_to_string(&file).unwrap(), "two");
    }

    #[rstest]
    #[case::saving(".saving")]
    #[case::new(".new")]
    #[case::tilde("~")]
    fn a_link_laid_out_beside_it_is_not_followed(#[case] ending: &str) {
        let folder = tempfile::tempdir().unwrap();
        let (path, own) = (folder.path().join("a.pond"), folder.path().join("own"));
        std::fs::write(&own, "not for anybody").unwrap();
        let laid_out = folder.path().join(format!("a.pond{ending}"));
        std::os::unix::fs::symlink(&own, &laid_out).unwrap();
        write_whole(&path, b"one").unwrap();
        write_whole(&path, b"two").unwrap();
        assert_eq!(std::fs::read_to_string(&own).unwrap(), "not for anybody");
        assert_eq!(std::fs::read_to_string(&path).unwrap(), "two");
    }

    #[rstest]
    fn mode_and_other_names_are_kept() {
        let folder = tempfile::tempdir().unwrap();
        let (path, other) = (folder.path().join("a.pond"), folder.path().join("other.pond"));
        std::fs::write(&path, "one and much more").unwrap();
        std::fs::set_permissions(&path, PermissionsExt::from_mode(0o640)).unwrap();
        write_whole(&path, b"two").unwrap();
        assert_eq!(std::fs::metadata(&path).unwrap().mode() & 0o777, 0o640);
        std::fs::hard_link(&path, &other).unwrap();
        write_whole(&path, b"three").unwrap();
        assert_eq!(std::fs::read_to_string(&other).unwrap(), "three");
        assert_eq!(names(folder.path()), ["a.pond", "other.pond"]);
    }

    #[rstest]
    fn a_new_file_is_never_written_over_another() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.pond");
        write_new(&path, b"one").unwrap();
        let error = write_new(&path, b"two").unwrap_err();
        assert_eq!(error.kind(), io::ErrorKind::AlreadyExists);
        // Nor one that comes there meanwhile.
        let late = folder.path().join("b.pond");
        let beside = Beside::new(&late).unwrap();
        std::fs::write(&late, "theirs").unwrap();
        assert!(beside.put_in_free_place().is_err());
        assert_eq!(std::fs::read_to_string(&late).unwrap(), "theirs");
    }
}
