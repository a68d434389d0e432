//! F0624: a place outside of the arena: of a spot, a birth or a jump.

use crate::diagnostic::{Code, Diagnostic, Span};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found: Vec<Diagnostic> = Vec::new();
    let arena = &program.arena;
    let mut look = |x: f64, y: f64, span: Span| {
        let inside =
            (arena.low.0..=arena.high.0).contains(&x) && (arena.low.1..=arena.high.1).contains(&y);
        if inside {
            return;
        }
        let message = format!(
            "this place is outside of the arena, which goes from ({}, {}) to ({}, {})",
            arena.low.0, arena.low.1, arena.high.0, arena.high.1
        );
        let help = format!("write a place inside, such as `{}`", arena.example());
        found.push(Diagnostic::new(Code::OutsideArena, span, message).with_help(help));
    };
    let mut place = |expr: &Expr| {
        if let ExprKind::Pair(x, y) = &expr.kind
            && let (Some(x), Some(y)) = (constant(x, &[]), constant(y, &[]))
        {
            look(x, y, expr.span);
        }
    };
    let births = walk::births(program).into_iter().map(|(_, _, birth, _)| birth);
    for birth in births.chain(program.places.iter().map(|placed| &placed.birth)) {
        if let Where::Point(at) | Where::Around(at, _) | Where::Ring(at, _) = &birth.place {
            place(at);
        }
    }
    for (_, handler) in walk::handlers(program) {
        walk::statements(&handler.body, &mut |stmt| {
            if let StmtKind::Set(Field::Pos, to) = &stmt.kind {
                place(to);
            }
        });
    }
    for spot in program.spots.iter().flat_map(|group| &group.spots) {
        look(spot.at.0, spot.at.1, spot.span);
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::inside("place a at (10, 0)", &[])]
    #[case::placed("place a at (11, 0)", &["F0624"])]
    #[case::a_spot("spots reeds { (1, 1), (1, 12) }\nplace a at reeds", &["F0624"])]
    #[case::spawned("place a at (1, 1)\nafter 1 s { spawn a at (-1, 0) }", &["F0624"])]
    #[case::around_it("place a at (1, 1)\nafter 1 s { spawn a around (1, 99) within 3 u }", &["F0624"])]
    #[case::jumped_to("place a at (1, 1)\nplace b at (1, 1)\nkind b { after 1 s { pos = (99, 1) } }", &["F0624"])]
    fn a_place_is_inside_the_arena(#[case] items: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nkind a {{ after 9 s {{ end self }} }}\n{items}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
