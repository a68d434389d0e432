//! F0614: `x = x + 1` where several handlers may write in one phase: they read the same `x`, and all
//! but one are lost. Firings of one handler see what its earlier ones wrote.

use super::moments::{self, Moment};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found: Vec<Diagnostic> = Vec::new();
    for kind in &program.kinds {
        // Who writes what, when.
        let mut writes: Vec<(Moment, Field)> = Vec::new();
        for handler in kind.handlers.iter().filter(|h| !h.muted) {
            moments::of_handler(handler, &mut |stmt, moment| {
                if let StmtKind::Set(field, _) | StmtKind::Add(field, _) = stmt.kind {
                    writes.push((moment, field));
                }
            });
        }
        for handler in kind.handlers.iter().filter(|h| !h.muted) {
            moments::of_handler(handler, &mut |stmt, moment| {
                let shared = |field: Field| {
                    writes.iter().any(|(other, f)| {
                        *f == field
                            && !std::ptr::eq(other.handler, handler)
                            && moment.meets(other, program)
                    })
                };
                found.extend(
                    lost(program, stmt).filter(|(field, _)| shared(*field)).map(|(_, d)| d),
                );
            });
        }
    }
    found
}

/// The variable that `x = x + 1` counts in, and what is to be said where others write it, too.
fn lost(program: &Program, stmt: &Stmt) -> Option<(Field, Diagnostic)> {
    let StmtKind::Set(field @ Field::Var(name), value) = &stmt.kind else { return None };
    let ExprKind::Binary(op @ (BinaryOp::Add | BinaryOp::Subtract), a, b) = &value.kind else {
        return None;
    };
    if a.kind != ExprKind::Own(*field) {
        return None;
    }
    let sign = if *op == BinaryOp::Add { "+=" } else { "-=" };
    let text = |expr: &Expr| program.text.get(expr.span.range()).unwrap_or("");
    let name = &program.var_names[name.index()];
    let short = name.rsplit('.').next().unwrap_or(name);
    let span = program.sites[stmt.site.index()].span;
    let span = crate::diagnostic::Span { start: span.start, end: value.span.end };
    let mended = format!("{short} {sign} {}", text(b).trim());
    let message = format!("another handler changes `{short}` in the same phase, and this loses it");
    let diagnostic =
        Diagnostic::new(Code::LostSum, span, message).with_help(format!("write `{mended}`"));
    let whole = text(value).matches(['\n', '{']).next().is_none();
    let diagnostic = if whole { diagnostic.with_mend(span, mended) } else { diagnostic };
    Some((*field, diagnostic))
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use crate::compile;
    use rstest::rstest;

    #[rstest]
    #[case::one_phase("every 1 s { n = n + 2 }", "every 2 s { n += 1 }", &["F0614"])]
    #[case::other_phases("every 1 s { n = n + 2 }", "every tick { n += 1 }", &[])]
    #[case::behind_a_wait("every tick { wait 1 s; n = n + 2 }", "every 2 s { n += 1 }", &["F0614"])]
    #[case::clocks_that_never_meet("after 1 s { n = n + 2 }", "after 2 s { n += 1 }", &[])]
    #[case::one_handler("every 1 s { n = n + 2; n = n + 1 }", "", &[])]
    fn only_those_of_one_phase_lose_a_sum(
        #[case] sum: &str,
        #[case] other: &str,
        #[case] wanted: &[&str],
    ) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\nwatch w = sum(a.n)\n\
             kind a {{ vars {{ n = 0 }}; {sum}; {other} }}"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[test]
    fn the_mend_adds_instead() {
        let text = "pond \"t\" { arena 10 x 10 }\nplace a at (1, 1)\nwatch w = sum(a.n)\n\
            kind a { vars { n = 0 }\n every 1 s { n = n + 2 }\n every 2 s { n += 1 } }";
        let found = compile(text).diagnostics;
        assert_eq!(found.len(), 1, "{found:?}");
        let mend = found[0].mend.clone().unwrap();
        let mut mended = text.to_string();
        mended.replace_range(mend.span.range(), &mend.text);
        assert!(mended.contains("every 1 s { n += 2 }"), "{mended}");
        assert!(compile(&mended).diagnostics.is_empty());
    }
}
