//! F0625: a spawner that makes where it is, and is placed without a place: then that is the middle of the arena.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let nowhere = program.places.iter().filter(|placed| {
        let kinds = walk::kinds_made(program, &placed.birth.kind);
        placed.birth.place == Where::Here
            && kinds.iter().any(|kind| match &program.kinds[kind.index()].role {
                Role::Spawner(rule) => is_here(&rule.birth.place),
                _ => false,
            })
    });
    nowhere
        .map(|placed| {
            let span = program.sites[placed.site.index()].span;
            let name = program.text.get(placed.birth.kind.span.range()).unwrap_or("it");
            let middle = program.arena.example();
            let message = format!("`{name}` makes where it is, and that is nowhere said: it is {middle}, the middle of the arena");
            Diagnostic::new(Code::SpawnerNowhere, span, message)
                .with_help(format!("write `place {name} at {middle}`, or say behind `makes` where"))
        })
        .collect()
}

/// Whether a place depends on where the spawner is.
fn is_here(place: &Where) -> bool {
    match place {
        Where::Here => true,
        Where::Point(at) | Where::Entity(at) | Where::Around(at, _) | Where::Ring(at, _) => {
            let mut reads = false;
            walk::inside(at, &mut |expr| reads |= expr.kind == ExprKind::Own(Field::Pos));
            reads
        }
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::here("makes a at here", "place bed", &["F0625"])]
    #[case::nowhere_said("makes a", "place bed", &["F0625"])]
    #[case::beside_it("makes a at here + (1, 0)", "place bed", &["F0625"])]
    #[case::around_it("makes a around here within 2 u", "place bed", &["F0625"])]
    #[case::placed("makes a at here", "place bed at (1, 1)", &[])]
    #[case::elsewhere("makes a at (1, 1)", "place bed", &[])]
    fn a_spawner_is_somewhere(#[case] makes: &str, #[case] place: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nspawner bed {{ {makes}; every 1 s }}\n{place}\nkind a {{ after 9 s {{ end self }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
