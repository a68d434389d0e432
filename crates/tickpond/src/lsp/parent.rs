//! The editor that started the server: when it is gone, so is the server, even where its input does not end.

use rustix::event::{PollFd, PollFlags, poll};
use rustix::process::{Pid, PidfdFlags, pidfd_open};
use serde_json::Value;

/// Watches the process that `initialize` names, on a thread of its own. One that cannot be seen from here is not watched: then
/// the end of the input is the only sign.
pub fn watch(initialize: &Value) {
    let number = initialize["processId"].as_i64().and_then(|id| i32::try_from(id).ok());
    let Some(process) = number.filter(|id| *id > 0).and_then(Pid::from_raw) else { return };
    let Ok(handle) = pidfd_open(process, PidfdFlags::empty()) else { return };
    std::thread::spawn(move || {
        // Readable as soon as the process has ended.
        let mut polled = [PollFd::new(&handle, PollFlags::IN)];
        while let Err(rustix::io::Errno::INTR) = poll(&mut polled, None) {}
        if polled[0].revents().contains(PollFlags::IN) {
            std::process::exit(1);
        }
    });
}
