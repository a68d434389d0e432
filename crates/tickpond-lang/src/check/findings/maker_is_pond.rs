//! F0616: something asked of `maker` in a kind that only the pond makes: the pond is no entity, and every such
//! request is refused.

use std::collections::HashSet;

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let made_by_pond = made_by_pond(program);
    let mut found: Vec<Diagnostic> = Vec::new();
    for (owner, handler) in walk::handlers(program).filter(|(kind, _)| made_by_pond.contains(kind))
    {
        walk::statements(&handler.body, &mut |stmt| {
            let expr = match (stmt.kind.whom(), &stmt.kind) {
                (Some(Whom::One(one)), _) => Some(one),
                (_, StmtKind::Attach { target, .. }) => Some(target),
                _ => None,
            };
            let Some(expr) = expr.filter(|e| e.kind == ExprKind::Own(Field::Maker)) else { return };
            let name = &program.kinds[owner.index()].name;
            let message = format!("the maker of every `{name}` is the pond, which is no entity");
            let help = "name the entity that is meant, such as `nearest(frog)`, or let another kind spawn it";
            found.push(Diagnostic::new(Code::MakerIsPond, expr.span, message).with_help(help));
        });
    }
    found
}

/// The kinds that nothing but the pond makes.
fn made_by_pond(program: &Program) -> HashSet<KindId> {
    let placed = program.places.iter().map(|placed| (POND, &placed.birth));
    let spawned = walk::births(program).into_iter().map(|(maker, _, birth, _)| (maker, birth));
    let (mut by_pond, mut by_others) = (HashSet::new(), HashSet::new());
    for (maker, birth) in placed.chain(spawned) {
        let made = if maker == POND { &mut by_pond } else { &mut by_others };
        made.extend(walk::kinds_made(program, &birth.kind));
    }
    by_pond.retain(|kind| !by_others.contains(kind));
    by_pond
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::placed("place a at (1, 1)", "end maker", &["F0616"])]
    #[case::spawned_by_the_pond("after 1 s { spawn a at (1, 1) }", "push maker by (1, 0) u/s", &["F0616"])]
    #[case::both_ways(
        "place a at (1, 1)\nplace b at (2, 2)\nkind b { after 1 s { spawn a } after 2 s { end self } }",
        "end maker",
        &[]
    )]
    #[case::of_a_spawner("spawner nest { makes a at here; every 1 s }\nplace nest at (1, 1)", "end maker", &[])]
    #[case::told_not_asked("place a at (1, 1)", "send hi to maker", &[])]
    fn who_asks_something_of_the_pond_is_told(
        #[case] made: &str,
        #[case] asked: &str,
        #[case] wanted: &[&str],
    ) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nmessage hi\non hi {{ say \"hi\" }}\n\
             after 9 s {{ send hi to pond }}\n\
             {made}\nkind a {{ after 1 s {{ {asked} }} after 2 s {{ end self }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
