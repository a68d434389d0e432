//! Ctrl+C and a request to end, while a pond is played without a screen.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, OnceLock};

use signal_hook::consts::{SIGINT, SIGTERM};

/// A flag that is set when the person wants to stop. A second wish ends the program at once.
pub fn flag() -> Arc<AtomicBool> {
    static FLAG: OnceLock<Arc<AtomicBool>> = OnceLock::new();
    let flag = FLAG.get_or_init(|| {
        let flag = Arc::new(AtomicBool::new(false));
        for signal in [SIGINT, SIGTERM] {
            // In this order: the first time the flag is not set yet.
            let _ = signal_hook::flag::register_conditional_shutdown(
                signal,
                128 + signal,
                flag.clone(),
            );
            let _ = signal_hook::flag::register(signal, flag.clone());
        }
        flag
    });
    flag.clone()
}

/// Whether the person wants to stop.
pub fn wanted() -> bool {
    flag().load(Ordering::Relaxed)
}
