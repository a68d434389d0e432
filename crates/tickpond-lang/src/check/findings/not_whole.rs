//! H0701: a time written as a number that is no whole number of ticks: clocks round it.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found: Vec<Diagnostic> = Vec::new();
    for time in walk::clock_times(program) {
        let ExprKind::Num(seconds) = time.kind else { continue };
        let ticks = seconds * program.rate;
        let whole = (ticks - ticks.round()).abs() < 1.0e-6;
        if whole || ticks < 1.0 || found.iter().any(|d| d.span == time.span) {
            continue;
        }
        let message =
            format!("this is {ticks:.2} ticks; the clock takes {}", program.ticks(seconds));
        found.push(
            Diagnostic::new(Code::NotWhole, time.span, message)
                .with_help("nothing is wrong if a fraction of a tick does not matter"),
        );
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;

    #[test]
    fn a_fraction_of_a_tick_is_told() {
        let text =
            |time: &str| format!("pond \"t\" {{ arena 10 x 10 }}\nevery {time} {{ say \"x\" }}");
        assert_eq!(codes(&text("0.33 s")), ["H0701"]);
        assert!(codes(&text("0.35 s")).is_empty());
    }
}
