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
#[case::no_such_kind_with_variables(
    "place bug at (1, 1) { n = 3 }",
    "there is no kind `bug`",
    "declare it: `kind bug { … }`"
)]
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
#[case::a_field_of_some(
    "watch w = sum(insect.n)",
    "`moth` has no field `n`",
    "give it one, `vars { n = 0 }`, or ask only those that have it"
)]
#[case::a_field_of_one_of_them(
    &bee("every 1 s { if nearest(insect) as i { say \"{i.n}\" } }"),
    "`moth` has no field `n`",
    "give it one, `vars { n = 0 }`, or ask only those that have it"
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
#[case::a_variable_with_a_name_that_is_taken(
    &bee("vars { edge = 0 }; every 1 s { edge += 1; if edge > 3 { end self } }"),
    "`edge` is built in and cannot be a variable",
    "choose another name"
)]
#[case::another_verb_with_each(&bee("every 1 s { kill each midge }"), "`kill` is not asked of `each`", "`each` goes with `damage`, `heal`, `push`, `end`, `activate`, `deactivate`, `detach` and `send … to`; for anything else write `each midge as m { … }`")]
#[case::a_turn_of_each(&bee("every 1 s { turn each midge by 90 deg }"), "`turn` is not asked of `each`", "`each` goes with `damage`, `heal`, `push`, `end`, `activate`, `deactivate`, `detach` and `send … to`; for anything else write `each midge as m { … }`")]
#[case::a_distance_behind_the_name(&bee("every 1 s { each midge as m within 3 u { end m } }"), "expected `{`, found `within`", "a distance stands before the name: `each midge within 3 u as m`")]
#[case::a_place_misspelt(
    "after 1 s { spawn midge anywere }",
    "`anywere` means nothing here",
    "did you mean `anywhere`?"
)]
#[case::the_number_behind(
    "after 1 s { spawn midge 3 at reeds }",
    "the number stands before the kind",
    "write `spawn 3 midge`"
)]
#[case::a_question_by_a_parameter(
    "spawner bed(what: kind = midge) { makes what at reeds; every 1 s }\nplace bed\nwatch w = count(what)",
    "`what` is a value, and a question names its kinds and tags",
    "name them: `count(midge)`, or a tag that all of them have"
)]
#[case::a_sum_of_no_kind(
    "watch w = sum(bug.n)",
    "there is no kind or tag `bug`",
    "declare it: `kind bug { … }`, or give kinds a line `tag bug`"
)]
#[case::the_variable_of_another(&bee("every 1 s { if nearest(midge) as b { b.n = 3 } }"), "`n` belongs to `b`, and only it sets it", "ask for it: damage, push, end, or a message it has a handler for")]
#[case::a_kind_that_ends(&bee("body circle 1 u; on touch midge { end midge }"), "this is asked of entities, not of a kind", "write `each midge`")]
#[case::who_ends(&bee("every 1 s { end }"), "this does not say who ends", "write `end self`, or name the other: `end m`")]
#[case::another_word_for_touch(&bee("body circle 1 u; on collide midge as m { end m }"), "there is no event `collide` of somebody", "write `on touch midge as m { … }`")]
#[case::another_word_for_birth(&bee("on spawn { speed = 3 u/s }"), "there is no event or message `spawn`", "write `on birth { … }`")]
#[case::another_word_for_end(&bee("on death { say \"x\" }"), "there is no event or message `death`", "write `on end { … }`, or `on down` for a health of 0")]
#[case::another_word_for_every_tick(&bee("on update { speed = 3 u/s }"), "there is no event or message `update`", "write `every tick { … }` without `on`")]
#[case::every_frame(&bee("every frame { speed = 3 u/s }"), "there is no value `frame`", "write `every tick { … }`")]
#[case::a_unit_in_full(&bee("every 1 second { end self }"), "`second` is no unit", "write `1 s`")]
#[case::a_time_without_unit(&bee("after 3 { end self }"), "expected a time, found a plain number", "write `3 s`")]
#[case::no_braces(&bee("after 3 s: end self"), "expected `{`, found `:`", "what is to be done stands in braces: `{ … }`")]
#[case::a_speed_in_u(&bee("every 1 s { speed = 3 u }"), "expected a speed, found a length: `3 u` is in `u`", "a speed is a length per second: write `u/s`")]
#[case::an_angle_without_unit(&bee("every 1 s { heading = 90 }"), "expected an angle, found a plain number", "write `90 deg`")]
#[case::a_place_and_a_number(&bee("every 1 s { if pos == 3 { end self } }"), "a plain number cannot be compared with a place", "take one side of the pair: `.x`, `.y`, or its `length(…)`")]
#[case::a_place_and_more(&bee("every 1 s { if pos > (1, 1) { end self } }"), "a place is neither more nor less than another", "compare one side of them, `.x` or `.y`, or a `length(…)`")]
#[case::a_velocity_and_a_speed(&bee("every 1 s { if vel > 3 u/s { end self } }"), "a speed cannot be compared with a velocity", "take one side of the pair: `.x`, `.y`, or its `length(…)`")]
#[case::and_in_signs(&bee("every 1 s { if age > 3 s && age < 5 s { end self } }"), "`&&` means nothing in a pond", "here it is `and`")]
#[case::one_equals_sign(&bee("every 1 s { if age = 3 s { end self } }"), "expected a comparison, found `=`", "to compare, write `==`")]
#[case::no_variable(&bee("every 1 s { n = 3 }"), "there is no field or variable `n`", "declare it: `vars { n = 0 }`")]
#[case::a_local_that_counts(&bee("every 1 s { let n = 3; n += 1 }"), "`n` is a local, and a local keeps its value", "use a variable of the kind: `vars { … }`")]
#[case::health_set(&bee("health 3; every 1 s { health -= 1 }"), "health is changed by damage and healing only", "write `damage self by …` or `heal self by …`")]
#[case::damage_without_by(&bee("health 3; every 1 s { damage self 1 }"), "expected `by`, found `1`", "write it as in `damage self by 1`")]
#[case::a_wait_in_another_word(&bee("every 1 s { sleep 1 s }"), "`sleep` begins nothing here", "write `wait 1 s`: did you mean `wait`?")]
#[case::a_loop_with_while(&bee("every 1 s { while age > 3 s { end self } }"), "`while` begins nothing here", "write `wait until …`, or `when …` as a handler of its own; `repeat { … wait 1 s }` goes on for ever")]
#[case::a_loop_with_for(&bee("every 1 s { for i in 1..3 { end self } }"), "`for` begins nothing here", "write `repeat 3 times as i { … }`, or `each midge as m { … }`")]
#[case::repeat_without_times(&bee("every 1 s { repeat 3 { end self } }"), "expected `times`, found `{`", "write it as in `repeat 3 times { … }`")]
#[case::no_message(&bee("every 1 s { send hi to each frog }"), "there is no message `hi`", "declare it: `message hi`")]
#[case::a_message_to_a_kind(
    "message hi\nafter 1 s { send hi to frog }",
    "a message goes to entities, not to a kind",
    "write `to each frog`"
)]
#[case::a_message_to_nobody(
    "message hi\nafter 1 s { send hi }",
    "expected `to`, found `}`",
    "write it as in `send flee to each frog`"
)]
#[case::a_state_set(&bee("states { calm, angry }; every 1 s { state = angry }"), "a state is not assigned", "write `become` and the state")]
#[case::a_state_misspelt(&bee("states { calm, angry }; every 1 s { if state == angri { end self } }"), "there is no state `angri`", "did you mean `angry`?")]
#[case::a_value_without_quotes(&bee("every 1 s { say age }"), "expected a text in quotes, found `age`", "write `say \"{age}\"`")]
#[case::texts_added(&bee("every 1 s { say \"a\" + \"b\" }"), "expected the end of the line, found `+`", "values stand in a text: `\"{n} bites\"`")]
#[case::an_input_as_an_event(
    "input fire = key space\non fire { spawn midge at reeds }",
    "there is no event or message `fire`",
    "`fire` is an input: write `on press fire`"
)]
#[case::held_without_a_rhythm(
    "input fire = key space\nwhile held fire { spawn midge at reeds }",
    "this does not say how often while it is held",
    "write `every 0.25 s` here; for one shot a press, `on press` instead"
)]
#[case::an_input_without_key(
    "input fire = space\non press fire { spawn midge at reeds }",
    "expected `key …` or `pointer`, found `space`",
    "write it as in `input fire = key space`"
)]
#[case::bounds_with_a_comma(&bee("every 1 s { turn by random(0 deg, 9 deg) }"), "expected `..`, found `,`", "write the two bounds as in `random(0 .. 9)`")]
#[case::a_turn_without_by(&bee("every 1 s { turn 90 deg }"), "expected `by`, found `90 deg`", "write it as in `turn by 90 deg`")]
#[case::a_move(&bee("every 1 s { move 3 u }"), "`move` begins nothing here", "set `speed` or `vel` once: it moves on by itself; `pos += …` is a jump")]
#[case::health_with_a_sign(&bee("health = 3"), "`health` begins nothing here", "write `health 3`, without `=`")]
#[case::a_speed_of_a_kind(&bee("speed 3 u/s"), "`speed` begins nothing here", "say it at the birth: `place … , speed 3 u/s`, or in `on birth { speed = 3 u/s }`")]
#[case::a_colour_of_its_own(&bee("color amber"), "`color` begins nothing here", "write `look \"m\" amber`")]
#[case::a_look_without_quotes(&bee("look amber"), "expected a glyph in quotes, found `amber`", "the glyph stands before the colour: `look \"m\" amber`")]
#[case::no_kind("place bee at (1, 1)", "there is no kind `bee`", "declare it: `kind bee { … }`")]
#[case::a_place_without_brackets(
    "place frog at 3, 4",
    "a place is a pair in brackets",
    "write `(3, 4)`"
)]
#[case::a_place_without_comma(
    "place frog at (3 4)",
    "two values stand side by side here",
    "a place is written `(x, y)`"
)]
#[case::several_placed(
    "place 3 frog at reeds",
    "one line places one",
    "write a line for each, `place frog at reeds each`, or `spawn 3 frog …` in a handler of the pond"
)]
#[case::an_expectation_without_when(
    "expect \"x\": count(frog) < 3",
    "expected `always`, `never`, `at`, `by`, `from`, `in the end`, `each` or `after`, found `count`",
    "say when it must hold: `always count(midge) < 9`"
)]
#[case::an_expectation_after_a_time(
    "expect \"x\": after 3 s, count(frog) < 3",
    "`after` waits for something that happens, not for a time",
    "write `at 3 s, …`, or `from 3 s on, always …`"
)]
#[case::all_for_any(
    "watch w = count(all)",
    "there is no kind or tag `all`",
    "all kinds together are `any`"
)]
#[case::a_field_of_a_kind(
    "watch w = frog.health",
    "a kind has no fields",
    "write `sum(frog.health)` for all of them, or name one: `nearest(…)`"
)]
#[case::a_condition_outside(
    "watch w = count(frog) where health > 1",
    "expected the end of the line, found `where`",
    "a condition stands in the brackets: `count(midge where health > 1)`"
)]
fn a_slip_is_one_message(#[case] items: &str, #[case] message: &str, #[case] help: &str) {
    let compiled = compile(&format!("{KINDS}{items}"));
    let errors = compiled.diagnostics.iter().filter(|d| d.severity == Severity::Error);
    let errors: Vec<(&str, &str)> =
        errors.map(|d| (d.message.as_str(), d.help.as_deref().unwrap_or(""))).collect();
    assert_eq!(errors, [(message, help)]);
    assert!(!help.is_empty(), "says nothing of what to do next");
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
