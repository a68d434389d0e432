//! F0608: a position moved by a plain length on every tick: it depends on the rate.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for (_, handler) in walk::handlers(program) {
        if handler.event != Event::EveryTick {
            continue;
        }
        walk::statements(&handler.body, &mut |stmt| {
            let StmtKind::Add(Field::Pos, step) = &stmt.kind else { return };
            let ExprKind::Pair(x, y) = &step.kind else { return };
            let per_second = |e: &Expr| constant(e, &[]).map(|n| n * program.rate);
            let comes_to = match (per_second(x), per_second(y)) {
                (Some(x), Some(y)) => {
                    format!("at {} per s it comes to ({x}, {y}) u/s", program.rate)
                }
                _ => "its speed depends on the rate".to_string(),
            };
            let message = format!("this moves by a length on every tick: {comes_to}");
            found.push(
                Diagnostic::new(Code::MovePerTick, program.sites[stmt.site.index()].span, message)
                    .with_help("set `vel` or `speed` once instead: it is per second at any rate"),
            );
        });
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;

    #[test]
    fn a_step_per_tick_is_found() {
        let text = "pond \"t\" { arena 10 x 10 }\nplace a at (1, 1)\n\
            kind a { every tick { pos += (1 u, 0 u) } }";
        assert_eq!(codes(text), ["F0608"]);
    }
}
