//! Parameters of messages, functions, behaviours and spawners, and their types.

use super::checker::Checker;
use crate::diagnostic::{Code, Span};
use crate::model::Sort;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::tree;
use crate::words::{TYPES, types};

/// A parameter as it is declared.
#[derive(Clone, Debug)]
pub(crate) struct Param {
    /// Its name.
    pub name: String,
    /// Where that stands.
    pub span: Span,
    /// Its type.
    pub ty: Ty,
    /// The value it has if none is given.
    pub default: Option<Node>,
}

impl Checker {
    /// Names, types and defaults of parameters.
    pub(super) fn params(&mut self, params: Option<Node>) -> Vec<Param> {
        let Some(params) = params else { return Vec::new() };
        let mut out = Vec::new();
        for param in params.children_of(S::Param) {
            let mut names = param.names();
            let (Some(name), Some(ty)) = (names.next(), names.next()) else { continue };
            let ty = match tree::Param(&param).is_kind_of() {
                true => self.kinds_among(&ty, &param),
                false => self.type_named(&ty),
            };
            if matches!(ty, Ty::Kind | Ty::KindOf(_)) {
                self.values_of_kinds.insert(name.text().to_string());
            }
            let span = self.token_span(&name);
            self.model.define(name.text(), Sort::Parameter, span, Some(ty.clone()));
            let name = name.text().to_string();
            out.push(Param { name, span, ty, default: param.expr() });
        }
        out
    }

    /// `kind of insect or frog`
    fn kinds_among(&mut self, ty: &Token, param: &Node) -> Ty {
        let span = self.token_span(ty);
        self.note_word(span, Sort::Word);
        if ty.text() != "kind" {
            let message = "only `kind` can be narrowed by `of`";
            self.error(Code::Syntax, ty.text_range().into(), message);
            return Ty::Unknown;
        }
        let mut kinds = Vec::new();
        for token in param.names().skip(2) {
            kinds.extend(self.kinds_named(&token));
        }
        kinds.sort();
        kinds.dedup();
        if kinds.is_empty() { Ty::Unknown } else { Ty::KindOf(kinds) }
    }

    fn type_named(&mut self, token: &Token) -> Ty {
        let span = self.token_span(token);
        self.note_word(span, Sort::Word);
        if let Some((_, ty)) = TYPES.iter().find(|(name, _)| *name == token.text()) {
            return ty.clone();
        }
        if token.text() == "entity" {
            return Ty::Entity(self.program.entity_kinds().map(|(id, _)| id).collect());
        }
        let names = types();
        let near = crate::near::near_miss(token.text(), names.clone()).is_some();
        self.unknown_name(token.text_range().into(), token.text(), "type", names.clone());
        if !near
            && self.quiet == 0
            && let Some(last) = self.diagnostics.last_mut()
        {
            let all: Vec<&str> = names.collect();
            last.help = Some(format!("the types are {}", all.join(", ")));
        }
        Ty::Unknown
    }
}
