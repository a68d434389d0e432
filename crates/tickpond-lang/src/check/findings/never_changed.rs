//! F0622: a condition on variables that nothing changes: it comes out the same every time.

use std::collections::HashSet;

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let changed = changed(program);
    let mut found: Vec<Diagnostic> = Vec::new();
    for (owner, handler) in walk::handlers(program) {
        let fixed = |name: VarName| {
            let var = program.var_of(owner, name);
            var.is_some_and(|var| is_plain(&var.init)) && !changed.contains(&(owner, name))
        };
        let mut ask = |condition: &Expr| {
            for part in parts(condition) {
                let Some(name) = only_fixed(part, &fixed) else { continue };
                let short = program.var_names[name.index()].rsplit('.').next().unwrap_or("");
                let message =
                    format!("nothing changes `{short}`, so this comes out the same every time");
                let declared = program.var_of(owner, name).map(|var| var.span);
                let diagnostic = Diagnostic::new(Code::NeverChanged, part.span, message).with_help(
                    format!("set `{short}` where it is to change, or leave the condition out"),
                );
                found.push(match declared {
                    Some(span) => diagnostic.with_label(span, "this is its only value"),
                    None => diagnostic,
                });
            }
        };
        if let Event::When(condition) = &handler.event {
            ask(condition);
        }
        walk::statements(&handler.body, &mut |stmt| match &stmt.kind {
            StmtKind::If { condition, .. } | StmtKind::WaitUntil(condition) => ask(condition),
            _ => {}
        });
    }
    found
}

/// The variables that are set somewhere, or given another value at a birth.
fn changed(program: &Program) -> HashSet<(KindId, VarName)> {
    let mut changed = HashSet::new();
    for (i, kind) in program.kinds.iter().enumerate() {
        for handler in &kind.handlers {
            walk::statements(&handler.body, &mut |stmt| {
                if let StmtKind::Set(Field::Var(name), _) | StmtKind::Add(Field::Var(name), _) =
                    stmt.kind
                {
                    changed.insert((KindId(i as u32), name));
                }
            });
        }
    }
    let births = walk::births(program).into_iter().map(|(_, _, birth, _)| birth);
    for birth in births.chain(program.places.iter().map(|placed| &placed.birth)) {
        for kind in walk::kinds_made(program, &birth.kind) {
            changed.extend(birth.vars.iter().map(|(name, _)| (kind, *name)));
        }
    }
    changed
}

/// Whether all begin with one value.
fn is_plain(init: &Expr) -> bool {
    matches!(
        init.kind,
        ExprKind::Num(_) | ExprKind::Truth(_) | ExprKind::Kind(_) | ExprKind::State(_)
    ) || constant(init, &[]).is_some()
}

/// What is joined by `and` and `or`, one by one.
fn parts(condition: &Expr) -> Vec<&Expr> {
    match &condition.kind {
        ExprKind::Binary(BinaryOp::And | BinaryOp::Or, a, b) => {
            let mut all = parts(a);
            all.extend(parts(b));
            all
        }
        ExprKind::Not(inner) => parts(inner),
        _ => vec![condition],
    }
}

/// A variable that a condition reads, if it reads nothing but such, and numbers.
fn only_fixed(part: &Expr, fixed: &impl Fn(VarName) -> bool) -> Option<VarName> {
    let (mut name, mut other) = (None, false);
    walk::inside(part, &mut |expr| match expr.kind {
        ExprKind::Own(Field::Var(var)) | ExprKind::PondVar(var) if fixed(var) => name = Some(var),
        ExprKind::Num(_) | ExprKind::Truth(_) | ExprKind::Knob(_) | ExprKind::Kind(_) => {}
        ExprKind::Binary(..) | ExprKind::Negate(_) | ExprKind::Not(_) | ExprKind::Near(..) => {}
        _ => other = true,
    });
    name.filter(|_| !other)
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::a_flag("every 1 s { if not full { say \"x\" } }", &["F0622"])]
    #[case::a_flag_that_is_set("every 1 s { if not full { full = true } }", &[])]
    #[case::a_count("when n > 3 { say \"x\" }", &["F0622"])]
    #[case::with_something_else("every 1 s { if age > 2 s and n > 3 { say \"x\" } }", &["F0622"])]
    #[case::a_bound("every 1 s { if age / 1 s > n { say \"x\" } }", &[])]
    #[case::waited_for("routine r { wait until full; say \"x\" }", &["F0622"])]
    #[case::set_while_muted("off every 1 s { n = 5 }; when n > 3 { say \"x\" }", &[])]
    fn a_condition_that_cannot_change_is_found(#[case] line: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\nwatch w = sum(a.n) + count(a where full)\n\
             kind a {{ vars {{ n = 0; full = false }}; {line} }}"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[test]
    fn a_value_of_ones_own_is_a_change() {
        let text = "pond \"t\" { arena 10 x 10 }\nplace a at (1, 1)\nplace a at (2, 1) { n = 4 }\n\
            kind a { vars { n = 0 }; when n > 3 { say \"x\" } }";
        assert!(codes(text).is_empty());
    }
}
