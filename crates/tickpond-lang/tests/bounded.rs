//! No text takes the checker more than near linear time, or more depth than there is.

use rstest::rstest;
use tickpond_lang::{Code, compile};

fn with_header(items: &str) -> String {
    format!("pond \"t\" {{ arena 80 x 40 }}\n{items}\nkind a {{ look \"a\" }}\nplace a at (1, 1)\n")
}

fn codes(text: &str) -> Vec<Code> {
    compile(text).diagnostics.iter().map(|d| d.code).collect()
}

/// A chain of functions, each of which calls the one before.
fn chain(length: usize, part: impl Fn(usize) -> String) -> String {
    (0..length).map(part).collect::<Vec<_>>().join("\n")
}

#[rstest]
#[case::values(chain(1_500, |at| match at {
    0 => "value v0(x: number) = x".into(),
    _ => format!("value v{at}(x: number) = v{}(x) + 1", at - 1),
}) + "\nwatch w = v1499(1)")]
#[case::many_values(chain(40, |at| {
    let params = |with: &str| (0..20).map(|p| format!("p{p}{with}")).collect::<Vec<_>>().join(", ");
    match at {
        0 => format!("value v0({}) = p0", params(": number")),
        _ => format!("value v{at}({}) = v{}({})", params(": number"), at - 1, params("")),
    }
}) + "\nwatch w = v39(1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20)")]
#[case::statements(chain(9, |at| {
    let call = if at == 0 { "say \"x\"".to_string() } else { format!("f{}(x)", at - 1) };
    format!("to f{at}(x: number) {{ {}{call}{} }}", "if x > 0 { ".repeat(90), " }".repeat(90))
}) + "\nafter 1 s { f8(1) }")]
#[case::operators(chain(6, |at| {
    let call = if at == 0 { "x".to_string() } else { format!("v{}(x)", at - 1) };
    format!("value v{at}(x: number) = {}{call}", "1 + ".repeat(200))
}) + "\nwatch w = v5(1)")]
fn functions_in_functions_are_bounded_in_depth(#[case] items: String) {
    let found = codes(&with_header(&items));
    assert!(!found.is_empty() && found.iter().all(|code| *code == Code::TooDeep), "{found:?}");
}

#[rstest]
#[case::values(chain(60, |at| match at {
    0 => "value v0(x: number) = x".into(),
    _ => format!("value v{at}(x: number) = v{}(x) + 1", at - 1),
}) + "\nwatch w = v59(1)")]
#[case::statements(chain(4, |at| {
    let call = if at == 0 { "say \"x\"".to_string() } else { format!("f{}(x)", at - 1) };
    format!("to f{at}(x: number) {{ {}{call}{} }}", "if x > 0 { ".repeat(25), " }".repeat(25))
}) + "\nafter 1 s { f3(1) }")]
#[case::blocks(format!("after 1 s {{ {}say \"x\"{} }}", "if 1 > 0 { ".repeat(90), " }".repeat(90)))]
#[case::operators(format!("watch w = {}1", "1 + ".repeat(250)))]
fn what_is_not_too_deep_compiles(#[case] items: String) {
    let compiled = compile(&with_header(&items));
    assert!(compiled.program.is_some(), "{:?}", compiled.diagnostics);
}

/// Many of one sort, each a mistake or not. It takes a fraction of a second; with the square of them it took from half a
/// minute to an hour.
#[rstest]
#[case::states(format!("kind b {{ states {{ {} }} }}\nplace b at (2, 2)", list(20_000, "s", ", ")), Code::NeverEntered)]
#[case::in_states(format!("kind b {{ states {{ {} }}\n{} }}\nplace b at (2, 2)", list(5_000, "s", ", "),
    (0..5_000).map(|n| format!("in state s{n} {{ every 1 s {{ turn by 1 deg }} }}")).collect::<Vec<_>>().join("\n")), Code::NeverEntered)]
#[case::broken("foo bar\n".repeat(20_000), Code::Syntax)]
#[case::heads_alike(format!("kind b {{\n{} }}\nplace b at (2, 2)", "every 1 s { turn by 1 deg }\n".repeat(20_000)), Code::SameHead)]
#[case::variables(format!("kind b {{ vars {{ {} }} }}\nplace b at (2, 2)", (0..20_000).map(|n| format!("v{n} = 0")).collect::<Vec<_>>().join("; ")), Code::UnreadVariable)]
#[case::unknown_names((0..5_000).map(|n| format!("after {n} s {{ let x{n} = y{n} }}")).collect::<Vec<_>>().join("\n"), Code::UnknownName)]
#[case::unknown_names_in_one(format!("after 1 s {{\n{} }}", (0..5_000).map(|n| format!("let x{n} = y{n}")).collect::<Vec<_>>().join("\n")), Code::UnknownName)]
#[case::knobs((0..20_000).map(|n| format!("knob k{n} = 1")).collect::<Vec<_>>().join("\n"), Code::Unused)]
fn many_of_one_sort_are_checked(#[case] items: String, #[case] code: Code) {
    let found = codes(&with_header(&items));
    assert!(found.iter().filter(|c| **c == code).count() >= 4_900, "{}", found.len());
}

fn list(count: usize, name: &str, between: &str) -> String {
    (0..count).map(|n| format!("{name}{n}")).collect::<Vec<_>>().join(between)
}

/// Findings on who makes, ends and hears whom look at each birth and each request once: with as many kinds, a look at all
/// of them for each would take minutes.
#[rstest]
#[case::makers(|at| format!(
    "kind k{at} {{ every 1 s {{ spawn k{} at here }} after 9 s {{ damage maker by 1 }} }}", (at + 1) % MANY
), Code::NeverEnds, MANY)]
#[case::holders(|at| format!(
    "kind k{at} {{ vars {{ it: k0 }} every 1 s {{ head toward it; it = nearest(k0) }} }}\nplace k{at} at (1, 1)"
), Code::MaybeGone, MANY)]
#[case::letters(|at| format!(
    "message m{at}\nkind k{at} {{ on m{at} {{ say \"x\" }} after 1 s {{ send m{at} to each a }} }}\nplace k{at} at (1, 1)"
), Code::DeafKind, MANY)]
#[case::acceptances(|at| format!("// meant: F0602\nkind k{at} {{ look \"k\" }}"), Code::NeverBorn, 0)]
fn many_kinds_are_looked_through_once(
    #[case] part: fn(usize) -> String,
    #[case] code: Code,
    #[case] wanted: usize,
) {
    let found = codes(&with_header(&chain(MANY, part)));
    assert_eq!(found.into_iter().filter(|found| *found == code).count(), wanted);
}

const MANY: usize = 6_000;

/// Taps of all tapes together: 20 KB of text could else stand for hundreds of millions.
#[rstest]
#[case::just_enough(&[60_000, 40_000], 0)]
#[case::one_too_many(&[60_000, 40_001], 1)]
#[case::many_tapes_too_many(&[100_000, 100_000, 100_000], 1)]
fn taps_of_all_tapes_together_are_bounded(#[case] taps: &[u32], #[case] errors: usize) {
    let tapes: String = taps
        .iter()
        .enumerate()
        .map(|(nth, taps)| {
            format!("tape \"{nth}\" {{ at 0.1 s tap fire, {taps} times every 2 ticks }}\n")
        })
        .collect();
    let text = format!(
        "pond \"t\" {{ arena 9 x 9 }}\ninput fire = key f\nkind a {{ on press fire {{ end self }} }}\nplace a at (1, 1)\n{tapes}"
    );
    let found = compile(&text).diagnostics;
    let told = found.iter().filter(|d| d.message.contains("more than 100_000 taps together"));
    assert_eq!((told.count(), found.len()), (errors, errors), "{found:?}");
}
