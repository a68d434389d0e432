//! Values in texts: `"{n} bites"`.

use std::ops::Range;

/// Where a value begins in a text: at the first brace without a backslash before it.
pub(crate) fn open_brace(text: &str) -> Option<usize> {
    let mut chars = text.char_indices();
    while let Some((at, c)) = chars.next() {
        match c {
            '\\' => drop(chars.next()),
            '{' => return Some(at),
            _ => {}
        }
    }
    None
}

/// The bytes of the values in a text as it is written, quotes and all; one that is never closed is left out.
pub fn values(raw: &str) -> Vec<Range<usize>> {
    let mut found = Vec::new();
    let mut at = 0;
    while let Some(open) = open_brace(&raw[at..]) {
        let start = at + open + 1;
        let Some(length) = raw[start..].find('}') else { break };
        found.push(start..start + length);
        at = start + length + 1;
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("\"{n} bites\"", &["n"])]
    #[case("\"{a + 1} and {b}\"", &["a + 1", "b"])]
    #[case(r#""no \{value} but {one}""#, &["one"])]
    #[case("\"never {closed\"", &[])]
    fn values_are_found(#[case] raw: &str, #[case] wanted: &[&str]) {
        let found: Vec<&str> = values(raw).into_iter().map(|range| &raw[range]).collect();
        assert_eq!(found, wanted);
    }
}
