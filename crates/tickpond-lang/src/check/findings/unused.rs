//! F0601: a knob, spot group, zone, input, behaviour or function nothing uses.

use super::super::names::{Names, Symbol};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::Program;

pub(super) fn find(_program: &Program, names: &Names) -> Vec<Diagnostic> {
    let counts = |s: Symbol| {
        matches!(
            s,
            Symbol::Knob(_)
                | Symbol::Spots(_)
                | Symbol::Input(_)
                | Symbol::Zone(_)
                | Symbol::Behavior(_)
                | Symbol::Function(_)
                | Symbol::ValueFunction(_)
        )
    };
    let unused = names.all().filter(|(name, symbol, _)| counts(*symbol) && !names.is_used(name));
    unused
        .map(|(name, symbol, span)| {
            let message = format!("{} `{name}` is never used", symbol.noun());
            Diagnostic::new(Code::Unused, span, message).with_help("use it, or remove it")
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::super::codes;

    #[test]
    fn a_knob_is_used_by_another_knob() {
        let text = "pond \"t\" { arena 10 x 10 }\nknob a = 1\nknob b = a * 2";
        assert_eq!(codes(text), ["F0601"]);
    }
}
