//! F0615: a field of an entity that may be gone by now: one kept in a variable, the maker, or one
//! known before a wait. Reading what is gone gives 0.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found: Vec<Diagnostic> = Vec::new();
    for (_, handler) in walk::handlers(program) {
        let mut known = Known { alive: Vec::new(), waited: false };
        block(program, &handler.body, &mut known, &mut found);
    }
    found.sort_by_key(|d| d.span);
    found.dedup_by_key(|d| d.span);
    found
}

/// What is known at a statement.
#[derive(Clone)]
struct Known {
    /// Those asked about, and alive.
    alive: Vec<ExprKind>,
    /// Whether something has waited: then locals can be gone, too.
    waited: bool,
}

fn block(program: &Program, body: &[Stmt], known: &mut Known, found: &mut Vec<Diagnostic>) {
    for stmt in body {
        let mut here = known.clone();
        if let StmtKind::If { condition, .. } = &stmt.kind {
            asked(condition, &mut here.alive);
        }
        walk::of_statement(stmt, &mut |expr| look(program, expr, &here, found));
        match &stmt.kind {
            StmtKind::Wait(_) | StmtKind::WaitUntil(_) | StmtKind::SpawnAs(..) => {
                known.waited = true;
                known.alive.clear();
            }
            StmtKind::Wave { body, .. } => {
                block(program, body, known, found);
                known.waited = true;
                known.alive.clear();
            }
            StmtKind::If { bind, then, otherwise, .. } => {
                if let Some(bind) = bind {
                    here.alive.push(ExprKind::Local(*bind));
                }
                block(program, then, &mut here, found);
                let mut other = known.clone();
                block(program, otherwise, &mut other, found);
                known.waited |= here.waited || other.waited;
                if known.waited {
                    known.alive.clear();
                }
            }
            StmtKind::Repeat { body, .. } => block(program, body, known, found),
            StmtKind::Each { bind, body, .. } => {
                here.alive.push(ExprKind::Local(*bind));
                block(program, body, &mut here, found);
            }
            StmtKind::Ray(ray) => {
                block(program, &ray.then, &mut here, found);
                block(program, &ray.otherwise, &mut known.clone(), found);
            }
            _ => {}
        }
    }
}

/// The entities a condition asks about.
fn asked(condition: &Expr, alive: &mut Vec<ExprKind>) {
    match &condition.kind {
        ExprKind::Alive(entity) | ExprKind::IsKind(entity, _) => alive.push(entity.kind.clone()),
        ExprKind::Binary(BinaryOp::And, a, b) => {
            asked(a, alive);
            asked(b, alive);
        }
        _ => {}
    }
}

fn look(program: &Program, expr: &Expr, known: &Known, found: &mut Vec<Diagnostic>) {
    let ExprKind::Of(entity, field) = &expr.kind else { return };
    let may_be_gone = match &entity.kind {
        ExprKind::Own(Field::Var(_) | Field::Maker) | ExprKind::PondVar(_) => true,
        ExprKind::Local(_) => known.waited,
        _ => false,
    };
    if !may_be_gone || *field == Field::Name || known.alive.contains(&entity.kind) {
        return;
    }
    let text = program.text.get(entity.span.range()).unwrap_or("it");
    let message = format!("`{text}` may be gone by now, and then this reads 0");
    found.push(
        Diagnostic::new(Code::MaybeGone, entity.span, message)
            .with_help(format!("ask first: `if {text} is alive {{ … }}`")),
    );
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::a_variable("every 1 s { heading = direction to prey }", &["F0615"])]
    #[case::asked("every 1 s { if prey is alive { heading = direction to prey } }", &[])]
    #[case::asked_and_more("every 1 s { if prey is alive and prey.age > 1 s { end self } }", &[])]
    #[case::fresh("every 1 s { if nearest(a) as p { heading = direction to p } prey = self }", &["F0613"])]
    #[case::after_a_wait(
        "every 1 s { if nearest(a) as p { wait 1 s; heading = direction to p; prey = p } }",
        &["F0613", "F0615"]
    )]
    #[case::a_request("every 1 s { end prey }", &[])]
    fn who_may_be_gone_is_asked_for(#[case] line: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\n\
             kind a {{ vars {{ prey = self }}; {line} }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
