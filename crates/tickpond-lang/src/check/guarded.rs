//! What a fault of the compiler itself comes to: a diagnostic that says so, and never a text without errors.

use std::any::Any;
use std::panic::{AssertUnwindSafe, catch_unwind};

use crate::diagnostic::{Code, Diagnostic, Span};

/// Does `work`. Should it panic, what has been begun is dropped, and the diagnostic tells it at the beginning of the text.
///
/// # Errors
/// A panic, which is a fault of this crate.
pub(super) fn guarded<T>(work: impl FnOnce() -> T) -> Result<T, Diagnostic> {
    catch_unwind(AssertUnwindSafe(work)).map_err(|panic| {
        let message = format!("the compiler failed on this text: {}", words(&*panic));
        Diagnostic::new(Code::Fault, Span::default(), message)
            .with_help("this is a fault of Tick Pond: change the text a little, and report it")
    })
}

fn words(panic: &(dyn Any + Send)) -> &str {
    let text = panic.downcast_ref::<String>().map(String::as_str);
    text.or(panic.downcast_ref::<&str>().copied()).unwrap_or("no reason is known")
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn a_panic_is_an_error_that_says_so() {
        let words = "out of range";
        let told = guarded(|| -> u32 { panic!("{words}") }).unwrap_err();
        assert_eq!((told.code, told.severity), (Code::Fault, crate::Severity::Error));
        assert!(told.message.ends_with(": out of range"), "{}", told.message);
        assert_eq!(guarded(|| 3), Ok(3));
    }
}
