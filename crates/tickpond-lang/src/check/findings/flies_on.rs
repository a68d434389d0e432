//! F0620: a kind that is born again and again, moves straight on in an open arena and ends only by meeting somebody:
//! whoever misses flies on for ever.

use std::collections::HashSet;

use super::crowds::{self, Crowds};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let edges = program.arena.edges;
    if ![edges.left, edges.right, edges.low, edges.high].contains(&Edge::Open) {
        return Vec::new();
    }
    let crowds = Crowds::of(program);
    let (endless, ways) = (crowds.endless(), crowds::ways_out(&crowds));
    let (moves, steers) = motions(program, &crowds);
    let kinds = program.entity_kinds().filter(|(id, _)| {
        let way = ways[id.index()];
        endless[id.index()].is_some()
            && way.by_meeting
            && !way.otherwise
            && moves.contains(id)
            && !steers.contains(id)
    });
    kinds
        .map(|(_, kind)| {
            let message = format!("a `{}` that meets nobody flies on for ever, unseen", kind.name);
            let help = "end it where it leaves, `on leave arena { end self }`, or after a time";
            Diagnostic::new(Code::FliesOn, kind.name_span, message).with_help(help)
        })
        .collect()
}

/// The kinds that get a velocity by their birth, and those that change their way later on.
fn motions(program: &Program, crowds: &Crowds) -> (HashSet<KindId>, HashSet<KindId>) {
    let (mut moves, mut steers) = (HashSet::new(), HashSet::new());
    for made in &crowds.births {
        let birth = made.birth;
        if birth.speed.is_some()
            || birth.vel.is_some()
            || birth.push.is_some()
            || birth.keeps_velocity
        {
            moves.extend(made.kinds.iter().copied());
        }
        // Who is attached goes where its owner goes.
        if birth.attached.is_some() {
            steers.extend(made.kinds.iter().copied());
        }
    }
    for (owner, handler) in walk::handlers(program) {
        let at_birth = handler.event == Event::Birth;
        walk::statements(&handler.body, &mut |stmt| match &stmt.kind {
            StmtKind::Set(Field::Vel | Field::Speed, _) if at_birth => {
                moves.insert(owner);
            }
            StmtKind::Set(field, _) | StmtKind::Add(field, _) if !at_birth => {
                if matches!(
                    field,
                    Field::Vel | Field::Speed | Field::Heading | Field::Spin | Field::Pos
                ) {
                    steers.insert(owner);
                }
            }
            _ => {}
        });
    }
    (moves, steers)
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::who_misses("open", "speed 9 u/s", "on touch b { end self }", &["F0620"])]
    #[case::who_leaves("open", "speed 9 u/s", "on touch b { end self }; on leave arena { end self }", &[])]
    #[case::a_lifetime("open", "speed 9 u/s", "on touch b { end self }; after 9 s { end self }", &[])]
    #[case::who_stays("open", "facing 9 deg", "on touch b { end self }", &[])]
    #[case::in_walls("wall", "speed 9 u/s", "on touch b { end self }", &[])]
    #[case::from_its_birth("open", "facing 9 deg", "on birth { speed = 9 u/s }; on touch b { end self }", &["F0620"])]
    #[case::who_steers(
        "open",
        "speed 9 u/s",
        "every tick { if nearest(b) as t { head toward t } }; on touch b { end self }",
        &[]
    )]
    fn who_meets_nobody_flies_on(
        #[case] edges: &str,
        #[case] option: &str,
        #[case] lines: &str,
        #[case] wanted: &[&str],
    ) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10; edges {edges} }}\nplace b at (1, 1)\nkind b {{ body circle 1 u; every 1 s {{ spawn a at here, {option} }} }}\n\
             kind a {{ body circle 1 u; {lines} }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
