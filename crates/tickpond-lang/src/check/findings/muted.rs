//! H0702: what would make, end, hear or enter something is there, but muted. Muting a line to find a fault brings no
//! finding, only the word that it is so.

use crate::check::checker::Checker;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;

/// Findings that tell that nothing does something.
pub(super) fn missing(
    checker: &Checker,
    find: impl Fn(&Program) -> Vec<Diagnostic>,
) -> Vec<Diagnostic> {
    let now = find(&checker.program);
    let Some(all_on) = all_on(checker) else { return now };
    let at_all = find(&all_on);
    let is_there = |d: &Diagnostic| at_all.iter().any(|a| (a.code, a.span) == (d.code, d.span));
    let told = |d: Diagnostic| match is_there(&d) {
        true => d,
        false => {
            let message = format!("{}: what would is muted", d.message);
            let help = format!("with `off` taken away there is no `{}` here", d.code.as_str());
            Diagnostic::new(Code::MutedAlone, d.span, message).with_help(help)
        }
    };
    now.into_iter().map(told).collect()
}

/// The program as it were with nothing muted; `None` if nothing is.
fn all_on(checker: &Checker) -> Option<Program> {
    let rule_is_muted = |kind: &Kind| matches!(&kind.role, Role::Spawner(rule) if rule.muted);
    let kinds = &checker.program.kinds;
    let muted =
        kinds.iter().any(|kind| rule_is_muted(kind) || kind.handlers.iter().any(|h| h.muted));
    if !muted && checker.muted_places.is_empty() {
        return None;
    }
    let mut program = checker.program.clone();
    program.places.extend(checker.muted_places.iter().cloned());
    for kind in &mut program.kinds {
        kind.handlers.iter_mut().for_each(|handler| handler.muted = false);
        if let Role::Spawner(rule) = &mut kind.role {
            rule.muted = false;
        }
    }
    Some(program)
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use crate::compile;
    use rstest::rstest;

    #[rstest]
    #[case::made("off place fly at (1, 1)\nkind fly { after 1 s { end self } }", &["H0702"])]
    #[case::made_by_a_handler("kind fly { after 1 s { end self } }\noff after 1 s { spawn fly at (1, 1) }", &["H0702"])]
    #[case::ended("every 1 s { spawn fly at (1, 1) }\nkind fly { off after 1 s { end self } }", &["H0702"])]
    #[case::heard("message hi\nafter 1 s { send hi to pond }\noff on hi { say \"hi\" }", &["H0702"])]
    #[case::entered("kind fly { states { sit, fly_on }; off after 1 s { become fly_on } }\nplace fly at (1, 1)", &["H0702"])]
    #[case::hurt("kind fly { health 2; off after 1 s { damage self by 1 } }\nplace fly at (1, 1)", &["H0702"])]
    #[case::nothing_at_all("kind fly { health 2; off after 1 s { end self } }\nplace fly at (1, 1)", &["F0610"])]
    fn what_is_muted_is_a_hint(#[case] items: &str, #[case] wanted: &[&str]) {
        assert_eq!(codes(&format!("pond \"t\" {{ arena 10 x 10 }}\n{items}")), wanted);
    }

    #[test]
    fn the_message_says_that_it_is_muted() {
        let text = "pond \"t\" { arena 10 x 10 }\nkind fly { look \"f\" }\noff place fly at (1, 1)";
        assert_eq!(
            compile(text).diagnostics[0].message,
            "nothing ever makes a `fly`: what would is muted"
        );
    }
}
