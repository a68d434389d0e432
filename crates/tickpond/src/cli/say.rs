//! Results on standard output, all else on standard error.

use std::io::{IsTerminal, Write};

use super::streams::is_output_closed;
use crate::failure::Failure;
use crate::showable::showable;

/// Prints a result, made showable. A closed pipe is a normal end.
pub fn print(text: &str) -> Result<(), Failure> {
    print_as_it_is(&showable(text))
}

/// Prints what was made showable before, or has colours of our own.
pub fn print_as_it_is(text: &str) -> Result<(), Failure> {
    if is_output_closed() {
        let error = std::io::Error::new(std::io::ErrorKind::NotConnected, "it is closed");
        return Err(Failure::writing(std::path::Path::new("standard output"), &error));
    }
    let mut out = std::io::stdout().lock();
    match out.write_all(text.as_bytes()).and_then(|()| out.flush()) {
        Err(error) if error.kind() != std::io::ErrorKind::BrokenPipe => {
            Err(Failure::writing(std::path::Path::new("standard output"), &error))
        }
        _ => Ok(()),
    }
}

/// Says something to the person, made showable; nothing can be done if nobody listens.
pub fn complain(text: &str) {
    complain_as_it_is(&showable(text));
}

/// The same for what was made showable before, or has colours of our own.
pub fn complain_as_it_is(text: &str) {
    let _ = writeln!(std::io::stderr(), "{text}");
}

/// Whether colours may be used on standard error.
pub fn colour() -> bool {
    std::io::stderr().is_terminal() && std::env::var_os("NO_COLOR").is_none_or(|v| v.is_empty())
}
