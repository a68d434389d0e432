//! Text that others wrote, made fit to be shown: nothing in it can steer a terminal.

use std::borrow::Cow;

/// Whether a character is not to be shown as it is: it steers the terminal, or turns the way the letters around it run.
pub fn steers(c: char) -> bool {
    c.is_control() || matches!(c, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

/// The text with all that steers a terminal spelled out, such as `\u001b`; line ends and tabs stay. It is the spelling
/// of JSON, so that JSON means the same afterwards.
pub fn showable(text: &str) -> Cow<'_, str> {
    let is_fine = |c: char| !steers(c) || c == '\n' || c == '\t';
    if text.chars().all(is_fine) {
        return Cow::Borrowed(text);
    }
    let mut shown = String::with_capacity(text.len() + 16);
    for c in text.chars() {
        match is_fine(c) {
            true => shown.push(c),
            false => shown.push_str(&format!("\\u{:04x}", c as u32)),
        }
    }
    Cow::Owned(shown)
}

/// The text with a sign of the same length in bytes for all that steers a terminal, so that places in it stay.
pub fn masked(text: &str) -> Cow<'_, str> {
    let is_fine = |c: char| !steers(c) || matches!(c, '\n' | '\t');
    if text.chars().all(is_fine) {
        return Cow::Borrowed(text);
    }
    let mut rest = text.chars().peekable();
    let mut masked = String::with_capacity(text.len());
    while let Some(c) = rest.next() {
        masked.push(match c.len_utf8() {
            _ if is_fine(c) => c,
            // The end of a line on some systems; alone it goes back to its beginning.
            _ if c == '\r' && rest.peek() == Some(&'\n') => c,
            1 => '?',
            2 => '¿',
            _ => '\u{fffd}',
        });
    }
    Cow::Owned(masked)
}

/// One character as a screen shows it: a picture of it, if it would steer the terminal.
pub fn picture(c: char) -> char {
    match c {
        '\u{0}'..='\u{1f}' => char::from_u32(0x2400 + c as u32).unwrap_or('\u{fffd}'),
        '\u{7f}' => '\u{2421}',
        c if steers(c) => '\u{fffd}',
        c => c,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("reeds ✓ 漢 é\n\tmidges", "reeds ✓ 漢 é\n\tmidges")]
    #[case("a\u{1b}]52;c;aGk=\u{7}b", "a\\u001b]52;c;aGk=\\u0007b")]
    #[case("a\u{9b}31mb\rc\u{7f}", "a\\u009b31mb\\u000dc\\u007f")]
    #[case("a\u{202e}b", "a\\u202eb")]
    fn what_steers_is_spelled_out(#[case] text: &str, #[case] wanted: &str) {
        assert_eq!(showable(text), wanted);
        assert!(!masked(text).chars().any(|c| steers(c) && !"\n\t".contains(c)));
        assert_eq!(masked(text).len(), text.len(), "places stay");
    }

    #[rstest]
    fn lines_end_as_they_do() {
        assert_eq!(masked("a\r\nb\rc\u{1b}"), "a\r\nb?c?");
    }

    #[rstest]
    fn json_means_the_same_afterwards() {
        let words = "one\u{85}two\u{1b}three\u{202e}";
        let json = serde_json::to_string(words).unwrap();
        assert_eq!(serde_json::from_str::<String>(&showable(&json)).unwrap(), words);
    }

    #[rstest]
    fn a_picture_steers_nothing() {
        for code in 0..0x3000 {
            let Some(c) = char::from_u32(code) else { continue };
            assert!(!steers(picture(c)), "{code:x}");
        }
    }
}
