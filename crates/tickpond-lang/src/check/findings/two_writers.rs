//! F0612: two handlers that set one field in one phase: the last of the roll stands, and which that
//! is, is seldom what was meant.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for kind in &program.kinds {
        // Phase, field, state, head, place.
        let mut writers: Vec<(u8, Field, &Handler, SiteId)> = Vec::new();
        for handler in kind.handlers.iter().filter(|h| !h.muted) {
            let Some(phase) = phase_of(&handler.event) else { continue };
            let mut fields: Vec<(Field, SiteId)> = Vec::new();
            walk::statements(&handler.body, &mut |stmt| {
                if let StmtKind::Set(field, _) = stmt.kind
                    && !fields.iter().any(|(f, _)| *f == field)
                {
                    fields.push((field, stmt.site));
                }
            });
            for (field, site) in fields {
                let clash = writers.iter().find(|(p, f, h, _)| {
                    *p == phase && *f == field && together(h.state, handler.state)
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
                writers.push((phase, field, handler, site));
            }
        }
    }
    found
}

/// The phases in which a clash is a matter of chance. Messages and keys come one at a time as a rule.
fn phase_of(event: &Event) -> Option<u8> {
    Some(match event {
        Event::After(_) | Event::Every(_) => 0,
        Event::EveryTick | Event::When(_) => 1,
        Event::Touch { .. } | Event::Part(_) | Event::WhileTouching(..) | Event::Impact(..) => 2,
        Event::Enter(_) | Event::Leave(_) | Event::LeaveArena | Event::Line(..) => 2,
        Event::TouchEdge(_) => 2,
        _ => return None,
    })
}

/// Whether two states can be the case at once: not two of one track.
fn together(a: Option<InState>, b: Option<InState>) -> bool {
    match (a, b) {
        (Some(a), Some(b)) => a.track != b.track || a.state == b.state,
        _ => true,
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
    #[case::adding("every tick { vel += (1, 0) u/s }; when age > 1 s { vel += (2, 0) u/s }", &[])]
    #[case::other_states(
        "states { a, b }; in state a { every tick { speed = 1 u/s } }; \
         in state b { every tick { speed = 2 u/s }; on becoming b { become a } }; after 1 s { become b }",
        &[]
    )]
    fn both_lines_are_named(#[case] lines: &str, #[case] wanted: &[&str]) {
        let text =
            format!("pond \"t\" {{ arena 10 x 10 }}\nplace x at (1, 1)\nkind x {{ {lines} }}");
        assert_eq!(codes(&text), wanted);
    }
}
