//! What a run can be told from outside: its seed and other values of its knobs.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use thiserror::Error;
use tickpond_lang::lex::lex;
use tickpond_lang::program::{Knob, Program, Tape};
use tickpond_lang::syntax::SyntaxKind;
use tickpond_lang::units;
use tickpond_sim::Engine;

/// How a run is to be played.
#[derive(Clone, Debug, PartialEq)]
pub struct RunOptions {
    /// The seed of all chance.
    pub seed: u64,
    /// Knobs with other values than in the text: name and value as typed.
    pub knobs: Vec<(String, String)>,
    /// Runs handlers in an order shuffled by this seed; nothing may change.
    pub shuffle: Option<u64>,
    /// How many threads run handlers; nothing may change. At least 1.
    pub threads: usize,
    /// Fewest entities a second thread is used for.
    pub grain: usize,
    /// The tape that is played.
    pub tape: TapeChoice,
    /// Whether the events are wanted, not only what is counted: else messages that are sent and heard
    /// are listed only if an expectation is about them.
    pub events: bool,
}

impl Default for RunOptions {
    fn default() -> RunOptions {
        RunOptions {
            seed: 1,
            knobs: Vec::new(),
            shuffle: None,
            threads: 1,
            grain: 1024,
            tape: TapeChoice::default(),
            events: true,
        }
    }
}

impl RunOptions {
    /// An engine for a program, as the options want it.
    pub(crate) fn engine(&self, program: Arc<Program>) -> Engine {
        let mut engine = Engine::new(program);
        engine.shuffle = self.shuffle;
        engine.threads = self.threads;
        engine.grain = self.grain;
        engine.lists_mail = self.events || engine.program().expects_mail();
        engine
    }
}

/// Which tape a run plays.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum TapeChoice {
    /// None.
    #[default]
    Nothing,
    /// The first that is marked `played`, if one is.
    Played,
    /// The one with this name.
    Named(String),
}

impl TapeChoice {
    /// The tape of a program that is meant, if there is one.
    ///
    /// # Errors
    /// [`OptionsError::UnknownTape`] if the named one is not there.
    pub fn of<'p>(&self, program: &'p Program) -> Result<Option<&'p Tape>, OptionsError> {
        match self {
            TapeChoice::Nothing => Ok(None),
            TapeChoice::Played => Ok(program.tapes.iter().find(|t| t.played)),
            TapeChoice::Named(name) => {
                let tape = program.tapes.iter().find(|t| t.name == *name);
                tape.map(Some).ok_or_else(|| {
                    let names: Vec<String> =
                        program.tapes.iter().map(|t| format!("\"{}\"", t.name)).collect();
                    let known = if names.is_empty() { "none".into() } else { names.join(", ") };
                    OptionsError::UnknownTape { name: name.clone(), known }
                })
            }
        }
    }
}

/// What is wrong with an option.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum OptionsError {
    /// No knob of that name.
    #[error("there is no knob `{name}`; this pond has {known}")]
    UnknownKnob {
        /// What was typed.
        name: String,
        /// The names there are, in words.
        known: String,
    },
    /// No tape of that name.
    #[error("there is no tape \"{name}\"; this pond has {known}")]
    UnknownTape {
        /// What was asked for.
        name: String,
        /// The names there are, in words.
        known: String,
    },
    /// Not a number, or in a unit that does not fit.
    #[error("`{value}` is no value for the knob `{knob}`: write a number{unit}")]
    BadValue {
        /// The knob.
        knob: String,
        /// What was typed.
        value: String,
        /// The unit, in words.
        unit: String,
    },
    /// Outside the knob's range.
    #[error("`{value}` is outside the range of the knob `{knob}`, {low} to {high}{unit}")]
    OutOfRange {
        /// The knob.
        knob: String,
        /// What was typed.
        value: String,
        /// The unit, with a blank before it.
        unit: String,
        /// Smallest value in that unit.
        low: f64,
        /// Largest value in that unit.
        high: f64,
    },
}

impl RunOptions {
    /// The values of all knobs in base units, in the program's order.
    ///
    /// # Errors
    /// [`OptionsError`] for a knob that is not there or a value that does not fit.
    pub fn knob_values(&self, program: &Program) -> Result<Vec<f64>, OptionsError> {
        let mut values: Vec<f64> = program.knobs.iter().map(|k| k.value).collect();
        for (name, text) in &self.knobs {
            let at = program.knobs.iter().position(|k| k.name == *name);
            let at = at.ok_or_else(|| unknown(name, program))?;
            values[at] = knob_value(&program.knobs[at], text, program.rate)?;
        }
        Ok(values)
    }
}

fn unknown(name: &str, program: &Program) -> OptionsError {
    let names: Vec<String> = program.knobs.iter().map(|k| format!("`{}`", k.name)).collect();
    let known = if names.is_empty() { "none".to_string() } else { names.join(", ") };
    OptionsError::UnknownKnob { name: name.to_string(), known }
}

/// A value as typed, `8` or `8 u/s`, in base units. A bare number is in the unit of the text.
///
/// # Errors
/// [`OptionsError`] if it is no number, in a unit that does not fit, or out of the knob's range.
pub fn knob_value(knob: &Knob, text: &str, rate: f64) -> Result<f64, OptionsError> {
    let bad = || OptionsError::BadValue {
        knob: knob.name.clone(),
        value: text.to_string(),
        unit: if knob.unit.is_empty() {
            String::new()
        } else {
            format!(" such as `1 {}`", knob.unit)
        },
    };
    let (tokens, found) = lex(text);
    let mut tokens: Vec<_> = tokens.into_iter().filter(|t| !t.kind.is_trivia()).collect();
    let minus = tokens.first().is_some_and(|t| t.kind == SyntaxKind::Minus);
    if minus {
        tokens.remove(0);
    }
    let [number] = tokens[..] else { return Err(bad()) };
    if !found.is_empty() || number.kind != SyntaxKind::Number {
        return Err(bad());
    }
    let written = units::parted(&text[number.span.range()]);
    // Without a unit it is in the knob's.
    let value = match written.in_base(rate) {
        Some((value, _)) if written.unit.is_empty() => value * knob.factor,
        Some((value, dim)) if dim == knob.dim => value,
        _ => return Err(bad()),
    };
    let base = value * if minus { -1.0 } else { 1.0 };
    match knob.range {
        Some((low, high)) if !(low..=high).contains(&base) => Err(OptionsError::OutOfRange {
            knob: knob.name.clone(),
            value: text.to_string(),
            unit: if knob.unit.is_empty() { String::new() } else { format!(" {}", knob.unit) },
            low: knob.in_unit(low),
            high: knob.in_unit(high),
        }),
        _ => Ok(base),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn knob() -> (Knob, f64) {
        let text = "pond \"t\" { arena 1 x 1 }\nknob gap = 250 ms in 10..5000 \"\"";
        let program = tickpond_lang::compile(text).program.unwrap();
        (program.knobs[0].clone(), program.rate)
    }

    #[rstest]
    #[case::bare("500", Ok(0.5))]
    #[case::same_unit("500 ms", Ok(0.5))]
    #[case::other_unit("2 s", Ok(2.0))]
    #[case::ticks("30 ticks", Ok(0.5))]
    #[case::wrong_unit("2 u", Err(true))]
    #[case::no_number("fast", Err(true))]
    #[case::two_numbers("1 2", Err(true))]
    #[case::out_of_range("9 s", Err(false))]
    #[case::negative("-1 s", Err(false))]
    fn a_value_is_read_with_its_unit(#[case] text: &str, #[case] wanted: Result<f64, bool>) {
        let (knob, rate) = knob();
        let found = knob_value(&knob, text, rate);
        let found = found.map_err(|e| matches!(e, OptionsError::BadValue { .. }));
        assert_eq!(found, wanted);
    }
}
