//! F0609: a touch that cannot happen: one side has no body, or they pass each other.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for (owner, handler) in walk::handlers(program) {
        let other = match &handler.event {
            Event::Touch { other, .. }
            | Event::Part(other)
            | Event::WhileTouching(other, _)
            | Event::Impact(other, _) => other,
            _ => continue,
        };
        let me = &program.kinds[owner.index()];
        let bodiless = |k: &&KindId| program.kinds[k.index()].body == Body::None;
        let passes = |k: &&KindId| {
            me.matter.passes.contains(k) || program.kinds[k.index()].matter.passes.contains(&owner)
        };
        let span = program.sites[handler.site.index()].span;
        let no_body = |name: &str, at| {
            let message = format!("`{name}` has no body, so this touch cannot happen");
            Diagnostic::new(Code::NoTouch, span, message)
                .with_label(at, "this kind")
                .with_help("give the kind a line such as `body circle 0.5 u, sensor`")
        };
        if me.body == Body::None {
            found.push(no_body(&me.name, me.name_span));
        } else if other.kinds.iter().all(|k| bodiless(&k)) {
            let kind = &program.kinds[other.kinds[0].index()];
            found.push(no_body(&kind.name, kind.name_span));
        } else if other.kinds.iter().all(|k| passes(&k)) {
            let kind = &program.kinds[other.kinds[0].index()];
            let message = format!(
                "`{}` and `{}` pass each other, so this touch cannot happen",
                me.name, kind.name
            );
            found.push(
                Diagnostic::new(Code::NoTouch, span, message)
                    .with_help("take the kind out of the body's `passes`"),
            );
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::bodies("body circle 1 u", "body circle 1 u", &[])]
    #[case::mine("look \"a\"", "body circle 1 u", &["F0609"])]
    #[case::theirs("body circle 1 u", "look \"b\"", &["F0609"])]
    #[case::passing("body circle 1 u, passes b", "body circle 1 u", &["F0609"])]
    fn a_touch_needs_two_bodies(#[case] a: &str, #[case] b: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\nplace b at (1, 1)\n\
             kind a {{ {a}; on touch b {{ end self }} }}\nkind b {{ {b} }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
