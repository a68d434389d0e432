//! F0628: a birth with no health: what is born so is down at once, or ends.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let knobs: Vec<f64> = program.knobs.iter().map(|k| k.value).collect();
    let births = walk::births(program).into_iter().map(|(_, _, birth, _)| birth);
    let births = births.chain(program.places.iter().map(|placed| &placed.birth));
    // A kind whose health is 0 is an error.
    let at_births = births.filter_map(|birth| birth.health.as_ref());
    let none = |e: &&Expr| constant(e, &knobs).is_some_and(|health| health <= 0.0);
    let found: Vec<Diagnostic> = at_births
        .filter(none)
        .map(|health| {
            let message = "what is born with no health is down from its first tick, or ends in it";
            Diagnostic::new(Code::BornDown, health.span, message)
                .with_help("give it a health above 0, or leave the word out if it is to have none")
        })
        .collect();
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::of_a_birth("health 3", "place a at (1, 1), health 0", &["F0628"])]
    #[case::of_a_knob("health 3", "knob vigour = 0\nplace a at (1, 1), health vigour", &["F0628"])]
    #[case::some("health 3", "place a at (1, 1), health 1", &[])]
    fn health_begins_above_nothing(
        #[case] line: &str,
        #[case] items: &str,
        #[case] wanted: &[&str],
    ) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\n{items}\nkind a {{ {line}; after 1 s {{ damage self by 1 }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
