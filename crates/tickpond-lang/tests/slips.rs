//! Slips that first-time users make: each has one message that names the place, the cause and the next thing to do.

use rstest::rstest;
use tickpond_lang::{Severity, compile};

const KINDS: &str = "pond \"t\" { arena 40 x 20 }\nkind frog { health 3; after 9 s { damage self by 1 } }\n\
    kind midge { tag insect; vars { n = 0 }; after 9 s { n += 1; end self } }\nkind moth { tag insect; after 9 s { end self } }\n\
    spots reeds { (1, 1) }\nplace frog at (1, 1)\nplace midge at reeds\nplace moth at (2, 2)\n";

/// A kind with one more handler.
fn bee(part: &str) -> String {
    format!("kind bee {{ {part} }}\nplace bee at (1, 1)\n")
}

#[rstest]
#[case::a_place_in_the_arena(
    "kind bee { }\nplace bee",
    "`bee` is placed nowhere",
    "write `place bee at (20, 10)`"
)]
#[case::a_place_for_the_pond(
    "after 1 s { spawn midge }",
    "the pond is nowhere, so what it spawns needs a place",
    "add `at (20, 10)`, `at` a spot group, or `anywhere`"
)]
#[case::at_anywhere(
    "after 1 s { spawn midge at anywhere }",
    "`anywhere` stands without `at`",
    "remove `at`"
)]
#[case::no_such_kind_with_variables("place bug at (1, 1) { n = 3 }", "there is no kind `bug`", "")]
#[case::a_share_with_a_unit(&bee("after 1 s { speed = 10 % }"), "expected a speed, found a plain number", "write `10 u/s`")]
#[case::one_side_of_a_pair(
    &bee("every 1 s { pos.x += 3 u }"),
    "`pos.x` is not set alone: `pos` is set as a pair",
    "write `pos = (…, pos.y)`"
)]
#[case::the_other_side(
    &bee("every 1 s { vel.y = 3 u/s }"),
    "`vel.y` is not set alone: `vel` is set as a pair",
    "write `vel = (vel.x, …)`"
)]
#[case::a_range_in_percent(
    "knob elite = 10 % in 0..1 \"share\"",
    "`elite` begins outside its own range",
    "the range is in `%`, as the value is: widen it or change the value"
)]
#[case::texts(
    &bee("every 1 s { if label == \"a\" { end self } }"),
    "texts are shown, not compared",
    "tell them apart by a kind, a state or a variable"
)]
#[case::never_in_a_stretch(
    "expect \"x\": from 1 s to 2 s, never count(frog) > 3",
    "a stretch of time has `always`, not `never`",
    "write `always not …`"
)]
#[case::a_stretch_without_an_end(
    "expect \"x\": from 1 s, always count(frog) < 3",
    "this `from` has no end",
    "write `from … to …`, or `from … on` for all that follows"
)]
#[case::a_part_of_a_body(&bee("body circle 1 u, sensr"), "`sensr` means nothing here", "did you mean `sensor`?")]
#[case::an_option(
    &bee("after 1 s { spawn midge at here, faceing 90 deg }"),
    "`faceing` means nothing here",
    "did you mean `facing`?"
)]
#[case::a_colour(&bee("look \"b\" teel"), "there is no colour `teel`", "did you mean `teal`?")]
#[case::a_spot_group(
    "after 1 s { spawn midge at reds }",
    "there is no value `reds`",
    "did you mean `reeds`?"
)]
#[case::a_field_of_some("watch w = sum(insect.n)", "`moth` has no field `n`", "")]
#[case::a_field_of_one_of_them(
    &bee("every 1 s { if nearest(insect) as i { say \"{i.n}\" } }"),
    "`moth` has no field `n`",
    ""
)]
#[case::a_birth_as_a_value(
    &bee("every 1 s { let q = spawn midge at here }"),
    "a birth is not there yet: it is named by `as`",
    "write `spawn … as q`: what follows waits for it"
)]
#[case::a_sign_that_turns_the_writing(
    &bee("every 1 s { say \"a\u{202e}b\" }"),
    "a character that is not seen: \\u{202e}",
    "remove it"
)]
#[case::the_same_in_a_comment(
    "// \u{2066} end",
    "a character that is not seen: \\u{2066}",
    "remove it"
)]
#[case::a_command_to_the_terminal(
    &bee("every 1 s { say \"a\u{1b}[31m\" }"),
    "a character that is not seen: \\u{1b}",
    "remove it"
)]
#[case::outside_of_texts("\u{7}", "a character that is not seen: \\u{7}", "remove it")]
fn a_slip_is_one_message(#[case] items: &str, #[case] message: &str, #[case] help: &str) {
    let compiled = compile(&format!("{KINDS}{items}"));
    let errors = compiled.diagnostics.iter().filter(|d| d.severity == Severity::Error);
    let errors: Vec<(&str, &str)> =
        errors.map(|d| (d.message.as_str(), d.help.as_deref().unwrap_or(""))).collect();
    assert_eq!(errors, [(message, help)]);
}

#[rstest]
#[case::at_anywhere("after 1 s { spawn midge at anywhere }", "after 1 s { spawn midge anywhere }")]
#[case::never(
    "expect \"x\": from 1 s to 2 s, never count(frog) > 3",
    "expect \"x\": from 1 s to 2 s, always not count(frog) > 3"
)]
#[case::from_on(
    "expect \"x\": from 1 s, always count(frog) < 3",
    "expect \"x\": from 1 s on, always count(frog) < 3"
)]
#[case::unseen("after 1 s { say \"a\u{202e}b\" }", "after 1 s { say \"ab\" }")]
fn its_mend_makes_a_pond_that_plays(#[case] items: &str, #[case] mended: &str) {
    let text = format!("{KINDS}{items}");
    let compiled = compile(&text);
    let mend = compiled.diagnostics.iter().find_map(|d| d.mend.as_ref()).unwrap();
    let mut after = text.clone();
    after.replace_range(mend.span.range(), &mend.text);
    assert_eq!(after, format!("{KINDS}{mended}"));
    assert!(compile(&after).program.is_some());
}
