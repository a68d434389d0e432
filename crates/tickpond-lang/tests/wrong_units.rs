//! Every place a quantity stands in, with one that does not fit: one error, at the value itself.

use rstest::rstest;
use tickpond_lang::{Severity, compile};

/// Code and pointed-at text of the errors, the words of the first.
fn errors(text: &str) -> Vec<(String, String, String)> {
    let compiled = compile(text);
    let errors = compiled.diagnostics.iter().filter(|d| d.severity == Severity::Error);
    errors
        .map(|d| (d.code.as_str().to_string(), text[d.span.range()].to_string(), d.message.clone()))
        .collect()
}

/// The one error of a text: its code is about a type or unit, and it points at this.
#[track_caller]
fn points_at(text: &str, wanted: &str) {
    let found = errors(text);
    assert_eq!(found.len(), 1, "{found:?}");
    let (code, at, words) = &found[0];
    assert!(["E0401", "E0402", "E0301", "E0303"].contains(&code.as_str()), "{found:?}");
    assert_eq!(at, wanted, "{words}");
}

/// A pond in which a frog does something when a midge touches it.
fn does(statement: &str) -> String {
    format!(
        "pond \"t\" {{ arena 100 x 100 }}\nmessage ho(n: number)\nzone weir = box (1, 1) size 2 x 2\n\
         kind midge {{ body circle 1 u, sensor; health 3; on ho(n) {{ heal self by n }}; after 3 s {{ end self }} }}\n\
         kind frog {{ body circle 1 u, sensor; health 3; states {{ calm, wild }}\n\
         vars {{ n = 1; gap = 2 s; home = (1, 1); sure = true }}\nmount tip at (1, 0)\n\
         on touch midge as t {{ {statement} }}\n\
         every 1 s {{ become wild; damage self by n; if sure {{ head toward home }}; wait gap; become calm }} }}\n\
         place frog at (1, 1)\nplace midge at (3, 3)"
    )
}

#[rstest]
#[case::wait("wait 3 u", "3 u")]
#[case::wait_number("wait 3", "3")]
#[case::wait_until("wait until 3 s", "3 s")]
#[case::damage("damage t by 1 s", "1 s")]
#[case::damage_whom("damage 3 by 1", "3")]
#[case::damage_a_kind("damage n by 1", "n")]
#[case::credit("damage t by 1 credit 3", "3")]
#[case::heal("heal t by 1 u", "1 u")]
#[case::push("push t by 3 s along 0 deg", "3 s")]
#[case::push_along("push t by 3 u/s along 4 u", "4 u")]
#[case::push_vector("push t by (1, 2) s", "(1, 2) s")]
#[case::end("end 3", "3")]
#[case::turn("turn by 3 u", "3 u")]
#[case::turn_time("turn by 3 deg/s", "3 deg/s")]
#[case::turn_toward("turn toward (1, 1) at most 3 deg", "3 deg")]
#[case::head_toward("head toward 3 u", "3 u")]
#[case::heading("heading = 3 u", "3 u")]
#[case::speed("speed = 3 u", "3 u")]
#[case::speed_pair("speed = (1, 2) u/s", "(1, 2) u/s")]
#[case::vel("vel = 3 u/s", "3 u/s")]
#[case::vel_place("vel = (1 u, 2 u)", "(1 u, 2 u)")]
#[case::pos("pos = 3 u", "3 u")]
#[case::pos_time("pos = (1 s, 2 s)", "(1 s, 2 s)")]
#[case::spin("spin = 3 deg", "3 deg")]
#[case::thrust("thrust 3 u/s along 0 deg", "3 u/s")]
#[case::thrust_along("thrust 3 u/s2 along 3", "3")]
#[case::own_number("n = 3 s", "3 s")]
#[case::own_time("gap = 3 u", "3 u")]
#[case::own_truth("sure = 3", "3")]
#[case::own_place("home = 3 s", "3 s")]
#[case::added("gap += 3 u", "3 u")]
#[case::count("spawn 3 s midge at here", "3 s")]
#[case::spawn_what("spawn n at here", "n")]
#[case::spawn_where("spawn midge at 3", "3")]
#[case::spawn_pair("spawn midge at (1 s, 2 s)", "(1 s, 2 s)")]
#[case::offset("spawn midge at here + 3 s", "here + 3 s")]
#[case::facing("spawn midge at here, facing 3 u", "3 u")]
#[case::toward("spawn midge at here, toward 3 s", "3 s")]
#[case::born_speed("spawn midge at here, speed 3 u", "3 u")]
#[case::born_vel("spawn midge at here, vel 3 u/s", "3 u/s")]
#[case::spread("spawn 3 midge at here, spread 3 u", "3 u")]
#[case::spaced("spawn 3 midge at here, spaced 3 u", "3 u")]
#[case::born_health("spawn midge at here, health 3 s", "3 s")]
#[case::around("spawn midge around here within 3 s", "3 s")]
#[case::ring("spawn midge on ring around here radius 3 s", "3 s")]
#[case::not_within("spawn midge anywhere, not within 3 s of frog", "3 s")]
#[case::values("send ho(1 s) to t", "1 s")]
#[case::whom_to("send ho(1) to 3", "3")]
#[case::within("damage each midge within 3 s by 1", "3 s")]
#[case::state_time("become wild for 3 u", "3 u")]
#[case::condition("if 3 { end self }", "3")]
#[case::and("if sure and 3 { end self }", "3")]
#[case::not("if not 3 { end self }", "3")]
#[case::times("repeat 3 s times { heal self by 1 }", "3 s")]
#[case::where_clause("each midge where 3 as m { end m }", "3")]
#[case::reach("ray from here along 0 deg, reach 3 s, hits midge as r { end self }", "3 s")]
#[case::ray_along("ray from here along 3, reach 3 u, hits midge as r { end self }", "3")]
#[case::ray_from("ray from 3 u along 3 deg, reach 3 u, hits midge as r { end self }", "3 u")]
#[case::radius("blast at here, radius 3 s, damage 1", "3 s")]
#[case::blast_damage("blast at here, radius 3 u, damage 1 s", "1 s")]
#[case::blast_push("blast at here, radius 3 u, push 1 u", "1 u")]
#[case::least("gap = min(1 s, 3 u)", "3 u")]
#[case::root("n = sqrt(3 u)", "3 u")]
#[case::sine("n = sin(3 u)", "3 u")]
#[case::distance("if distance to 3 > 2 u { end self }", "3")]
fn a_quantity_that_does_not_fit_is_pointed_at(#[case] statement: &str, #[case] wanted: &str) {
    // What stands in place of it compiles: the frame is sound.
    let sound = errors(&does("heal self by 1"));
    assert!(sound.is_empty(), "{sound:?}");
    points_at(&does(statement), wanted);
}

#[rstest]
#[case::arena("arena 3 s x 4", "3 s")]
#[case::rate("arena 9 x 9; rate 60 s", "60 s")]
#[case::gravity("arena 9 x 9; gravity (0, -20) u/s", "(0, -20) u/s")]
#[case::margin("arena 9 x 9; edges open, margin 3 s", "3 s")]
#[case::view("arena 9 x 9; view 3 s x 4", "3 s")]
fn a_header_has_its_units(#[case] header: &str, #[case] wanted: &str) {
    points_at(&format!("pond \"t\" {{ {header} }}"), wanted);
}

#[rstest]
#[case::radius("body circle 3 s", "3 s")]
#[case::sides("body box 2 u x 3 s", "3 s")]
#[case::bounce("body circle 1 u, bounce 3 u", "3 u")]
#[case::weight("body circle 1 u, weight 3 u", "3 u")]
#[case::drag("body circle 1 u, drag 3 s", "3 s")]
#[case::health("health 3 u", "3 u")]
#[case::mount("mount top at 3 s", "3 s")]
#[case::after("after 3 u { end self }", "3 u")]
#[case::every("every 3 u { end self }", "3 u")]
#[case::when("when 3 u { end self }", "3 u")]
#[case::below("on below y 3 s { end self }", "3 s")]
#[case::impact("body circle 1 u, solid; on impact over 3 u with midge { end self }", "3 u")]
fn a_part_of_a_kind_has_its_units(#[case] part: &str, #[case] wanted: &str) {
    let text = format!(
        "pond \"t\" {{ arena 9 x 9 }}\nkind frog {{ {part} }}\nkind midge {{ body circle 1 u, solid }}\n\
         place frog at (1, 1)\nplace midge at (3, 3)"
    );
    points_at(&text, wanted);
}

#[rstest]
#[case::every("every 3 u", "3 u")]
#[case::at_a_time("every 1 s; 3 s at a time", "3 s")]
#[case::most("every 1 s; keep at most 3 s alive", "3 s")]
#[case::keeps("keep 3 s alive", "3 s")]
#[case::again("again 3 u after its end", "3 u")]
#[case::in_all("every 1 s; at most 3 s in all", "3 s")]
#[case::from("every 1 s; from 3 u", "3 u")]
#[case::until("every 1 s; until 3 u", "3 u")]
fn a_rule_of_a_spawner_has_its_units(#[case] rule: &str, #[case] wanted: &str) {
    let text = format!(
        "pond \"t\" {{ arena 9 x 9 }}\nkind midge {{ after 1 s {{ end self }} }}\n\
         spawner bed {{ makes midge at here; {rule} }}\nplace bed at (1, 1)"
    );
    points_at(&text, wanted);
}

#[rstest]
#[case::always("always 3 u", "3 u")]
#[case::by("by 3 u, count(midge) > 0", "3 u")]
#[case::at("at 3, count(midge) > 0", "3")]
#[case::from("from 1 s to 3 u, always count(midge) > 0", "3 u")]
#[case::within("after midge born, within 3 u, count(midge) > 0", "3 u")]
#[case::held_for("after midge born, for 3 u, count(midge) > 0", "3 u")]
#[case::lives("each midge lives at most 3 u", "3 u")]
#[case::hurt("each midge is hurt at most 3 s times", "3 s")]
#[case::about("always count(midge) == 3 +- 1 s", "1 s")]
fn a_check_has_its_units(#[case] check: &str, #[case] wanted: &str) {
    let text = format!(
        "pond \"t\" {{ arena 9 x 9 }}\nkind midge {{ health 2; after 1 s {{ damage self by 5 }} }}\n\
         place midge at (1, 1)\nexpect \"it holds\": {check}"
    );
    points_at(&text, wanted);
}

#[rstest]
#[case::time("3 s", "3 u")]
#[case::length("3 u", "3 s")]
#[case::speed("3 u/s", "3 u")]
#[case::angle("3 deg", "3 u")]
#[case::number("3", "3 u")]
#[case::spin("3 deg/s", "3 deg")]
#[case::acceleration("3 u/s2", "3 u/s")]
#[case::rate("3 per s", "3 s")]
fn unlike_quantities_are_neither_added_nor_compared(#[case] a: &str, #[case] b: &str) {
    for sign in ["+", "-", "<", ">=", "=="] {
        let text = format!("pond \"t\" {{ arena 9 x 9 }}\nknob a = {a}\nwatch w = a {sign} {b}");
        let found = errors(&text);
        assert_eq!(found.len(), 1, "{sign}: {found:?}");
        assert!(found[0].1.contains(b), "{found:?}");
    }
}
