//! F0621: a clock or routine of a kind with several copies that says to the pond what says nothing of the copy: what
//! should be done once is done once for each.

use super::crowds::Crowds;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let several = Crowds::of(program).several();
    let minds = minds(program);
    let mut found: Vec<Diagnostic> = Vec::new();
    for (owner, handler) in walk::handlers(program).filter(|(kind, _)| several[kind.index()]) {
        let clock = matches!(handler.event, Event::After(_) | Event::Every(_) | Event::Routine(_));
        if !clock || handler.state.is_some() {
            continue;
        }
        // What is said under a condition is said of the copy that meets it.
        said(&handler.body, &mut |stmt| {
            let StmtKind::Send { message, values, to: Target::Pond } = &stmt.kind else { return };
            if values.iter().any(of_the_copy) || !minds[message.index()] {
                return;
            }
            let kind = &program.kinds[owner.index()].name;
            let name = &program.messages[message.index()].name;
            let words = format!(
                "each `{kind}` says `{name}` to the pond, so it is done once for each copy"
            );
            let help = "move the handler to the top of the text: there it runs once for the pond";
            let span = program.sites[stmt.site.index()].span;
            found.push(Diagnostic::new(Code::OncePerCopy, span, words).with_help(help));
        });
    }
    found
}

/// Calls `see` for what is said whatever the copy is like.
fn said<'p>(body: &'p [Stmt], see: &mut impl FnMut(&'p Stmt)) {
    for stmt in body {
        see(stmt);
        match &stmt.kind {
            StmtKind::Repeat { body, .. } | StmtKind::Wave { body, .. } => said(body, see),
            _ => {}
        }
    }
}

/// Whether a value tells one copy from another.
fn of_the_copy(value: &Expr) -> bool {
    let mut tells = false;
    walk::inside(value, &mut |expr| {
        tells |= !matches!(
            expr.kind,
            ExprKind::Num(_) | ExprKind::Knob(_) | ExprKind::Truth(_) | ExprKind::Kind(_)
        );
    });
    tells
}

/// By message: whether what the pond does on it is another thing when it is told twice; not where it only adds, or asks
/// who said it.
fn minds(program: &Program) -> Vec<bool> {
    let mut minds = vec![false; program.messages.len()];
    for handler in program.kinds[POND.index()].handlers.iter().filter(|h| !h.muted) {
        let Event::Message { message, from: None, .. } = handler.event else { continue };
        let mut counts = false;
        walk::statements(&handler.body, &mut |stmt| {
            counts |= matches!(stmt.kind, StmtKind::Add(..));
            // `n = n + 1` counts, too, and is told of where it loses.
            if let StmtKind::Set(field, value) = &stmt.kind {
                walk::inside(value, &mut |e| counts |= e.kind == ExprKind::Own(*field));
            }
        });
        minds[message.index()] |= !counts;
    }
    minds
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    const TWO: &str = "place a at (1, 1)\nplace a at (2, 2)";

    #[rstest]
    #[case::a_routine(TWO, "routine r { wait 1 s; send hi(1) to pond }", "spawn b at (1, 1)", &["F0621"])]
    #[case::a_timer(TWO, "every 1 s { send hi(1) to pond }", "spawn b at (1, 1)", &["F0621"])]
    #[case::one_copy("place a at (1, 1)", "every 1 s { send hi(1) to pond }", "spawn b at (1, 1)", &[])]
    #[case::a_stream("after 1 s { spawn 2 a at (1, 1) }", "after 1 s { send hi(1) to pond }", "spawn b at (1, 1)", &["F0621"])]
    #[case::of_the_copy(TWO, "every 1 s { send hi(age / 1 s) to pond }", "spawn b at (1, 1)", &[])]
    #[case::counted(TWO, "every 1 s { send hi(1) to pond }", "spawn b at (1, 1); m += 1", &[])]
    #[case::on_a_touch(TWO, "on touch b { send hi(1) to pond }", "spawn b at (1, 1)", &[])]
    #[case::under_a_condition(TWO, "every 1 s { if pos.x > 3 u { send hi(1) to pond } }", "spawn b at (1, 1)", &[])]
    fn what_each_copy_says_is_found(
        #[case] made: &str,
        #[case] line: &str,
        #[case] answer: &str,
        #[case] wanted: &[&str],
    ) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nmessage hi(n: count)\nvars {{ m = 0 }}\nwatch w = m\n{made}\n\
             kind a {{ body circle 1 u; {line} }}\nkind b {{ body circle 1 u; after 9 s {{ end self }} }}\n\
             on hi(n) {{ {answer}; say \"{{n}}\" }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
