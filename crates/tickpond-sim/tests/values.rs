//! What expressions come to, read back through `say`.

use crate::common::pond;
use rstest::rstest;

/// What an entity at (10, 20), facing 90 deg, says of an expression after a second.
fn value(expr: &str) -> String {
    let mut play = pond(&format!(
        "knob drift = 6 u/s\nvars {{ total = 7 }}\nspots reeds {{ (1, 2), (3, 4) }}\n\
         place frog at (10, 20), facing 90 deg\nplace fly at (13, 24), speed 5 u/s\n\
         kind frog {{ health 8; vars {{ n = 3; home = (1, 1); calm = true; what = fly }}\n\
           after 1 s {{ say \"{{{expr}}}\" }} }}\nkind fly {{ look \"f\" }}"
    ));
    play.ticks(60);
    play.said().pop().expect("it spoke")
}

#[rstest]
#[case("1 + 2 * 3", "7")]
#[case("(1 + 2) * 3", "9")]
#[case("7 - 2 - 1", "4")]
#[case("8 / 4 / 2", "1")]
#[case("-3 + 1", "-2")]
#[case("2 - -2", "4")]
#[case("1 / 3", "0.333")]
#[case("50 %", "0.5")]
#[case("1_000 * 2", "2000")]
fn numbers(#[case] expr: &str, #[case] text: &str) {
    assert_eq!(value(expr), text);
}

#[rstest]
#[case("6 u/s * 2 s", "12 u")]
#[case("12 u / 4 s", "3 u/s")]
#[case("3 u/s / 2 s", "1.5 u/s2")]
#[case("12 u / 3 u", "4")]
#[case("90 deg / 2 s", "45 deg/s")]
#[case("1 turn", "360 deg")]
#[case("0.5 turn + 90 deg", "270 deg")]
#[case("250 ms", "0.25 s")]
#[case("2 min", "120 s")]
#[case("30 ticks", "0.5 s")]
#[case("1 / 4 s", "0.25 per s")]
#[case("120 per min", "2 per s")]
#[case("drift * 1.5", "9 u/s")]
#[case("2 u * 3 u", "6 u2")]
fn quantities(#[case] expr: &str, #[case] text: &str) {
    assert_eq!(value(expr), text);
}

#[rstest]
#[case("1 < 2", "true")]
#[case("2 <= 2", "true")]
#[case("2 > 2", "false")]
#[case("3 >= 4", "false")]
#[case("3 == 3", "true")]
#[case("3 != 3", "false")]
#[case("true and false", "false")]
#[case("true or false", "true")]
#[case("not true or true", "true")]
#[case("not (true or true)", "false")]
#[case("1 < 2 and 2 < 3", "true")]
#[case("3 == 3.05 +- 0.1", "true")]
#[case("3 == 3.2 +- 0.1", "false")]
#[case("pos == (10, 20)", "true")]
#[case("pos != (10, 20)", "false")]
#[case("pos == (10, 20.5) +- 1 u", "true")]
#[case("what == fly", "true")]
#[case("what == frog", "false")]
#[case("self == self", "true")]
#[case("nearest(fly) == self", "false")]
#[case("calm", "true")]
fn conditions(#[case] expr: &str, #[case] text: &str) {
    assert_eq!(value(expr), text);
}

#[rstest]
#[case("min(2, 3)", "2")]
#[case("max(2 u, 3 u)", "3 u")]
#[case("abs(-4 u/s)", "4 u/s")]
#[case("floor(2.7)", "2")]
#[case("floor(-2.1)", "-3")]
#[case("round(2.5)", "3")]
#[case("sqrt(9)", "3")]
#[case("sin(90 deg)", "1")]
#[case("cos(180 deg)", "-1")]
#[case("length((3, 4) u)", "5 u")]
#[case("length((3, 4) u/s)", "5 u/s")]
#[case("distance(here, (13, 24))", "5 u")]
#[case("distance to (10, 30)", "10 u")]
#[case("direction to (10, 30)", "90 deg")]
#[case("direction to (0, 20)", "180 deg")]
#[case("direction to here", "90 deg")]
fn functions(#[case] expr: &str, #[case] text: &str) {
    assert_eq!(value(expr), text);
}

#[rstest]
#[case("pos", "(10, 20) u")]
#[case("pos.x", "10 u")]
#[case("here + (2, 0)", "(12, 20) u")]
#[case("(1, 2) u * 3", "(3, 6) u")]
#[case("(4, 6) u / 2 s", "(2, 3) u/s")]
#[case("-home", "(-1, -1) u")]
#[case("home.y + pos.y", "21 u")]
#[case("reeds.2", "(3, 4) u")]
#[case("reeds.1.x", "1 u")]
fn pairs(#[case] expr: &str, #[case] text: &str) {
    assert_eq!(value(expr), text);
}

#[rstest]
#[case("name", "frog#1")]
#[case("heading", "90 deg")]
#[case("speed", "0 u/s")]
#[case("age", "1 s")]
#[case("health", "8")]
#[case("n", "3")]
#[case("self.n", "3")]
#[case("total", "7")]
#[case("what", "fly")]
#[case("nearest(fly).name", "fly#1")]
#[case("nearest(fly).speed", "5 u/s")]
#[case("nearest(fly).vel.y", "0 u/s")]
#[case("maker is alive", "true")]
#[case("self is gone", "false")]
fn fields(#[case] expr: &str, #[case] text: &str) {
    assert_eq!(value(expr), text);
}

#[rstest]
#[case("count(fly)", "1")]
#[case("count(fly or frog)", "2")]
#[case("count(any)", "2")]
#[case("any(fly)", "true")]
#[case("any(frog)", "false")]
#[case("count(frog)", "1")]
#[case("count(fly where speed > 4 u/s)", "1")]
#[case("count(fly where speed > 6 u/s)", "0")]
#[case("count(fly where speed > self.speed)", "1")]
#[case("count(fly where distance(pos, self.pos) < 6 u)", "0")]
#[case("count(any within 3 u)", "1")]
#[case("count(fly within 9 u of (17, 24))", "1")]
#[case("count(frog where n == 3 and calm)", "1")]
#[case("born(fly)", "1")]
#[case("ended(fly)", "0")]
#[case("peak(fly or frog)", "2")]
fn queries(#[case] expr: &str, #[case] text: &str) {
    assert_eq!(value(expr), text);
}

#[rstest]
fn the_nearest_of_two_as_near_is_the_older() {
    let mut play = pond(
        "place fly at (20, 10)\nplace fly at (0, 10)\nplace frog at (10, 10)\n\
         kind fly { look \"f\" }\nkind frog { after 1 s { if nearest(fly) as f { say \"{f.name} {f.pos}\" } } }",
    );
    // What is placed is born by kind, then x: the one at x 0 is fly#1.
    assert_eq!(play.ticks(60).said(), ["fly#1 (0, 10) u"]);
}

#[rstest]
fn nobody_is_nearest_to_one_who_is_alone() {
    let mut play = pond(
        "place frog at (10, 10)\nkind frog { after 1 s { if nearest(frog) as f { say \"{f.name}\" } else { say \"alone\" } } }",
    );
    assert_eq!(play.ticks(60).said(), ["alone"]);
}

#[rstest]
fn whole_draws_are_whole_and_in_their_bounds() {
    let mut play = pond(
        "place frog at (10, 10)\nkind frog { every 1 ticks { say \"{random(1 .. 6)} {random(0 u .. 1 u)}\" } }",
    );
    let said = play.ticks(300).said();
    let mut faces: Vec<&str> = said.iter().map(|s| s.split(' ').next().unwrap()).collect();
    faces.sort_unstable();
    faces.dedup();
    assert_eq!(faces, ["1", "2", "3", "4", "5", "6"]);
    let fractions = said.iter().map(|s| s.split(' ').nth(1).unwrap().parse::<f64>().unwrap());
    assert!(fractions.into_iter().all(|f| (0.0..=1.0).contains(&f)));
}

#[rstest]
fn two_draws_of_one_firing_differ() {
    let mut play = pond(
        "place frog at (10, 10)\nkind frog { after 1 s { say \"{random(0 u .. 9 u) == random(0 u .. 9 u)}\" } }",
    );
    assert_eq!(play.ticks(60).said(), ["false"]);
}

#[rstest]
#[case::nested("repeat 2 times as i { repeat 2 times as k { say \"{i}{k}\" } }", &["11", "12", "21", "22"])]
#[case::none("repeat 0 times { say \"x\" } say \"end\"", &["end"])]
#[case::chain("let x = 2\nif x == 1 { say \"a\" } else if x == 2 { say \"b\" } else { say \"c\" }", &["b"])]
#[case::last_else("if 1 > 2 { say \"a\" } else { say \"c\" }", &["c"])]
#[case::shadow("let x = 1\nif true { let x = 2; say \"{x}\" }\nsay \"{x}\"", &["2", "1"])]
fn ways_through(#[case] body: &str, #[case] said: &[&str]) {
    let body = body.replace("} say", "}\nsay");
    let mut play = pond(&format!("place frog at (1, 1)\nkind frog {{ after 1 s {{\n{body}\n}} }}"));
    assert_eq!(play.ticks(60).said(), said);
}

/// Lanes of one block that take different ways give each the same as alone.
#[rstest]
fn many_lanes_part_and_meet() {
    let mut play = pond(
        "spawner src { makes fly at here; every 1 ticks; 300 at a time; at most 300 in all }\nplace src\n\
         kind fly { vars { roll = random(1 .. 4); sum = 0 }\n\
           after 1 s { repeat roll times as i { if i < 3 { sum = sum + i } else { sum = sum + 10 } } } }",
    );
    play.ticks(70);
    let columns = play.columns("fly");
    assert_eq!(columns.len(), 300);
    for row in 0..300 {
        let [roll, sum] = [0, 1].map(|var| f64::from_bits(columns.vars[var][row]));
        let wanted = [1.0, 3.0, 13.0, 23.0][roll as usize - 1];
        assert_eq!(sum, wanted, "roll {roll}");
    }
}

/// The frog has `n` 3, is at (10, 20) and faces 90 deg.
#[rstest]
#[case("n == 3.4 +- 0.5", true)]
#[case("n != 3.4 +- 0.5", false)]
#[case("n != 100 +- 0.5", true)]
#[case("not (n != 3 +- 0)", true)]
#[case("here != (10, 20.5) +- 1", false)]
#[case("here != (10, 22) +- 1", true)]
// Angles go the short way round, however often.
#[case("heading - 91 deg == 1 deg +- 2 deg", true)]
#[case("359 deg == 1 deg +- 2 deg", true)]
#[case("359 deg != 1 deg +- 2 deg", false)]
#[case("-1 deg == 719 deg +- 0.5 deg", true)]
#[case("90 deg == 270 deg +- 179 deg", false)]
#[case("90 deg == 270 deg +- 180 deg", true)]
// Others do not.
#[case("359 == 1 +- 2", false)]
fn apart_by_no_more_than(#[case] condition: &str, #[case] holds: bool) {
    let mut play = pond(&format!(
        "place frog at (10, 20), facing 90 deg\n\
         kind frog {{ vars {{ n = 3 }}\nafter 1 ticks {{ if {condition} {{ say \"so\" }} else {{ say \"not so\" }} }} }}"
    ));
    play.ticks(3);
    assert_eq!(play.said(), [if holds { "so" } else { "not so" }]);
}

#[rstest]
#[case("n < 3 +- 1", "`+-` goes with `==` and `!=`, not with `<`", "`n < 3 + 1`")]
#[case("n >= 3 +- 1", "`+-` goes with `==` and `!=`, not with `>=`", "`n >= 3 - 1`")]
#[case("what == fly +- 1", "`+-` says how far numbers may be apart, not a kind", "leave it out")]
fn apart_is_asked_of_numbers_that_are_alike(
    #[case] condition: &str,
    #[case] message: &str,
    #[case] help: &str,
) {
    let text = format!(
        "pond \"t\" {{ arena 9 x 9 }}\nkind frog {{ vars {{ n = 3; what = fly }}\n\
         after 1 s {{ if {condition} {{ say \"so\" }} }} }}\nkind fly {{ }}\nplace frog at (1, 1)\n"
    );
    let told = tickpond_lang::compile(&text).diagnostics;
    assert_eq!(told[0].message, message);
    assert!(told[0].help.as_deref().is_some_and(|told| told.contains(help)), "{:?}", told[0].help);
}
