//! F0617: a message that answers itself to many. Who hears it sends it on to many in the same tick, who do the same:
//! each round of mail has many times the messages of the one before, until a guard stops the run.

use std::collections::{HashMap, HashSet};

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

/// A handler of a message, by its kind.
type Ear = (KindId, MessageId);

/// Those that hear what one that hears a message sends at once: whether they are many, and the line.
type Ways = HashMap<Ear, Vec<(Ear, bool, SiteId)>>;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let ways = ways(program);
    let leads_back = |from: Ear, to: Ear| {
        let (mut seen, mut open) = (HashSet::new(), vec![from]);
        while let Some(ear) = open.pop() {
            if ear == to {
                return true;
            }
            if seen.insert(ear) {
                open.extend(ways.get(&ear).into_iter().flatten().map(|(next, ..)| *next));
            }
        }
        false
    };
    let mut found: Vec<Diagnostic> = Vec::new();
    for (ear, next) in &ways {
        for (to, _, site) in next.iter().filter(|(_, many, _)| *many) {
            if leads_back(*to, *ear) {
                let name = &program.messages[ear.1.index()].name;
                let span = program.sites[site.index()].span;
                let message =
                    format!("whoever hears `{name}` sends on to many at once, who hear it again");
                let help = "send it on only once: `if not told { told = true; … }`";
                found.push(Diagnostic::new(Code::MailStorm, span, message).with_help(help));
            }
        }
    }
    found
}

fn ways(program: &Program) -> Ways {
    let heard = |handler: &Handler| match handler.event {
        Event::Message { message, .. } => Some(message),
        _ => None,
    };
    let hears = walk::handlers(program).filter_map(|(kind, h)| Some((kind, heard(h)?)));
    let hears: HashSet<Ear> = hears.collect();
    let mut ways = Ways::new();
    for (kind, handler) in walk::handlers(program) {
        let Some(heard) = heard(handler) else { continue };
        // What stands under a condition may well come to an end, and what waits is no longer of this tick.
        for stmt in handler.body.iter().take_while(|stmt| !waits(stmt)) {
            let StmtKind::Send { message, to, .. } = &stmt.kind else { continue };
            let (kinds, many): (Vec<KindId>, bool) = match to {
                Target::All => (hears.iter().map(|(kind, _)| *kind).collect(), true),
                Target::Each(query) if query.condition.is_none() => (query.kinds.clone(), true),
                Target::Pond => (vec![POND], false),
                _ => continue,
            };
            let reached = kinds.into_iter().map(|kind| (kind, *message));
            let reached: HashSet<Ear> = reached.filter(|ear| hears.contains(ear)).collect();
            let next = reached.into_iter().map(|ear| (ear, many, stmt.site));
            ways.entry((kind, heard)).or_default().extend(next);
        }
    }
    ways
}

fn waits(stmt: &Stmt) -> bool {
    matches!(
        stmt.kind,
        StmtKind::Wait(_) | StmtKind::WaitUntil(_) | StmtKind::Wave { .. } | StmtKind::SpawnAs(..)
    )
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::to_all("send hi to all", &["F0617"])]
    #[case::to_neighbours("send hi to each a within 9 u", &["F0617"])]
    #[case::by_way_of_the_pond("send ho to pond", &["F0617"])]
    #[case::to_one("if nearest(a) as other { send hi to other }", &[])]
    #[case::under_a_condition("if n < 1 { n = 1; send hi to all }", &[])]
    #[case::later("wait 1 s; send hi to all", &[])]
    #[case::to_those_who_do_not_hear_it("send hi to each b", &["F0623"])]
    fn a_message_that_answers_itself_to_many_is_found(
        #[case] answer: &str,
        #[case] wanted: &[&str],
    ) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nmessage hi\nmessage ho\nplace a at (1, 1)\nplace a at (2, 2)\n\
             kind b {{ look \"b\" }}\nplace b at (3, 3)\nwatch w = sum(a.n)\n\
             kind a {{ vars {{ n = 0 }}; on hi {{ {answer} }} after 1 s {{ send hi to all }} }}\n\
             after 2 s {{ send ho to pond }}\non ho {{ send hi to each a }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
