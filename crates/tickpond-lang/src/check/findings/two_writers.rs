//! F0612: two handlers that set one field in one phase: the last of the roll stands, and which that
//! is, is seldom what was meant.

use super::moments::{self, Moment, Phase};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for kind in &program.kinds {
        let mut writers: Vec<(Moment, Field, SiteId)> = Vec::new();
        for handler in kind.handlers.iter().filter(|h| !h.muted) {
            let mut own: Vec<(Moment, Field, SiteId)> = Vec::new();
            moments::of_handler(handler, &mut |stmt, moment| {
                let StmtKind::Set(field, _) = stmt.kind else { return };
                let told = own.iter().any(|(m, f, _)| *f == field && m.later == moment.later);
                if matters(&moment) && !told {
                    own.push((moment, field, stmt.site));
                }
            });
            for (moment, field, site) in own {
                let clash = writers.iter().find(|(other, f, _)| {
                    *f == field
                        && !std::ptr::eq(other.handler, handler)
                        && moment.meets(other, program)
                });
                if let Some((.., first)) = clash {
                    let span = program.sites[site.index()].span;
                    let name = name_of(program, field);
                    let message = format!("two handlers set `{name}` in one phase");
                    found.push(
                        Diagnostic::new(Code::TwoWriters, span, message)
                            .with_label(program.sites[first.index()].span, "the other is here")
                            .with_help("put both into one handler, or add with `+=`"),
                    );
                }
                writers.push((moment, field, site));
            }
        }
    }
    found
}

/// The moments at which a clash is a matter of chance. Messages and keys come one at a time as a rule, what follows
/// a wait at a tick of its own, and states change one after the other.
fn matters(moment: &Moment) -> bool {
    let event = &moment.handler.event;
    !moment.later
        && match moment.phase() {
            Phase::Clocks => !matches!(event, Event::Routine(_)),
            Phase::Think => !matches!(event, Event::Becoming(_) | Event::Quitting(_)),
            phase => phase == Phase::Contact,
        }
}

fn name_of(program: &Program, field: Field) -> String {
    match field {
        Field::Pos => "pos".into(),
        Field::Vel => "vel".into(),
        Field::Heading => "heading".into(),
        Field::Speed => "speed".into(),
        Field::Spin => "spin".into(),
        Field::Var(name) => program.var_names[name.index()].clone(),
        _ => "this".into(),
    }
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::two("every tick { speed = 1 u/s }; when age > 1 s { speed = 2 u/s }", &["F0612"])]
    #[case::other_fields("every tick { speed = 1 u/s }; when age > 1 s { spin = 2 deg/s }", &[])]
    #[case::other_phases("every 1 s { speed = 1 u/s }; when age > 1 s { speed = 2 u/s }", &[])]
    #[case::adding("every tick { spin += 1 deg/s }; when age > 1 s { spin += 2 deg/s }", &[])]
    #[case::other_states(
        "states { a, b }; in state a { every tick { speed = 1 u/s } }; \
         in state b { every tick { speed = 2 u/s }; on becoming b { become a } }; after 1 s { become b }",
        &[]
    )]
    #[case::clocks_that_never_meet("after 1 s { speed = 1 u/s }; after 2 s { speed = 2 u/s }", &[])]
    #[case::before_the_period("after 3 s { speed = 1 u/s }; every 2 s { speed = 2 u/s }", &[])]
    #[case::at_a_period("after 4 s { speed = 1 u/s }; every 2 s { speed = 2 u/s }", &["F0612"])]
    #[case::two_periods("every 2 s { speed = 1 u/s }; every 3 s { speed = 2 u/s }", &["F0612"])]
    #[case::up_and_down("on above y 5 u { speed = 1 u/s }; on below y 5 u { speed = 2 u/s }", &[])]
    #[case::two_lines("on above y 5 u { speed = 1 u/s }; on below y 6 u { speed = 2 u/s }", &["F0612"])]
    #[case::behind_a_wait("every 2 s { speed = 1 u/s }; every 3 s { wait 1 s; speed = 2 u/s }", &[])]
    fn both_lines_are_named(#[case] lines: &str, #[case] wanted: &[&str]) {
        let text =
            format!("pond \"t\" {{ arena 10 x 10 }}\nplace x at (1, 1)\nkind x {{ {lines} }}");
        assert_eq!(codes(&text), wanted);
    }
}
