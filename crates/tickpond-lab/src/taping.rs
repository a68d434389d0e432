//! What was played by hand, written down as a tape of the pond.

use std::collections::BTreeMap;

use tickpond_lang::program::Program;

use crate::input::Input;

/// The text of a tape with the input from tick `from` up to, not with, tick `until`. Times count from
/// the start of the run, as in every tape, in ticks: they are exact. Keys that are still down at the
/// end are held up to it.
pub fn tape_text(
    program: &Program,
    name: &str,
    input: &BTreeMap<u64, Vec<Input>>,
    (from, until): (u64, u64),
) -> String {
    let mut lines: Vec<(u64, String)> = Vec::new();
    let mut down: BTreeMap<&str, u64> = BTreeMap::new();
    // An edit may have taken an input away since, or made a pointer of a key.
    let is = |name: &str, pointer: bool| {
        program.inputs.iter().any(|input| input.name == name && input.pointer == pointer)
    };
    let held = |since: u64, to: u64, name: &str| match to - since {
        0 | 1 => format!("at {since} ticks tap {name}"),
        _ => format!("from {since} ticks to {to} ticks hold {name}"),
    };
    for (tick, changes) in input.range(from.max(1)..until) {
        for change in changes {
            match change {
                Input::Key(name, _) if !is(name, false) => {}
                Input::Move(name, _) if !is(name, true) => {}
                Input::Key(name, true) => {
                    down.entry(name).or_insert(*tick);
                }
                Input::Key(name, false) => {
                    if let Some(since) = down.remove(name.as_str()) {
                        lines.push((since, held(since, *tick, name)));
                    }
                }
                // A tape holds what a player does.
                Input::Place(..) => {}
                Input::Move(name, (x, y)) => {
                    lines.push((*tick, format!("at {tick} ticks move {name} to ({x}, {y})")));
                }
            }
        }
    }
    for (name, since) in down {
        lines.push((since, held(since, until.max(since + 1), name)));
    }
    lines.sort();
    let body: String = lines.into_iter().map(|(_, line)| format!("    {line}\n")).collect();
    format!("tape \"{}\" {{\n{body}}}\n", name.replace(['"', '\\', '{', '}', '\n', '\r'], " "))
}
