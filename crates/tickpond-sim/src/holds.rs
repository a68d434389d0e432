//! Values of watches, and whether conditions of expectations hold, at the end of a tick.
//!
//! A value that is not a finite number does not stop the run here: the caller gets it and says so.

use tickpond_lang::Span;
use tickpond_lang::program::{KindId, POND, Ty};
use tickpond_lang::units::Dim;

use crate::code::Part;
use crate::code::layout::words_of;
use crate::code::op::{Code, Op};
use crate::engine::Engine;
use crate::event::Phase;
use crate::state::State;
use crate::vm;

/// Whether a condition holds.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Holds {
    /// It does.
    Yes,
    /// It does not.
    No,
    /// A value in it is no finite number: nothing can be said.
    NotFinite,
    /// It is about one that was never born, or is gone: nothing can be said.
    Nobody,
}

impl Holds {
    fn of(holds: bool) -> Holds {
        if holds { Holds::Yes } else { Holds::No }
    }
}

impl Engine {
    /// A number the pond knows, such as a watch; truth values are 0 and 1. `None` if it is no finite number.
    /// That stops no run: who looks on is told.
    fn pond_word(&mut self, state: &State, code: &Code) -> Option<u64> {
        let before = self.out.fault.take();
        let word = self.values(state, Phase::Record, POND, code, &[0], 1)[0][0];
        let fault = std::mem::replace(&mut self.out.fault, before);
        fault.is_none().then_some(word)
    }

    /// The values of the watches, in the program's order; conditions are 0 or 1. What is no finite number is
    /// `NaN`.
    pub fn watches(&mut self, state: &State) -> Vec<f64> {
        let compiled = self.compiled.clone();
        let watches = compiled.watches.iter().zip(&compiled.program.watches);
        watches
            .map(|(code, watch)| match (self.pond_word(state, code), &watch.value.ty) {
                (None, _) => f64::NAN,
                (Some(word), Ty::Truth) => word as f64,
                (Some(word), _) => f64::from_bits(word),
            })
            .collect()
    }

    /// Whether what an expectation wants holds now; `None` if it is not about a condition.
    pub fn holds(&mut self, state: &State, expect: usize) -> Option<Holds> {
        let compiled = self.compiled.clone();
        let conditions = &compiled.conditions[expect];
        let code = conditions.holds.as_ref()?;
        if let Some(parts) = conditions.parts.as_ref().filter(|parts| parts.reads_any()) {
            return Some(self.part_holds(state, parts));
        }
        Some(match self.pond_word(state, code) {
            None => Holds::NotFinite,
            Some(0) => Holds::No,
            Some(_) => Holds::Yes,
        })
    }

    /// Which part of what an expectation wants is to blame, with its values: why it does not hold, or, if it
    /// must not, why it does. Empty if it is not about a condition.
    pub fn blame(&mut self, state: &State, expect: usize, wanted: bool) -> String {
        let compiled = self.compiled.clone();
        let Some(part) = &compiled.conditions[expect].parts else { return String::new() };
        let mut told = Vec::new();
        self.blame_part(state, part, wanted, &mut told);
        told.join("; ")
    }

    fn blame_part(&mut self, state: &State, part: &Part, wanted: bool, told: &mut Vec<String>) {
        if self.part_holds(state, part) == Holds::of(wanted) {
            return;
        }
        let text = self.compiled.program.text.clone();
        let words = |span: Span| text.get(span.range()).unwrap_or("").trim();
        match part {
            Part::All(parts) | Part::Any(parts) => {
                parts.iter().for_each(|part| self.blame_part(state, part, wanted, told));
            }
            Part::Not(inner) => self.blame_part(state, inner, !wanted, told),
            Part::Compared { left, right, is_equality, span, .. } => {
                let (a, b) = (self.value_text(state, left), self.value_text(state, right));
                let is_plain = |op: &Op| matches!(op, Op::Const(..) | Op::Copy(..) | Op::Done);
                let is_written = |side: &(Span, Code, Ty)| side.1.ops.iter().all(is_plain);
                let equal = *is_equality && wanted;
                told.push(match (is_written(left), is_written(right)) {
                    (false, true) if equal => format!("{} was {a}, not {b}", words(left.0)),
                    (false, true) => format!("{} was {a} (`{}`)", words(left.0), words(*span)),
                    (true, false) => format!("{} was {b} (`{}`)", words(right.0), words(*span)),
                    _ => format!("{} was {a} and {} was {b}", words(left.0), words(right.0)),
                });
            }
            Part::Plain(_, span, _) => {
                let word = if wanted { "does not hold" } else { "holds" };
                told.push(format!("`{}` {word}", words(*span)));
            }
        }
    }

    fn part_holds(&mut self, state: &State, part: &Part) -> Holds {
        match part {
            Part::All(parts) => self.parts_hold(state, parts, Holds::No, Holds::Yes),
            Part::Any(parts) => self.parts_hold(state, parts, Holds::Yes, Holds::No),
            Part::Not(inner) => match self.part_holds(state, inner) {
                Holds::Yes => Holds::No,
                Holds::No => Holds::Yes,
                other => other,
            },
            Part::Compared { holds, reads, .. } | Part::Plain(holds, _, reads) => {
                let there = |(kind, number): &(KindId, u32)| {
                    state.kinds[kind.index()].number.binary_search(number).is_ok()
                };
                if !reads.iter().all(there) {
                    return Holds::Nobody;
                }
                match self.pond_word(state, holds) {
                    None => Holds::NotFinite,
                    Some(word) => Holds::of(word != 0),
                }
            }
        }
    }

    /// One that comes to `decides` decides; else what nothing can be said of, if there is such; else `rest`.
    fn parts_hold(&mut self, state: &State, parts: &[Part], decides: Holds, rest: Holds) -> Holds {
        let all: Vec<Holds> = parts.iter().map(|part| self.part_holds(state, part)).collect();
        let open = |holds: &&Holds| !matches!(holds, Holds::Yes | Holds::No);
        if all.contains(&Holds::NotFinite) {
            return Holds::NotFinite;
        }
        if all.contains(&decides) {
            return decides;
        }
        all.iter().find(open).copied().unwrap_or(rest)
    }

    fn value_text(&mut self, state: &State, side: &(Span, Code, Ty)) -> String {
        let (_, code, ty) = side;
        let words = words_of(ty);
        let before = self.out.fault.take();
        let value = self.values(state, Phase::Record, POND, code, &[0], words)[0];
        let fault = std::mem::replace(&mut self.out.fault, before);
        if fault.is_some() {
            return "no finite number".into();
        }
        let [x, y] = value.map(f64::from_bits);
        match ty {
            Ty::Pair(dim) => {
                let number = |n| vm::number_text(n, Dim::NONE);
                format!("({}, {}) {dim}", number(x), number(y)).trim_end().to_string()
            }
            Ty::Num(dim) => vm::number_text(x, *dim),
            _ => String::new(),
        }
    }

    /// Whether the event of an expectation, if it is a condition, holds now.
    pub fn event_holds(&mut self, state: &State, expect: usize) -> Option<bool> {
        let compiled = self.compiled.clone();
        let code = compiled.conditions[expect].event.as_ref()?;
        Some(self.pond_word(state, code).is_some_and(|word| word != 0))
    }

    /// Which of these entities, all of one kind, meet the condition of an expectation about each.
    pub fn those(&mut self, state: &State, expect: usize, kind: KindId, rows: &[u32]) -> Vec<bool> {
        let compiled = self.compiled.clone();
        match &compiled.conditions[expect].those {
            Some(code) => {
                let before = self.out.fault.take();
                let words = self.values(state, Phase::Record, kind, code, rows, 1);
                self.out.fault = before;
                words.into_iter().map(|word| word[0] != 0).collect()
            }
            None => vec![true; rows.len()],
        }
    }
}
