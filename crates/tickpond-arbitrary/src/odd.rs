//! What can be odd about how a pond is written.

use crate::Chance;

/// What is unusual in a pond.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Oddities {
    /// Limits that are nearly, or just, gone over.
    pub limits_near: bool,
    /// Names in other scripts.
    pub unicode: bool,
    /// Lines that end with `\r\n`, and a mark of the encoding.
    pub crlf: bool,
    /// Blanks, tabs and empty lines where they are not usual, and none where they are.
    pub blanks: bool,
    /// Handlers, spawners and placements that are muted.
    pub muted: bool,
    /// Very long lines.
    pub long_lines: bool,
    /// Solids, whose motion is another program's work.
    pub solids: bool,
}

impl Oddities {
    /// Those of a seed: none to all.
    pub fn of(seed: u64) -> Oddities {
        let mut chance = Chance::new(seed ^ 0xABCD);
        Oddities {
            limits_near: chance.one_in(4),
            unicode: chance.one_in(4),
            crlf: chance.one_in(4),
            blanks: chance.one_in(3),
            muted: chance.one_in(3),
            long_lines: chance.one_in(6),
            solids: chance.one_in(2),
        }
    }

    pub(crate) fn written(&self, plain: &str, chance: &mut Chance) -> String {
        let mut text = plain.to_string();
        if self.unicode {
            // Of the same length in letters, so that columns stay.
            for (name, other) in [
                ("midge", "m\u{fc}cke"),
                ("drop", "\u{6ef4}\u{6ef4}"),
                ("reeds", "\u{442}\u{440}\u{430}\u{432}\u{430}"),
            ] {
                text = renamed(&text, name, other);
            }
        }
        if self.long_lines {
            let sum = " + 1".repeat(100 + chance.below(100));
            text.push_str(&format!("watch long = 1{sum} // {}\n", "on and on ".repeat(40)));
        }
        if self.blanks {
            text = disturbed(&text, chance);
        }
        if self.crlf {
            text = format!("\u{feff}{}", text.replace('\n', "\r\n"));
        }
        text
    }
}

/// A name changed wherever it stands as a whole word.
fn renamed(text: &str, name: &str, other: &str) -> String {
    let is_word = |c: char| c.is_alphanumeric() || c == '_';
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find(name) {
        let before = rest[..at].chars().next_back().or(out.chars().next_back());
        let behind = rest[at + name.len()..].chars().next();
        let stands_alone = !before.is_some_and(is_word) && !behind.is_some_and(is_word);
        out.push_str(&rest[..at]);
        out.push_str(if stands_alone { other } else { name });
        rest = &rest[at + name.len()..];
    }
    out + rest
}

/// More and other blanks between words, but within texts and comments, and more empty lines.
fn disturbed(text: &str, chance: &mut Chance) -> String {
    let mut out = String::with_capacity(text.len() * 2);
    for line in text.lines() {
        let quoted = line.contains('"') || line.contains("//");
        for _ in 0..chance.below(3) {
            out.push_str(["\n", " \n", "\t\n"][chance.below(3)]);
        }
        let trimmed = line.trim_start();
        out.push_str(["", " ", "\t", "          "][chance.below(4)]);
        for c in trimmed.chars() {
            match c {
                ' ' if !quoted => out.push_str([" ", "  ", "\t", "   "][chance.below(4)]),
                '{' | '}' | ',' | ';' if !quoted && chance.one_in(3) => {
                    out.push(' ');
                    out.push(c);
                    out.push(' ');
                }
                c => out.push(c),
            }
        }
        out.push_str(["", " ", "\t"][chance.below(3)]);
        out.push('\n');
    }
    out
}

/// One word or sign left out, written twice, or misspelt.
pub(crate) fn slip(text: &str, chance: &mut Chance) -> String {
    let mut words: Vec<(usize, usize)> = Vec::new();
    let mut start = None;
    for (at, c) in text.char_indices() {
        let is_word = c.is_alphanumeric() || c == '_';
        match (is_word, start) {
            (true, None) => start = Some(at),
            (false, Some(from)) => {
                words.push((from, at));
                start = None;
            }
            _ => {}
        }
        if !is_word && !c.is_whitespace() && c != '\u{feff}' {
            words.push((at, at + c.len_utf8()));
        }
    }
    let Some((from, to)) = words.get(chance.below(words.len())).copied() else {
        return text.into();
    };
    let (before, word, behind) = (&text[..from], &text[from..to], &text[to..]);
    match chance.below(3) {
        0 => format!("{before}{behind}"),
        1 => format!("{before}{word} {word}{behind}"),
        _ => {
            let short: String = word.chars().skip(1).collect();
            format!("{before}{short}{behind}")
        }
    }
}
