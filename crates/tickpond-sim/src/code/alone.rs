//! Alias analysis: which handlers write what nothing else of the phase reads or writes.
//!
//! Writes take effect when a phase closes, so that no handler sees what another one did in it. Where none could see it, the
//! writes of a block take effect when the block has run and need not be kept: in a large kind they are most of the memory traffic of
//! a tick.

use std::collections::HashSet;

use tickpond_lang::program::{Event, KindId, VarName};

use super::effects::{Asks, Goes, Reads, Writes};
use super::op::{Code, Op, Slot, Word};
use super::{Compiled, HandlerCode, Turn};

/// What a handler can write and others could see.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
enum Field {
    Var(VarName),
    Pos,
    Vel,
    Heading,
    Spin,
}

impl Compiled {
    /// Finds the handlers of the think and the mail phase that write what nobody else reads or writes
    /// in it.
    pub(super) fn note_alone(&mut self) {
        let shared = self.read_from_outside();
        let plain = self.thinks_plainly();
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
                let mut taken: HashSet<Field> = shared.clone();
                for other in others {
                    let other = &handlers[other];
                    taken.extend(own_reads(&other.code).chain(own_writes(&other.code)));
                    taken.extend(other.period.iter().flat_map(own_reads));
                }
                let handler = &handlers[at];
                let writes: Vec<Field> = own_writes(&handler.code).collect();
                // Where others are, and whither they go, is asked for in many ways.
                let hidden = |field: &Field| match field {
                    Field::Var(_) => true,
                    Field::Pos | Field::Vel | Field::Heading => plain && !hears,
                    Field::Spin => false,
                };
                let alone = KindId(kind as u32) != tickpond_lang::program::POND
                    && (hears || matches!(handler.event, Event::EveryTick))
                    && !handler.waits
                    // What goes over a limit of the tick is undone as a whole; what has taken hold cannot be.
                    && !handler.code.traits.loops
                    && !writes.is_empty()
                    && writes.iter().all(|field| hidden(field) && !taken.contains(field));
                self.kinds[kind].handlers[at].alone = alone;
            }
        }
    }

    /// The variables that are read of other entities somewhere in the program: in questions about many,
    /// of one that is known, of the pond.
    fn read_from_outside(&self) -> HashSet<Field> {
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

    /// Whether no handler of the think phase asks for anything but what is its own.
    fn thinks_plainly(&self) -> bool {
        let handlers = self.kinds.iter().flat_map(|kind| &kind.handlers).filter(|h| thinks(h));
        let mut codes = handlers.flat_map(|h| std::iter::once(&h.code).chain(&h.period));
        codes.all(|code| code.ops.iter().all(is_plain))
    }
}

/// Whether a handler runs in the think phase.
fn thinks(handler: &HandlerCode) -> bool {
    Turn::of(&handler.event) == Turn::Think
}

/// Whether a handler runs in the mail phase.
fn hears(handler: &HandlerCode) -> bool {
    Turn::of(&handler.event) == Turn::Mail
}

/// Whether an instruction reads and writes nothing but registers, the entity's own fields and what no
/// handler can write.
fn is_plain(op: &Op) -> bool {
    let does = op.effects();
    let reads = match does.reads {
        Reads::Nothing | Reads::Own(_) | Reads::OwnAsLeft(_) | Reads::Input(_) => true,
        Reads::Another(_) | Reads::Pond(_) | Reads::View | Reads::Totals | Reads::Entities => false,
    };
    let writes = matches!(does.writes, Writes::Nothing | Writes::Field(_));
    reads && writes && does.asks == Asks::Nothing && does.goes != Goes::Later
}

/// The fields a piece of code reads of the entity in the lane.
fn own_reads(code: &Code) -> impl Iterator<Item = Field> + '_ {
    code.ops.iter().filter_map(|op| match op.effects().reads {
        Reads::Own(word) | Reads::OwnAsLeft(word) => field_of(word),
        Reads::Nothing
        | Reads::Another(_)
        | Reads::Pond(_)
        | Reads::Input(_)
        | Reads::View
        | Reads::Totals
        | Reads::Entities => None,
    })
}

/// The variables a piece of code reads of others. Where others are can be asked in many ways; that is
/// [`Compiled::thinks_plainly`].
fn foreign_reads(code: &Code) -> impl Iterator<Item = Field> + '_ {
    code.ops.iter().filter_map(|op| match op.effects().reads {
        Reads::Another(Word::Var(name, _)) | Reads::Pond(name) => Some(Field::Var(name)),
        Reads::Another(_)
        | Reads::Nothing
        | Reads::Own(_)
        | Reads::OwnAsLeft(_)
        | Reads::Input(_)
        | Reads::View
        | Reads::Totals
        | Reads::Entities => None,
    })
}

/// The field a word belongs to; none if no handler can write it at once.
fn field_of(word: Word) -> Option<Field> {
    match word {
        Word::Var(name, _) => Some(Field::Var(name)),
        Word::X | Word::Y => Some(Field::Pos),
        Word::Vx | Word::Vy | Word::Speed => Some(Field::Vel),
        Word::Heading => Some(Field::Heading),
        Word::Spin => Some(Field::Spin),
        Word::Health
        | Word::Age
        | Word::Maker
        | Word::Id
        | Word::State(_)
        | Word::Active
        | Word::Down
        | Word::Resting => None,
    }
}

/// The fields a piece of code writes.
fn own_writes(code: &Code) -> impl Iterator<Item = Field> + '_ {
    let written = code.ops.iter().map(|op| match op.effects().writes {
        Writes::Field(slot) => match slot {
            Slot::Var { name, .. } => [Some(Field::Var(name)), None],
            Slot::Pos => [Some(Field::Pos), None],
            // The speed is laid along the heading.
            Slot::Vel | Slot::Speed => [Some(Field::Vel), Some(Field::Heading)],
            // Turning swings the velocity along.
            Slot::Heading => [Some(Field::Heading), Some(Field::Vel)],
            Slot::Spin => [Some(Field::Spin), None],
        },
        Writes::State(_) | Writes::Nothing => [None, None],
    });
    written.flatten().flatten()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::to_itself("every tick { a += 1 }", true)]
    #[case::with_its_heading("every tick { a += 1; turn by 1 deg }", true)]
    #[case::with_its_spin("every tick { a += 1; spin = 1 deg/s }", false)]
    #[case::where_another_turns("every tick { turn by 1 deg } when a > 5 { turn by 2 deg }", false)]
    #[case::where_another_goes_its_way(
        "every tick { turn by 1 deg } when vel.x > 2 u/s { b = 1 }",
        false
    )]
    #[case::where_somebody_asks(
        "every tick { turn by 1 deg } when a > count(midge) { b = 1 }",
        false
    )]
    #[case::where_somebody_is_born(
        "every tick { turn by 1 deg } when a > 1 { spawn midge }",
        false
    )]
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
