//! F0623: a message to kinds that have no ear for it, though others have.

use std::collections::BTreeSet;

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut ears: Vec<BTreeSet<KindId>> = vec![BTreeSet::new(); program.messages.len()];
    for (i, kind) in program.kinds.iter().enumerate() {
        // Who is muted has an ear that is shut for now.
        for handler in &kind.handlers {
            if let Event::Message { message, .. } = handler.event {
                ears[message.index()].insert(KindId(i as u32));
            }
        }
    }
    let mut found: Vec<Diagnostic> = Vec::new();
    for (_, handler) in walk::handlers(program) {
        walk::statements(&handler.body, &mut |stmt| {
            let StmtKind::Send { message, to, .. } = &stmt.kind else { return };
            let kinds = match to {
                Target::Pond => vec![POND],
                Target::All => return,
                Target::Each(query) => query.kinds.clone(),
                Target::One(one) => {
                    let unknown = matches!(
                        &one.kind,
                        ExprKind::Own(Field::Maker) | ExprKind::Of(_, Field::Maker)
                    );
                    match &one.ty {
                        Ty::Entity(kinds) if !unknown => kinds.clone(),
                        _ => return,
                    }
                }
            };
            let hear = &ears[message.index()];
            let others: Vec<KindId> = hear.iter().copied().collect();
            if kinds.is_empty() || others.is_empty() || kinds.iter().any(|k| hear.contains(k)) {
                return;
            }
            let name = |kind: &KindId| match *kind {
                POND => "the pond".to_string(),
                kind => format!("`{}`", program.kinds[kind.index()].name),
            };
            let list = |kinds: &[KindId]| {
                let shown: Vec<String> = kinds.iter().take(4).map(name).collect();
                let more = if kinds.len() > 4 { " and others" } else { "" };
                format!("{}{more}", shown.join(", "))
            };
            let text = &program.messages[message.index()].name;
            let verb = if kinds.len() > 1 { "have" } else { "has" };
            let words = format!("{} {verb} no ear for `{text}`", list(&kinds));
            let help = format!(
                "add `on {text} {{ … }}` there, or send it to {}, who {} it",
                list(&others),
                if others.len() > 1 { "hear" } else { "hears" }
            );
            let span = program.sites[stmt.site.index()].span;
            found.push(Diagnostic::new(Code::DeafKind, span, words).with_help(help));
        });
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::to_the_deaf("send hi to each b", &["F0623"])]
    #[case::to_who_hears("send hi to each a", &[])]
    #[case::to_both("send hi to each bug", &[])]
    #[case::to_all("send hi to all", &[])]
    #[case::to_one("if nearest(b) as t { send hi to t }", &["F0623"])]
    #[case::to_the_pond("send hi to pond", &["F0623"])]
    fn a_letter_wants_an_ear(#[case] line: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nmessage hi\nplace a at (1, 1)\nplace b at (1, 1)\n\
             kind b {{ tag bug }}\nkind a {{ tag bug; on hi {{ say \"hi\" }} after 1 s {{ send hi to each a }} after 2 s {{ {line} }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
