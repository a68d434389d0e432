//! What each instruction reads, writes, draws and asks for beyond its registers: one table.
//!
//! Everything that wants to know whether handlers can disturb each other (alias analysis), whether a
//! condition gives the same for all who ask, or what a handler depends on, asks this table. The match has
//! no wildcard, so a new instruction does not compile before it is in it.

use tickpond_lang::program::{InState, InputId, VarName};

use super::op::{Binary, Op, Reg, Slot, Unary, Word};
use super::traits::Traits;

/// What an instruction reads beside its registers and what is known before play.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reads {
    /// Nothing.
    Nothing,
    /// A word of the entity in the lane, as the phase found it.
    Own(Word),
    /// The same, as an earlier firing of this handler in this phase left it.
    OwnAsLeft(Word),
    /// A word of another entity.
    Another(Word),
    /// A variable of the pond.
    Pond(VarName),
    /// An input's pointer.
    Input(InputId),
    /// The middle of the view.
    View,
    /// Running totals: of births and ends, messages, waves.
    Totals,
    /// Who lives, and of which kind.
    Entities,
}

/// What an instruction writes of the entity in the lane.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Writes {
    /// Nothing.
    Nothing,
    /// A field.
    Field(Slot),
    /// A state.
    State(InState),
}

/// What an instruction asks for. Each is keyed by the asker and the other party.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Asks {
    /// Nothing.
    Nothing,
    /// Who or how many, by place in the list of questions.
    Question(u32),
    /// What a ray meets, by place in the list of questions.
    Ray(u32),
    /// Something to be carried out when the phase closes.
    Request,
}

/// Where the firing goes behind an instruction.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Goes {
    /// Forward.
    On,
    /// Back to the head of a loop.
    Back,
    /// On in a later tick.
    Later,
}

/// What an instruction does beyond its registers. How often a line ran is left out: it decides nothing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Effects {
    /// What it reads.
    pub reads: Reads,
    /// What it writes.
    pub writes: Writes,
    /// Whether it draws by chance.
    pub draws: bool,
    /// What it asks for.
    pub asks: Asks,
    /// Where the firing goes.
    pub goes: Goes,
}

impl Effects {
    /// None: it works with registers and what is known before play alone.
    pub const NONE: Effects = Effects {
        reads: Reads::Nothing,
        writes: Writes::Nothing,
        draws: false,
        asks: Asks::Nothing,
        goes: Goes::On,
    };

    const fn reads(reads: Reads) -> Effects {
        Effects { reads, ..Effects::NONE }
    }

    const fn writes(writes: Writes) -> Effects {
        Effects { writes, ..Effects::NONE }
    }

    const fn asks(asks: Asks) -> Effects {
        Effects { asks, ..Effects::NONE }
    }
}

impl Op {
    /// What it does beyond its registers.
    pub fn effects(&self) -> Effects {
        match self {
            Op::Const(..)
            | Op::Knob(..)
            | Op::Copy(..)
            | Op::Unary(..)
            | Op::Binary(..)
            | Op::UnitVector(..)
            | Op::Swing { .. }
            | Op::Offset { .. }
            | Op::TurnToward { .. }
            | Op::Inside(..)
            | Op::Jump(_)
            | Op::JumpIfNot(..)
            | Op::Finite(_)
            | Op::Stmt(_)
            | Op::Done => Effects::NONE,
            Op::Own(_, word) => Effects::reads(Reads::Own(*word)),
            Op::Cached(_, word) => Effects::reads(Reads::OwnAsLeft(*word)),
            Op::Of(_, _, word) => Effects::reads(Reads::Another(*word)),
            Op::PondVar(_, name, _) => Effects::reads(Reads::Pond(*name)),
            // The direction to where one already stands is one's own.
            Op::Direction(..) => Effects::reads(Reads::Own(Word::Heading)),
            Op::Pointer(_, input) => Effects::reads(Reads::Input(*input)),
            Op::View(_) => Effects::reads(Reads::View),
            Op::Mail(..)
            | Op::Tally(..)
            | Op::Stat(..)
            | Op::WaveCount(..)
            | Op::WaveUnborn(..) => Effects::reads(Reads::Totals),
            // Whom a list names was asked for before; whether they live can have changed.
            Op::Alive(..)
            | Op::Named(..)
            | Op::IsKind(..)
            | Op::Newborn { .. }
            | Op::Next { .. } => Effects::reads(Reads::Entities),
            Op::Random { .. } => Effects { draws: true, ..Effects::NONE },
            Op::Set(slot, _) | Op::Add(slot, _) => Effects::writes(Writes::Field(*slot)),
            Op::Become(state, _) => Effects::writes(Writes::State(*state)),
            // A question can be for one by chance.
            Op::Query(_, at) | Op::Gather(_, at) | Op::SendToAny { query: at, .. } => {
                Effects { draws: true, ..Effects::asks(Asks::Question(*at)) }
            }
            Op::Ray { query, .. } => Effects::asks(Asks::Ray(*query)),
            Op::Spawn(_) | Op::SpawnAs(..) | Op::Replace(_) | Op::Blast(_) => {
                // A place can be by chance.
                Effects { draws: true, ..Effects::asks(Asks::Request) }
            }
            Op::Show { .. }
            | Op::Push { .. }
            | Op::Attach { .. }
            | Op::Detach(_)
            | Op::Activate(..)
            | Op::WaveNew(_)
            | Op::Damage { .. }
            | Op::End(..)
            | Op::Send(_)
            | Op::Say(_) => Effects::asks(Asks::Request),
            Op::Back(..) => Effects { goes: Goes::Back, ..Effects::NONE },
            Op::Wait(_) | Op::WaitBorn => Effects { goes: Goes::Later, ..Effects::NONE },
        }
    }
}

/// Whether a register can hold a number that is not finite, though all an instruction works with are finite.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Doubt {
    /// It cannot.
    None,
    /// It can: sums, products and quotients.
    Arises,
    /// It can if the number in this register can.
    Of(Reg),
}

/// The registers in which an instruction leaves values: the first, how many, and whether to doubt them. Truth values and
/// places in lists that it leaves elsewhere are no numbers to doubt.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Gives {
    /// The first.
    pub first: Reg,
    /// How many in a row.
    pub count: Reg,
    /// Whether they can hold a number that is not finite.
    pub doubt: Doubt,
}

impl Op {
    /// The registers it leaves values in.
    pub fn gives(&self) -> Gives {
        let given = |first: Reg, count: Reg, doubt: Doubt| Gives { first, count, doubt };
        match *self {
            Op::Binary(op, to, ..) => match op {
                Binary::Add
                | Binary::Subtract
                | Binary::Multiply
                | Binary::Divide
                | Binary::Hypot => given(to, 1, Doubt::Arises),
                Binary::Min
                | Binary::Max
                | Binary::Less
                | Binary::LessEqual
                | Binary::Equal
                | Binary::SameWord
                | Binary::And
                | Binary::Or => given(to, 1, Doubt::None),
            },
            Op::Unary(op, to, from) => match op {
                Unary::Sqrt => given(to, 1, Doubt::Arises),
                Unary::Negate | Unary::Abs | Unary::Floor | Unary::Round => {
                    given(to, 1, Doubt::Of(from))
                }
                Unary::Not | Unary::Sin | Unary::Cos => given(to, 1, Doubt::None),
            },
            Op::Copy(to, from) => given(to, 1, Doubt::Of(from)),
            Op::Random { to, .. } | Op::Query(to, _) => given(to, 1, Doubt::Arises),
            Op::Swing { to, .. } | Op::Offset { to, .. } => given(to, 2, Doubt::Arises),
            Op::UnitVector(to, _) | Op::Pointer(to, _) | Op::View(to) => given(to, 2, Doubt::None),
            Op::Ray { to, .. } => given(to, 6, Doubt::None),
            Op::Const(to, _)
            | Op::Knob(to, _)
            | Op::Own(to, _)
            | Op::Cached(to, _)
            | Op::Of(to, ..)
            | Op::PondVar(to, ..)
            | Op::Direction(to, _)
            | Op::TurnToward { to, .. }
            | Op::Alive(to, _)
            | Op::Named(to, ..)
            | Op::Inside(to, ..)
            | Op::IsKind(to, ..)
            | Op::Mail(to, ..)
            | Op::Tally(to, _)
            | Op::Newborn { to, .. }
            | Op::Stat(to, _)
            | Op::WaveCount(to, _)
            | Op::WaveUnborn(to, _)
            | Op::WaveNew(to)
            | Op::SpawnAs(_, to) => given(to, 1, Doubt::None),
            // The list in two registers of its own.
            Op::Gather(list, _) => given(list, 2, Doubt::None),
            Op::Next { to, .. } => given(to, 1, Doubt::None),
            Op::SendToAny { .. }
            | Op::Finite(_)
            | Op::Back(..)
            | Op::Show { .. }
            | Op::Blast(_)
            | Op::Push { .. }
            | Op::Become(..)
            | Op::Attach { .. }
            | Op::Detach(_)
            | Op::Activate(..)
            | Op::WaitBorn
            | Op::Replace(_)
            | Op::Jump(_)
            | Op::JumpIfNot(..)
            | Op::Stmt(_)
            | Op::Set(..)
            | Op::Add(..)
            | Op::Spawn(_)
            | Op::Damage { .. }
            | Op::End(..)
            | Op::Send(_)
            | Op::Say(_)
            | Op::Wait(_)
            | Op::Done => given(0, 0, Doubt::None),
        }
    }
}

impl Traits {
    /// What these instructions do together.
    pub fn of(ops: &[Op]) -> Traits {
        let mut together =
            Traits { is_fixed: true, loops: false, waits: false, is_about_another: false };
        for does in ops.iter().map(Op::effects) {
            together.loops |= does.goes == Goes::Back;
            together.waits |= does.goes == Goes::Later;
            let fixed = match does.reads {
                Reads::Nothing | Reads::Own(_) | Reads::Another(_) | Reads::Pond(_) => true,
                Reads::OwnAsLeft(_)
                | Reads::Input(_)
                | Reads::View
                | Reads::Totals
                | Reads::Entities => false,
            };
            together.is_fixed &=
                fixed && Effects { reads: Reads::Nothing, ..does } == Effects::NONE;
            together.is_about_another |= matches!(does.reads, Reads::Another(_) | Reads::Entities)
                || does.draws
                || does.asks != Asks::Nothing
                || does.goes == Goes::Later;
        }
        together
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;
    use tickpond_lang::program::Event;

    #[rstest]
    #[case::of_itself("every tick { a += vel.x / 1 u/s }", [false, false, false])]
    #[case::by_chance("every tick { a = random(0..1) }", [false, false, true])]
    #[case::goes_back("every tick { repeat 3 times { a += 1 } }", [true, false, false])]
    #[case::waits("every tick { wait 1 s; a = 1 }", [false, true, true])]
    #[case::asks("every tick { spawn midge }", [false, false, true])]
    #[case::counts("every tick { a = ended(midge) }", [false, false, false])]
    #[case::reads_another("every tick { a = friend.a }", [false, false, true])]
    fn the_table_knows_what_code_does(#[case] handler: &str, #[case] wanted: [bool; 3]) {
        let text = format!(
            "pond \"Table\" {{ arena 10 x 10 }}\nkind midge {{\nvars {{ a = 0; friend = self }}\n{handler}\n}}"
        );
        let compiled = tickpond_lang::compile(&text);
        let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
        let code = crate::code::Compiled::new(program);
        let handlers = code.kinds.iter().flat_map(|kind| &kind.handlers);
        let mut ticking = handlers.filter(|h| matches!(h.event, Event::EveryTick));
        let traits = ticking.next().map(|handler| handler.code.traits);
        let traits = traits.map(|t| [t.loops, t.waits, t.is_about_another]);
        assert_eq!(traits, Some(wanted));
    }
}
