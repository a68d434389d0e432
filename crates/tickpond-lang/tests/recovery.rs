//! What is broken in one place is told there, and the rest is looked at all the same.

use std::path::PathBuf;

use rstest::rstest;
use tickpond_lang::{Severity, compile, parse};

const HEAD: &str = "pond \"t\" { arena 100 x 100 }\n";
/// An item behind the broken one, with a mistake of its own that must still be found.
const BEHIND: &str = "kind last { on birth { sped = 3 u/s } }\nplace last at (1, 1)\n";

/// Codes and pointed-at text of the errors.
fn errors(text: &str) -> Vec<(String, String)> {
    let compiled = compile(text);
    let errors = compiled.diagnostics.iter().filter(|d| d.severity == Severity::Error);
    errors.map(|d| (d.code.as_str().to_string(), text[d.span.range()].to_string())).collect()
}

#[rstest]
#[case::knob_without_value("knob drift =")]
#[case::knob_without_name("knob = 3 u")]
#[case::knob_with_half_a_range("knob drift = 3 u in 1 ..")]
#[case::spots_without_brace("spots reeds (1, 2)")]
#[case::spots_with_half_a_pair("spots reeds { (1, ) }")]
#[case::zone_of_nothing("zone weir = ")]
#[case::zone_without_size("zone weir = box (1, 2)")]
#[case::zone_of_no_shape("zone weir = hexagon (1, 2)")]
#[case::message_with_half_a_parameter("message warn(level: )")]
#[case::message_without_a_bracket("message warn(level: number")]
#[case::input_without_a_key("input fire = key")]
#[case::input_of_nothing("input fire")]
#[case::kind_without_a_name("kind { look \"x\" }")]
#[case::health_without_a_number("kind a { health }")]
#[case::body_without_a_size("kind a { body circle }")]
#[case::body_of_no_shape("kind a { body blob 3 u }")]
#[case::box_with_one_side("kind a { body box 3 u }")]
#[case::mount_without_a_place("kind a { mount top }")]
#[case::vars_without_values("kind a { vars { n; m = 2 } }")]
#[case::tag_without_a_name("kind a { tag }")]
#[case::every_without_a_time("kind a { every { end self } }")]
#[case::after_without_a_body("kind a { after 3 s }")]
#[case::on_nothing("kind a { on { end self } }")]
#[case::touch_of_nothing("kind a { on touch { end self } }")]
#[case::impact_without_a_speed("kind a { on impact with a { end self } }")]
#[case::line_without_a_place("kind a { on below y { end self } }")]
#[case::when_nothing("kind a { when { end self } }")]
#[case::if_without_a_condition("kind a { on birth { if { end self } } }")]
#[case::else_without_an_if("kind a { on birth { else { end self } } }")]
#[case::let_without_a_value("kind a { on birth { let x = } }")]
#[case::set_without_a_value("kind a { on birth { heading = } }")]
#[case::sum_without_an_end("kind a { on birth { heading = 3 deg + } }")]
#[case::call_without_a_bracket("kind a { on birth { heading = min(3 deg, 4 deg } }")]
#[case::spawn_of_nothing("kind a { on birth { spawn } }")]
#[case::spawn_at_nothing("kind a { on birth { spawn last at } }")]
#[case::spawn_with_half_an_option("kind a { on birth { spawn last at here, facing } }")]
#[case::damage_of_nothing("kind a { on birth { damage by 1 } }")]
#[case::damage_by_nothing("kind a { on birth { damage self by } }")]
#[case::send_nothing("kind a { on birth { send to all } }")]
#[case::send_to_nobody("message ho\nkind a { on birth { send ho to } }")]
#[case::wait_for_nothing("kind a { on birth { wait } }")]
#[case::repeat_without_a_body("kind a { on birth { repeat 3 times } }")]
#[case::become_nothing("kind a { states { one, two }; on birth { become } }")]
#[case::states_of_nothing("kind a { states { } }")]
#[case::ray_without_a_reach("kind a { on birth { ray from here along 3 deg as r { end self } } }")]
#[case::blast_without_a_radius("kind a { on birth { blast at here } }")]
#[case::spawner_that_makes_nothing("spawner bed { makes }")]
#[case::spawner_keeps_nothing("spawner bed { makes last at here; keep alive }")]
#[case::place_of_nothing("place at (1, 1)")]
#[case::place_nowhere("place last at")]
#[case::watch_of_nothing("watch crowd =")]
#[case::expect_without_words("expect: always 1 < 2")]
#[case::expect_without_a_check("expect \"it holds\":")]
#[case::expect_never_what("expect \"it holds\": never")]
#[case::tape_without_a_name("tape { at 1 s tap fire }")]
#[case::tape_without_a_time("input fire = key f\ntape \"t\" { tap fire }")]
#[case::function_without_a_body("to scatter(n: number)")]
#[case::value_without_a_value("value ring(r: length) =")]
#[case::behavior_without_a_body("behavior flashes")]
#[case::routine_without_a_name("routine { wait 1 s }")]
#[case::a_word_that_begins_nothing("frobnicate the pond")]
#[case::a_stray_brace("}")]
#[case::a_stray_sign("knob x = 3 § 4")]
#[case::an_open_text("kind a { look \"x }")]
fn the_item_behind_a_broken_one_is_still_looked_at(#[case] broken: &str) {
    let text = format!("{HEAD}{broken}\n{BEHIND}");
    let errors = errors(&text);
    assert!(
        errors.iter().any(|(code, at)| code == "E0301" && at == "sped"),
        "{broken}: {errors:?}"
    );
    let own: Vec<_> = errors.iter().filter(|(_, at)| at != "sped").collect();
    assert!(!own.is_empty(), "{broken} is not told");
    assert!(own.len() <= 3, "an avalanche: {broken}: {own:?}");
}

#[rstest]
#[case::two_kinds("kind a { helth 3 }\nkind b { boddy circle 1 u }", 2)]
#[case::two_statements(
    "kind a { on birth { sped = 1 u/s; hedding = 3 deg } }\nplace a at (1, 1)",
    2
)]
#[case::header_and_body("kind a { on birth { speed = 3 } }\nplace b at (1, 1)", 2)]
#[case::the_same_twice("place b at (1, 1)\nplace b at (2, 2)", 2)]
#[case::one_in_each_place(
    "knob a = 1 u + 1 s\nwatch w = cuont(b)\nkind b { look \"b\" }\nplace b at (1, 1)",
    2
)]
fn each_mistake_is_told_once(#[case] items: &str, #[case] wanted: usize) {
    let found = errors(&format!("{HEAD}{items}"));
    assert_eq!(found.len(), wanted, "{found:?}");
}

/// The texts that ship, in which something is broken.
fn shipped(path: &PathBuf) -> String {
    std::fs::read_to_string(path).unwrap()
}

/// The tree prints back to its text, and what is told lies within it.
fn stands(text: &str) {
    assert_eq!(parse::parse(text).root().to_string(), text);
    for d in compile(text).diagnostics {
        assert!(d.span.start <= d.span.end && d.span.end as usize <= text.len(), "{d:?}");
        assert!(text.is_char_boundary(d.span.start as usize), "{d:?}");
        assert!(text.is_char_boundary(d.span.end as usize), "{d:?}");
        assert!(!d.message.is_empty() && !d.message.ends_with('.'), "{d:?}");
    }
}

#[rstest]
fn a_pond_cut_off_anywhere_still_stands(#[files("../../ponds/gallery/1*.pond")] path: PathBuf) {
    let text = shipped(&path);
    for end in (0..text.len()).step_by(37).filter(|end| text.is_char_boundary(*end)) {
        stands(&text[..end]);
    }
}

#[rstest]
fn a_pond_with_a_line_less_still_stands(#[files("../../ponds/gallery/2*.pond")] path: PathBuf) {
    let text = shipped(&path);
    let lines: Vec<&str> = text.split_inclusive('\n').collect();
    for left_out in 0..lines.len() {
        let rest: String =
            lines.iter().enumerate().filter(|(at, _)| *at != left_out).map(|(_, l)| *l).collect();
        stands(&rest);
    }
}

#[rstest]
fn a_pond_with_two_lines_changed_about_still_stands(
    #[files("../../ponds/gallery/0*.pond")] path: PathBuf,
) {
    let text = shipped(&path);
    let lines: Vec<&str> = text.split_inclusive('\n').collect();
    for at in 1..lines.len() {
        let mut changed = lines.clone();
        changed.swap(at - 1, at);
        stands(&changed.concat());
    }
}

#[rstest]
#[case::nothing("")]
#[case::blanks("   \n\t\n")]
#[case::a_comment("// only a comment")]
#[case::a_header_alone("pond \"t\" { arena 1 x 1 }")]
#[case::no_header("kind a { look \"a\" }\nplace a at (1, 1)")]
#[case::two_headers("pond \"t\" { arena 1 x 1 }\npond \"u\" { arena 2 x 2 }")]
#[case::a_byte_order_mark("\u{feff}pond \"t\" { arena 1 x 1 }")]
#[case::wide_characters("pond \"池\" { arena 1 x 1 }\nkind 蛙 { look \"蛙\" }\nplace 蛙 at (1, 1)")]
#[case::combining("pond \"e\u{301}\" { arena 1 x 1 }\nknob e\u{301} = 3")]
#[case::right_to_left("pond \"בריכה\" { arena 1 x 1 }\nkind צפרדע { look \"צ\" }")]
#[case::carriage_returns(
    "pond \"t\" { arena 1 x 1 }\r\nkind a { look \"a\" }\r\nplace a at (1, 1)\r\n"
)]
#[case::old_line_ends("pond \"t\" { arena 1 x 1 }\rkind a { look \"a\" }\r")]
#[case::form_feeds("pond \"t\" { arena 1 x 1 }\u{c}kind a { look \"a\" }")]
#[case::a_null("pond \"t\" { arena 1 x 1 }\u{0}")]
fn odd_texts_stand(#[case] text: &str) {
    stands(text);
}

/// What is wrong about a number is told once: nothing is said of the value it does not have.
#[rstest]
#[case::health_by_chance("kind a { health random(1 .. 9) }\nplace a at (1, 1)")]
#[case::health_of_nothing("kind a { health tough }\nplace a at (1, 1)")]
#[case::a_period("kind a { every pace { say \"x\" } }\nplace a at (1, 1)")]
#[case::a_delay("kind a { after pace { end self } }\nplace a at (1, 1)")]
#[case::a_limit(
    "kind a { look \"x\" }\nspawner cloud { makes a at (1, 1); every 1 s; keep at most many alive }\nplace cloud"
)]
#[case::a_distance(
    "kind a { every 1 s { each a within far as b { say \"x\" } } }\nplace a at (1, 1)"
)]
fn a_number_that_is_wrong_is_told_once(#[case] items: &str) {
    let told = errors(&format!("{HEAD}{items}\n"));
    assert_eq!(told.len(), 1, "{told:?}");
}
