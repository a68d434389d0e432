//! A result that is no finite number ends the firing that made it, wherever it would go.

use crate::common::{Play, pond};
use rstest::rstest;
use tickpond_sim::Guard;

/// The line the run stopped at, and the number of the one whose fault it was.
fn stopped(play: &Play) -> Option<(Guard, Option<u32>, Option<u32>)> {
    let stopped = play.state.stopped.as_ref()?;
    let line = stopped.site.map(|site| play.program().line_of(site));
    Some((stopped.guard, line, stopped.who.map(|who| who.number)))
}

#[rstest]
#[case::compared("if 1 / z > 3 { done = 1 }")]
#[case::compared_from_below("if 3 < 1 / z { done = 1 }")]
#[case::compared_with_nothing("if 0 / z == 0 { done = 1 }")]
#[case::not_equal("if 0 / z != 0 { done = 1 }")]
#[case::nearly_equal("if 1 / z == 3 +- 1 { done = 1 }")]
#[case::tolerance("if 1 == 3 +- (1 / z) { done = 1 }")]
#[case::kept_for_later("let q = 1 / z; done = 1")]
#[case::smaller_of_two("done = min(1 / z, 3)")]
#[case::larger_of_two("done = max(3, 0 / z)")]
#[case::divided_by_it("done = 1 / (1 / z)")]
#[case::root("done = min(sqrt(z - 1), 2)")]
#[case::too_large("let q = HUGE * (11 - z * 10); done = 1")]
#[case::sine("done = sin(1 deg / z)")]
#[case::sent("send hi(1 / z) to self; done = 1")]
#[case::waited("wait 1 s / z; done = 1")]
#[case::repeated("repeat 1 / z times { done = 1 }")]
#[case::said("say \"{1 / z}\"; done = 1")]
#[case::a_pair_said("say \"{(1, 1) u * (1 / z)}\"; done = 1")]
#[case::asked_within("if count(a within 1 u / z) > 0 { done = 1 }")]
#[case::asked_of_each("if count(a where 1 / self.z > 0) > 5 { done = 1 }")]
#[case::summed("done = sum(a.z) / z")]
#[case::drawn("done = random(0 .. 1 / z)")]
#[case::born_with("spawn b at here { n = 1 / z }; done = 1")]
#[case::born_where("spawn b at (1 u / z, 0 u); done = 1")]
#[case::born_how_many("spawn 1 / z b at here; done = 1")]
#[case::hurt("damage self by 1 / z; done = 1")]
#[case::pushed("push self by 1 u/s / z; done = 1")]
#[case::timed_state("become lit for 1 s / z; done = 1")]
#[case::a_ray("ray along heading, reach 1 u / z, hits b as r { done = 1 }; done = 1")]
#[case::a_blast("blast at here, radius 1 u / z, damage 1; done = 1")]
#[case::assigned_after_all("done = 1 / z; done = 1")]
#[case::read_back("n = 1 / z; if n > 1 { done = 1 }")]
#[case::added_and_read_back("n = HUGE * (1 - z); n += HUGE * (1 - z); if n > 1 { done = 1 }")]
#[case::by_a_function("done = inverse(z) * 0")]
fn it_stops_the_firing_that_made_it(#[case] statement: &str) {
    // The largest number there is has 309 digits; one that is written has 16 at most.
    let huge = format!("({}100_000_000)", "1_000_000_000_000_000 * ".repeat(20));
    let statement = &statement.replace("HUGE", &huge);
    let mut play = pond(&format!(
        "message hi(v: number)\nvalue inverse(x: number) = min(1 / x, 7)\n\
         kind a {{ body circle 1 u; health 9; states {{ calm, lit }}; vars {{ z = 1; n = 0; done = 0 }}\n\
         on hi(v) {{ n = v }}\nafter 3 ticks {{\n{statement} }} }}\n\
         kind b {{ body circle 1 u; vars {{ n = 0 }} }}\n\
         place a at (10, 10) {{ z = 1 }}\nplace a at (20, 10) {{ z = 0 }}\nplace a at (30, 10) {{ z = 0 }}"
    ));
    play.ticks(3);
    assert_eq!(stopped(&play), Some((Guard::NotFinite, Some(7), Some(2))), "{statement}");
    let columns = play.columns("a");
    let done = |row: usize| f64::from_bits(columns.vars[2][row]);
    assert_eq!(
        (done(1), done(2)),
        (0.0, 0.0),
        "nothing is made of it, and the firing ends: {statement}"
    );
    assert!(play.said().len() <= 1 && play.count("b") <= 1, "{statement}");
    // Nothing that is kept is anything but a number.
    assert!(columns.vars.iter().flat_map(|c| c.iter()).all(|w| f64::from_bits(*w).is_finite()));
    assert!(columns.x.iter().chain(columns.vx.iter()).all(|v| v.is_finite()));
}

#[rstest]
#[case::the_others_go_on("vars { n = 1 }", 1)]
#[case::whatever_they_do("vars { n = 1 }; on birth { turn by 1 deg }", 1)]
fn the_others_have_their_way(#[case] vars: &str, #[case] wanted: usize) {
    let mut play = pond(&format!(
        "kind a {{ {vars}; after 2 ticks {{ if 1 / n > 0.5 {{ say \"fine\" }} }} }}\n\
         place a at (1, 1)\nplace a at (2, 1) {{ n = 0 }}"
    ));
    play.ticks(2);
    assert_eq!(play.said().len(), wanted);
    assert!(play.state.stopped.is_some());
}

/// What has no statement of its own names where it stands.
#[rstest]
#[case::a_period("every 1 s / z { say \"x\" }", 3)]
#[case::a_condition("when 1 / z > 3 { say \"x\" }", 3)]
#[case::a_line("on below y 1 u / z { say \"x\" }", 3)]
#[case::a_length_of_touch("while touching a every 1 s / z { say \"x\" }", 3)]
fn a_head_that_comes_to_none_names_its_line(#[case] handler: &str, #[case] line: u32) {
    let mut play = pond(&format!(
        "kind a {{ body circle 1 u; vars {{ z = 0 }}\n{handler} }}\nplace a at (10, 10)\nplace a at (10.5, 10)"
    ));
    play.ticks(1);
    let (guard, found, _) = stopped(&play).unwrap();
    assert_eq!((guard, found), (Guard::NotFinite, Some(line)), "{handler}");
    assert!(play.said().is_empty());
}

#[rstest]
fn the_first_value_of_a_variable_names_where_it_stands() {
    let play = pond("knob k = 0 in 0..1\nkind a { vars { n = 1 / k } }\nplace a at (1, 1)");
    let stopped = play.state.stopped.clone().unwrap();
    let span = stopped.span.unwrap();
    assert_eq!(&play.program().text[span.range()], "1 / k");
    assert_eq!(f64::from_bits(play.columns("a").vars[0][0]), 0.0);
}

#[rstest]
fn a_watch_that_is_none_stops_nothing() {
    let mut play = pond("vars { z = 0 }\nwatch w = 1 / z\nwatch fine = 3");
    let state = play.state.clone();
    let values = play.engine.watches(&state);
    assert!(values[0].is_nan() && values[1] == 3.0);
    play.ticks(2);
    assert_eq!(play.state.stopped, None);
}

#[rstest]
#[case::none("-0.1", Guard::LessThanNone)]
#[case::fewer("-3", Guard::LessThanNone)]
#[case::too_many("1_000_001", Guard::AtOnce)]
fn a_number_of_births_has_messages_of_its_own(#[case] count: &str, #[case] guard: Guard) {
    let mut play = pond(&format!(
        "vars {{ n = {count} }}\nkind a {{ look \"a\" }}\nafter 2 ticks {{\nspawn n a at (1, 1) }}"
    ));
    play.ticks(2);
    assert_eq!(stopped(&play), Some((guard, Some(5), None)));
    assert_eq!(play.count("a"), 0);
}

#[rstest]
#[case("0", 0)]
#[case("0.9", 0)]
#[case("2.9", 2)]
fn a_number_of_births_is_rounded_down(#[case] count: &str, #[case] born: usize) {
    let mut play = pond(&format!(
        "vars {{ n = {count} }}\nkind a {{ look \"a\" }}\nafter 2 ticks {{ spawn n a at (1, 1) }}"
    ));
    play.ticks(4);
    assert_eq!((play.count("a"), play.state.stopped.clone()), (born, None));
}
