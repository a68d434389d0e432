//! What the player does in a run, by hand or on a tape.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use tickpond_lang::program::{InputId, Program, Tape, TapeAct};
use tickpond_sim::InputChange;

/// Something the player did, by the input's name: names outlive edits.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub enum Input {
    /// A key went down or up.
    Key(String, bool),
    /// A pointer was moved to a place in u.
    Move(String, (f64, f64)),
    /// One of a kind was put at a place in u by hand.
    Place(String, (f64, f64)),
}

/// What the player does before a tick, as a program knows it; what it has no name for is left out.
pub(crate) fn changes_at(
    keys: &BTreeMap<u64, Vec<Input>>,
    tick: u64,
    program: &Program,
) -> Vec<InputChange> {
    let find = |name: &str| {
        let at = program.inputs.iter().position(|i| i.name == name)?;
        Some(InputId(at as u32))
    };
    let change = |change: &Input| {
        Some(match change {
            Input::Key(name, down) => InputChange::Key { input: find(name)?, down: *down },
            Input::Move(name, to) => InputChange::Move { input: find(name)?, to: *to },
            Input::Place(name, at) => {
                InputChange::Place { kind: program.kind_named(name)?, at: *at }
            }
        })
    };
    keys.get(&tick).map(Vec::as_slice).unwrap_or(&[]).iter().filter_map(change).collect()
}

/// The input a tape comes to. Where steps of one key overlap it is down as long as one of them holds it; where one
/// begins as another ends, it goes up and down again: in a tick keys go up before they go down.
pub(crate) fn taped(program: &Program, tape: &Tape) -> BTreeMap<u64, Vec<Input>> {
    let mut holds: BTreeMap<InputId, Vec<(u64, u64)>> = BTreeMap::new();
    for step in &tape.steps {
        let spans = holds.entry(step.input).or_default();
        match step.act {
            TapeAct::Tap { times, every } => {
                let taps = (0..u64::from(times)).map(|nth| step.at + nth * every);
                spans.extend(taps.map(|at| (at, at + 1)));
            }
            TapeAct::Hold { until } => spans.push((step.at, until)),
            TapeAct::Move { .. } => {}
        }
    }
    let mut keys: BTreeMap<u64, Vec<Input>> = BTreeMap::new();
    for (input, mut spans) in holds {
        spans.sort_unstable();
        spans.dedup_by(|next, span| {
            let overlaps = next.0 < span.1;
            if overlaps {
                span.1 = span.1.max(next.1);
            }
            overlaps
        });
        let name = &program.inputs[input.index()].name;
        for (from, until) in spans.into_iter().filter(|(from, until)| from < until) {
            keys.entry(from).or_default().push(Input::Key(name.clone(), true));
            keys.entry(until).or_default().push(Input::Key(name.clone(), false));
        }
    }
    for step in &tape.steps {
        if let TapeAct::Move { to } = step.act {
            let name = program.inputs[step.input.index()].name.clone();
            keys.entry(step.at).or_default().push(Input::Move(name, to));
        }
    }
    for changes in keys.values_mut() {
        changes.sort_by_key(|change| matches!(change, Input::Key(_, true)));
    }
    keys
}
