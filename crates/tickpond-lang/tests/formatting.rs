//! What a formatted pond looks like.

use rstest::rstest;
use tickpond_lang::format::format;

fn formatted(text: &str) -> String {
    format(text).unwrap_or_else(|told| panic!("{told:?}"))
}

const HEAD: &str = "pond \"t\" { arena 10 x 10 }\n";

#[rstest]
#[case::knob(
    "knob   pace=3 u/s in 1..6 u/s \"how fast\"",
    "knob pace = 3 u/s in 1..6 u/s \"how fast\""
)]
#[case::number_and_unit("knob a = 3u", "knob a = 3 u")]
#[case::brackets("place midge at( 1,1 )", "place midge at (1, 1)")]
#[case::braces("kind midge{look \"m\"}", "kind midge { look \"m\" }")]
#[case::sums("watch w=count(midge)-1*2", "watch w = count(midge) - 1 * 2")]
#[case::sign("watch w=-1+ -2", "watch w = -1 + -2")]
#[case::not("watch w=not(1<2)", "watch w = not (1 < 2)")]
#[case::comparisons("watch w=1<=2 and 3!=4", "watch w = 1 <= 2 and 3 != 4")]
#[case::several(
    "kind a{look \"a\";health 3;  tag insect}",
    "kind a { look \"a\"; health 3; tag insect }"
)]
#[case::field_of("watch w = sum( midge . n )", "watch w = sum(midge.n)")]
#[case::call("watch w=max( 1,min(2 ,3) )", "watch w = max(1, min(2, 3))")]
#[case::range(
    "kind a { on birth { speed=random( 1 u/s .. 2 u/s ) } }",
    "kind a { on birth { speed = random(1 u/s .. 2 u/s) } }"
)]
#[case::no_blanks_at_the_end("place midge at (1, 1)   ", "place midge at (1, 1)")]
#[case::a_comment_behind("place midge at(1,1)   // here", "place midge at (1, 1)   // here")]
#[case::tabs("kind a {\n\tlook \"a\"\n}", "kind a {\n    look \"a\"\n}")]
#[case::depth(
    "kind a {\non birth {\nif 1 < 2 {\nend self\n}\n}\n}",
    "kind a {\n    on birth {\n        if 1 < 2 {\n            end self\n        }\n    }\n}"
)]
#[case::comments_stand_at_their_depth(
    "kind a {\n// about it\nlook \"a\"\n}",
    "kind a {\n    // about it\n    look \"a\"\n}"
)]
#[case::what_goes_on_is_indented(
    "kind a { every 1 s { spawn b at here,\nfacing 90 deg } }",
    "kind a { every 1 s { spawn b at here,\n            facing 90 deg } }"
)]
fn a_line_is_set(#[case] text: &str, #[case] set: &str) {
    let (text, set) = (format!("{HEAD}{text}\n"), format!("{HEAD}{set}\n"));
    assert_eq!(formatted(&text), set);
    assert_eq!(formatted(&set), set, "what is set stays as it is");
}

#[rstest]
fn the_text_ends_with_one_line_end(#[values("", "\n", "\n\n\n")] end: &str) {
    let text = format!("{HEAD}place a at (1, 1){end}");
    assert_eq!(formatted(&text), format!("{HEAD}place a at (1, 1)\n"));
}

#[rstest]
fn columns_that_were_lined_up_stay_so() {
    let text = format!(
        "{HEAD}expect \"one\":   at 1 s, count(a) == 1\nexpect \"three\": at 2 s, count(a) == 3\n"
    );
    assert_eq!(formatted(&text), text);
}

#[rstest]
#[case::open_brace("kind a {")]
#[case::stray_sign("kind a { on birth { $ } }")]
fn a_broken_pond_is_left_alone(#[case] text: &str) {
    let told = format(&format!("{HEAD}{text}"));
    assert!(told.is_err_and(|told| !told.is_empty()));
}
