//! F0614: `x = x + 1` where several handlers may write in one phase: they read the same `x`, and all
//! but one are lost. Firings of one handler see what its earlier ones wrote.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found: Vec<Diagnostic> = Vec::new();
    for (_, handler) in walk::handlers(program) {
        walk::statements(&handler.body, &mut |stmt| {
            let StmtKind::Set(field @ Field::Var(name), value) = &stmt.kind else { return };
            let ExprKind::Binary(op @ (BinaryOp::Add | BinaryOp::Subtract), a, b) = &value.kind
            else {
                return;
            };
            if a.kind != ExprKind::Own(*field) || !shared(program, handler, *field) {
                return;
            }
            let sign = if *op == BinaryOp::Add { "+=" } else { "-=" };
            let text = |expr: &Expr| program.text.get(expr.span.range()).unwrap_or("");
            let name = &program.var_names[name.index()];
            let short = name.rsplit('.').next().unwrap_or(name);
            let span = program.sites[stmt.site.index()].span;
            let span = crate::Span { start: span.start, end: value.span.end };
            let mended = format!("{short} {sign} {}", text(b).trim());
            let message =
                format!("other handlers of the phase change `{short}`, and this loses it");
            let diagnostic = Diagnostic::new(Code::LostSum, span, message)
                .with_help(format!("write `{mended}`"));
            let whole = text(value).matches(['\n', '{']).next().is_none();
            found.push(if whole { diagnostic.with_mend(span, mended) } else { diagnostic });
        });
    }
    found
}

/// Whether another handler of the kind writes the field, so that two may meet in one phase.
fn shared(program: &Program, handler: &Handler, field: Field) -> bool {
    let kinds = program.kinds.iter();
    let Some(kind) =
        kinds.into_iter().find(|k| k.handlers.iter().any(|h| std::ptr::eq(h, handler)))
    else {
        return false;
    };
    let writes = |h: &&Handler| {
        let mut writes = false;
        walk::statements(&h.body, &mut |stmt| {
            if let StmtKind::Set(f, _) | StmtKind::Add(f, _) = &stmt.kind {
                writes |= *f == field;
            }
        });
        writes
    };
    kind.handlers.iter().filter(|h| !h.muted && !std::ptr::eq(*h, handler)).any(|h| writes(&h))
}

#[cfg(test)]
mod tests {
    use crate::compile;

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
