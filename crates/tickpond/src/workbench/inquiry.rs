//! What the terminal can do, asked once as the workbench begins. Nobody waits for the answers: they are picked out of what is
//! typed, and all else that comes before the last of them is handed on in its order, so no key is eaten and none is late.

use std::io::{self, IsTerminal, Write};
use std::os::fd::AsFd;
use std::time::{Duration, Instant};

use crossterm::event::Event;
use rustix::event::{PollFd, PollFlags, Timespec, poll};

use super::typed::{Piece, next};

/// Which pictures, which keys, how large a cell; and, last, what every terminal answers.
const QUESTIONS: [&str; 2] =
    ["\x1b_Gi=31,s=1,v=1,a=q,t=d,f=24;AAAA\x1b\\", "\x1b[?u\x1b[16t\x1b[c"];
/// How long it is listened for answers. One that answers later is taken for one that does not.
const LONGEST: Duration = Duration::from_secs(3);
/// How long a sequence that has begun may take to end: what is no more than its beginning is a key of its own then.
const PAUSE: Duration = Duration::from_millis(30);

/// What the terminal said of itself.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Abilities {
    /// Whether it draws pictures by kitty's graphics.
    pub kitty: bool,
    /// Whether it draws sixels.
    pub sixels: bool,
    /// Whether it tells that a key goes up.
    pub releases: bool,
    /// Width and height of a cell in pixels.
    pub cell: Option<(u16, u16)>,
}

/// Whether the terminal is one of several in another.
fn is_multiplied() -> bool {
    let term = std::env::var("TERM").unwrap_or_default();
    std::env::var_os("TMUX").is_some() || term.starts_with("tmux") || term.starts_with("screen")
}

/// The questions that are out.
pub struct Inquiry {
    began: Instant,
    /// What came in and is not yet a whole key or answer, and when the last of it came.
    rest: Vec<u8>,
    came: Instant,
    found: Abilities,
    is_over: bool,
}

impl Inquiry {
    /// Asks, if there is a terminal to ask.
    ///
    /// # Errors
    /// What the terminal reports.
    pub fn begin() -> io::Result<Inquiry> {
        let now = Instant::now();
        let is_over = !io::stdin().is_terminal();
        if !is_over {
            let mut out = io::stdout();
            let [pictures, rest] = QUESTIONS;
            // Some that multiply terminals take such a string for a title.
            if !is_multiplied() {
                out.write_all(pictures.as_bytes())?;
            }
            out.write_all(rest.as_bytes())?;
            out.flush()?;
        }
        let found = Abilities::default();
        Ok(Inquiry { began: now, rest: Vec::new(), came: now, found, is_over })
    }

    /// Whether all is answered, or nothing more is waited for. From then on others read what is typed.
    pub fn is_over(&self) -> bool {
        self.is_over
    }

    /// What is known so far.
    pub fn found(&self) -> Abilities {
        self.found
    }

    /// Waits for what is typed, at most so long, and gives what came besides answers.
    ///
    /// # Errors
    /// What the system reports.
    pub fn read(&mut self, patience: Duration) -> io::Result<Vec<Event>> {
        let patience = if self.rest.is_empty() { patience } else { patience.min(PAUSE) };
        let stdin = io::stdin();
        let mut polled = [PollFd::from_borrowed_fd(stdin.as_fd(), PollFlags::IN)];
        let timeout = Timespec { tv_sec: 0, tv_nsec: patience.subsec_nanos().into() };
        let has_come = match poll(&mut polled, Some(&timeout)) {
            Err(rustix::io::Errno::INTR) => false,
            come => come? > 0,
        };
        if has_come {
            let mut bytes = [0; 4096];
            let length = match rustix::io::read(stdin.as_fd(), &mut bytes) {
                Err(rustix::io::Errno::INTR | rustix::io::Errno::AGAIN) => 0,
                read => read?,
            };
            // The end of the input is for others to notice.
            self.is_over |= length == 0;
            self.rest.extend(&bytes[..length]);
            self.came = Instant::now();
        }
        let is_whole = self.came.elapsed() >= PAUSE || self.began.elapsed() > LONGEST;
        Ok(self.take(is_whole))
    }

    /// The keys in what has come; `is_whole` if nothing more will come of what has begun.
    fn take(&mut self, is_whole: bool) -> Vec<Event> {
        let mut events = Vec::new();
        let mut at = 0;
        while let Some((piece, length)) = next(&self.rest[at..], is_whole) {
            at += length;
            match piece {
                Piece::Event(event) => events.push(event),
                Piece::Answer(answer) => self.note(&answer),
                Piece::Nothing => {}
            }
        }
        self.rest.drain(..at);
        self.is_over |= self.rest.is_empty() && self.began.elapsed() > LONGEST;
        events
    }

    fn note(&mut self, answer: &str) {
        if let Some(told) = answer.strip_prefix("\x1b_G") {
            self.found.kitty |= told.contains("i=31") && told.contains("OK");
        } else if let Some(told) = answer.strip_prefix("\x1b[6;").and_then(|t| t.strip_suffix('t'))
        {
            let sides = told.split_once(';').map(|(h, w)| (w.parse(), h.parse()));
            if let Some((Ok(width), Ok(height))) = sides
                && width > 0
                && height > 0
            {
                self.found.cell = Some((width, height));
            }
        } else if answer.starts_with("\x1b[?") && answer.ends_with('u') {
            self.found.releases = true;
        } else if let Some(told) = answer.strip_prefix("\x1b[?").and_then(|t| t.strip_suffix('c')) {
            // Each terminal answers this, and after all else.
            self.found.sixels |= told.split(';').skip(1).any(|part| part == "4");
            self.is_over = true;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
    use rstest::rstest;

    fn inquiry() -> Inquiry {
        let now = Instant::now();
        let found = Abilities::default();
        Inquiry { began: now, rest: Vec::new(), came: now, found, is_over: false }
    }

    fn letter(c: char) -> Event {
        Event::Key(KeyEvent::new(KeyCode::Char(c), KeyModifiers::NONE))
    }

    const ANSWERS: &str = "\x1b_Gi=31;OK\x1b\\\x1b[?0u\x1b[6;20;10t\x1b[?62;4;22c";

    /// Wherever keys come in between, and however what comes is cut into pieces, each key is there, in its order.
    #[rstest]
    fn keys_come_through_between_the_answers(#[values(1, 2, 3, 7, 100)] piece: usize) {
        let typed =
            format!("a{}b", ANSWERS.replace("\x1b[6", "k\x1b[6").replace("\x1b[?62", "q\x1b[?62"));
        let mut inquiry = inquiry();
        let mut events = Vec::new();
        for bytes in typed.as_bytes().chunks(piece) {
            inquiry.rest.extend(bytes);
            events.extend(inquiry.take(false));
        }
        assert_eq!(events, ['a', 'k', 'q', 'b'].map(letter));
        let found = Abilities { kitty: true, sixels: true, releases: true, cell: Some((10, 20)) };
        assert_eq!((inquiry.found(), inquiry.is_over()), (found, true));
    }

    #[rstest]
    #[case::nothing_but_the_last("\x1b[?6c", Abilities::default())]
    #[case::sixels("\x1b[?63;1;4;9c", Abilities { sixels: true, ..Abilities::default() })]
    #[case::no_graphics("\x1b_Gi=31;ENOTSUP\x1b\\\x1b[?4c", Abilities::default())]
    #[case::a_cell_without_size("\x1b[6;0;0t\x1b[?1c", Abilities::default())]
    fn what_is_answered_is_known(#[case] answers: &str, #[case] wanted: Abilities) {
        let mut inquiry = inquiry();
        inquiry.rest.extend(answers.as_bytes());
        assert_eq!(inquiry.take(false), []);
        assert_eq!((inquiry.found(), inquiry.is_over()), (wanted, true));
    }

    #[rstest]
    fn a_lone_escape_is_a_key_after_a_pause() {
        let mut inquiry = inquiry();
        inquiry.rest.extend(b"\x1b");
        assert_eq!(inquiry.take(false), []);
        let escape = Event::Key(KeyEvent::new(KeyCode::Esc, KeyModifiers::NONE));
        assert_eq!(inquiry.take(true), [escape]);
    }
}
