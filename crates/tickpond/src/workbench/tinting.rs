//! The colours of those alive, by what colours stand for.

use tickpond_lab::{Run, Timeline};
use tickpond_lang::program::{Program, Ty};
use tickpond_lang::units::Dim;
use tickpond_sim::vm::number_text;

use super::snapshot::Seen;
use super::tint::{Tint, TintKey, Tone};

/// A value as it is coloured.
enum Value {
    Name(u16),
    Number(f64, Dim),
}

/// Gives each of those alive its tone, in the order of [`super::snapshot::entities`].
pub fn tint(run: &Run, tint: &Tint, seen: &mut [Seen]) -> TintKey {
    let mut key = TintKey { tint: tint.clone(), ..TintKey::default() };
    if *tint == Tint::Kind {
        return key;
    }
    let (state, program) = (run.state(), run.program());
    let mut values: Vec<Option<Value>> = Vec::with_capacity(seen.len());
    for (kind, columns) in program.kinds.iter().zip(&state.kinds).skip(1) {
        let variable = match tint {
            Tint::Variable(name) => variable(program, kind, name),
            _ => None,
        };
        for row in 0..columns.len() {
            let share = |value: f64, dim: Dim| Some(Value::Number(value, dim));
            values.push(match tint {
                Tint::Kind => None,
                Tint::State => {
                    columns.tracks.first().zip(kind.tracks.first()).and_then(|(now, track)| {
                        let (name, _) = track.states.get(now.now[row] as usize)?;
                        let name = &program.state_names[name.0 as usize];
                        Some(Value::Name(run.cast().state_place(name) as u16))
                    })
                }
                Tint::Health => {
                    kind.health.as_ref().and_then(|_| share(columns.health[row], Dim::NONE))
                }
                Tint::Age => share(columns.age(row, state.tick) as f64 / program.rate, Dim::TIME),
                Tint::Variable(_) => variable.and_then(|(word, ty)| match ty {
                    Ty::Num(dim) => share(f64::from_bits(columns.vars[word][row]), *dim),
                    _ => Some(Value::Name(u16::from(columns.vars[word][row] != 0))),
                }),
            });
        }
    }
    let (low, high, dim) = reach(&values);
    for (seen, value) in seen.iter_mut().zip(values) {
        seen.tone = match value {
            None => Tone::Nothing,
            Some(Value::Name(place)) => {
                if let Err(at) = key.names.binary_search_by_key(&place, |known| known.0) {
                    let name = match tint {
                        Tint::State => run.cast().states[usize::from(place)].clone(),
                        _ => (place != 0).to_string(),
                    };
                    key.names.insert(at, (place, name));
                }
                Tone::Place(place)
            }
            Some(Value::Number(value, _)) => {
                key.range.get_or_insert_with(|| (number_text(low, dim), number_text(high, dim)));
                let share = (value - low) / (high - low).max(1e-12);
                Tone::Share(if share.is_finite() { share.clamp(0.0, 1.0) as f32 } else { 0.0 })
            }
        };
    }
    key
}

/// The place of a variable among a kind's words, and its type.
fn variable<'a>(
    program: &Program,
    kind: &'a tickpond_lang::program::Kind,
    name: &str,
) -> Option<(usize, &'a Ty)> {
    let mut word = 0;
    for var in &kind.vars {
        if program.var_names[var.name.index()] == name {
            return matches!(var.ty, Ty::Num(_) | Ty::Truth).then_some((word, &var.ty));
        }
        word += if matches!(var.ty, Ty::Pair(_)) { 2 } else { 1 };
    }
    None
}

/// Round ends around all numbers; from 0 if none is below.
fn reach(values: &[Option<Value>]) -> (f64, f64, Dim) {
    let (mut low, mut high, mut unit) = (0.0f64, 0.0f64, Dim::NONE);
    for value in values.iter().flatten() {
        if let Value::Number(value, dim) = value {
            (low, high) = (low.min(*value), high.max(*value));
            unit = *dim;
        }
    }
    (-round_up(-low), round_up(high), unit)
}

/// The next of 1, 2 and 5 times a power of ten; 0 stays.
fn round_up(value: f64) -> f64 {
    if value <= 0.0 || !value.is_finite() {
        return 0.0;
    }
    let power = 10f64.powf(value.log10().floor());
    let round = [1.0, 2.0, 5.0, 10.0].into_iter().map(|step| step * power);
    round.into_iter().find(|step| *step >= value * (1.0 - 1e-9)).unwrap_or(value)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::workbench::snapshot::entities;
    use rstest::rstest;
    use tickpond_lab::RunOptions;

    const POND: &str = "pond \"t\" { arena 90 x 30 }
kind frog {
    health 8
    states { sits, leaps }
    vars { jumps = 3; wet = true }
    every 0.5 s { jumps = jumps + 1 }
    on birth { if pos.x > 20 u { damage self by 5; become leaps } }
}
kind reed { }
place frog at (10, 10)
place frog at (30, 10)
place reed at (50, 10)
";

    fn seen(tint_by: &Tint) -> (TintKey, Vec<Tone>) {
        let program = tickpond_lang::compile(POND);
        let program = program.program.unwrap_or_else(|| panic!("{:?}", program.diagnostics));
        let mut run = Run::new(program, RunOptions::default()).unwrap();
        run.play_to(90);
        let mut seen = entities(&run);
        let key = tint(&run, tint_by, &mut seen);
        (key, seen.iter().map(|seen| seen.tone).collect())
    }

    #[rstest]
    #[case::health(Tint::Health, "0..10", &[Tone::Share(0.8), Tone::Share(0.3), Tone::Nothing])]
    #[case::age(Tint::Age, "0 s..2 s", &[Tone::Share(0.75); 3])]
    #[case::number(Tint::Variable("jumps".into()), "0..10", &[Tone::Share(0.6), Tone::Share(0.6), Tone::Nothing])]
    #[case::unknown(Tint::Variable("no such".into()), "", &[Tone::Nothing; 3])]
    #[case::kind(Tint::Kind, "", &[Tone::Own; 3])]
    fn numbers_are_shares_of_round_ends(
        #[case] by: Tint,
        #[case] range: &str,
        #[case] wanted: &[Tone],
    ) {
        let (key, tones) = seen(&by);
        let told = key.range.map_or(String::new(), |(low, high)| format!("{low}..{high}"));
        assert_eq!((told.as_str(), tones.as_slice()), (range, wanted));
    }

    #[rstest]
    fn states_and_truths_have_names() {
        let (key, tones) = seen(&Tint::State);
        assert_eq!(key.names, [(0, "leaps".to_string()), (1, "sits".to_string())]);
        assert_eq!(tones, [Tone::Place(1), Tone::Place(0), Tone::Nothing]);
        let (key, tones) = seen(&Tint::Variable("wet".into()));
        assert_eq!(key.names, [(1, "true".to_string())]);
        assert_eq!(tones[2], Tone::Nothing);
    }

    #[rstest]
    fn one_key_goes_through_all_there_is() {
        let program = tickpond_lang::compile(POND).program.unwrap();
        let choices = Tint::choices(&program);
        let mut tint = Tint::Kind;
        let mut words = Vec::new();
        for _ in 0..choices.len() {
            tint = tint.next(&choices);
            words.push(tint.words().to_string());
        }
        assert_eq!(words, ["state", "health", "age", "jumps", "wet", "kind"]);
    }
}
