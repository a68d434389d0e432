//! Bytes from a terminal as keys, the pointer, pasted texts and answers: for as long as answers may be among them. Later the
//! terminal library reads.

use crossterm::event::{
    Event, KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind,
};

/// Something a terminal sent.
#[derive(Clone, Debug, PartialEq)]
pub enum Piece {
    Event(Event),
    /// A sequence that answers a question.
    Answer(String),
    /// A sequence that means nothing here.
    Nothing,
}

const PASTE_ENDS: &[u8] = b"\x1b[201~";

/// The first piece of what came, and how many bytes it has; none if it is not all there. With `is_whole` nothing more will
/// come, so what has only begun is what it is.
pub fn next(bytes: &[u8], is_whole: bool) -> Option<(Piece, usize)> {
    let first = *bytes.first()?;
    if first != 0x1b {
        return letter(bytes, is_whole);
    }
    let alone = || is_whole.then(|| (key(KeyCode::Esc, KeyModifiers::NONE), 1));
    match bytes.get(1) {
        None => alone(),
        Some(b'[') => sequence(bytes).or_else(alone),
        Some(b'O') => match bytes.get(2) {
            Some(last) => {
                Some((named(*last).map_or(Piece::Nothing, |c| key(c, KeyModifiers::NONE)), 3))
            }
            None => alone(),
        },
        // Strings of applications and devices, up to where they end.
        Some(b'_' | b'P' | b']') => {
            let end = bytes.windows(2).position(|two| two == b"\x1b\\");
            match end.filter(|end| *end >= 2) {
                Some(end) => {
                    let text = String::from_utf8_lossy(&bytes[..end]).into_owned();
                    Some((Piece::Answer(text), end + 2))
                }
                None => alone(),
            }
        }
        Some(0x1b) => Some((key(KeyCode::Esc, KeyModifiers::NONE), 1)),
        Some(_) => {
            let (piece, length) = letter(&bytes[1..], is_whole)?;
            let piece = match piece {
                Piece::Event(Event::Key(pressed)) => {
                    key(pressed.code, pressed.modifiers | KeyModifiers::ALT)
                }
                other => other,
            };
            Some((piece, length + 1))
        }
    }
}

fn key(code: KeyCode, with: KeyModifiers) -> Piece {
    Piece::Event(Event::Key(KeyEvent::new(code, with)))
}

/// A letter or a control character.
fn letter(bytes: &[u8], is_whole: bool) -> Option<(Piece, usize)> {
    let control = |c: u8| (key(KeyCode::Char(char::from(c)), KeyModifiers::CONTROL), 1);
    Some(match bytes[0] {
        b'\r' => (key(KeyCode::Enter, KeyModifiers::NONE), 1),
        b'\t' => (key(KeyCode::Tab, KeyModifiers::NONE), 1),
        0x7f => (key(KeyCode::Backspace, KeyModifiers::NONE), 1),
        0 => control(b' '),
        c @ 1..=0x1a => control(c - 1 + b'a'),
        c @ 0x1c..=0x1f => control(c - 0x1c + b'4'),
        _ => {
            let length =
                (1..=bytes.len().min(4)).find(|n| std::str::from_utf8(&bytes[..*n]).is_ok());
            let Some(length) = length else {
                // Half a letter, or bytes that are none.
                return (bytes.len() >= 4 || is_whole).then_some((Piece::Nothing, 1));
            };
            let c = std::str::from_utf8(&bytes[..length]).ok()?.chars().next()?;
            let with = if c.is_uppercase() { KeyModifiers::SHIFT } else { KeyModifiers::NONE };
            (key(KeyCode::Char(c), with), length)
        }
    })
}

/// The key that a final letter names.
fn named(last: u8) -> Option<KeyCode> {
    Some(match last {
        b'A' => KeyCode::Up,
        b'B' => KeyCode::Down,
        b'C' => KeyCode::Right,
        b'D' => KeyCode::Left,
        b'H' => KeyCode::Home,
        b'F' => KeyCode::End,
        b'Z' => KeyCode::BackTab,
        b'P'..=b'S' => KeyCode::F(last - b'P' + 1),
        _ => return None,
    })
}

/// The key that a number before `~` names.
fn numbered(number: u16) -> Option<KeyCode> {
    Some(match number {
        1 | 7 => KeyCode::Home,
        2 => KeyCode::Insert,
        3 => KeyCode::Delete,
        4 | 8 => KeyCode::End,
        5 => KeyCode::PageUp,
        6 => KeyCode::PageDown,
        11..=15 => KeyCode::F(number as u8 - 10),
        17..=21 => KeyCode::F(number as u8 - 11),
        23..=24 => KeyCode::F(number as u8 - 12),
        _ => return None,
    })
}

/// What begins with `ESC [`; none if its end is not there.
fn sequence(bytes: &[u8]) -> Option<(Piece, usize)> {
    let end = 2 + bytes[2..].iter().position(|b| (0x40..=0x7e).contains(b))?;
    let (last, length) = (bytes[end], end + 1);
    let told = std::str::from_utf8(&bytes[2..end]).unwrap_or("");
    if told.starts_with('?') || last == b't' {
        return Some((
            Piece::Answer(String::from_utf8_lossy(&bytes[..length]).into_owned()),
            length,
        ));
    }
    if let Some(told) = told.strip_prefix('<') {
        return Some((pointer(told, last).map_or(Piece::Nothing, Piece::Event), length));
    }
    let mut numbers = told.split(';').map(|n| n.parse::<u16>().unwrap_or(0));
    let (first, second) = (numbers.next().unwrap_or(0), numbers.next().unwrap_or(0));
    if (last, first) == (b'~', 200) {
        let text = bytes[length..].windows(PASTE_ENDS.len()).position(|six| six == PASTE_ENDS)?;
        let pasted = String::from_utf8_lossy(&bytes[length..length + text]).into_owned();
        return Some((Piece::Event(Event::Paste(pasted)), length + text + PASTE_ENDS.len()));
    }
    let code = if last == b'~' { numbered(first) } else { named(last) };
    Some((code.map_or(Piece::Nothing, |code| key(code, modifiers(second))), length))
}

/// 1 and a bit each for shift, alt and control.
fn modifiers(number: u16) -> KeyModifiers {
    let bits = number.saturating_sub(1);
    let bit = |at: u16, what| if bits & at != 0 { what } else { KeyModifiers::NONE };
    bit(1, KeyModifiers::SHIFT) | bit(2, KeyModifiers::ALT) | bit(4, KeyModifiers::CONTROL)
}

/// `button;column;row`, each from 1.
fn pointer(told: &str, last: u8) -> Option<Event> {
    let mut numbers = told.split(';').map(|n| n.parse::<u16>().ok());
    let (button, column, row) = (numbers.next()??, numbers.next()??, numbers.next()??);
    let which = match button & 3 {
        0 => MouseButton::Left,
        1 => MouseButton::Middle,
        _ => MouseButton::Right,
    };
    let kind = match (button & 64 != 0, button & 32 != 0, last) {
        (true, ..) if button & 1 == 0 => MouseEventKind::ScrollUp,
        (true, ..) => MouseEventKind::ScrollDown,
        (_, true, _) if button & 3 == 3 => MouseEventKind::Moved,
        (_, true, _) => MouseEventKind::Drag(which),
        (.., b'm') => MouseEventKind::Up(which),
        _ => MouseEventKind::Down(which),
    };
    let (column, row) = (column.checked_sub(1)?, row.checked_sub(1)?);
    Some(Event::Mouse(MouseEvent {
        kind,
        column,
        row,
        modifiers: modifiers((button >> 2 & 7) + 1),
    }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    const NONE: KeyModifiers = KeyModifiers::NONE;

    #[rstest]
    #[case::letter(b"a", KeyCode::Char('a'), NONE)]
    #[case::capital(b"A", KeyCode::Char('A'), KeyModifiers::SHIFT)]
    #[case::of_two_bytes("\u{e9}".as_bytes(), KeyCode::Char('\u{e9}'), NONE)]
    #[case::of_four_bytes("\u{1F438}".as_bytes(), KeyCode::Char('\u{1F438}'), NONE)]
    #[case::enter(b"\r", KeyCode::Enter, NONE)]
    #[case::saves(b"\x13", KeyCode::Char('s'), KeyModifiers::CONTROL)]
    #[case::completes(b"\0", KeyCode::Char(' '), KeyModifiers::CONTROL)]
    #[case::backspace(b"\x7f", KeyCode::Backspace, NONE)]
    #[case::alt(b"\x1bx", KeyCode::Char('x'), KeyModifiers::ALT)]
    #[case::up(b"\x1b[A", KeyCode::Up, NONE)]
    #[case::in_another_mode(b"\x1bOA", KeyCode::Up, NONE)]
    #[case::word_left(b"\x1b[1;5D", KeyCode::Left, KeyModifiers::CONTROL)]
    #[case::selects(b"\x1b[1;2C", KeyCode::Right, KeyModifiers::SHIFT)]
    #[case::delete(b"\x1b[3~", KeyCode::Delete, NONE)]
    #[case::f2(b"\x1bOQ", KeyCode::F(2), NONE)]
    #[case::f12(b"\x1b[24~", KeyCode::F(12), NONE)]
    #[case::back(b"\x1b[Z", KeyCode::BackTab, NONE)]
    fn a_key_is_read(#[case] bytes: &[u8], #[case] code: KeyCode, #[case] with: KeyModifiers) {
        assert_eq!(next(bytes, false), Some((key(code, with), bytes.len())));
    }

    #[rstest]
    fn a_pasted_text_and_the_pointer_are_read() {
        let pasted = Piece::Event(Event::Paste("a\x1b[Ab".into()));
        assert_eq!(next(b"\x1b[200~a\x1b[Ab\x1b[201~c", false), Some((pasted, 17)));
        let click = MouseEvent {
            kind: MouseEventKind::Down(MouseButton::Left),
            column: 4,
            row: 2,
            modifiers: KeyModifiers::NONE,
        };
        assert_eq!(next(b"\x1b[<0;5;3M", false), Some((Piece::Event(Event::Mouse(click)), 9)));
    }

    proptest! {
        /// Whatever comes, all of it is taken in, and nothing is taken twice.
        #[test]
        fn everything_is_taken_in(bytes in proptest::collection::vec(any::<u8>(), 0..60)) {
            let mut at = 0;
            while let Some((_, length)) = next(&bytes[at..], true) {
                prop_assert!(length > 0);
                at += length;
                prop_assert!(at <= bytes.len());
            }
            prop_assert_eq!(at, bytes.len());
        }

        /// Letters are told one by one, in their order.
        #[test]
        fn what_is_typed_is_told(text in "[a-z \u{e9}\u{1F438}]{0,20}") {
            let mut rest = text.as_bytes();
            let mut told = String::new();
            while let Some((piece, length)) = next(rest, false) {
                let Piece::Event(Event::Key(KeyEvent { code: KeyCode::Char(c), .. })) = piece else { panic!() };
                told.push(c);
                rest = &rest[length..];
            }
            prop_assert_eq!(told, text);
        }
    }
}
