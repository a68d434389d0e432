//! F0605: damage or healing that meets only kinds without health.

use super::crowds::Crowds;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    let crowds = Crowds::of(program);
    for (owner, handler) in walk::handlers(program) {
        walk::statements(&handler.body, &mut |stmt| {
            let (StmtKind::Damage { target, .. } | StmtKind::Heal { target, .. }) = &stmt.kind
            else {
                return;
            };
            let kinds = crowds.whom(owner, target);
            let kinds: Vec<&Kind> = kinds.iter().map(|k| &program.kinds[k.index()]).collect();
            if kinds.is_empty() || kinds.iter().any(|k| k.health.is_some()) {
                return;
            }
            let names: Vec<String> = kinds.iter().map(|k| format!("`{}`", k.name)).collect();
            let message = format!("{} has no health, so this does nothing", names.join(" or "));
            found.push(
                Diagnostic::new(
                    Code::NoHealth,
                    walk::whom_span(program, target, stmt.site),
                    message,
                )
                .with_label(kinds[0].name_span, "add a line `health 3` here")
                .with_help("give the kind health, or write `end … because` instead"),
            );
        });
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;

    #[test]
    fn all_values_of_a_variable_are_followed() {
        let text = |value: &str| {
            format!(
                "pond \"t\" {{ arena 10 x 10 }}\nplace fly at (1, 1)\nplace bug at (1, 1)\n\
                 kind fly {{ look \"f\" }}\n\
                 kind bug {{ health 3; vars {{ prey: any }}; every 1 s {{ damage prey by 1; prey = {value} }}; after 9 s {{ damage self by 1 }} }}"
            )
        };
        assert_eq!(codes(&text("nearest(fly)")), ["F0605"]);
        assert!(codes(&text("nearest(fly or bug)")).is_empty());
    }

    #[test]
    fn variables_that_are_given_each_others_values_are_followed() {
        let text = |value: &str| {
            format!(
                "pond \"t\" {{ arena 10 x 10 }}\nplace fly at (1, 1)\nplace bug at (1, 1)\n\
                 kind fly {{ look \"f\" }}\n\
                 kind bug {{ health 3; vars {{ a: any; b: any }}; every 1 s {{ damage a by 1; damage b by 1; a = b; b = a }}\n\
                 on birth {{ a = {value} }}; after 9 s {{ damage self by 1 }} }}"
            )
        };
        assert_eq!(codes(&text("nearest(fly)")), ["F0605", "F0605"]);
        assert!(codes(&text("nearest(bug)")).is_empty());
    }

    #[test]
    fn damage_needs_health() {
        let text = "pond \"t\" { arena 10 x 10 }\nplace fly at (1, 1)\nplace bug at (1, 1)\n\
            kind fly { body circle 1 u }\n\
            kind bug { body circle 1 u; on touch fly as f { damage f by 1 } }";
        assert_eq!(codes(text), ["F0605"]);
    }
}
