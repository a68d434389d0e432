//! What can go wrong, in words, with the exit code it means.

use std::fmt;
use std::path::Path;

/// Exit codes of the program.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Code {
    /// An expectation failed, findings were denied, or an editor went without taking its leave.
    Expectation = 1,
    /// The pond or the arguments are wrong.
    Wrong = 2,
    /// A guard stopped the run.
    Guard = 3,
    /// Files cannot be read or written.
    Files = 4,
    /// The person wanted to stop.
    Interrupted = 130,
}

/// A failure: what, where, what to do.
#[derive(Debug)]
pub struct Failure {
    /// The exit code.
    pub code: Code,
    /// What to print; empty if it has been printed already.
    pub words: String,
}

impl Failure {
    /// Arguments or a pond that are wrong.
    pub fn wrong(words: impl fmt::Display) -> Failure {
        Failure { code: Code::Wrong, words: words.to_string() }
    }

    /// A failure all about which has been said.
    pub fn said(code: Code) -> Failure {
        Failure { code, words: String::new() }
    }

    /// A file that cannot be read.
    pub fn reading(path: &Path, error: &std::io::Error) -> Failure {
        let help = match error.kind() {
            std::io::ErrorKind::NotFound => {
                "check the name, or write a pond there with `tickpond new`"
            }
            std::io::ErrorKind::PermissionDenied => "you may not read it: change its permissions",
            std::io::ErrorKind::InvalidData => {
                "it is not UTF-8 text: save it as UTF-8 in your editor"
            }
            _ => "check that it is a file that can be read",
        };
        let words = format!("cannot read {}: {}\nhelp: {help}", path.display(), plain(error));
        Failure { code: Code::Files, words }
    }

    /// Something that was being written as the pond played.
    pub fn writing_output(error: &std::io::Error) -> Failure {
        let words = format!(
            "cannot write what the run brings forth: {}\nhelp: look for room on the disk",
            plain(error)
        );
        Failure { code: Code::Files, words }
    }

    /// A file that cannot be written.
    pub fn writing(path: &Path, error: &std::io::Error) -> Failure {
        let help = match error.kind() {
            std::io::ErrorKind::NotFound => "make the folder first",
            std::io::ErrorKind::AlreadyExists => "choose another name, or remove it first",
            std::io::ErrorKind::PermissionDenied => "you may not write there: choose another place",
            _ => "choose another place",
        };
        let words = format!("cannot write {}: {}\nhelp: {help}", path.display(), plain(error));
        Failure { code: Code::Files, words }
    }
}

/// An error of the system without its number.
fn plain(error: &std::io::Error) -> String {
    let text = error.to_string();
    match text.split_once(" (os error") {
        Some((words, _)) => words.to_lowercase(),
        None => text,
    }
}

/// Reads a pond's text.
pub fn read_text(path: &Path) -> Result<String, Failure> {
    crate::reading::read_text(path).map_err(|e| Failure::reading(path, &e))
}
