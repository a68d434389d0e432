//! Whether the program was started with its standard output closed. The runtime puts `/dev/null` in its place before `main`, and
//! what is written would vanish without an error; so it is looked at before that.

use std::sync::atomic::{AtomicBool, Ordering};

static IS_CLOSED: AtomicBool = AtomicBool::new(false);

extern "C" fn look() {
    let is_closed = rustix::io::fcntl_getfd(rustix::stdio::stdout()).is_err();
    IS_CLOSED.store(is_closed, Ordering::Relaxed);
}

#[cfg(target_os = "linux")]
#[expect(
    unsafe_code,
    reason = "a place among what runs before `main`; the function only asks the system"
)]
#[used]
#[unsafe(link_section = ".init_array")]
static LOOK: extern "C" fn() = look;

/// Whether there was no standard output to write to.
pub fn is_output_closed() -> bool {
    IS_CLOSED.load(Ordering::Relaxed)
}
