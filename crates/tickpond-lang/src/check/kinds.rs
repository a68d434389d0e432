//! The kinds that names and tags mean, and the causes behind `by`.

use super::checker::Checker;
use super::names::Symbol;
use crate::diagnostic::{Code, Diagnostic};
use crate::model::Sort;
use crate::program::*;
use crate::syntax::{Node, NodeExt};
use crate::tree;

impl Checker {
    /// The kinds a kind set means, ascending; spawners are among them only by name.
    pub(super) fn kind_set(&mut self, node: &Node) -> Vec<KindId> {
        if tree::KindSet(node).is_any() {
            return self.program.entity_kinds().map(|(id, _)| id).collect();
        }
        let mut kinds = Vec::new();
        for token in node.names() {
            kinds.extend(self.kinds_named(&token));
        }
        kinds.sort();
        kinds.dedup();
        kinds
    }

    /// The kinds a name means: one kind, or all with a tag.
    pub(super) fn kinds_named(&mut self, token: &crate::syntax::Token) -> Vec<KindId> {
        let span = self.shifted(token.text_range().into());
        match self.symbol_at(token) {
            Some(Symbol::Kind(kind) | Symbol::Spawner(kind)) => {
                self.names.used(token.text());
                vec![kind]
            }
            Some(Symbol::Tag(tag)) => {
                self.names.used(token.text());
                let all = self.program.kinds.iter().enumerate();
                all.filter(|(_, k)| k.tags.contains(&tag)).map(|(i, _)| KindId(i as u32)).collect()
            }
            Some(other) => {
                let message =
                    format!("expected a kind or a tag, found {} `{}`", other.noun(), token.text());
                self.error(Code::WrongSort, span, message);
                Vec::new()
            }
            None if token.text() == "all" => {
                let diagnostic =
                    Diagnostic::new(Code::UnknownName, span, "there is no kind or tag `all`")
                        .with_help("all kinds together are `any`")
                        .with_mend(span, "any");
                self.report(diagnostic);
                Vec::new()
            }
            None if self.values_of_kinds.contains(token.text()) => {
                let message = format!(
                    "`{}` is a value, and a question names its kinds and tags",
                    token.text()
                );
                let diagnostic = Diagnostic::new(Code::WrongSort, span, message)
                    .with_help("name them: `count(midge)`, or a tag that all of them have");
                self.report(diagnostic);
                Vec::new()
            }
            None => {
                let candidates = self.names.of(|s| matches!(s, Symbol::Kind(_) | Symbol::Tag(_)));
                let candidates: Vec<&str> = candidates.iter().map(String::as_str).collect();
                self.unknown_name(span, token.text(), "kind or tag", candidates.into_iter());
                Vec::new()
            }
        }
    }

    /// The causes behind `by`.
    pub(super) fn causes(&mut self, node: Option<Node>) -> Vec<Cause> {
        let Some(node) = node else { return Vec::new() };
        let mut causes = Vec::new();
        for token in node.names() {
            match Cause::named(token.text()) {
                Some(cause) => {
                    let span = self.token_span(&token);
                    self.note_word(span, Sort::Word);
                    causes.push(cause);
                }
                None => {
                    let span = self.shifted(token.text_range().into());
                    let all = Cause::ALL.iter().map(|c| c.name());
                    self.unknown_name(span, token.text(), "cause", all);
                }
            }
        }
        causes
    }
}
