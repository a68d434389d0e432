//! The numbers of a pond that can be turned: its knobs, the settings of its placed spawners, and the
//! usual settings of its spawners. Turning one changes that number in the text, and nothing else.

use tickpond_lang::Span;
use tickpond_lang::lex::{LexToken, lex};
use tickpond_lang::lines::LineIndex;
use tickpond_lang::program::Program;
use tickpond_lang::syntax::SyntaxKind;
use tickpond_lang::units::parted;

/// One number of the text.
#[derive(Clone, Debug, PartialEq)]
pub struct Tunable {
    /// Its name.
    pub name: String,
    /// Whose it is: empty for a knob.
    pub of: String,
    /// The number as it stands in the text, in its unit.
    pub value: f64,
    /// That unit, as it is written; empty for a bare number.
    pub unit: String,
    /// Smallest and largest value in that unit.
    pub range: Option<(f64, f64)>,
    /// What it is for, as the text says.
    pub help: String,
    /// The number in the text.
    pub span: Span,
    /// Its line, from 1.
    pub line: u32,
}

impl Tunable {
    /// What tells it from the others, wherever it stands in the text.
    pub fn whose(&self) -> (String, String) {
        let of = self.of.split(", line").next().unwrap_or_default();
        (of.to_string(), self.name.clone())
    }

    /// How far a step goes: a round hundredth of the range, or a round twentieth of the value.
    pub fn step(&self) -> f64 {
        let whole = self.range.map_or(self.value.abs() * 5.0, |(low, high)| high - low);
        let wish = if whole > 0.0 { whole / 100.0 } else { 0.1 };
        let power = 10f64.powf(wish.log10().floor());
        let lead = wish / power;
        let round = if lead < 1.5 {
            1.0
        } else if lead < 3.5 {
            2.0
        } else if lead < 7.5 {
            5.0
        } else {
            10.0
        };
        let step = round * power;
        // A bare number that counts things goes in whole steps.
        let counts = self.unit.is_empty() && self.value.fract() == 0.0;
        if counts && step < 1.0 && self.range.is_none_or(|(l, h)| h - l >= 4.0) {
            1.0
        } else {
            step
        }
    }

    /// The value so many steps on, inside the range, as the text has it.
    pub fn stepped(&self, steps: f64) -> String {
        let step = self.step();
        // On the grid of steps, so that going there and back comes back.
        let grid = ((self.value / step).round() + steps) * step;
        self.clamped(grid)
    }

    /// A value inside the range as the text has it.
    pub fn clamped(&self, value: f64) -> String {
        let value = self.range.map_or(value, |(low, high)| value.clamp(low, high));
        number(value)
    }
}

/// A number without the dust of binary fractions.
fn number(value: f64) -> String {
    let text = format!("{value:.6}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { "0".into() } else { text.into() }
}

/// All of a text that compiles to this program.
pub fn tunables(program: &Program) -> Vec<Tunable> {
    let text = &program.text;
    let mut found: Vec<Tunable> = Vec::new();
    for knob in &program.knobs {
        let Some(span) = number_in(text, knob.value_span) else { continue };
        found.push(Tunable {
            name: knob.name.clone(),
            of: String::new(),
            value: knob.in_unit(knob.value),
            unit: knob.unit.clone(),
            range: knob.range.map(|(l, h)| (knob.in_unit(l), knob.in_unit(h))),
            help: knob.help.clone(),
            span,
            line: program.lines.line(span.start),
        });
    }
    found.extend(of_spawners(text, &program.lines));
    found
}

/// The number, sign included, in a stretch that also holds its unit.
fn number_in(text: &str, span: Span) -> Option<Span> {
    let (tokens, _) = lex(text.get(span.range())?);
    let mut start = None;
    for token in &tokens {
        match token.kind {
            SyntaxKind::Minus => start = Some(token.span.start),
            SyntaxKind::Number => {
                let from = start.unwrap_or(token.span.start);
                let number = token.span.start + digits(&text[span.range()][token.span.range()]);
                return Some(Span { start: span.start + from, end: span.start + number });
            }
            kind if kind.is_trivia() => {}
            _ => return None,
        }
    }
    None
}

/// `name = NUMBER unit` and `name: type = NUMBER unit` in the heads of `spawner` and in `place … { }`.
fn of_spawners(text: &str, lines: &LineIndex) -> Vec<Tunable> {
    let (tokens, _) = lex(text);
    let tokens: Vec<LexToken> = tokens.into_iter().filter(|t| !t.kind.is_trivia()).collect();
    let word = |at: usize| tokens.get(at).and_then(|t| text.get(t.span.range())).unwrap_or("");
    let kind = |at: usize| tokens.get(at).map(|t| t.kind);
    let mut found = Vec::new();
    let (mut depth, mut at) = (0i32, 0);
    while at < tokens.len() {
        let head = word(at);
        let starts = depth == 0 && (head == "spawner" || head == "place");
        let (open, close) = match (starts, head) {
            (true, "spawner") => (SyntaxKind::OpenParen, SyntaxKind::CloseParen),
            (true, _) => (SyntaxKind::OpenBrace, SyntaxKind::CloseBrace),
            _ => {
                depth += brace(kind(at));
                at += 1;
                continue;
            }
        };
        let line = lines.line(tokens[at].span.start);
        let of = match head {
            "spawner" => format!("{} (usual)", word(at + 1)),
            _ => format!("{}, line {line}", word(at + 1)),
        };
        at += 2;
        // Up to the list, which stands on the head's line.
        while at < tokens.len()
            && kind(at) != Some(open)
            && kind(at) != Some(SyntaxKind::OpenBrace)
            && lines.line(tokens[at].span.start) == line
        {
            at += 1;
        }
        if kind(at) != Some(open) || lines.line(tokens[at].span.start) != line {
            continue;
        }
        at += 1;
        while at < tokens.len() && kind(at) != Some(close) {
            let is_set = kind(at) == Some(SyntaxKind::Assign) && at >= 1;
            let minus = kind(at + 1) == Some(SyntaxKind::Minus);
            let place = at + 1 + usize::from(minus);
            if is_set && kind(place) == Some(SyntaxKind::Number) {
                // A number and its unit are one token.
                let (number, unit) = word(place).split_at(digits(word(place)) as usize);
                let end = tokens[place].span.start + number.len() as u32;
                let span = Span { start: tokens[at + 1].span.start, end };
                let value = number.replace('_', "").parse().unwrap_or(0.0);
                let value = if minus { -value } else { value };
                let unit = unit.trim().to_string();
                found.push(Tunable {
                    name: name_before(&tokens, text, at),
                    of: of.clone(),
                    value,
                    unit,
                    range: None,
                    help: String::new(),
                    span,
                    line: lines.line(span.start),
                });
            }
            at += 1;
        }
        at += 1;
    }
    found
}

/// The name an `=` gives a value to: before it, or before the type that stands before it.
fn name_before(tokens: &[LexToken], text: &str, at: usize) -> String {
    let mut name = at - 1;
    while name > 0 && matches!(tokens[name - 1].kind, SyntaxKind::Colon) {
        name -= 2;
    }
    text.get(tokens[name].span.range()).unwrap_or("").to_string()
}

/// How many bytes of a number token are the number itself.
fn digits(token: &str) -> u32 {
    parted(token).digits.len() as u32
}

fn brace(kind: Option<SyntaxKind>) -> i32 {
    match kind {
        Some(SyntaxKind::OpenBrace) => 1,
        Some(SyntaxKind::CloseBrace) => -1,
        _ => 0,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const TEXT: &str = "pond \"t\" { arena 10 x 10 }
knob drift = 6 u/s in 1..20 \"how fast\"
knob level = -2 in -5..5
kind midge { }
spawner reeds(what: kind = midge, gap: time = 1 s) { makes what anywhere; every gap }
place reeds { gap = 1.6 s }
place reeds at (3, 4) { gap = 0.5 s }
place midge at (1, 1)
";

    fn all() -> Vec<Tunable> {
        let compiled = tickpond_lang::compile(TEXT);
        tunables(&compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics)))
    }

    #[rstest]
    fn knobs_and_settings_of_each_placed_spawner_are_found() {
        let told: Vec<String> =
            all().iter().map(|t| format!("{}|{}|{}|{}", t.of, t.name, t.value, t.unit)).collect();
        assert_eq!(
            told,
            [
                "|drift|6|u/s",
                "|level|-2|",
                "reeds (usual)|gap|1|s",
                "reeds, line 6|gap|1.6|s",
                "reeds, line 7|gap|0.5|s"
            ]
        );
    }

    #[rstest]
    fn the_span_is_the_number_alone() {
        let numbers: Vec<&str> = all().iter().map(|t| &TEXT[t.span.range()]).collect();
        assert_eq!(numbers, ["6", "-2", "1", "1.6", "0.5"]);
    }

    #[rstest]
    #[case(0, 1.0, "6.2")]
    #[case(0, -10.0, "4")]
    #[case(0, 1000.0, "20")]
    #[case(1, -1.0, "-3")]
    #[case(3, 1.0, "1.7")]
    fn steps_stay_in_the_range(#[case] at: usize, #[case] steps: f64, #[case] wanted: &str) {
        assert_eq!(all()[at].stepped(steps), wanted);
    }

    #[rstest]
    fn there_and_back_comes_back() {
        for tunable in all() {
            let on: f64 = tunable.stepped(3.0).parse().unwrap();
            let back = Tunable { value: on, ..tunable.clone() }.stepped(-3.0);
            assert_eq!(back.parse::<f64>().unwrap(), tunable.value, "{}", tunable.name);
        }
    }
}
