//! Units, by construction: what fits compiles, what does not is one error at the right place.

use proptest::prelude::*;
use rstest::rstest;
use tickpond_lang::{Severity, compile};

/// A dimension: powers of length and of time.
type Dim = (i8, i8);

/// How each dimension that is used here is written down, with a value.
const WRITTEN: [(Dim, &str); 6] = [
    ((0, 0), "3"),
    ((1, 0), "2 u"),
    ((0, 1), "1.5 s"),
    ((1, -1), "6 u/s"),
    ((1, -2), "4 u/s2"),
    ((0, -1), "0.5 per s"),
];

fn written(dim: Dim) -> &'static str {
    WRITTEN.iter().find(|(known, _)| *known == dim).map_or("", |(_, text)| text)
}

fn is_written(dim: Dim) -> bool {
    WRITTEN.iter().any(|(known, _)| *known == dim)
}

/// An expression of a dimension, as text; `choices` decides what it is made of.
fn expression(dim: Dim, depth: u32, choices: &mut impl Iterator<Item = usize>) -> String {
    let choice = choices.next().unwrap_or(0);
    if depth == 0 || choice.is_multiple_of(4) {
        return written(dim).to_string();
    }
    let mut part = |dim: Dim| expression(dim, depth - 1, choices);
    match choice % 7 {
        0 => format!("({} + {})", part(dim), part(dim)),
        1 => format!("({} - {})", part(dim), part(dim)),
        2 => format!("min({}, {})", part(dim), part(dim)),
        3 => format!("abs({})", part(dim)),
        4 => format!("max({}, {})", part(dim), part(dim)),
        sign => {
            // One part of any dimension; the other makes up for it.
            let (one, _) = WRITTEN[choice / 7 % WRITTEN.len()];
            let other = match sign {
                5 => (dim.0 - one.0, dim.1 - one.1),
                _ => (dim.0 + one.0, dim.1 + one.1),
            };
            if !is_written(other) {
                return format!("({} * {})", part(dim), part((0, 0)));
            }
            match sign {
                5 => format!("({} * {})", part(one), part(other)),
                _ => format!("({} / {})", part(other), part(one)),
            }
        }
    }
}

/// A pond in which a variable is given an expression, and where the statement stands in it.
fn pond(variable: Dim, value: &str) -> (String, std::ops::Range<usize>) {
    let head = format!(
        "pond \"t\" {{ arena 9 x 9 }}\nkind frog {{ vars {{ v = {} }}\n  after 1 s {{ ",
        written(variable)
    );
    let statement = format!("v = {value}");
    let at = head.len()..head.len() + statement.len();
    (format!("{head}{statement} }} }}\nplace frog at (1, 1)\n"), at)
}

fn errors(text: &str) -> Vec<tickpond_lang::Diagnostic> {
    let all = compile(text).diagnostics;
    all.into_iter().filter(|d| d.severity == Severity::Error).collect()
}

fn dims() -> impl Strategy<Value = Dim> {
    prop::sample::select(WRITTEN.map(|(dim, _)| dim).to_vec())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn what_fits_compiles(dim in dims(), choices in prop::collection::vec(0..1000usize, 30)) {
        let value = expression(dim, 4, &mut choices.into_iter());
        let (text, _) = pond(dim, &value);
        let found = errors(&text);
        prop_assert!(found.is_empty(), "{}\n{:?}", value, found);
    }

    #[test]
    fn what_does_not_fit_is_one_error_in_its_statement(
        dim in dims(),
        other in dims(),
        choices in prop::collection::vec(0..1000usize, 30),
    ) {
        prop_assume!(dim != other);
        let value = expression(dim, 4, &mut choices.into_iter());
        let (text, at) = pond(other, &value);
        let found = errors(&text);
        prop_assert_eq!(found.len(), 1, "{}\n{:?}", value, found);
        prop_assert_eq!(found[0].code.as_str(), "E0401");
        let span = found[0].span.range();
        prop_assert!(at.start <= span.start && span.end <= at.end, "{:?} of {:?}", span, at);
    }

    #[test]
    fn a_sum_of_unlike_parts_is_told_wherever_it_hides(
        dim in dims(),
        other in dims(),
        before in prop::collection::vec(0..1000usize, 12),
        after in prop::collection::vec(0..1000usize, 12),
    ) {
        prop_assume!(dim != other);
        let part = |dim, choices: Vec<usize>| expression(dim, 2, &mut choices.into_iter());
        let (left, right) = (part(dim, before), part(other, after));
        let value = format!("abs(max(({left} + {right}), {}))", written(dim));
        let (text, at) = pond(dim, &value);
        let found = errors(&text);
        prop_assert!(!found.is_empty());
        prop_assert!(found.iter().all(|d| d.code.as_str() == "E0401"), "{:?}", found);
        let span = found[0].span.range();
        prop_assert!(at.start <= span.start && span.end <= at.end);
        let told = &text[span];
        prop_assert!(value.contains(told), "{}", told);
    }
}

#[rstest]
#[case::length_in_time("1 u / 2 s", (1, -1))]
#[case::twice_by_time("1 u / 2 s / 3 s", (1, -2))]
#[case::share("1 u / 2 u", (0, 0))]
#[case::rate("1 / 2 s", (0, -1))]
#[case::times_a_rate("3 u * 0.5 per s", (1, -1))]
#[case::area_by_length("(2 u * 3 u) / 1 u", (1, 0))]
#[case::a_distance("distance(here, (1, 1))", (1, 0))]
#[case::an_age("age", (0, 1))]
#[case::a_speed("length(vel)", (1, -1))]
#[case::a_count("count(frog)", (0, 0))]
fn results_have_their_dimension(#[case] value: &str, #[case] dim: Dim) {
    assert!(errors(&pond(dim, value).0).is_empty(), "{:?}", errors(&pond(dim, value).0));
    for (other, _) in WRITTEN.iter().filter(|(other, _)| *other != dim) {
        let found = errors(&pond(*other, value).0);
        assert_eq!(found.len(), 1, "{value} for {other:?}: {found:?}");
        assert_eq!(found[0].code.as_str(), "E0401");
    }
}
