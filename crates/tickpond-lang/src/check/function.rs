//! Functions of the pond: each call is checked where it stands, with the parameters' types, and its
//! body takes its place.

use super::checker::Checker;
use super::expr::unknown;
use super::names::Symbol;
use super::params::Param;
use super::scope::{Bound, Scope};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};

/// Most calls taken in while a pond is checked: a function that calls others again and again grows
/// as their product.
const MOST_CALLS: usize = 20_000;

impl Checker {
    fn arguments(
        &mut self,
        node: &Node,
        token: &Token,
        function: &Node,
        scope: &mut Scope,
    ) -> Option<Vec<(Param, Expr)>> {
        let params = self.params(function.child(S::Params));
        let args: Vec<Node> =
            node.child(S::Args).iter().flat_map(|a| a.exprs().collect::<Vec<_>>()).collect();
        let least = params.iter().filter(|param| param.default.is_none()).count();
        if args.len() > params.len() || args.len() < least {
            let message = format!(
                "`{}` takes {} value{}, found {}",
                token.text(),
                params.len(),
                if params.len() == 1 { "" } else { "s" },
                args.len()
            );
            let declared = function.name().map(|t| t.text_range());
            let mut diagnostic = Diagnostic::new(Code::WrongCount, self.span(node), message);
            if let Some(range) = declared {
                diagnostic = diagnostic.with_label(range, "declared here");
            }
            self.report(diagnostic);
            self.quietly(|checker| args.iter().for_each(|arg| drop(checker.expr(arg, scope))));
            return None;
        }
        let mut out = Vec::new();
        for (at, param) in params.into_iter().enumerate() {
            let value = match args.get(at) {
                Some(arg) => self.expr(arg, scope),
                None => {
                    let default = param.default.clone();
                    self.expr_or_unknown(default, self.span(node), &mut Scope::reading(POND))
                }
            };
            let value = self.wants(value, &param.ty);
            out.push((param, value));
        }
        Some(out)
    }

    /// Whether a call can be followed: neither into itself nor without end.
    fn enter_call(&mut self, span: crate::diagnostic::Span, name: &str) -> bool {
        if self.calls.iter().any(|c| c == name) {
            let message = format!("`{name}` calls itself and can never end");
            let diagnostic = Diagnostic::new(Code::EndlessLoop, span, message)
                .with_help("use `repeat`, or let a clock call it again");
            self.report(diagnostic);
            return false;
        }
        self.calls_made += 1;
        if self.calls_made > MOST_CALLS {
            self.error(Code::TooDeep, span, "functions call each other too often to be taken in");
            return false;
        }
        self.calls.push(name.to_string());
        self.followed.insert(name.to_string());
        true
    }

    /// Resolves the names in the arguments of a call that is none.
    pub(super) fn look_at_arguments(&mut self, node: &Node, scope: &mut Scope) {
        if let Some(args) = node.child(S::Args) {
            self.look_at_values(&args, scope);
        }
    }

    /// `scatter(midge, 5)`: the statements of the function, its parameters as locals.
    pub(super) fn call_stmt(&mut self, node: &Node, scope: &mut Scope) -> Option<Vec<Stmt>> {
        let token = node.name()?;
        let span = self.shifted(token.text_range().into());
        let function = match self.symbol_at(&token) {
            Some(Symbol::Function(at)) => self.functions[at].clone(),
            Some(Symbol::ValueFunction(_)) => {
                let message = format!("`{}` gives a value and does nothing", token.text());
                let diagnostic = Diagnostic::new(Code::WrongSort, span, message)
                    .with_help("use it in an expression, such as `let r = …`");
                self.report(diagnostic);
                self.look_at_arguments(node, scope);
                return None;
            }
            Some(symbol) => {
                let message =
                    format!("expected a function, found {} `{}`", symbol.noun(), token.text());
                self.error(Code::WrongSort, span, message);
                self.look_at_arguments(node, scope);
                return None;
            }
            None => {
                let names = self.names.of(|s| matches!(s, Symbol::Function(_)));
                self.unknown_name(span, token.text(), "function", names.iter().map(String::as_str));
                self.look_at_arguments(node, scope);
                return None;
            }
        };
        self.names.used(token.text());
        let args = self.arguments(node, &token, &function, scope)?;
        if !self.enter_call(span, token.text()) {
            return None;
        }
        let outer = scope.hide();
        let no_wait = scope.no_wait.replace("a function does not wait: wait where it is called");
        let mut stmts = Vec::new();
        for (param, value) in args {
            let local = scope.bind(&param.name, param.ty, value.span);
            scope.is_defined_at(local, param.span);
            let site = self.site(self.first_line(node), scope.owner, false);
            stmts.push(Stmt { kind: StmtKind::Let(local, value), site });
        }
        stmts.extend(self.block(function.child(S::Block), scope));
        scope.no_wait = no_wait;
        scope.show(outer);
        self.calls.pop();
        Some(stmts)
    }

    /// `ring(3 u)`: the function's value, its parameters bound to the arguments' values.
    pub(super) fn call_value(
        &mut self,
        node: &Node,
        token: &Token,
        at: usize,
        scope: &mut Scope,
    ) -> (ExprKind, Ty) {
        let span = self.shifted(token.text_range().into());
        let function = self.value_functions[at].clone();
        self.symbol_at(token);
        self.names.used(token.text());
        let Some(args) = self.arguments(node, token, &function, scope) else { return unknown() };
        if !self.enter_call(span, token.text()) {
            return unknown();
        }
        let outer = scope.hide();
        let mut bound = Vec::new();
        for (Param { name, span, ty, .. }, value) in args {
            let id = self.next_bound;
            self.next_bound += 1;
            scope.bounds.push(Bound { name, span, id, ty });
            bound.push((id, value));
        }
        // Each value that is bound lies around the body.
        let around = bound.len() as u32;
        self.depth += around;
        // The body stands where it was declared, also for a call within a text.
        let offset = std::mem::take(&mut self.offset);
        let mut body = self.expr_or_unknown(function.expr(), span, scope);
        self.offset = offset;
        self.depth -= around;
        scope.show(outer);
        self.calls.pop();
        for (id, value) in bound.into_iter().rev() {
            let ty = body.ty.clone();
            let kind = ExprKind::With { bound: id, value: value.into(), body: body.into() };
            body = Expr { kind, ty, span };
        }
        (body.kind, body.ty)
    }
}
