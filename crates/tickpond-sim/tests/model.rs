//! Handlers with branches, against the same written down as a walk over one entity after another.

use std::fmt::Write;

use crate::common::play;
use proptest::prelude::*;

/// A number as the language writes it and as it is worked out.
#[derive(Clone, Debug)]
enum Number {
    Plain(f64),
    /// A variable, by its place in [`VARS`].
    Var(usize),
    Sum(Box<Number>, Box<Number>),
    Difference(Box<Number>, Box<Number>),
    Product(Box<Number>, Box<Number>),
    Least(Box<Number>, Box<Number>),
    Most(Box<Number>, Box<Number>),
}

#[derive(Clone, Debug)]
enum Truth {
    Less(Number, Number),
    AtMost(Number, Number),
    Both(Box<Truth>, Box<Truth>),
    Either(Box<Truth>, Box<Truth>),
    Not(Box<Truth>),
}

#[derive(Clone, Debug)]
enum Step {
    Set(usize, Number),
    If(Truth, Vec<Step>, Vec<Step>),
}

const VARS: [&str; 3] = ["n", "m", "k"];

impl Number {
    fn write(&self, text: &mut String) {
        let both = |text: &mut String, sign: &str, a: &Number, b: &Number| {
            text.push('(');
            a.write(text);
            text.push_str(sign);
            b.write(text);
            text.push(')');
        };
        match self {
            Number::Plain(value) if *value < 0.0 => {
                let _ = write!(text, "(0 - {})", -value);
            }
            Number::Plain(value) => {
                let _ = write!(text, "{value}");
            }
            Number::Var(at) => text.push_str(VARS[*at]),
            Number::Sum(a, b) => both(text, " + ", a, b),
            Number::Difference(a, b) => both(text, " - ", a, b),
            Number::Product(a, b) => both(text, " * ", a, b),
            Number::Least(a, b) | Number::Most(a, b) => {
                text.push_str(if matches!(self, Number::Least(..)) { "min" } else { "max" });
                both(text, ", ", a, b);
            }
        }
    }

    fn of(&self, vars: &[f64; 3]) -> f64 {
        match self {
            Number::Plain(value) => *value,
            Number::Var(at) => vars[*at],
            Number::Sum(a, b) => a.of(vars) + b.of(vars),
            Number::Difference(a, b) => a.of(vars) - b.of(vars),
            Number::Product(a, b) => a.of(vars) * b.of(vars),
            Number::Least(a, b) => a.of(vars).min(b.of(vars)),
            Number::Most(a, b) => a.of(vars).max(b.of(vars)),
        }
    }
}

impl Truth {
    fn write(&self, text: &mut String) {
        match self {
            Truth::Less(a, b) | Truth::AtMost(a, b) => {
                a.write(text);
                text.push_str(if matches!(self, Truth::Less(..)) { " < " } else { " <= " });
                b.write(text);
            }
            Truth::Both(a, b) | Truth::Either(a, b) => {
                text.push('(');
                a.write(text);
                text.push_str(if matches!(self, Truth::Both(..)) { ") and (" } else { ") or (" });
                b.write(text);
                text.push(')');
            }
            Truth::Not(a) => {
                text.push_str("not (");
                a.write(text);
                text.push(')');
            }
        }
    }

    fn of(&self, vars: &[f64; 3]) -> bool {
        match self {
            Truth::Less(a, b) => a.of(vars) < b.of(vars),
            Truth::AtMost(a, b) => a.of(vars) <= b.of(vars),
            Truth::Both(a, b) => a.of(vars) && b.of(vars),
            Truth::Either(a, b) => a.of(vars) || b.of(vars),
            Truth::Not(a) => !a.of(vars),
        }
    }
}

fn write_steps(steps: &[Step], text: &mut String) {
    for step in steps {
        match step {
            Step::Set(var, number) => {
                let _ = write!(text, "{} = ", VARS[*var]);
                number.write(text);
                text.push('\n');
            }
            Step::If(truth, yes, no) => {
                text.push_str("if ");
                truth.write(text);
                text.push_str(" {\n");
                write_steps(yes, text);
                if !no.is_empty() {
                    text.push_str("} else {\n");
                    write_steps(no, text);
                }
                text.push_str("}\n");
            }
        }
    }
}

fn walk(steps: &[Step], vars: &mut [f64; 3]) {
    for step in steps {
        match step {
            Step::Set(var, number) => vars[*var] = number.of(vars),
            Step::If(truth, yes, no) => walk(if truth.of(vars) { yes } else { no }, vars),
        }
    }
}

fn numbers() -> impl Strategy<Value = Number> {
    let leaf = prop_oneof![
        (-40..40i32).prop_map(|n| Number::Plain(f64::from(n) / 8.0)),
        (0..3usize).prop_map(Number::Var),
    ];
    leaf.prop_recursive(2, 8, 2, |inner| {
        let pair = (inner.clone(), inner).prop_map(|(a, b)| (Box::new(a), Box::new(b)));
        (pair, 0..5u8).prop_map(|((a, b), which)| match which {
            0 => Number::Sum(a, b),
            1 => Number::Difference(a, b),
            2 => Number::Product(a, b),
            3 => Number::Least(a, b),
            _ => Number::Most(a, b),
        })
    })
}

fn truths() -> impl Strategy<Value = Truth> {
    let leaf = (numbers(), numbers(), any::<bool>())
        .prop_map(|(a, b, less)| if less { Truth::Less(a, b) } else { Truth::AtMost(a, b) });
    leaf.prop_recursive(2, 6, 2, |inner| {
        prop_oneof![
            (inner.clone(), inner.clone(), any::<bool>()).prop_map(|(a, b, both)| {
                let (a, b) = (Box::new(a), Box::new(b));
                if both { Truth::Both(a, b) } else { Truth::Either(a, b) }
            }),
            inner.prop_map(|a| Truth::Not(Box::new(a))),
        ]
    })
}

fn steps() -> impl Strategy<Value = Vec<Step>> {
    let set = (0..3usize, numbers()).prop_map(|(var, number)| Step::Set(var, number)).boxed();
    let inner = set.clone();
    let nested = prop::collection::vec(inner, 0..4);
    let branch = (truths(), nested.clone(), nested).prop_map(|(t, a, b)| Step::If(t, a, b)).boxed();
    let deep = (truths(), prop::collection::vec(prop_oneof![set.clone(), branch.clone()], 0..4))
        .prop_map(|(t, a)| Step::If(t, a, Vec::new()));
    prop::collection::vec(prop_oneof![2 => set, 2 => branch, 1 => deep], 1..7)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    /// Entities go different ways through the branches side by side; each must come out as if alone.
    #[test]
    fn many_at_once_come_out_as_one_by_one(
        steps in steps(),
        starts in prop::collection::vec((-80..80i32, -80..80i32), 1..400),
    ) {
        let mut text = "pond \"t\" { arena 10 x 10 }\nkind bit {\nvars { n = 0; m = 0; k = 1 }\nafter 1 ticks {\n".to_string();
        write_steps(&steps, &mut text);
        text.push_str("}\n}\n");
        for (nth, (n, m)) in starts.iter().enumerate() {
            let (n, m) = (f64::from(*n) / 16.0, f64::from(*m) / 16.0);
            let _ = writeln!(text, "place bit at ({nth}, 5) {{ n = {n}; m = {m} }}");
        }
        let ends: Vec<[f64; 3]> = starts
            .iter()
            .map(|(n, m)| {
                let mut vars = [f64::from(*n) / 16.0, f64::from(*m) / 16.0, 1.0];
                walk(&steps, &mut vars);
                vars
            })
            .collect();
        // What grows without bound stops the run instead; that is a rule of its own.
        prop_assume!(ends.iter().flatten().all(|value| value.abs() < 1e100));
        let mut play = play(&text, 1);
        play.ticks(1);
        prop_assert!(play.state.stopped.is_none());
        let columns = play.columns("bit");
        prop_assert_eq!(columns.len(), starts.len());
        // Placements of one kind are born from left to right.
        for (row, vars) in ends.iter().enumerate() {
            for (var, value) in vars.iter().enumerate() {
                let found = f64::from_bits(columns.vars[var][row]);
                prop_assert_eq!(found, *value, "{} of {} in\n{}", VARS[var], row, text);
            }
        }
    }
}
