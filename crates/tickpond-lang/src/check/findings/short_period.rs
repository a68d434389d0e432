//! F0606: a period or wait shorter than a tick, which comes to one tick all the same.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let times = walk::clock_times(program);
    let knobs: Vec<f64> = program.knobs.iter().map(|k| k.value).collect();
    let tick = 1.0 / program.rate;
    let short = times.into_iter().filter(|t| constant(t, &knobs).is_some_and(|s| s < tick * 0.999));
    short
        .map(|time| {
            let message = format!("this is shorter than a tick, which is {:.1} ms", tick * 1000.0);
            Diagnostic::new(Code::ShortPeriod, time.span, message)
                .with_help("it comes to one tick; write `1 ticks` if that is meant")
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case("5 ms", &["F0606"])]
    #[case("0 s", &["F0606"])]
    #[case("1 ticks", &[])]
    #[case("50 ms", &[])]
    fn a_period_under_a_tick_is_found(#[case] period: &str, #[case] codes_wanted: &[&str]) {
        let text = format!("pond \"t\" {{ arena 10 x 10 }}\nevery {period} {{ say \"x\" }}");
        assert_eq!(codes(&text), codes_wanted);
    }
}
