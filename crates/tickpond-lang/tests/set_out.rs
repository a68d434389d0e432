//! Every construct as the formatter sets it, from a form without blanks; and what is set means the same.

use std::path::PathBuf;

use rstest::rstest;
use tickpond_lang::format::format;
use tickpond_lang::{Severity, compile};

const HEAD: &str = "pond \"t\" { arena 10 x 10 }\n";

#[track_caller]
fn sets(text: &str, wanted: &str) {
    let told = |d: Vec<tickpond_lang::Diagnostic>| -> String { panic!("{d:?}") };
    let (text, wanted) = (format!("{HEAD}{text}\n"), format!("{HEAD}{wanted}\n"));
    let set = format(&text).unwrap_or_else(told);
    assert_eq!(set, wanted);
    assert_eq!(format(&set).unwrap_or_else(told), set);
}

#[rstest]
#[case("knob a=40%in 0..100 \"share\"", "knob a = 40 % in 0..100 \"share\"")]
#[case("knob a=-3u/s in -5 ..5", "knob a = -3 u/s in -5 .. 5")]
#[case("spots reeds{(1,2),(3,4)facing 90deg}", "spots reeds { (1, 2), (3, 4) facing 90 deg }")]
#[case("zone weir=box(1,2)size 3 x 4", "zone weir = box (1, 2) size 3 x 4")]
#[case("zone eddy=circle(1,2)radius 5u", "zone eddy = circle (1, 2) radius 5 u")]
#[case("message warn(level:number,near:place)", "message warn(level: number, near: place)")]
#[case("input fire=key space;input aim=pointer", "input fire = key space; input aim = pointer")]
#[case("vars{n=0;home=(1,1)}", "vars { n = 0; home = (1, 1) }")]
#[case("watch w=count(a where n>1)", "watch w = count(a where n > 1)")]
#[case("watch w=a#1.n", "watch w = a#1.n")]
#[case("watch w=1==2+-3", "watch w = 1 == 2 +- 3")]
#[case("expect \"x\":always count(a)<=3", "expect \"x\": always count(a) <= 3")]
#[case(
    "expect \"x\" on tape \"t\":by 3s,count(a)>0",
    "expect \"x\" on tape \"t\": by 3 s, count(a) > 0"
)]
#[case(
    "expect \"x\":after a born,within 1s ..2s,count(a)==1",
    "expect \"x\": after a born, within 1 s .. 2 s, count(a) == 1"
)]
#[case(
    "tape \"t\"{at 1s tap fire,3 times every 0.5s}",
    "tape \"t\" { at 1 s tap fire, 3 times every 0.5 s }"
)]
#[case(
    "tape \"t\"{from 4s to 5s hold fire;at 6s move aim to(4,2)}",
    "tape \"t\" { from 4 s to 5 s hold fire; at 6 s move aim to (4, 2) }"
)]
#[case(
    "place a at(1,1),facing 90deg,label \"x\"{n=2}",
    "place a at (1, 1), facing 90 deg, label \"x\" { n = 2 }"
)]
#[case("off place a at reeds.2", "off place a at reeds.2")]
#[case(
    "to scatter(what:kind,n:count){spawn n what at here}",
    "to scatter(what: kind, n: count) { spawn n what at here }"
)]
#[case("value ring(r:length)=2*r", "value ring(r: length) = 2 * r")]
#[case(
    "behavior blinks(span:time=1s){states{dark,lit}}",
    "behavior blinks(span: time = 1 s) { states { dark, lit } }"
)]
#[case(
    "routine dusk{wait 1s;repeat 3 times as n{wait n*1s}}",
    "routine dusk { wait 1 s; repeat 3 times as n { wait n * 1 s } }"
)]
#[case("on buzz(a,b)from who{say \"{a}\"}", "on buzz(a, b) from who { say \"{a}\" }")]
#[case(
    "spawner bed(what:kind of insect=midge){makes what at here;every 1s,first at once}",
    "spawner bed(what: kind of insect = midge) { makes what at here; every 1 s, first at once }"
)]
#[case(
    "spawner bed{makes a anywhere;keep at most 3 alive;at most 9 in all;from 1s;until count(a)>2}",
    "spawner bed { makes a anywhere; keep at most 3 alive; at most 9 in all; from 1 s; until count(a) > 2 }"
)]
fn an_item(#[case] text: &str, #[case] wanted: &str) {
    sets(text, wanted);
}

#[rstest]
#[case("tag insect,small", "tag insect, small")]
#[case("body box 2u x 1u,solid fixed,bounce 30%", "body box 2 u x 1 u, solid fixed, bounce 30 %")]
#[case("body circle 1u,sensor,passes a or b", "body circle 1 u, sensor, passes a or b")]
#[case("mount tip at(1u,0u)facing 10deg", "mount tip at (1 u, 0 u) facing 10 deg")]
#[case("uses blinks(0.2s)", "uses blinks(0.2 s)")]
#[case("states{calm,wild}", "states { calm, wild }")]
#[case("in state calm{every 1s{end self}}", "in state calm { every 1 s { end self } }")]
#[case(
    "on first touch a or b where health>1 as t{end t}",
    "on first touch a or b where health > 1 as t { end t }"
)]
#[case(
    "on impact over 3u/s with any as i{say \"{i.speed}\"}",
    "on impact over 3 u/s with any as i { say \"{i.speed}\" }"
)]
#[case("on below y 10u{end self}", "on below y 10 u { end self }")]
#[case(
    "while touching a every 0.5s as t{heal t by 1}",
    "while touching a every 0.5 s as t { heal t by 1 }"
)]
#[case("while held fire every 0.2s{end self}", "while held fire every 0.2 s { end self }")]
#[case("on wake while inactive{activate self}", "on wake while inactive { activate self }")]
#[case("on end by damage or edge{say \"x\"}", "on end by damage or edge { say \"x\" }")]
#[case("off every 1s{end self}", "off every 1 s { end self }")]
#[case("every 1s overlapping{wait 2s}", "every 1 s overlapping { wait 2 s }")]
#[case("when count(a)>3 and not(n<2){end self}", "when count(a) > 3 and not (n < 2) { end self }")]
fn a_part_of_a_kind(#[case] text: &str, #[case] wanted: &str) {
    sets(&format!("kind a{{{text}}}"), &format!("kind a {{ {wanted} }}"));
}

#[rstest]
#[case("n+=1", "n += 1")]
#[case("n=-n", "n = -n")]
#[case("let x=n*2-1/3", "let x = n * 2 - 1 / 3")]
#[case("vel=(4,0)u/s", "vel = (4, 0) u/s")]
#[case("turn by random(-30deg ..30deg)", "turn by random(-30 deg .. 30 deg)")]
#[case("turn toward(40,40)at most 90deg/s", "turn toward (40, 40) at most 90 deg/s")]
#[case("push t by 12u/s along 0deg", "push t by 12 u/s along 0 deg")]
#[case("thrust 5u/s2 along heading", "thrust 5 u/s2 along heading")]
#[case(
    "damage each a within 2u of t by 1 credit maker",
    "damage each a within 2 u of t by 1 credit maker"
)]
#[case("end self because \"x\"", "end self because \"x\"")]
#[case(
    "spawn 3 a at mouth,along mouth,spread 60deg,spaced 0.1s{n=1}",
    "spawn 3 a at mouth, along mouth, spread 60 deg, spaced 0.1 s { n = 1 }"
)]
#[case(
    "spawn a around here within 5u,not within view widened by 4u",
    "spawn a around here within 5 u, not within view widened by 4 u"
)]
#[case("spawn a at here+(2,0)as h", "spawn a at here + (2, 0) as h")]
#[case("replace self with 4 shard,keeping velocity", "replace self with 4 shard, keeping velocity")]
#[case("send warn(3,here)to each a", "send warn(3, here) to each a")]
#[case("become wild for 2s", "become wild for 2 s")]
#[case(
    "if nearest(a)as t{end t}else if n>1{end self}else{n=1}",
    "if nearest(a) as t { end t } else if n > 1 { end self } else { n = 1 }"
)]
#[case("each a within 3u as t{end t}", "each a within 3 u as t { end t }")]
#[case("repeat{wait 1s}", "repeat { wait 1 s }")]
#[case("wait until count(a)==0", "wait until count(a) == 0")]
#[case(
    "ray from here along 0deg,reach 20u,hits a or b as r{end r.target}else{n=1}",
    "ray from here along 0 deg, reach 20 u, hits a or b as r { end r.target } else { n = 1 }"
)]
#[case(
    "blast at here,radius 6u,damage 8,falloff straight,spares maker",
    "blast at here, radius 6 u, damage 8, falloff straight, spares maker"
)]
#[case("attach t to self at back outlives owner", "attach t to self at back outlives owner")]
#[case("wave as w{spawn a at here}", "wave as w { spawn a at here }")]
fn a_statement(#[case] text: &str, #[case] wanted: &str) {
    sets(
        &format!("kind a {{ on birth{{{text}}} }}"),
        &format!("kind a {{ on birth {{ {wanted} }} }}"),
    );
}

/// A line with at most one blank before it: at the left edge an item would begin.
fn flattened(line: &str) -> String {
    let indented = line.starts_with([' ', '\t']);
    format!("{}{}\n", if indented { " " } else { "" }, line.trim_start())
}

/// What is told of a text, without places.
fn told(text: &str) -> Vec<(String, Severity)> {
    compile(text).diagnostics.into_iter().map(|d| (d.message, d.severity)).collect()
}

#[rstest]
fn a_pond_without_its_blanks_is_set_and_means_the_same(
    #[files("../../ponds/gallery/*.pond")] path: PathBuf,
) {
    let text = std::fs::read_to_string(path).unwrap();
    // Indentation goes; line breaks, comments and texts stay.
    let flat: String = text.lines().map(flattened).collect::<Vec<_>>().concat();
    let set = format(&flat).unwrap_or_else(|told| panic!("{told:?}"));
    assert_eq!(told(&set), told(&text));
    assert_eq!(format(&set).unwrap(), set);
    let words = |text: &str| -> Vec<String> { text.split_whitespace().map(String::from).collect() };
    // Not a word is lost, nor its order changed.
    assert_eq!(words(&set).concat(), words(&text).concat());
}

// Texts.

/// What a pond says in its first tick.
fn parts(said: &str) -> usize {
    let text = format!("{HEAD}kind a {{ on birth {{ say \"{said}\" }} }}\nplace a at (1, 1)");
    let compiled = compile(&text);
    let errors = compiled.diagnostics.iter().filter(|d| d.severity == Severity::Error);
    errors.count()
}

#[rstest]
#[case::plain("hello", 0)]
#[case::a_value("{name}", 0)]
#[case::a_quote("\\\"{name}\\\"", 0)]
#[case::a_brace("\\{name\\}", 0)]
#[case::a_backslash("back \\\\ slash", 0)]
#[case::an_open_value("{name", 1)]
#[case::an_unknown_value("{nam}", 1)]
#[case::half_a_value("{1 +}", 1)]
#[case::an_empty_value("{}", 1)]
fn values_in_texts(#[case] said: &str, #[case] errors: usize) {
    assert_eq!(parts(said), errors);
}

/// What a handler draws hangs on its head: blanks in it are not of it.
#[rstest]
#[case("on touch lily", "on\ttouch   lily")]
#[case("on warn(level, near) from who", "on warn ( level ,near ) from   who")]
#[case("when age >= 5 s and n < 3", "when age>=5s and n<3")]
#[case("every 0.3 s", "every 0.3s")]
#[case("when distance((1, 1), here) < 3 u", "when distance( (1,1) ,here)<3u")]
fn a_head_is_its_words_alone(#[case] plain: &str, #[case] spread: &str) {
    let head = |head: &str| {
        let text = format!(
            "pond \"t\" {{ arena 9 x 9 }}\nmessage warn(level: number, near: place)\nkind lily {{ body circle 1 u, sensor }}\n\
             kind a {{ vars {{ n = 0 }}\nbody circle 1 u, sensor\n{head} {{ }} }}\nplace a at (1, 1)\n"
        );
        let compiled = tickpond_lang::compile(&text);
        compiled.program.map(|p| {
            p.kinds.iter().flat_map(|k| &k.handlers).map(|h| h.head.clone()).collect::<Vec<_>>()
        })
    };
    assert_eq!(head(plain), head(spread));
    assert!(head(plain).is_none_or(|heads| heads == [plain]));
}
