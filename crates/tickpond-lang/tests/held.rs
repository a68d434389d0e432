//! Whom a variable may hold, and parts that do not go together.

use rstest::rstest;
use tickpond_lang::{Code, Severity, compile};

const KINDS: &str = "pond \"t\" { arena 40 x 20 }\nkind moth { vars { mag = 3 } }\nkind midge { tag insect }\n\
    kind fly { tag insect; vars { size = 2 } }\nplace moth at (1, 1)\nplace midge at (2, 2)\nplace frog at (3, 3)\nplace fly at (4, 4)\n";

fn codes(items: &str) -> Vec<(Code, String)> {
    let compiled = compile(&format!("{KINDS}{items}"));
    let errors = compiled.diagnostics.iter().filter(|d| d.severity == Severity::Error);
    errors.map(|d| (d.code, d.message.clone())).collect()
}

#[rstest]
#[case::its_own_kind("kind frog { vars { target = self }; every 1 s { target = nearest(frog) } }")]
#[case::the_kinds_of_a_query(
    "kind frog { vars { target = nearest(insect) }; every 1 s { target = nearest(midge); target = nearest(fly) } }"
)]
#[case::the_kinds_that_are_named(
    "kind frog { vars { prey: midge or fly }; every 1 s { prey = nearest(midge); prey = nearest(insect) } }"
)]
#[case::a_tag("kind frog { vars { prey: insect }; on birth { prey = nearest(fly) } }")]
#[case::any(
    "kind frog { vars { prey: any }; on birth { prey = nearest(moth); prey = maker; prey = self } }"
)]
#[case::given_at_a_birth(
    "kind frog { vars { prey: insect }; after 1 s { spawn frog at here { prey = nearest(midge) } } }"
)]
fn a_variable_holds_those_of_its_kinds(#[case] items: &str) {
    assert_eq!(codes(items), []);
}

#[rstest]
#[case::of_another_kind(
    "kind frog { vars { target = self }; every 1 s { target = nearest(moth) } }"
)]
#[case::of_one_kind_too_many(
    "kind frog { vars { target = nearest(midge) }; every 1 s { target = nearest(insect) } }"
)]
#[case::not_among_the_named(
    "kind frog { vars { prey: midge or fly }; every 1 s { prey = nearest(moth) } }"
)]
#[case::a_maker_of_any_kind("kind frog { vars { prey: midge }; every 1 s { prey = maker } }")]
#[case::given_at_a_birth(
    "kind frog { vars { prey: insect }; after 1 s { spawn frog at here { prey = nearest(moth) } } }"
)]
#[case::of_another_through_a_let(
    "kind frog { vars { prey: insect }; every 1 s { let m = nearest(moth); prey = m } }"
)]
fn no_other_is_put_into_it(#[case] items: &str) {
    let codes = codes(items);
    assert_eq!(codes.len(), 1, "{codes:?}");
    assert_eq!(codes[0].0, Code::WrongType, "{codes:?}");
}

#[rstest]
fn what_not_all_of_its_kinds_have_is_not_read() {
    let both = "kind frog { vars { prey: midge or fly }; every 1 s { say \"{prey.size}\" } }";
    assert_eq!(codes(both).len(), 1);
    let one = "kind frog { vars { prey: fly }; every 1 s { say \"{prey.size}\" } }";
    assert_eq!(codes(one), []);
}

#[rstest]
#[case::keep_and_again("again 3 s after its end; keep 20 alive", true)]
#[case::the_other_way_round("keep 20 alive; again 3 s after its end", true)]
#[case::again("again 3 s after its end", false)]
#[case::keep("keep 20 alive", false)]
fn again_and_keep_do_not_go_together(#[case] rules: &str, #[case] refused: bool) {
    let items = format!("kind frog {{ }}\nspawner bed {{ makes frog; {rules} }}\nplace bed");
    assert_eq!(!codes(&items).is_empty(), refused);
}

#[rstest]
#[case::a_routine("routine nap { wait 1 s; say \"up\" }")]
#[case::a_handler("every 1 s { say \"up\" }")]
#[case::variables("vars { n = 0 }")]
fn a_part_may_stand_at_the_first_column(
    #[case] part: &str,
    #[values(
        "kind frog {",
        "kind frog { uses naps }\nbehavior naps {",
        "kind frog { }\nspawner bed {\nmakes frog at here",
        "kind frog {\nstates { calm }\nin state calm {"
    )]
    within: &str,
) {
    // In a state stand handlers alone.
    if !part.starts_with("every") && within.contains("in state") {
        return;
    }
    let closing = if within.contains("in state") { "}\n}" } else { "}" };
    let placed = if within.contains("bed") { "place bed" } else { "" };
    assert_eq!(codes(&format!("{within}\n{part}\n{closing}\n{placed}")), []);
}

#[rstest]
#[case::handlers(
    "kind frog { off every 1 s { say \"a\" }; every 1 s { say \"b\" }; off every 1 s { say \"c\" } }",
    true
)]
#[case::handlers_that_are_on(
    "kind frog { every 1 s { say \"a\" }; every 1 s { say \"b\" } }",
    false
)]
#[case::routines("kind frog { off routine r { say \"a\" }; routine r { say \"b\" } }", true)]
#[case::routines_of_the_pond(
    "kind frog { }\noff routine r { say \"a\" }\nroutine r { say \"b\" }\noff routine r { say \"c\" }",
    true
)]
#[case::routines_of_the_pond_that_are_on(
    "kind frog { }\nroutine r { say \"a\" }\nroutine r { say \"b\" }",
    false
)]
#[case::of_a_behavior(
    "kind frog { uses naps }\nbehavior naps { off every 1 s { say \"a\" }; every 1 s { say \"b\" } }",
    true
)]
#[case::in_a_state(
    "kind frog { states { calm }; in state calm { every 1 s { say \"a\" }; off every 1 s { say \"b\" } } }",
    true
)]
fn of_several_with_one_head_all_but_one_may_be_muted(#[case] items: &str, #[case] fine: bool) {
    assert_eq!(codes(items).is_empty(), fine, "{:?}", codes(items));
}
