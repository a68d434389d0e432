//! Ctrl+C and other requests to end, while a pond is played without a screen.

use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, OnceLock};

use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};

/// What asks the program to end.
struct Asked {
    flag: Arc<AtomicBool>,
    /// The signal that did; 0 so far.
    signal: Arc<AtomicUsize>,
}

fn asked() -> &'static Asked {
    static ASKED: OnceLock<Asked> = OnceLock::new();
    ASKED.get_or_init(|| {
        let asked = Asked { flag: Arc::default(), signal: Arc::default() };
        for signal in [SIGINT, SIGTERM, SIGHUP] {
            // In this order: the first time the flag is not set yet.
            let _ = signal_hook::flag::register_conditional_shutdown(
                signal,
                128 + signal,
                asked.flag.clone(),
            );
            let _ =
                signal_hook::flag::register_usize(signal, asked.signal.clone(), signal as usize);
            let _ = signal_hook::flag::register(signal, asked.flag.clone());
        }
        asked
    })
}

/// A flag that is set when the person, or the system, wants the program to stop. A second wish ends it at once.
pub fn flag() -> Arc<AtomicBool> {
    asked().flag.clone()
}

/// Whether it is to stop.
pub fn wanted() -> bool {
    asked().flag.load(Ordering::Relaxed)
}

/// The exit code of a program that was stopped: 128 and the number of the signal.
pub fn code() -> u8 {
    let signal = asked().signal.load(Ordering::Relaxed);
    128 + u8::try_from(signal).ok().filter(|signal| *signal > 0).unwrap_or(SIGINT as u8)
}
