//! F0603: a kind that is born again and again and has no way to end.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut again = vec![None; program.kinds.len()];
    for (maker, handler, birth, site) in walk::births(program) {
        if is_bounded(program, maker, handler) {
            continue;
        }
        for kind in walk::kinds_made(program, &birth.kind) {
            again[kind.index()].get_or_insert(site);
        }
    }
    let ends = kinds_that_end(program);
    let kinds = program.kinds.iter().enumerate();
    kinds
        .filter_map(|(i, kind)| {
            let site = again[i]?;
            if ends[i] || matches!(kind.role, Role::Spawner(_)) {
                return None;
            }
            let message = format!("a `{}` is born again and again and can never end", kind.name);
            let line = program.line_of(site);
            Some(
                Diagnostic::new(Code::NeverEnds, kind.name_span, message)
                    .with_label(program.sites[site.index()].span, "born here")
                    .with_help(format!(
                        "give it a lifetime, such as `after 5 s {{ end self }}` \
                         (it is born on line {line})"
                    )),
            )
        })
        .collect()
}

/// Whether a maker stops by itself: a spawner with a cap, or a moment that comes once.
fn is_bounded(program: &Program, maker: KindId, handler: Option<&Handler>) -> bool {
    match (handler, &program.kinds[maker.index()].role) {
        (None, Role::Spawner(rule)) => {
            rule.keep_at_most.is_some()
                || rule.keep.is_some()
                || rule.at_most.is_some()
                || !matches!(rule.rhythm, Rhythm::Every { .. })
        }
        (Some(handler), role) => {
            let once = matches!(handler.event, Event::Birth | Event::After(_) | Event::End(_));
            once || matches!(role, Role::Pond) && matches!(handler.event, Event::Routine(_))
        }
        (None, _) => true,
    }
}

fn kinds_that_end(program: &Program) -> Vec<bool> {
    let health = program.kinds.iter().map(|k| k.health.is_some()).collect::<Vec<_>>();
    let mut ends = vec![false; program.kinds.len()];
    for (kind, handler) in walk::handlers(program) {
        walk::statements(&handler.body, &mut |stmt| match &stmt.kind {
            StmtKind::Replace(_) => ends[kind.index()] = true,
            StmtKind::End { target, .. } => {
                walk::whom(target).unwrap_or(&[]).iter().for_each(|k| ends[k.index()] = true);
            }
            StmtKind::Damage { target, .. } => {
                for k in walk::whom(target).unwrap_or(&[]) {
                    ends[k.index()] |= health[k.index()];
                }
            }
            StmtKind::Blast(blast) if blast.damage.is_some() => {
                for (k, has) in health.iter().enumerate() {
                    ends[k] |= *has && !blast.spares.contains(&KindId(k as u32));
                }
            }
            StmtKind::Spawn(birth) | StmtKind::SpawnAs(birth, _)
                if birth.attached == Some(false) =>
            {
                // It ends with its owner.
                for k in walk::kinds_made(program, &birth.kind) {
                    ends[k.index()] = true;
                }
            }
            _ => {}
        });
    }
    ends
}

#[cfg(test)]
mod tests {
    use super::super::codes;

    #[test]
    fn a_stream_of_kinds_that_never_end_is_found() {
        let head = "pond \"t\" { arena 10 x 10 }\nspawner src { makes fly at (1, 1); every 1 s }\nplace src\n";
        assert_eq!(codes(&format!("{head}kind fly {{ look \"f\" }}")), ["F0603"]);
        assert!(codes(&format!("{head}kind fly {{ after 2 s {{ end self }} }}")).is_empty());
    }
}
