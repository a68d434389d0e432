//! What the grammar takes and what it does not, construct by construct.

use rstest::rstest;
use tickpond_lang::compile;
use tickpond_lang::program::*;

/// The program of some items, with what most of them need.
fn program(items: &str) -> std::sync::Arc<Program> {
    let text = format!("pond \"t\" {{ arena 100 x 100 }}\n{items}");
    let compiled = compile(&text);
    compiled.program.unwrap_or_else(|| panic!("{text}\n{:#?}", compiled.diagnostics))
}

/// The body of the one handler of a kind with everything in reach.
fn body(statements: &str) -> Vec<Stmt> {
    let program = program(&format!(
        "knob k = 2\nmessage ho(n: number)\nspots reeds {{ (1, 2) }}\nplace a at (1, 1)\n\
         kind a {{ body circle 1 u; health 3; vars {{ n = 1; home = (1, 1) }}\nmount tip at (1, 0)\n\
         on touch a as t {{\n{statements}\n}}\non ho(n2) {{ heal self by n2 }} }}"
    ));
    let kind = program.kind_named("a").unwrap();
    let handlers = &program.kinds[kind.index()].handlers;
    handlers.iter().find(|h| h.head.starts_with("on touch")).unwrap().body.clone()
}

// The header.

#[rstest]
#[case::plain("arena 80 x 40", (0.0, 0.0), (80.0, 40.0))]
#[case::with_unit("arena 80 u x 40 u", (0.0, 0.0), (80.0, 40.0))]
#[case::center("arena 80 x 40, origin center", (-40.0, -20.0), (40.0, 20.0))]
#[case::top_left_down("arena 80 x 40, origin top-left, y down", (0.0, 0.0), (80.0, 40.0))]
#[case::top_left_up("arena 80 x 40, origin top-left, y up", (0.0, -40.0), (80.0, 0.0))]
#[case::bottom_right("arena 80 x 40, origin bottom-right", (-80.0, 0.0), (0.0, 40.0))]
fn an_arena_has_its_origin(#[case] line: &str, #[case] low: (f64, f64), #[case] high: (f64, f64)) {
    let compiled = compile(&format!("pond \"t\" {{ {line} }}"));
    let arena = compiled.program.unwrap().arena.clone();
    assert_eq!((arena.low, arena.high), (low, high));
}

#[rstest]
#[case::all("edges wrap", [Edge::Wrap, Edge::Wrap, Edge::Wrap, Edge::Wrap])]
#[case::floor("edges wall bottom, open", [Edge::Open, Edge::Open, Edge::Wall, Edge::Open])]
#[case::sides("edges wrap left right, wall top, open", [Edge::Wrap, Edge::Wrap, Edge::Open, Edge::Wall])]
fn edges_are_left_right_low_high(#[case] line: &str, #[case] edges: [Edge; 4]) {
    let compiled = compile(&format!("pond \"t\" {{ arena 9 x 9; {line} }}"));
    let e = compiled.program.unwrap().arena.edges;
    assert_eq!([e.left, e.right, e.low, e.high], edges);
}

#[rstest]
fn with_y_down_the_bottom_is_where_y_is_large() {
    let compiled = compile("pond \"t\" { arena 9 x 9, y down; edges wall bottom, open }");
    assert_eq!(compiled.program.unwrap().arena.edges.high, Edge::Wall);
}

// Items.

#[rstest]
#[case::plain("knob a = 3", 3.0, "", None)]
#[case::unit("knob a = 250 ms in 10..500 \"x\"", 0.25, "ms", Some((0.01, 0.5)))]
#[case::range_with_units("knob a = 2 s in 500 ms .. 1 min", 2.0, "s", Some((0.5, 60.0)))]
#[case::negative("knob a = -3 u/s in -5..5", -3.0, "u/s", Some((-5.0, 5.0)))]
#[case::reckoned("knob a = 2 * 3 u", 6.0, "u", None)]
fn knobs(
    #[case] item: &str,
    #[case] value: f64,
    #[case] unit: &str,
    #[case] range: Option<(f64, f64)>,
) {
    let program = program(&format!("{item}\nwatch w = a"));
    let knob = &program.knobs[0];
    assert_eq!((knob.value, knob.unit.as_str(), knob.range), (value, unit, range));
}

#[rstest]
fn several_items_may_share_a_line() {
    let program = program(
        "input fire = key f; input croak = key c; message ho; message hi(a: time, b: kind)",
    );
    assert_eq!(program.inputs.len(), 2);
    assert_eq!(program.messages[1].params.len(), 2);
}

#[rstest]
#[case("body circle 2 u, sensor", Body::Circle { radius: 2.0 })]
#[case("body circle 2", Body::Circle { radius: 2.0 })]
#[case("body box 2 u x 1 u", Body::Box { half: (1.0, 0.5), upright: false })]
#[case("body box 2 x 1, sensor, upright", Body::Box { half: (1.0, 0.5), upright: true })]
#[case("body none", Body::None)]
fn bodies(#[case] line: &str, #[case] body: Body) {
    assert_eq!(program(&format!("kind a {{ {line} }}")).kinds[1].body, body);
}

#[rstest]
#[case("on birth { end self }", Event::Birth)]
#[case("every tick { end self }", Event::EveryTick)]
#[case("on leave arena { end self }", Event::LeaveArena)]
#[case("on hurt { end self }", Event::Hurt)]
#[case("on end { say \"x\" }", Event::End(vec![]))]
#[case("on end by damage or edge { say \"x\" }", Event::End(vec![Cause::Damage, Cause::Edge]))]
#[case("on press fire { end self }", Event::Press(InputId(0)))]
#[case("on release fire { end self }", Event::Release(InputId(0)))]
fn heads(#[case] handler: &str, #[case] event: Event) {
    let program = program(&format!("input fire = key f\nkind a {{ health 1; {handler} }}"));
    assert_eq!(program.kinds[1].handlers[0].event, event);
    assert!(handler.starts_with(&program.kinds[1].handlers[0].head));
}

#[rstest]
fn a_muted_handler_is_marked() {
    let program = program("kind a { off every tick { end self }\nafter 1 s { end self } }");
    let muted: Vec<bool> = program.kinds[1].handlers.iter().map(|h| h.muted).collect();
    assert_eq!(muted, [true, false]);
}

#[rstest]
#[case::one("on touch b { end self }", false, 1, false)]
#[case::tag("on touch wet as t { end t }", false, 2, false)]
#[case::first("on first touch b or c as t { end t }", true, 2, false)]
#[case::any("on touch any { end self }", false, 3, false)]
#[case::but("on touch any but maker { end self }", false, 3, true)]
fn touches(
    #[case] handler: &str,
    #[case] is_first: bool,
    #[case] count: usize,
    #[case] without_maker: bool,
) {
    let program = program(&format!(
        "kind a {{ body circle 1; {handler} }}\nkind b {{ body circle 1; tag wet }}\nkind c {{ body circle 1; tag wet }}"
    ));
    let Event::Touch { first, other } = &program.kinds[1].handlers[0].event else { panic!() };
    assert_eq!((*first, other.kinds.len(), other.but_maker), (is_first, count, without_maker));
}

// Statements.

#[rstest]
#[case("n = 2")]
#[case("n += 2; n -= 1")]
#[case("speed = 3 u/s\nheading = 4 deg")]
#[case("pos = (1, 2); vel = (3, 4) u/s; pos += (1, 0)")]
#[case("home = here + (1, 2)")]
#[case("turn by -90 deg")]
#[case("spin = 90 deg/s")]
#[case("spawn a")]
#[case("spawn 3 a at reeds.1")]
#[case("spawn 2 + k * 2 a at tip, speed 3 u/s, facing heading")]
#[case("spawn a at t, toward (4, 5), health 2 { n = 3 }")]
#[case("spawn a, spread 90 deg, spaced 0.1 s, label \"x {n}\"")]
#[case("spawn a anywhere")]
#[case("spawn a along edge left")]
#[case("damage t by 1")]
#[case("damage self by n credit t")]
#[case("heal t by 1")]
#[case("end self; end t because \"bumped\"")]
#[case("send ho(1) to t")]
#[case("send ho(n) to pond; send ho(2) to all; send ho(3) to each a")]
#[case("send ho(1) to each any within 20 u where health < 2")]
#[case("if n > 1 { n = 1 }")]
#[case("if nearest(a) as x { end x } else { end self }")]
#[case("if t is alive and not (t is gone) { end t }")]
#[case("repeat 3 times { n += 1 }\nrepeat 3 times as i { n += i }")]
#[case("repeat { wait 1 s }")]
#[case("wait 1 s\nwait until n > 3")]
#[case("wave as w { spawn a }\nwait until count(w) == 0")]
#[case("say \"{t.name} is at {t.pos}, {n} {true} {k}\"")]
#[case("let d = distance to t\nlet e = d / 2 s\nspeed = e")]
#[case("n = count(a where n > self.n and distance to (1, 1) > 3 u)")]
fn statements(#[case] text: &str) {
    assert!(!body(text).is_empty());
}

#[rstest]
fn a_line_can_hold_several_statements_and_an_expression_several_lines() {
    assert_eq!(body("n = 1; n = 2").len(), 2);
    assert_eq!(body("n = 1 +\n 2 *\n 3\nn = 4").len(), 2);
}

#[rstest]
fn a_number_and_a_kind_are_told_from_a_number_and_a_unit() {
    // `2 s…` begins like seconds.
    let program =
        program("kind speck { after 1 s { end self } }\nkind a { on birth { spawn 2 speck } }");
    let StmtKind::Spawn(birth) = &program.kinds[2].handlers[0].body[0].kind else { panic!() };
    assert_eq!(birth.count.as_ref().and_then(|c| constant(c, &[])), Some(2.0));
}

#[rstest]
#[case::statement("n 2")]
#[case::no_value("n =")]
#[case::half_sum("n = 1 +")]
#[case::no_kind("spawn")]
#[case::no_by("damage t 3")]
#[case::two_on_a_line("n = 1 n = 2")]
#[case::unknown_option("spawn a at here, slowly")]
#[case::option_twice("spawn a at here, speed 1 u/s, speed 2 u/s")]
#[case::speed_and_vel("spawn a at here, speed 1 u/s, vel (1, 1) u/s")]
#[case::open_text("say \"hello")]
#[case::open_value("say \"{n\"")]
#[case::bad_value("say \"{nn}\"")]
#[case::chance_in_a_condition("n = count(a where n > random(1 .. 3))")]
#[case::age_set("age = 3 s")]
#[case::local_set("let x = 1\nx = 2")]
fn what_is_no_statement(#[case] text: &str) {
    let text = format!(
        "pond \"t\" {{ arena 9 x 9 }}\nkind a {{ body circle 1; health 1; vars {{ n = 1 }}\non touch a as t {{\n{text}\n}} }}"
    );
    let compiled = compile(&text);
    assert!(compiled.has_errors(), "{text}");
    assert!(compiled.diagnostics.len() <= 2, "{:#?}", compiled.diagnostics);
}

#[rstest]
fn after_a_mistake_the_next_lines_are_still_read() {
    let text = "pond \"t\" { arena 9 x 9 }\nknob a = = 3\nplace b at (1, 1)\nkind b { spedd 3\nafter 1 s { end slef }\n}\nwatch w = cuont(b)\n";
    let lines: Vec<u32> = {
        let index = tickpond_lang::lines::LineIndex::new(text);
        compile(text).diagnostics.iter().map(|d| index.line(d.span.start)).collect()
    };
    assert_eq!(lines, [2, 4, 5, 7]);
}

// Checks.

#[rstest]
#[case("always count(a) < 3")]
#[case("never count(a) > 3")]
#[case("at 3 s, count(a) == 1")]
#[case("by 3 s, count(a) == 1")]
#[case("from 1 s to 2 s, always count(a) == 1")]
#[case("from 1 s on, always count(a) == 1")]
#[case("in the end always count(a) == 1")]
#[case("in the end count(a) == 1")]
#[case("each a lives at most 3 s")]
#[case("each a or b lives at least 1 s")]
#[case("each a ends by damage or timer")]
#[case("after a born, within 3 s, count(a) == 1")]
#[case("after a or b ends, for 3 s, count(a) == 1")]
#[case("after a ends by damage, within 1 s .. 2 s, count(a) == 1")]
#[case("after count(a) == 0, within 3 s, count(a) == 1")]
#[case("always w == 2 +- 0.5")]
fn checks(#[case] check: &str) {
    let program = program(&format!(
        "watch w = count(a)\nkind a {{ look \"a\" }}\nkind b {{ look \"b\" }}\nexpect \"words\": {check}"
    ));
    assert_eq!(program.expects.len(), 1);
    assert_eq!(program.expects[0].words, "words");
}

/// Where a line begins with a number, a name may stand for it.
#[rstest]
#[case("many at a time")]
#[case("many * 2 at a time")]
#[case("at most 9 in all\n    many at a time")]
fn a_line_may_begin_with_a_value_by_name(#[case] line: &str) {
    let text = format!(
        "pond \"t\" {{ arena 9 x 9 }}\nknob many = 3 in 1..9 \"how many\"\nkind midge {{ after 1 s {{ end self }} }}\n\
         spawner nest {{\n    makes midge at (5, 5)\n    every 1 s\n    {line}\n}}\nplace nest at (1, 1)\n"
    );
    let compiled = tickpond_lang::compile(&text);
    assert!(compiled.program.is_some(), "{:?}", compiled.diagnostics);
}
