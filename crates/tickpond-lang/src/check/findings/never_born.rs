//! F0602: a kind nothing ever makes.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut made = vec![false; program.kinds.len()];
    let births = walk::births(program).into_iter().map(|(_, _, birth, _)| birth);
    for birth in births.chain(program.places.iter().map(|p| &p.birth)) {
        for kind in walk::kinds_made(program, &birth.kind) {
            made[kind.index()] = true;
        }
    }
    let unmade = program.kinds.iter().zip(made).skip(1).filter(|(_, made)| !made);
    unmade
        .map(|(kind, _)| {
            let help = match kind.role {
                Role::Spawner(_) => format!("write `place {}`, or remove the spawner", kind.name),
                _ => format!(
                    "write `place {} at {}`, or spawn it somewhere",
                    kind.name,
                    program.arena.example()
                ),
            };
            let message = format!("nothing ever makes a `{}`", kind.name);
            Diagnostic::new(Code::NeverBorn, kind.name_span, message).with_help(help)
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::super::codes;

    #[test]
    fn a_kind_that_only_a_parameter_names_is_made() {
        let text = "pond \"t\" { arena 10 x 10 }\nkind fly { after 1 s { end self } }\n\
            kind bug { after 1 s { end self } }\n\
            spawner src(what: kind = fly) { makes what at (1, 1); every 1 s }\nplace src";
        assert_eq!(codes(text), ["F0602"]);
    }
}
