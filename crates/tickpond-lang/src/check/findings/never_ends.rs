//! F0603: a kind that is born again and again and has no way to end.

use super::crowds::{self, Crowds};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let crowds = Crowds::of(program);
    let (endless, ways) = (crowds.endless(), crowds::ways_out(&crowds));
    let mut found = Vec::new();
    for (id, kind) in program.entity_kinds() {
        let Some(site) = &endless[id.index()] else { continue };
        if ways[id.index()].by_meeting || ways[id.index()].otherwise {
            continue;
        }
        let message = format!("a `{}` is born again and again and can never end", kind.name);
        let line = program.line_of(*site);
        found.push(
            Diagnostic::new(Code::NeverEnds, kind.name_span, message)
                .with_label(program.sites[site.index()].span, "born here")
                .with_help(format!(
                    "give it a lifetime, such as `after 5 s {{ end self }}` (it is born on line {line})"
                )),
        );
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::for_ever("place src", "look \"f\"", &["F0603"])]
    #[case::a_lifetime("place src", "after 2 s { end self }", &[])]
    #[case::a_line_that_is_wrapped("place src", "on above y 12 u { end self }", &["F0603", "F0619"])]
    #[case::an_open_line("place src", "on right of x 12 u { end self }", &[])]
    fn a_stream_of_kinds_that_never_end_is_found(
        #[case] place: &str,
        #[case] line: &str,
        #[case] wanted: &[&str],
    ) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10; edges wrap top bottom }}\n\
             spawner src {{ makes fly at (1, 1); every 1 s }}\n{place}\nkind fly {{ {line} }}"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[rstest]
    #[case::a_routine_that_comes_to_its_end("routine lay { wait 1 s; spawn egg }", &[])]
    #[case::a_routine_that_goes_on("routine lay { repeat { wait 1 s; spawn egg } }", &["F0603"])]
    #[case::so_many("routine lay { repeat 3 times { wait 1 s; spawn egg } }", &[])]
    #[case::instead_of_itself("every 1 s { if age > 2 s { replace self with egg } }", &[])]
    #[case::and_ends("every 1 s { spawn egg; end self }", &[])]
    #[case::again_and_again("every 1 s { spawn egg }", &["F0603"])]
    #[case::in_a_state_that_comes_back(
        "states { sit, lay }; in state sit { after 1 s { become lay } }; \
         in state lay { after 1 s { spawn egg; become sit } }",
        &["F0603"]
    )]
    #[case::each_brings_forth_another("after 1 s { spawn egg }; after 2 s { spawn frog }", &["F0603", "F0603"])]
    fn what_is_born_once_is_not_born_again_and_again(#[case] line: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nkind egg {{ look \"e\" }}\n\
             kind frog {{ {line} }}\nplace frog at (1, 1)"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[rstest]
    #[case::its_maker("kind fly { after 1 s { end maker } }", &["F0603"])]
    #[case::the_one_it_keeps("kind fly { vars { egg: fly }; every 1 s { end egg; egg = nearest(fly) } }", &[])]
    fn who_ends_is_followed(#[case] fly: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nkind frog {{ every 1 s {{ spawn fly }} }}\n{fly}\nplace frog at (1, 1)"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[rstest]
    #[case::who_stay("after 1 s { spawn a }", 3)]
    #[case::who_go("after 1 s { spawn a; end self }", 2)]
    #[case::who_make_no_more("after 1 s { say \"x\" }", 0)]
    fn kinds_that_bring_forth_each_other_are_a_circle(#[case] last: &str, #[case] wanted: usize) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nkind c {{ {last} }}\nkind b {{ after 1 s {{ spawn c }} }}\n\
             kind a {{ after 1 s {{ spawn b }} }}\nplace a at (1, 1)"
        );
        let found = codes(&text);
        assert_eq!(found.iter().filter(|code| **code == "F0603").count(), wanted, "{found:?}");
    }
}
