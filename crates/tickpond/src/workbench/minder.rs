//! Somebody who minds the terminal: the workbench runs in a process of its own, and the one that started it waits. Should
//! that one die without having put the terminal in order (killed, aborted, out of stack), it is done here.

use std::io::{self, Write};
use std::process::{Child, Command, ExitStatus};

use rustix::process::{Pid, Signal, kill_process};
use rustix::termios::{OptionalActions, Termios, tcgetattr, tcsetattr};

/// Says that somebody waits already, and who.
const MINDED_BY: &str = "TICKPOND_MINDED_BY";

/// What leaves the other screen and gives the pointer, the cursor and the keys back.
const LEAVE: &[u8] =
    b"\x1b[<1u\x1b[?2004l\x1b[?1006l\x1b[?1015l\x1b[?1003l\x1b[?1002l\x1b[?1000l\x1b[?1049l\x1b[?25h\x1b[0m";

/// Whether somebody waits, and still does: without them nobody is left whom to tell the end.
pub fn is_deserted() -> bool {
    let minder = std::env::var(MINDED_BY).ok().and_then(|text| text.parse::<i32>().ok());
    minder.is_some_and(|minder| {
        rustix::process::getppid().map(Pid::as_raw_nonzero).map(std::num::NonZero::get)
            != Some(minder)
    })
}

/// Starts this program again, minds the terminal until that ends, and tells how it ended; `None` in the process that
/// is minded, or if there can be no other.
pub fn mind() -> Option<ExitStatus> {
    if std::env::var_os(MINDED_BY).is_some() {
        return None;
    }
    let lines = tcgetattr(io::stdin()).ok()?;
    let program = std::env::current_exe().ok()?;
    let mut child = Command::new(program)
        .args(std::env::args_os().skip(1))
        .env(MINDED_BY, std::process::id().to_string())
        .spawn()
        .ok()?;
    hand_on_signals(&child);
    let status = child.wait().ok()?;
    if signal_of(status).is_some() {
        restore(&lines);
    }
    Some(status)
}

/// The signal that ended a process.
pub fn signal_of(status: ExitStatus) -> Option<i32> {
    std::os::unix::process::ExitStatusExt::signal(&status)
}

/// What the system asks of this process is asked of the one that has the screen.
fn hand_on_signals(child: &Child) {
    use signal_hook::consts::{SIGHUP, SIGINT, SIGQUIT, SIGTERM, SIGUSR1, SIGUSR2};
    let wanted = [SIGTERM, SIGHUP, SIGINT, SIGQUIT, SIGUSR1, SIGUSR2];
    let child = Pid::from_raw(child.id() as i32);
    if let (Some(child), Ok(mut signals)) = (child, signal_hook::iterator::Signals::new(wanted)) {
        std::thread::spawn(move || {
            for number in signals.forever() {
                if let Some(signal) = Signal::from_named_raw(number) {
                    let _ = kill_process(child, signal);
                }
            }
        });
    }
}

fn restore(lines: &Termios) {
    let mut out = io::stdout();
    let _ = out.write_all(LEAVE).and_then(|()| out.flush());
    let _ = tcsetattr(io::stdin(), OptionalActions::Now, lines);
}
