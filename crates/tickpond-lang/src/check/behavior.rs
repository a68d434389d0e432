//! Behaviours: parts that any kind can use. Each use is checked for its kind.

use super::checker::Checker;
use super::names::Symbol;
use super::params::Param;
use super::scope::{Part, PartParam, Scope};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};

impl Checker {
    /// Takes up the behaviours a kind uses: their parameters, variables and states, by name.
    pub(super) fn uses(&mut self, item: &Node, id: KindId) {
        let mut found: Vec<(Part, Node)> = Vec::new();
        for line in item.children_of(S::UsesLine) {
            let Some(token) = line.name() else { continue };
            let span = token.text_range().into();
            let behavior = match self.symbol_at(&token) {
                Some(Symbol::Behavior(at)) => self.behaviors[at].clone(),
                Some(symbol) => {
                    let message =
                        format!("expected a behaviour, found {} `{}`", symbol.noun(), token.text());
                    self.error(Code::WrongSort, span, message);
                    continue;
                }
                None => {
                    let names = self.names.of(|s| matches!(s, Symbol::Behavior(_)));
                    let names = names.iter().map(String::as_str);
                    self.unknown_name(span, token.text(), "behaviour", names);
                    continue;
                }
            };
            self.names.used(token.text());
            if found.iter().any(|(part, _)| part.name == token.text()) {
                let message = format!("the behaviour `{}` is used twice", token.text());
                self.error(Code::Twice, span, message);
                continue;
            }
            self.followed.insert(token.text().to_string());
            let params = self.use_params(&line, &behavior, token.text());
            found.push((Part { name: token.text().to_string(), params }, behavior));
        }
        found.sort_by(|a, b| a.0.name.cmp(&b.0.name));
        for (part, behavior) in &found {
            self.add_track(behavior, &part.name, id);
            let mut scope = Scope::handler(id);
            scope.part = Some(part.clone());
            for vars in behavior.children_of(S::Vars) {
                self.vars_of(&vars, scope.clone());
            }
        }
        self.kind_uses.push((id, found));
    }

    fn use_params(&mut self, line: &Node, behavior: &Node, name: &str) -> Vec<PartParam> {
        let params = self.params(behavior.child(S::Params));
        let args: Vec<Node> =
            line.child(S::Args).iter().flat_map(|a| a.exprs().collect::<Vec<_>>()).collect();
        if args.len() > params.len() {
            let message =
                format!("`{name}` takes at most {} values, found {}", params.len(), args.len());
            self.error(Code::WrongCount, self.span(line), message);
        }
        let mut out = Vec::new();
        for (at, Param { name: param, span, ty, default }) in params.into_iter().enumerate() {
            let node = args.get(at).cloned().or(default);
            let value = match node {
                Some(node) => {
                    let value = self.expr(&node, &mut Scope::reading(POND));
                    self.wants(value, &ty)
                }
                None => {
                    let line = self.span(line);
                    let message = format!("`{name}` wants a value for `{param}`");
                    let diagnostic = Diagnostic::new(Code::WrongCount, line, message)
                        .with_help(format!("write `uses {name}(…)`"));
                    self.report(diagnostic);
                    Expr { kind: ExprKind::Num(0.0), ty: Ty::Unknown, span: line }
                }
            };
            out.push(PartParam { name: param, span, value });
        }
        out
    }

    /// Checks the handlers of the behaviours a kind uses, for that kind.
    pub(super) fn used_handlers(&mut self, id: KindId) {
        let at = self.kind_uses.iter().position(|(kind, _)| *kind == id);
        let Some(at) = at else { return };
        let (_, found) = self.kind_uses[at].clone();
        for (part, behavior) in found {
            let mut scope = Scope::handler(id);
            scope.part = Some(part);
            self.handlers_of(&behavior, &scope);
        }
    }
}
