//! Which handlers have what they write to themselves.
//!
//! Writes take hold when a phase closes, so that no handler sees what another has done in it. Where
//! nobody could see it, a block's writes can take hold as soon as the block has run, and need not be
//! kept until then: in a kind of many entities they are most of what a tick moves through the memory.

use std::collections::HashSet;

use tickpond_lang::program::{Event, KindId, VarName};

use super::op::{Code, Op, Slot, Word};
use super::{Compiled, HandlerCode};

impl Compiled {
    /// Finds the handlers of the think and the mail phase that write variables nobody else reads or
    /// writes in it.
    pub(super) fn note_alone(&mut self) {
        let shared = self.read_from_outside();
        for kind in 0..self.kinds.len() {
            for at in 0..self.kinds[kind].handlers.len() {
                let handlers = &self.kinds[kind].handlers;
                let hears = hears(&handlers[at]);
                if !thinks(&handlers[at]) && !hears {
                    continue;
                }
                let beside = |other: &usize| {
                    let other = &handlers[*other];
                    if hears { self::hears(other) } else { thinks(other) }
                };
                let others = (0..handlers.len()).filter(|other| *other != at).filter(beside);
                let mut taken: HashSet<VarName> = shared.clone();
                for other in others {
                    let other = &handlers[other];
                    taken.extend(own_reads(&other.code).chain(own_writes(&other.code).flatten()));
                    taken.extend(other.period.iter().flat_map(own_reads));
                }
                let handler = &handlers[at];
                let writes: Vec<Option<VarName>> = own_writes(&handler.code).collect();
                let alone = KindId(kind as u32) != tickpond_lang::program::POND
                    && (hears || matches!(handler.event, Event::EveryTick))
                    && !handler.waits
                    && !writes.is_empty()
                    && writes.iter().all(|var| var.is_some_and(|var| !taken.contains(&var)));
                self.kinds[kind].handlers[at].alone = alone;
            }
        }
    }

    /// The variables that are read of other entities somewhere in the program: in questions about many,
    /// of one that is known, of the pond.
    fn read_from_outside(&self) -> HashSet<VarName> {
        let mut shared = HashSet::new();
        for query in &self.queries {
            let condition = query.condition.as_ref().map(|(code, _)| code);
            for code in query.value.iter().chain(condition) {
                shared.extend(own_reads(code));
                shared.extend(foreign_reads(code));
            }
        }
        for handler in self.kinds.iter().flat_map(|kind| &kind.handlers) {
            for code in std::iter::once(&handler.code).chain(&handler.period) {
                shared.extend(foreign_reads(code));
            }
        }
        shared
    }
}

/// Whether a handler runs in the think phase.
fn thinks(handler: &HandlerCode) -> bool {
    matches!(
        handler.event,
        Event::EveryTick | Event::When(_) | Event::Becoming(_) | Event::Quitting(_)
    )
}

/// Whether a handler runs in the mail phase.
fn hears(handler: &HandlerCode) -> bool {
    matches!(handler.event, Event::Message { .. })
}

fn own_reads(code: &Code) -> impl Iterator<Item = VarName> + '_ {
    code.ops.iter().filter_map(|op| match op {
        Op::Own(_, Word::Var(name, _)) | Op::Cached(_, Word::Var(name, _)) => Some(*name),
        _ => None,
    })
}

fn foreign_reads(code: &Code) -> impl Iterator<Item = VarName> + '_ {
    code.ops.iter().filter_map(|op| match op {
        Op::Of(_, _, Word::Var(name, _)) | Op::PondVar(_, name, _) => Some(*name),
        _ => None,
    })
}

/// The variables a piece of code writes; `None` for another field.
fn own_writes(code: &Code) -> impl Iterator<Item = Option<VarName>> + '_ {
    code.ops.iter().filter_map(|op| match op {
        Op::Set(Slot::Var { name, .. }, _) | Op::Add(Slot::Var { name, .. }, _) => {
            Some(Some(*name))
        }
        Op::Set(..) | Op::Add(..) => Some(None),
        _ => None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::to_itself("every tick { a += 1 }", true)]
    #[case::with_a_field_of_all("every tick { a += 1; turn by 1 deg }", false)]
    #[case::read_by_another("every tick { a += 1 } when a > 5 { b = 1 }", false)]
    #[case::written_by_another("every tick { a += 1 } when b > 5 { a = 1 }", false)]
    #[case::beside_another("every tick { a += 1 } when b > 5 { b = 0 }", true)]
    #[case::asked_of_all(
        "every tick { a += 1; if count(midge where a > 2) > 1 { end self } }",
        false
    )]
    #[case::read_of_another("every tick { a += 1; if nearest(midge) as m { b = m.a } }", false)]
    #[case::in_another_phase("every tick { a += 1 } every 2 s { a = b }", true)]
    fn a_handler_is_alone_if_nobody_could_tell(#[case] handlers: &str, #[case] alone: bool) {
        let text = format!(
            "pond \"Alone\" {{ arena 10 x 10 }}\nkind midge {{\nvars {{ a = 0; b = 0 }}\n{handlers}\n}}"
        );
        let compiled = tickpond_lang::compile(&text);
        let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
        let code = Compiled::new(program);
        let every = |h: &&HandlerCode| matches!(h.event, Event::EveryTick);
        let handler = code.kinds.iter().flat_map(|k| &k.handlers).find(every);
        assert_eq!(handler.map(|h| h.alone), Some(alone));
    }
}
