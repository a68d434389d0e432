//! Values that a person names while a pond plays: any expression that could be a watch of it.

use tickpond_lang::program::{Program, Ty};
use tickpond_lang::units::Dim;
use tickpond_sim::vm::number_text;
use tickpond_sim::{Engine, State};

use crate::typed::{first_error, one_line};

/// A named value made ready for one version of a pond.
pub struct Gauge {
    engine: Engine,
    watch: usize,
    /// What it measures; none for a truth.
    dim: Option<Dim>,
    /// The entities it names, by kind and number: without them it has no value.
    named: Vec<(String, u32)>,
}

impl Gauge {
    /// A value such as `frog#1.health`, `count(midge) / 2`, or the name of a watch. It means what it would mean at
    /// the end of the pond's text.
    ///
    /// # Errors
    /// What the checker says of it.
    pub fn of(program: &Program, typed: &str) -> Result<Gauge, String> {
        let typed = one_line(typed, "value")?;
        let mut name = "pinned".to_string();
        while program.text.contains(&name) {
            name.push('_');
        }
        let text = format!("{}\nwatch {name} = {typed}\n", program.text);
        let compiled = tickpond_lang::compile(&text);
        let Some(with) = compiled.program else {
            let first = first_error(&compiled.diagnostics);
            return Err(first.unwrap_or_else(|| "this is no value".into()));
        };
        let Some(watch) = with.watches.iter().position(|watch| watch.name == name) else {
            return Err("one value is wanted, on one line".into());
        };
        let dim = match &with.watches[watch].value.ty {
            Ty::Num(dim) => Some(*dim),
            _ => None,
        };
        Ok(Gauge { engine: Engine::new(with), watch, dim, named: named(typed) })
    }

    /// The value in a state of the same version, a truth as 0 or 1; `None` if somebody it names is not there, or it is
    /// no finite number.
    pub fn value(&mut self, state: &State) -> Option<f64> {
        let there = |(kind, number): &(String, u32)| {
            let kind = self.engine.program().kind_named(kind);
            let columns = kind.and_then(|kind| state.kinds.get(kind.index()));
            columns
                .is_some_and(|columns| (0..columns.len()).any(|row| columns.number[row] == *number))
        };
        if !self.named.iter().all(there) {
            return None;
        }
        let value = self.engine.watches(state).get(self.watch).copied();
        value.filter(|value| value.is_finite())
    }

    /// A value of it as people read it, with its unit.
    pub fn told(&self, value: f64) -> String {
        match self.dim {
            Some(dim) => number_text(value, dim),
            None => (value != 0.0).to_string(),
        }
    }
}

/// The entities a text names, by kind and number: `frog#1`.
pub fn named(typed: &str) -> Vec<(String, u32)> {
    let mut named = Vec::new();
    for (at, _) in typed.match_indices('#') {
        let is_word = |c: &char| c.is_alphanumeric() || *c == '_';
        let kind: String = typed[..at].chars().rev().take_while(is_word).collect();
        let number: String = typed[at + 1..].chars().take_while(char::is_ascii_digit).collect();
        if let Ok(number) = number.parse() {
            named.push((kind.chars().rev().collect(), number));
        }
    }
    named
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Run, RunOptions};
    use rstest::rstest;

    const POND: &str = "pond \"t\" { arena 90 x 60 }
kind frog { health 5; after 1 s { damage self by 2 } ; after 3 s { end self } }
kind midge { on birth { heading = 0 deg; speed = 3 u/s } }
place frog at (10, 10)
place midge at (20, 10)
watch crowd = count(midge) + count(frog)
";

    fn value(typed: &str, ticks: u64) -> Option<String> {
        let mut run =
            Run::new(tickpond_lang::compile(POND).program.unwrap(), RunOptions::default()).unwrap();
        run.play_to(ticks);
        let mut gauge = Gauge::of(run.program(), typed).unwrap();
        gauge.value(run.state()).map(|value| gauge.told(value))
    }

    #[rstest]
    #[case::a_field("frog#1.health", 90, Some("3"))]
    #[case::a_unit("midge#1.pos.x", 60, Some("23 u"))]
    #[case::of_two("frog#1.health * 2 + count(midge)", 30, Some("11"))]
    #[case::a_watch("crowd", 30, Some("2"))]
    #[case::a_truth("count(midge) > 3", 30, Some("false"))]
    #[case::gone("frog#1.health", 240, None)]
    #[case::never_there("frog#2.health", 30, None)]
    fn a_value_is_what_it_would_be_as_a_watch(
        #[case] typed: &str,
        #[case] ticks: u64,
        #[case] wanted: Option<&str>,
    ) {
        assert_eq!(value(typed, ticks).as_deref(), wanted);
    }

    #[rstest]
    #[case("count(mige)", "mige")]
    #[case("1 }", "one value")]
    #[case("", "nothing was typed")]
    fn what_is_no_value_is_told(#[case] typed: &str, #[case] wanted: &str) {
        let program = tickpond_lang::compile(POND).program.unwrap();
        let Err(words) = Gauge::of(&program, typed) else { panic!("it is one") };
        assert!(words.contains(wanted), "{words}");
    }

    #[rstest]
    #[case("health of frog#12", &[("frog", 12)])]
    #[case("distance(reed_bed#3, frog#1)", &[("reed_bed", 3), ("frog", 1)])]
    #[case("count(midge)", &[])]
    #[case("frog# and #", &[])]
    fn the_entities_a_text_names_are_found(#[case] typed: &str, #[case] wanted: &[(&str, u32)]) {
        let wanted: Vec<(String, u32)> =
            wanted.iter().map(|(kind, number)| (kind.to_string(), *number)).collect();
        assert_eq!(named(typed), wanted);
    }
}
