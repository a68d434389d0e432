//! F0619: a handler for leaving the arena, or for a line beyond an edge, where the edges let nobody out.

use super::moments;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let handlers = walk::handlers(program);
    let found: Vec<Diagnostic> = handlers
        .filter_map(|(owner, handler)| {
            let why = moments::never_comes(program, owner, &handler.event)?;
            let span = program.sites[handler.site.index()].span;
            let help = "make that edge `open` in the header, or end it by a time or a touch";
            Some(Diagnostic::new(Code::NoEdge, span, why).with_help(help))
        })
        .collect();
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::wrapped("wrap", "on leave arena", &["F0619"])]
    #[case::walled("wall", "on leave arena", &["F0619"])]
    #[case::open("open", "on leave arena", &[])]
    #[case::one_side_open("wall left", "on leave arena", &[])]
    #[case::a_line_in_the_arena("wall", "on below y 5 u", &[])]
    #[case::a_line_beyond_a_wall("wall", "on below y -1 u", &["F0619"])]
    #[case::a_line_beyond_another_edge("wall left right", "on below y -1 u", &[])]
    #[case::an_edge_is_come_to("wrap", "on touch edge", &[])]
    fn nothing_leaves_where_no_edge_is_open(
        #[case] edges: &str,
        #[case] head: &str,
        #[case] wanted: &[&str],
    ) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10; edges {edges} }}\nplace a at (1, 1)\n\
             kind a {{ body circle 1 u; {head} {{ end self }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[test]
    fn nothing_holds_what_is_fixed() {
        let text = "pond \"t\" { arena 10 x 10; edges wall }\nplace a at (1, 1), vel (1, 0) u/s\n\
            kind a { body circle 1 u, solid fixed; on leave arena { end self } }";
        assert!(codes(text).is_empty());
    }
}
