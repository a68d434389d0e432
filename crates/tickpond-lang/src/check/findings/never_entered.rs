//! F0611: a state nothing enters: not the first of its track, and nothing becomes it.

use std::collections::HashSet;

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found: Vec<Diagnostic> = Vec::new();
    let mut entered_somewhere = HashSet::new();
    for kind in &program.kinds {
        let mut entered: HashSet<InState> = HashSet::new();
        for handler in kind.handlers.iter().filter(|h| !h.muted) {
            walk::statements(&handler.body, &mut |stmt| {
                if let StmtKind::Become { state, .. } = stmt.kind {
                    entered.insert(state);
                }
            });
        }
        for (t, track) in kind.tracks.iter().enumerate() {
            for (s, (name, span)) in track.states.iter().enumerate() {
                if s == 0 || entered.contains(&InState { track: t, state: s }) {
                    entered_somewhere.insert(*span);
                    continue;
                }
                let name = &program.state_names[name.0 as usize];
                found.push(
                    Diagnostic::new(Code::NeverEntered, *span, format!("nothing becomes `{name}`"))
                        .with_help(format!("write `become {name}` somewhere, or remove the state")),
                );
            }
        }
    }
    // A behaviour's state is one place in the text, however many kinds use it.
    found.retain(|d| !entered_somewhere.contains(&d.span));
    found.sort_by_key(|d| d.span);
    found.dedup_by_key(|d| d.span);
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;

    #[test]
    fn a_state_nobody_becomes_is_found() {
        let text = |line: &str| {
            format!(
                "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\n\
                 kind a {{ states {{ idle, chase }}; {line} }}"
            )
        };
        assert_eq!(codes(&text("")), ["F0611"]);
        assert!(codes(&text("after 1 s { become chase }")).is_empty());
    }
}
