//! F0613: a variable nothing reads.

use std::collections::HashSet;

use crate::diagnostic::{Code, Diagnostic, Span};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut read = vec![false; program.var_names.len()];
    walk::everywhere(program, &mut |expr| match expr.kind {
        ExprKind::Own(Field::Var(name))
        | ExprKind::Its(Field::Var(name))
        | ExprKind::Of(_, Field::Var(name))
        | ExprKind::PondVar(name) => read[name.index()] = true,
        _ => {}
    });
    let mut found: Vec<Diagnostic> = Vec::new();
    let mut told: HashSet<Span> = HashSet::new();
    for var in program.kinds.iter().flat_map(|k| &k.vars) {
        if read[var.name.index()] || !told.insert(var.span) {
            continue;
        }
        let name = &program.var_names[var.name.index()];
        let message = format!("the variable `{name}` is never read");
        found.push(
            Diagnostic::new(Code::UnreadVariable, var.span, message)
                .with_help("use it, watch it, or remove it"),
        );
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::only_written("every 1 s { n += 1 }", "", &["F0613"])]
    #[case::read_by_itself("every 1 s { n += 1; if n > 2 { end self } }", "", &[])]
    #[case::read_by_a_query("", "watch w = count(a where n > 1)", &[])]
    fn a_variable_wants_a_reader(#[case] line: &str, #[case] item: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\n\
             kind a {{ vars {{ n = 0 }}; {line} }}\n{item}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
