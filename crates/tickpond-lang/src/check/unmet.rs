//! Functions nobody calls and behaviours nobody uses: their bodies are checked where they are called and used, so these
//! never are. For the model they are looked at all the same, for an entity that has everything an entity can have.

use super::checker::Checker;
use super::empty::empty_kind;
use super::params::Param;
use super::scope::{Bound, Part, PartParam, Scope};
use crate::diagnostic::Span;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};

impl Checker {
    /// The bodies that were never looked at.
    pub(super) fn unmet(&self) -> Vec<Node> {
        let all = self.functions.iter().chain(&self.value_functions).chain(&self.behaviors);
        let unmet = |item: &&Node| {
            let name = item.name();
            name.is_some_and(|token| !self.followed.contains(token.text()))
        };
        all.filter(unmet).cloned().collect()
    }

    /// Resolves the names in bodies that were never looked at. The program is of no use afterwards.
    pub(super) fn look_at_unmet(&mut self, items: &[Node]) {
        let value = |ty: &Ty, span| Expr { kind: ExprKind::Num(0.0), ty: ty.clone(), span };
        let mut anyone = empty_kind("", Span::default(), Role::Entity);
        anyone.health = Some(value(&Ty::Num(crate::units::Dim::NONE), Span::default()));
        anyone.matter.solid = true;
        self.program.kinds.push(anyone);
        let owner = KindId(self.program.kinds.len() as u32 - 1);
        self.quietly(|checker| {
            for item in items {
                let params = checker.params(item.child(S::Params));
                let mut scope = Scope::handler(owner);
                match item.kind() {
                    S::Behavior => {
                        let name = item.name().map(|t| t.text().to_string()).unwrap_or_default();
                        let params = params.into_iter().map(|Param { name, span, ty, .. }| {
                            let value = value(&ty, span);
                            PartParam { name, span, value }
                        });
                        let part = Part { name: name.clone(), params: params.collect() };
                        checker.add_track(item, &name, owner);
                        scope.part = Some(part);
                        for vars in item.children_of(S::Vars) {
                            checker.vars_of(&vars, scope.clone());
                        }
                        checker.handlers_of(item, &scope);
                    }
                    S::Function => {
                        for param in params {
                            let local = scope.bind(&param.name, param.ty, param.span);
                            scope.is_defined_at(local, param.span);
                        }
                        checker.block(item.child(S::Block), &mut scope);
                    }
                    _ => {
                        scope.bounds.extend(params.into_iter().enumerate().map(|(at, param)| {
                            let Param { name, span, ty, .. } = param;
                            Bound { name, span, id: at as u32, ty }
                        }));
                        checker.expr_or_unknown(item.expr(), Span::default(), &mut scope);
                    }
                }
            }
        });
    }
}
