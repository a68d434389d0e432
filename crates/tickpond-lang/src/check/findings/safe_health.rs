//! F0610: health nothing can lower.

use super::crowds::Crowds;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut hurt = vec![false; program.kinds.len()];
    let crowds = Crowds::of(program);
    for (owner, handler) in walk::handlers(program) {
        walk::statements(&handler.body, &mut |stmt| match &stmt.kind {
            StmtKind::Damage { target, .. } => {
                let kinds = crowds.whom(owner, target);
                kinds.iter().for_each(|k| hurt[k.index()] = true);
            }
            StmtKind::Blast(blast) if blast.damage.is_some() => {
                for (k, hurt) in hurt.iter_mut().enumerate() {
                    *hurt |= !blast.spares.contains(&KindId(k as u32));
                }
            }
            _ => {}
        });
    }
    let safe = program.kinds.iter().zip(hurt).filter_map(|(kind, hurt)| {
        let health = kind.health.as_ref()?;
        (!hurt).then_some((kind, health))
    });
    safe.map(|(kind, health)| {
        let message = format!("nothing can lower the health of a `{}`", kind.name);
        Diagnostic::new(Code::SafeHealth, health.span, message)
            .with_help("add a `damage` or a `blast` that can meet it, or remove the line")
    })
    .collect()
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::nothing("", &["F0610"])]
    #[case::itself("after 1 s { damage self by 1 }", &[])]
    #[case::a_blast("after 1 s { blast at here, radius 2 u, damage 1 }", &[])]
    #[case::a_push("after 1 s { blast at here, radius 2 u, push 1 u/s }", &["F0610"])]
    fn health_wants_something_that_lowers_it(#[case] line: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\nkind a {{ health 3; {line} }}"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[test]
    fn a_maker_is_who_makes() {
        let text = "pond \"t\" { arena 10 x 10 }\nplace a at (1, 1)\nplace c at (2, 2)\n\
            kind a { health 3; after 1 s { spawn b } }\nkind c { health 3 }\n\
            kind b { after 1 s { damage maker by 1; end self } }";
        assert_eq!(codes(text), ["F0610"]);
    }
}
