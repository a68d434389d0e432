//! F0618: a name behind `as` that nothing uses: most often `self` stands where the name was meant, and the wrong party ends.

use std::collections::HashSet;

use crate::diagnostic::{Code, Diagnostic, Span};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found: Vec<Diagnostic> = Vec::new();
    // A behaviour's name may be of use in one kind alone.
    let mut of_use: HashSet<Span> = HashSet::new();
    for handler in program.kinds.iter().flat_map(|kind| &kind.handlers) {
        let used = used(handler);
        let mut look = |bind: LocalId, by_touch: bool| {
            let local = &handler.locals[bind.index()];
            if used.contains(&bind) {
                of_use.insert(local.span);
                return;
            }
            let name = &local.name;
            let message = format!("the name `{name}` is never used");
            let diagnostic = Diagnostic::new(Code::UnusedName, local.span, message);
            found.push(match by_touch.then(|| about_self(handler)).flatten() {
                Some(site) => {
                    let words = "this is about the entity whose handler it is";
                    diagnostic
                        .with_label(program.sites[site.index()].span, words)
                        .with_help(format!("write `{name}` for the other, or remove `as {name}`"))
                }
                None => diagnostic.with_help(format!("use it, or remove `as {name}`")),
            });
        };
        match &handler.event {
            Event::Touch { other, .. }
            | Event::Part(other)
            | Event::WhileTouching(other, _)
            | Event::Impact(other, _) => {
                other.bind.iter().for_each(|bind| look(*bind, true));
            }
            _ => {}
        }
        walk::statements(&handler.body, &mut |stmt| match &stmt.kind {
            StmtKind::If { bind: Some(bind), .. } => look(*bind, false),
            StmtKind::Repeat { counter: Some(counter), .. } => look(*counter, false),
            _ => {}
        });
    }
    found.retain(|d| !of_use.contains(&d.span));
    found
}

fn used(handler: &Handler) -> HashSet<LocalId> {
    let mut used = HashSet::new();
    let mut see = |expr: &Expr| match &expr.kind {
        ExprKind::Local(local) | ExprKind::RayPart(local, _) => {
            used.insert(*local);
        }
        _ => {}
    };
    walk::of_event(&handler.event, &mut see);
    walk::statements(&handler.body, &mut |stmt| walk::of_statement(stmt, &mut see));
    used
}

/// The first statement that ends, hurts, heals or pushes the entity itself.
fn about_self(handler: &Handler) -> Option<SiteId> {
    let mut first = None;
    walk::statements(&handler.body, &mut |stmt| {
        if let Some(Whom::One(one)) = stmt.kind.whom()
            && one.kind == ExprKind::Me
        {
            first.get_or_insert(stmt.site);
        }
    });
    first
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::the_wrong_party("on touch b as t { end self }", &["F0618"])]
    #[case::the_other("on touch b as t { end t }", &[])]
    #[case::in_a_text("on touch b as t { say \"{t.name}\" }", &[])]
    #[case::without_a_name("on touch b { end self }", &[])]
    #[case::of_an_impact("on impact over 1 u/s with b as i { if i.speed > 2 u/s { end self } }", &[])]
    #[case::of_a_condition("after 1 s { if nearest(b) as t { end self } }", &["F0618"])]
    #[case::of_a_loop("after 1 s { repeat 2 times as i { say \"x\" } }", &["F0618"])]
    #[case::a_birth_waits("after 1 s { spawn b at here as t; say \"x\" }", &[])]
    fn a_name_wants_a_use(#[case] line: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\nplace b at (1, 1)\n\
             kind a {{ body circle 1 u; {line} }}\nkind b {{ body circle 1 u; after 9 s {{ end self }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[test]
    fn the_line_that_is_about_self_is_shown() {
        let text = "pond \"t\" { arena 10 x 10 }\nplace a at (1, 1)\nplace b at (1, 1)\n\
            kind b { body circle 1 u }\nkind a { body circle 1 u; on touch b as t { say \"hit\"\nend self } }";
        let found = crate::compile(text).diagnostics;
        assert_eq!(&text[found[0].labels[0].span.range()], "end self");
    }
}
