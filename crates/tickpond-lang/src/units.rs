//! The one table of units: what a person may write behind a number, and what it comes to.
//!
//! Inside the program every quantity is held in base units: seconds, arena units, degrees.

use std::fmt;

/// Exponents of the three base dimensions of a quantity: seconds, arena units, degrees.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default, PartialOrd, Ord)]
pub struct Dim {
    /// Exponent of time (base unit: second).
    pub time: i8,
    /// Exponent of length (base unit: arena unit `u`).
    pub length: i8,
    /// Exponent of angle (base unit: degree).
    pub angle: i8,
}

/// A whole number as it is written in a pond: `50_000`.
pub fn grouped(number: u64) -> String {
    let digits = number.to_string();
    let mut text = String::new();
    for (at, digit) in digits.chars().enumerate() {
        if at > 0 && (digits.len() - at).is_multiple_of(3) && digits.len() > 4 {
            text.push('_');
        }
        text.push(digit);
    }
    text
}

impl Dim {
    /// A bare number.
    pub const NONE: Dim = Dim::new(0, 0, 0);
    /// A time.
    pub const TIME: Dim = Dim::new(1, 0, 0);
    /// A length.
    pub const LENGTH: Dim = Dim::new(0, 1, 0);
    /// An angle.
    pub const ANGLE: Dim = Dim::new(0, 0, 1);
    /// A speed.
    pub const SPEED: Dim = Dim::new(-1, 1, 0);
    /// An acceleration.
    pub const ACCELERATION: Dim = Dim::new(-2, 1, 0);
    /// A turning speed.
    pub const SPIN: Dim = Dim::new(-1, 0, 1);
    /// A rate.
    pub const RATE: Dim = Dim::new(-1, 0, 0);

    const fn new(time: i8, length: i8, angle: i8) -> Dim {
        Dim { time, length, angle }
    }

    /// The dimension of a product; `None` if an exponent leaves -128..=127.
    pub fn times(self, other: Dim) -> Option<Dim> {
        Some(Dim {
            time: self.time.checked_add(other.time)?,
            length: self.length.checked_add(other.length)?,
            angle: self.angle.checked_add(other.angle)?,
        })
    }

    /// The dimension of a quotient; `None` if an exponent leaves -128..=127.
    pub fn over(self, other: Dim) -> Option<Dim> {
        Some(Dim {
            time: self.time.checked_sub(other.time)?,
            length: self.length.checked_sub(other.length)?,
            angle: self.angle.checked_sub(other.angle)?,
        })
    }

    /// What a person calls such a quantity, with its article: `a speed`.
    pub fn noun(self) -> String {
        match self {
            Dim::NONE => "a plain number".into(),
            Dim::TIME => "a time".into(),
            Dim::LENGTH => "a length".into(),
            Dim::ANGLE => "an angle".into(),
            Dim::SPEED => "a speed".into(),
            Dim::ACCELERATION => "an acceleration".into(),
            Dim::SPIN => "a spin".into(),
            Dim::RATE => "a rate".into(),
            other => format!("a quantity in {other}"),
        }
    }
}

impl fmt::Display for Dim {
    /// The unit as it is written behind a number; empty for a bare number.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if *self == Dim::RATE {
            return f.write_str("per s");
        }
        let part = |name: &str, power: i8| match power {
            1 => name.to_string(),
            _ => format!("{name}{power}"),
        };
        let bases = [("u", self.length), ("deg", self.angle), ("s", self.time)];
        let over = |power: i8| power.unsigned_abs() as i8;
        let up: Vec<String> =
            bases.iter().filter(|(_, p)| *p > 0).map(|(n, p)| part(n, *p)).collect();
        let down: Vec<String> =
            bases.iter().filter(|(_, p)| *p < 0).map(|(n, p)| part(n, over(*p))).collect();
        match (up.is_empty(), down.is_empty()) {
            (_, true) => f.write_str(&up.join(" ")),
            (true, false) => write!(f, "1/{}", down.join(" ")),
            (false, false) => write!(f, "{}/{}", up.join(" "), down.join(" ")),
        }
    }
}

/// A number as it is written: its digits and, without the blanks between, its unit.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Written<'a> {
    /// The digits, with a point and with `_` between them.
    pub digits: &'a str,
    /// The unit; empty for a bare number.
    pub unit: &'a str,
}

impl Written<'_> {
    /// The number in its unit; `None` if there are no digits.
    pub fn number(self) -> Option<f64> {
        self.digits.replace('_', "").parse().ok()
    }

    /// The number in base units and its dimension, at so many ticks per second; a number without a unit, or with one
    /// nobody knows, is a plain one. `None` if there are no digits.
    pub fn in_base(self, rate: f64) -> Option<(f64, Dim)> {
        let number = self.number()?;
        Some(match find(self.unit) {
            None => (number, Dim::NONE),
            Some(unit) if unit.is_ticks() => (number / rate, Dim::TIME),
            Some(unit) => (number * unit.factor, unit.dim),
        })
    }
}

/// Parts a number from its unit.
pub fn parted(text: &str) -> Written<'_> {
    let end = text.find(|c: char| !(c.is_ascii_digit() || c == '_' || c == '.'));
    let (digits, unit) = text.split_at(end.unwrap_or(text.len()));
    Written { digits, unit: unit.trim() }
}

/// A unit a person may write.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Unit {
    /// Its spelling, single-spaced.
    pub name: &'static str,
    /// What it measures.
    pub dim: Dim,
    /// How many base units one of it is. For `ticks` this is 1 and [`Unit::is_ticks`] holds: the
    /// pond's rate turns it into seconds.
    pub factor: f64,
}

impl Unit {
    /// Whether the factor still has to be divided by the pond's rate.
    pub fn is_ticks(&self) -> bool {
        self.name == "ticks"
    }
}

const fn unit(name: &'static str, dim: Dim, factor: f64) -> Unit {
    Unit { name, dim, factor }
}

/// All units, longest spelling first, so that the first that fits a text is the right one.
pub const UNITS: &[Unit] = &[
    unit("per min", Dim::RATE, 1.0 / 60.0),
    unit("turn/s", Dim::SPIN, 360.0),
    unit("per s", Dim::RATE, 1.0),
    unit("deg/s", Dim::SPIN, 1.0),
    unit("rad/s", Dim::SPIN, 180.0 / std::f64::consts::PI),
    unit("ticks", Dim::TIME, 1.0),
    unit("tick", Dim::TIME, 1.0),
    unit("turn", Dim::ANGLE, 360.0),
    unit("u/s2", Dim::ACCELERATION, 1.0),
    unit("min", Dim::TIME, 60.0),
    unit("deg", Dim::ANGLE, 1.0),
    unit("rad", Dim::ANGLE, 180.0 / std::f64::consts::PI),
    unit("u/s", Dim::SPEED, 1.0),
    unit("ms", Dim::TIME, 0.001),
    unit("s", Dim::TIME, 1.0),
    unit("u", Dim::LENGTH, 1.0),
    unit("%", Dim::NONE, 0.01),
];

/// The unit with this spelling; inner white space counts as one space, `tick` gives `ticks`.
pub fn find(spelling: &str) -> Option<Unit> {
    let one_spaced = spelling.split_whitespace().collect::<Vec<_>>().join(" ");
    let name = if one_spaced == "tick" { "ticks" } else { one_spaced.as_str() };
    UNITS.iter().copied().find(|unit| unit.name == name)
}

/// Length in bytes of the unit that `rest` starts with, after any blanks of one line; 0 if none.
///
/// A unit ends where a name would end, so `2 speck` holds no seconds, and `10 u / t` no speed.
pub(crate) fn length_at_start(rest: &str) -> usize {
    let blanks = rest.len() - rest.trim_start_matches([' ', '\t']).len();
    let text = &rest[blanks..];
    for unit in UNITS {
        let Some(used) = spelled_at_start(text, unit.name) else { continue };
        let after = text[used..].chars().next();
        let runs_on = after.is_some_and(|c| c.is_alphanumeric() || c == '_');
        if unit.name == "%" || !runs_on {
            return blanks + used;
        }
    }
    0
}

fn spelled_at_start(text: &str, name: &str) -> Option<usize> {
    let mut at = 0;
    for (i, word) in name.split(' ').enumerate() {
        if i > 0 {
            let gap = text[at..].len() - text[at..].trim_start_matches([' ', '\t']).len();
            if gap == 0 {
                return None;
            }
            at += gap;
        }
        text[at..].starts_with(word).then_some(())?;
        at += word.len();
    }
    Some(at)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::speed(" u/s, toward", 4)]
    #[case::acceleration("u/s2)", 4)]
    #[case::two_words(" per  s\n", 7)]
    #[case::a_kind_is_no_unit(" speck at here", 0)]
    #[case::a_quotient_is_no_unit(" u / t", 2)]
    #[case::never_over_a_line("\n s", 0)]
    #[case::share("%", 1)]
    fn unit_behind_a_number(#[case] rest: &str, #[case] length: usize) {
        assert_eq!(length_at_start(rest), length);
    }

    #[rstest]
    fn every_unit_is_found_by_its_spelling() {
        for unit in UNITS.iter().filter(|u| u.name != "tick") {
            assert_eq!(find(unit.name).map(|u| u.name), Some(unit.name));
            assert_eq!(length_at_start(unit.name), unit.name.len(), "{}", unit.name);
        }
    }

    #[rstest]
    #[case(Dim::SPEED, "u/s")]
    #[case(Dim::ACCELERATION, "u/s2")]
    #[case(Dim::RATE, "per s")]
    #[case(Dim::NONE, "")]
    #[case(Dim { time: 2, length: 0, angle: 0 }, "s2")]
    fn a_dimension_prints_as_it_is_written(#[case] dim: Dim, #[case] text: &str) {
        assert_eq!(dim.to_string(), text);
    }

    #[rstest]
    fn products_and_quotients_undo_each_other() {
        let area = Dim::LENGTH.times(Dim::LENGTH).unwrap();
        assert_eq!(area.over(Dim::LENGTH), Some(Dim::LENGTH));
        assert_eq!(Dim::SPEED.times(Dim::TIME), Some(Dim::LENGTH));
        assert_eq!(Dim { time: 127, length: 0, angle: 0 }.times(Dim::TIME), None);
    }
}
