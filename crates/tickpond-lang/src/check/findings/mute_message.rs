//! F0604: a message nothing sends, or nothing hears.

use super::super::names::{Names, Symbol};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program, names: &Names) -> Vec<Diagnostic> {
    let mut sent = vec![false; program.messages.len()];
    let mut heard = vec![false; program.messages.len()];
    for (_, handler) in walk::handlers(program) {
        if let Event::Message { message, .. } = handler.event {
            heard[message.index()] = true;
        }
        walk::statements(&handler.body, &mut |stmt| {
            if let StmtKind::Send { message, .. } = stmt.kind {
                sent[message.index()] = true;
            }
        });
    }
    let messages = names.all().filter_map(|(name, symbol, span)| match symbol {
        Symbol::Message(id) => Some((name, id.index(), span)),
        _ => None,
    });
    messages
        .filter_map(|(name, at, span)| {
            let (missing, help) = match (sent[at], heard[at]) {
                (true, true) => return None,
                (true, false) => {
                    ("hears", format!("add `on {name} {{ … }}` to who should hear it"))
                }
                (false, true) => {
                    ("sends", format!("add `send {name} to …` where it should be sent"))
                }
                (false, false) => ("sends or hears", "remove it, or send it and hear it".into()),
            };
            let message = format!("nothing {missing} the message `{name}`");
            Some(Diagnostic::new(Code::MuteMessage, span, message).with_help(help))
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::super::codes;

    #[test]
    fn a_message_nobody_hears_is_found() {
        let head = "pond \"t\" { arena 10 x 10 }\nmessage ho\nafter 1 s { send ho to pond }\n";
        assert_eq!(codes(head), ["F0604"]);
        assert!(codes(&format!("{head}on ho {{ say \"ho\" }}")).is_empty());
    }
}
