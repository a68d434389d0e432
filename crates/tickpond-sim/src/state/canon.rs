//! An order of the parts of a program that does not depend on the order of its text.

use tickpond_lang::program::{KindId, Program};

use crate::code::layout::words_of;
use crate::luck::hash_text;

/// The parts of a program by name: what is hashed of a state goes in this order, and names stand for numbers.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Canon {
    /// The kinds by name, the pond first.
    pub kinds: Vec<KindId>,
    /// By kind: the hash of its name.
    pub kind_names: Vec<u64>,
    /// By kind: the words of its variables, by the variables' names.
    pub vars: Vec<Vec<u32>>,
    /// By message: the hash of its name; then their order.
    pub messages: Vec<u64>,
    pub message_order: Vec<usize>,
    /// By zone and by spot group: the hash of its name.
    pub zones: Vec<u64>,
    pub spots: Vec<u64>,
    /// The inputs and the knobs by name.
    pub inputs: Vec<usize>,
    pub knobs: Vec<usize>,
}

/// The places of things by their names.
fn by_name<'a>(names: impl Iterator<Item = &'a str>) -> Vec<usize> {
    let names: Vec<&str> = names.collect();
    let mut order: Vec<usize> = (0..names.len()).collect();
    order.sort_by_key(|at| names[*at]);
    order
}

impl Canon {
    /// The order of a program's parts.
    pub fn of(program: &Program) -> Canon {
        // The pond's name is nobody else's, and it goes first.
        let names = program.kinds.iter().skip(1).map(|kind| kind.name.as_str());
        let order = by_name(names).into_iter().map(|at| KindId(at as u32 + 1));
        let vars = program.kinds.iter().map(|kind| {
            let mut first = 0;
            let mut words: Vec<(&str, u32)> = Vec::new();
            for var in &kind.vars {
                let name = program.var_names[var.name.index()].as_str();
                let count = u32::from(words_of(&var.ty));
                words.extend((first..first + count).map(|word| (name, word)));
                first += count;
            }
            words.sort_unstable();
            words.into_iter().map(|(_, word)| word).collect()
        });
        let hashes = |names: Vec<&str>| names.into_iter().map(hash_text).collect::<Vec<u64>>();
        Canon {
            kinds: std::iter::once(KindId(0)).chain(order).collect(),
            kind_names: hashes(program.kinds.iter().map(|kind| kind.name.as_str()).collect()),
            vars: vars.collect(),
            messages: hashes(program.messages.iter().map(|m| m.name.as_str()).collect()),
            message_order: by_name(program.messages.iter().map(|m| m.name.as_str())),
            zones: hashes(program.zones.iter().map(|zone| zone.name.as_str()).collect()),
            spots: hashes(program.spots.iter().map(|group| group.name.as_str()).collect()),
            inputs: by_name(program.inputs.iter().map(|input| input.name.as_str())),
            knobs: by_name(program.knobs.iter().map(|knob| knob.name.as_str())),
        }
    }

    /// The hash of a kind's name.
    pub fn kind(&self, kind: KindId) -> u64 {
        self.kind_names[kind.index()]
    }
}
