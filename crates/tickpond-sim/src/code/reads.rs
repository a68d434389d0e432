//! What a handler reads, by name, for people.

use tickpond_lang::program::{Program, QueryKind};

use super::compiled::Compiled;
use super::effects::{Asks, Reads};
use super::kinds::HandlerCode;
use super::op::{Op, Word};

impl HandlerCode {
    /// What the handler reads, each once, in the order of its code: own fields, those of others, knobs,
    /// the pond's variables, questions about all.
    pub fn reads(&self, compiled: &Compiled) -> Vec<String> {
        let program = &compiled.program;
        let mut reads: Vec<String> = Vec::new();
        for op in &self.code.ops {
            let does = op.effects();
            let read = match does.reads {
                Reads::Own(word) | Reads::OwnAsLeft(word) => match op {
                    // What turns to where it already is goes by its heading: nobody wrote it.
                    Op::Direction(..) => None,
                    _ => named(program, word),
                },
                Reads::Another(word) => {
                    named(program, word).map(|name| format!("another's {name}"))
                }
                Reads::Pond(name) => Some(format!("pond.{}", program.var_names[name.index()])),
                Reads::Input(input) => Some(program.inputs[input.index()].name.clone()),
                Reads::View | Reads::Totals | Reads::Entities | Reads::Nothing => None,
            };
            let asked = match does.asks {
                Asks::Question(at) => {
                    let query = &compiled.queries[at as usize];
                    let kinds: Vec<&str> = query
                        .kinds
                        .iter()
                        .map(|k| program.kinds[k.index()].name.as_str())
                        .collect();
                    let what = match query.what {
                        QueryKind::Count => "count",
                        QueryKind::Any => "any",
                        QueryKind::Nearest => "nearest",
                        QueryKind::Random => "random one",
                        _ => "a sum",
                    };
                    Some(format!("{what} of {}", kinds.join(", ")))
                }
                Asks::Ray(_) => Some("a ray".to_string()),
                Asks::Request | Asks::Nothing => None,
            };
            let known = match op {
                Op::Knob(_, knob) => Some(program.knobs[knob.index()].name.clone()),
                Op::Random { .. } => Some("chance".to_string()),
                _ => None,
            };
            let read = read.or(asked).or(known);
            if let Some(read) = read.filter(|r| !reads.contains(r)) {
                reads.push(read);
            }
        }
        reads
    }
}

fn named(program: &Program, word: Word) -> Option<String> {
    Some(match word {
        Word::X | Word::Y => "pos".into(),
        Word::Vx | Word::Vy => "vel".into(),
        Word::Heading => "heading".into(),
        Word::Speed => "speed".into(),
        Word::Spin => "spin".into(),
        Word::Health => "health".into(),
        Word::Age => "age".into(),
        Word::Maker => "maker".into(),
        // Itself: nothing that could differ.
        Word::Id => return None,
        Word::State(track) => match program.track_names[track.0 as usize].as_str() {
            "" => "state".into(),
            own => own.to_string(),
        },
        Word::Active => "active".into(),
        Word::Down => "down".into(),
        Word::Resting => "resting".into(),
        Word::Var(name, _) => program.var_names[name.index()].clone(),
    })
}
