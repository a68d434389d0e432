//! F0607: births that bring about themselves without delay: a birth that asks for another of its
//! kind, or an end that brings forth several. Each round makes more, until a guard stops the run.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let count = program.kinds.len();
    // made[a] holds b if the birth of an a at once asks for a b.
    let mut made: Vec<Vec<(usize, SiteId)>> = vec![Vec::new(); count];
    for (maker, handler, birth, site) in walk::births(program) {
        if handler.is_some_and(|h| h.event == Event::Birth) {
            for kind in walk::kinds_made(program, &birth.kind) {
                made[maker.index()].push((kind.index(), site));
            }
        }
    }
    let on_cycle = |start: usize| {
        let mut seen = vec![false; count];
        let mut open: Vec<usize> = made[start].iter().map(|(kind, _)| *kind).collect();
        while let Some(kind) = open.pop() {
            if kind == start {
                return true;
            }
            if !std::mem::replace(&mut seen[kind], true) {
                open.extend(made[kind].iter().map(|(next, _)| *next));
            }
        }
        false
    };
    let doubling = walk::births(program).into_iter().filter_map(|(maker, handler, birth, site)| {
        let at_end = handler.is_some_and(|h| h.event == Event::End(Vec::new()));
        let itself = matches!(birth.kind.kind, ExprKind::Kind(kind) if kind == maker);
        let several =
            birth.count.as_ref().is_some_and(|n| constant(n, &[]).is_none_or(|n| n > 1.0));
        let name = &program.kinds[maker.index()].name;
        (at_end && itself && several).then(|| {
            let message = format!("every end of a `{name}` brings forth several of its kind");
            Diagnostic::new(Code::Multiplies, program.sites[site.index()].span, message)
                .with_help("spawn another kind, or keep count in a variable and stop")
        })
    });
    let doubling: Vec<Diagnostic> = doubling.collect();
    (0..count)
        .filter(|start| on_cycle(*start))
        .map(|start| {
            let site = made[start][0].1;
            let span = program.sites[site.index()].span;
            let name = &program.kinds[start].name;
            let message = format!("the birth of a `{name}` asks at once for another `{name}`");
            Diagnostic::new(Code::Multiplies, span, message)
                .with_help("put a delay before it: `after 1 s { spawn … }`")
        })
        .chain(doubling)
        .collect()
}

#[cfg(test)]
mod tests {
    use super::super::codes;

    #[test]
    fn a_cycle_of_births_is_found() {
        let text = "pond \"t\" { arena 10 x 10 }\nplace a at (1, 1)\n\
            kind a { on birth { spawn b } after 1 s { end self } }\n\
            kind b { on birth { spawn a } after 1 s { end self } }";
        assert_eq!(codes(text), ["F0607", "F0607"]);
    }
}
