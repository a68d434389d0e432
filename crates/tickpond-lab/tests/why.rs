//! Why a line did not run, each answer worked out by hand.

use rstest::rstest;
use tickpond_lab::why::why_not;
use tickpond_lab::{Run, RunOptions, Timeline};
use tickpond_sim::Who;

fn played(text: &str, ticks: u64) -> Run {
    let program = tickpond_lang::compile(text);
    let program = program.program.unwrap_or_else(|| panic!("{:?}", program.diagnostics));
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(ticks);
    run
}

/// The line, from 1, on which these words stand first.
fn line_with(text: &str, words: &str) -> u32 {
    let at = text.find(words).unwrap_or_else(|| panic!("no {words:?}"));
    text[..at].matches('\n').count() as u32 + 1
}

fn asked(text: &str, ticks: u64, words: &str) -> Vec<String> {
    let mut run = played(text, ticks);
    let digest = run.state().digest();
    let told = why_not(&mut run, line_with(text, words), None);
    assert_eq!(run.state().digest(), digest, "the run stays where it is");
    assert_eq!(run.tick(), ticks);
    told.lines
}

fn has(lines: &[String], words: &str) {
    assert!(lines.iter().any(|line| line.contains(words)), "no {words:?} in {lines:#?}");
}

fn hasnt(lines: &[String], words: &str) {
    assert!(!lines.iter().any(|line| line.contains(words)), "{words:?} in {lines:#?}");
}

const FROGS: &str = "pond \"Why\" { arena 100 x 60 }
message warn(level: number)
message lost
input hop = key h
kind frog {
    health 5
    body circle 2 u, sensor
    states { sits, leaps }
    vars { bites = 0 }
    every 0.5 s {
        bites += 1
        if health < 3 and bites > 4 and age > 2 s {
            say \"never\"
        } else if bites > 100 {
            say \"late\"
        }
        if nearest(heron within 5 u) as h { say \"seen\" }
    }
    after 1 s { damage self by 1 }
    when health < 2 and bites > 2 { say \"weak\" }
    on touch midge as m { end m }
    on touch reed { say \"reed\" }
    on press hop { say \"hop\" }
    on warn(level) { say \"warned\" }
    on hurt { say \"ouch\" }
    after 60 s { end self }
    in state leaps { on lost { say \"lost\" } }
}
kind midge { body circle 1 u, sensor }
kind reed { body circle 1 u, sensor, passes frog }
kind heron { every 1 s { send warn(1) to each frog within 3 u } }
place frog at (10, 10)
place midge at (20, 10)
place reed at (10, 10)
place heron at (80, 40)
";

fn frogs() -> String {
    FROGS.into()
}

#[rstest]
fn the_parts_of_a_condition_have_values_and_since_when() {
    // Asked at 0.5 s, 1.0 s, … 6.0 s: twelve times; hurt once, at 1 s: health 4.
    let lines = asked(&frogs(), 360, "if health < 3");
    has(&lines, "asked of frog#1 in 12 ticks, last at 6.00 s");
    has(&lines, "✗ false ever since it was asked: health < 3  (health is 4");
    has(&lines, "✓ true since 2.50 s: bites > 4  (bites is 12");
    has(&lines, "✓ true since 2.50 s: age > 2 s  (age is 6 s");
    has(&lines, "most often in the way: health < 3, in 12 of 12");
}

#[rstest]
fn an_else_if_needs_what_stands_before_it_to_be_false() {
    let lines = asked(&frogs(), 360, "else if bites > 100");
    has(&lines, "✓ false, as it must be ever since it was asked: health < 3 and bites > 4");
    has(&lines, "✗ false ever since it was asked: bites > 100  (bites is 12");
}

#[rstest]
fn an_entity_that_is_not_found_is_a_part() {
    let lines = asked(&frogs(), 120, "if nearest(heron");
    has(&lines, "✗ false ever since it was asked: nearest(heron within 5 u)");
}

#[rstest]
fn a_handler_that_waits_for_a_condition_is_asked_every_tick() {
    let lines = asked(&frogs(), 90, "when health < 2");
    has(&lines, "has not run so far");
    has(&lines, "asked of frog#1 in 90 ticks");
    has(&lines, "✗ false ever since it was asked: health < 2  (health is 4");
    // The bite of 1.5 s itself comes after the question.
    has(&lines, "✗ false ever since it was asked: bites > 2  (bites is 2");
    has(&lines, "as a tick begins");
    let lines = asked(&frogs(), 95, "when health < 2");
    has(&lines, "✓ true since 1.52 s: bites > 2  (bites is 3");
}

#[rstest]
#[case::apart("on touch midge", "nearest: frog#1 and midge#1 at")]
#[case::how_far("on touch midge", "10.00 u from middle to middle, 7.00 u from rim to rim")]
#[case::passes("on touch reed", "a `reed` passes `frog`")]
#[case::key("on press hop", "`hop` has not been pressed: its key is h")]
#[case::age("after 60 s", "the oldest alive, frog#1, is 2.00 s old")]
#[case::state("in state leaps", "it belongs to the state `leaps`: 0 of 1 is in it")]
#[case::unsent("in state leaps", "`lost` was not sent in this time")]
#[case::too_far("on warn(level)", "2 of them found nobody")]
#[case::not_to("on warn(level)", "it did not come to frog#1")]
#[case::from_the_sender("send warn(1)", "`warn` was sent 2 times, last at 2.00 s by heron#1")]
#[case::hurt("on hurt", "in this time a frog was hurt once, at 1.00 s (frog#1)")]
#[case::nothing("place frog", "there is no handler and no `if` on this line")]
fn each_sort_of_handler_tells_what_is_missing(#[case] at: &str, #[case] wanted: &str) {
    has(&asked(&frogs(), 120, at), wanted);
}

/// Both wait all the time, from tick 1 on: in tick 31, and every 30 from then on, they go through their loops.
const WAITS: &str = "pond \"Waits\" { arena 100 x 60 }
kind frog {
    vars { bites = 0 }
    routine hunt {
        wait 0.5 s
        repeat {
            bites += 1
            if bites > 100 { say \"full\" }
            wait 0.5 s
        }
    }
}
routine dusk {
    wait 0.5 s
    repeat {
        if count(frog) > 1 { say \"crowded\" }
        wait 0.5 s
    }
}
every 2 s { say \"tock\" }
place frog at (50, 30)
";

#[rstest]
#[case::of_one("if bites", "frog#1", "ever since it was asked: bites > 100  (bites is 23")]
#[case::of_the_pond(
    "if count",
    "the pond",
    "ever since it was asked: count(frog) > 1  (count(frog) is 1"
)]
fn an_if_in_what_waits_is_asked_by_playing_from_where_nothing_waited(
    #[case] at: &str,
    #[case] who: &str,
    #[case] seen: &str,
) {
    // Of 12 s the last 10 begin behind tick 120: 121, 151, ... 691 are 20, and by then it has bitten 23 times.
    let lines = asked(WAITS, 720, at);
    has(&lines, &format!("asked of {who} in 20 ticks, last at 11.52 s"));
    has(&lines, &format!("✗ false {seen}"));
    has(&lines, "looked at: the last 10.00 s");
}

#[rstest]
fn what_waited_as_an_edit_took_hold_cannot_be_asked_and_says_so() {
    let mut run = played(WAITS, 300);
    let edited = format!("{WAITS}kind reed {{ }}\n");
    run.edit(tickpond_lang::compile(&edited).program.unwrap()).unwrap();
    run.play_to(400);
    let told = why_not(&mut run, line_with(&edited, "if bites > 100"), None);
    has(&told.lines, "its condition could not be asked: ");
    // A run by one text from its first tick on can be.
    let mut run = played(&edited, 400);
    let told = why_not(&mut run, line_with(&edited, "if bites > 100"), None);
    has(&told.lines, "✗ false ever since it was asked: bites > 100");
}

#[rstest]
fn what_is_muted_is_told_to_be() {
    let text = frogs().replace("on hurt {", "off on hurt {");
    has(&asked(&text, 60, "off on hurt"), "it is muted");
}

#[rstest]
fn the_chosen_one_is_asked() {
    let text = frogs().replace("place midge", "place frog at (50, 50), health 2\nplace midge");
    let mut run = played(&text, 360);
    let frog = run.program().kind_named("frog").unwrap();
    let chosen: Vec<Who> = [1, 2].map(|number| run.find(frog, number).unwrap()).to_vec();
    for (who, health) in chosen.into_iter().zip(["health is 4", "health is 1"]) {
        let told = why_not(&mut run, line_with(&text, "if health < 3"), Some(who));
        has(&told.lines, health);
        has(&told.lines, &format!("asked of frog#{} in 12 ticks", who.number));
    }
}

#[rstest]
fn after_an_edit_only_what_the_new_text_played_is_looked_at() {
    let text = frogs();
    let mut run = played(&text, 120);
    let edited = tickpond_lang::compile(&text.replace("bites > 4", "bites > 5")).program.unwrap();
    run.edit(edited).unwrap();
    run.play_to(240);
    let told = why_not(&mut run, line_with(&text, "if health < 3"), None);
    has(&told.lines, "asked of frog#1 in 4 ticks");
    has(&told.lines, "looked at: the last 1.98 s");
}

#[rstest]
fn a_part_that_needs_the_one_before_it_is_named() {
    let text = "pond \"t\" { arena 90 x 90 }
kind frog { every 1 s { if nearest(heron) as h { if h.age > 50 s and chance(10 %) { say \"old\" } } } }
kind heron { }
place frog at (1, 1)
place heron at (9, 9)
";
    let text = text.replace(" and chance(10 %)", "");
    let lines = asked(&text, 120, "if nearest(heron)");
    has(&lines, "✗ false ever since it was asked: h.age > 50 s  (h.age is 2 s");
}

/// One call that all nine near the heron hear, and not the eight far from it; one that nobody is there for.
const CALLS: &str = "pond \"Calls\" { arena 100 x 60 }
message warn(level: number)
kind heron {
    after 1 s { send warn(1) to each frog within 30 u }
    after 2 s { send warn(2) to each reed }
    every 50 s { say \"late\" }
}
kind frog { on warn(level) { say \"heard\" } }
kind reed { on warn(level) { say \"heard\" } }
place heron at (10, 30)
";

fn calls(far: u32) -> String {
    let near: String = (1..=9).map(|at| format!("place frog at (20, {})\n", 20 + at)).collect();
    let far: String = (1..=far).map(|at| format!("place frog at (90, {})\n", 20 + at)).collect();
    format!("{CALLS}{near}{far}")
}

#[rstest]
fn who_heard_and_whom_it_did_not_come_to_are_counted() {
    let lines = asked(&calls(8), 180, "on warn(level) { say \"heard\" } }\nkind reed");
    has(&lines, "`warn` was sent 2 times, last at 2.00 s by heron#1, line 5");
    has(&lines, "1 of them found nobody");
    let heard: Vec<String> = (1..=6).map(|at| format!("frog#{at} (1)")).collect();
    has(&lines, &format!("heard by {} and 3 more", heard.join(", ")));
    let deaf: Vec<String> = (10..=15).map(|at| format!("frog#{at}")).collect();
    has(&lines, &format!("it did not come to {} and 2 more: ", deaf.join(", ")));
    hasnt(&lines, "inactive");
}

#[rstest]
fn where_all_have_heard_nobody_is_named_who_has_not() {
    let lines = asked(&calls(0), 90, "on warn(level) { say \"heard\" } }\nkind reed");
    has(&lines, "`warn` was sent once, at 1.00 s by heron#1, line 4");
    hasnt(&lines, "found nobody");
    hasnt(&lines, "did not come to");
}

#[rstest]
fn what_comes_at_every_so_often_says_so() {
    let lines = asked(&calls(0), 90, "every 50 s");
    has(&lines, "it comes at every 50 s");
    has(&lines, "the oldest alive, heron#1, is 1.50 s old");
    hasnt(&lines, "inactive");
    hasnt(&lines, "ended in this time");
}

const PLACES: &str = "pond \"Places\" { arena 100 x 60 }
zone shallows = box (10, 10) size 20 x 10
zone eddy = circle (60, 30) radius 5 u
kind frog {
    health 5
    on enter shallows { say \"in\" }
    on enter eddy { say \"round\" }
    every 1 s {
        if age > 60 s {
            say \"old\"
        } else {
            if health > 50 { say \"strong\" }
        }
        if (health > 50 or age > 60 s) and health < 9 { say \"never\" }
    }
}
";

#[rstest]
#[case::corner("(10, 10)", "1 of 1 are in `shallows` now", "0 of 1 are in `eddy` now")]
#[case::other_corner("(30, 20)", "1 of 1 are in `shallows` now", "0 of 1 are in `eddy` now")]
#[case::left_of_it("(9.9, 15)", "0 of 1 are in `shallows` now", "0 of 1 are in `eddy` now")]
#[case::below_it("(20, 9.9)", "0 of 1 are in `shallows` now", "0 of 1 are in `eddy` now")]
#[case::above_it("(20, 20.1)", "0 of 1 are in `shallows` now", "0 of 1 are in `eddy` now")]
#[case::right_of_it("(30.1, 15)", "0 of 1 are in `shallows` now", "0 of 1 are in `eddy` now")]
#[case::in_the_circle("(63, 33)", "0 of 1 are in `shallows` now", "1 of 1 are in `eddy` now")]
#[case::in_its_corner("(64, 34)", "0 of 1 are in `shallows` now", "0 of 1 are in `eddy` now")]
fn how_many_are_in_a_zone_is_told(#[case] at: &str, #[case] zone: &str, #[case] eddy: &str) {
    let text = format!("{PLACES}place frog at {at}\n");
    has(&asked(&text, 30, "on enter shallows"), zone);
    has(&asked(&text, 30, "on enter eddy"), eddy);
}

#[rstest]
fn an_if_of_its_own_behind_an_else_has_parts_of_its_own() {
    let text = format!("{PLACES}place frog at (50, 50)\n");
    let lines = asked(&text, 150, "if health > 50 { say \"strong\"");
    has(&lines, "✗ false ever since it was asked: health > 50  (health is 5)");
    hasnt(&lines, "age > 60 s");
}

#[rstest]
fn what_is_joined_by_or_is_one_part_without_values() {
    let text = format!("{PLACES}place frog at (50, 50)\n");
    let lines = asked(&text, 150, "if (health > 50 or");
    let part = lines.iter().find(|line| line.contains("health > 50 or age > 60 s")).unwrap();
    assert!(
        part.starts_with("✗ false ever since it was asked: ") && !part.contains(" is "),
        "{part}"
    );
    has(&lines, "✓ true ever since it was asked: health < 9  (health is 5)");
    has(&lines, "most often in the way: ");
}

/// Flies come from the left at 10 u/s: one is 3 u from the frog's middle, where rims meet, in tick 18, the other in tick 42. A reed
/// touches it, too, and a midge is born in its middle every second.
const TOUCHES: &str = "pond \"Touches\" { arena 100 x 60 }
kind frog {
    body circle 2 u, sensor
    every 1 s { spawn midge at here }
    on touch fly { say \"fly\" }
    on touch midge { say \"midge\" }
    on birth { say \"born\" }
}
kind reed { body circle 1 u, sensor }
kind midge { body circle 1 u, sensor; health 1; after 60 s { say \"old\" } }
kind fly { body circle 1 u, sensor; on birth { speed = 10 u/s } }
kind heron { after 3.5 s { damage each midge by 1 } }
place frog at (20, 10)
place reed at (20, 12)
place fly at (14.05, 10)
place fly at (10.05, 10)
place heron at (90, 50)
";

#[rstest]
#[case::of_that_kind_alone(
    60,
    "on touch fly",
    "in this time they began to touch 2 times, last at 0.70 s"
)]
#[case::one(30, "on touch fly", "in this time they began to touch once, at 0.30 s")]
#[case::the_maker(90, "on touch midge", "midge#1 was made by frog#1")]
#[case::in_its_middle(90, "on touch midge", "0.00 u from middle to middle, their bodies met")]
#[case::born(60, "on birth { say", "in this time a frog was born once, at 0.00 s (frog#1)")]
// Three midges are born by 3.5 s, and a fourth at 4 s.
#[case::ended(270, "after 60 s", "3 ended in this time, however old they were")]
#[case::the_oldest(270, "after 60 s", "the oldest alive, midge#4, is 0.50 s old")]
fn what_befell_others_is_not_counted(#[case] ticks: u64, #[case] at: &str, #[case] wanted: &str) {
    has(&asked(TOUCHES, ticks, at), wanted);
}

#[rstest]
fn one_it_did_not_make_is_not_told_as_its_maker() {
    let lines = asked(TOUCHES, 60, "on touch fly");
    hasnt(&lines, "was made by");
    hasnt(&asked(TOUCHES, 90, "after 60 s"), "ended in this time");
}

#[rstest]
fn where_nobody_of_the_kind_is_alive_it_says_so() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind midge { every 1 s { if age > 9 s { say \"old\" } }\n after 2 s { end self } }\n\
        every 1 s { if count(midge) > 3 { say \"many\" } }\nplace midge at (1, 1)\n";
    let lines = asked(text, 150, "if age > 9 s");
    has(&lines, "no midge is alive at 2.50 s");
    hasnt(&asked(text, 90, "if age > 9 s"), "is alive at");
    hasnt(&asked(text, 150, "if count(midge)"), "is alive at");
}

#[rstest]
#[case::behind("if age > 1 s and ended(midge because \"old\") > 3 {")]
#[case::before("if ended(midge because \"old\") > 3 and age > 1 s {")]
fn a_part_with_words_in_it_is_asked_as_the_others_are(#[case] condition: &str) {
    let text = format!(
        "pond \"t\" {{ arena 9 x 9 }}\nkind midge {{ after 1 s {{ end self because \"old\" }} }}\n\
         kind frog {{ every 1 s {{ {condition} say \"many\" }} }} }}\n\
         place midge at (1, 1)\nplace frog at (5, 5)\n"
    );
    let lines = asked(&text, 150, "if ");
    has(&lines, "asked of frog#1 in 2 ticks, last at 2.00 s");
    has(&lines, ": age > 1 s");
    has(&lines, "✗ false ever since it was asked: ended(midge because \"old\") > 3");
}
