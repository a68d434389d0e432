//! Questions about all entities, and built-in functions.

use super::checker::Checker;
use super::expr::unknown;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::model::Sort;
use crate::near::near_miss;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::tree;
use crate::units::Dim;
use crate::words::FUNCTIONS;

impl Checker {
    pub(super) fn query_expr(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(set) = node.child(S::KindSet) else { return unknown() };
        let asks = tree::QueryExpr(node);
        if let Some(stat) = asks.mail_stat() {
            return self.mail_stat(&set, stat);
        }
        if asks.is_count()
            && let Some(token) = set.name()
            && let Some((local, Ty::Wave)) = scope.find(token.text())
        {
            let span = self.span(&set);
            self.note_local(self.token_span(&token), local, scope);
            let wave = Expr { kind: ExprKind::Local(local), ty: Ty::Wave, span };
            return (ExprKind::WaveCount(wave.into()), Ty::Num(Dim::NONE));
        }
        let kinds = self.kind_set(&set);
        if kinds.is_empty() {
            return unknown();
        }
        let causes = self.causes(node.child(S::ByCauses));
        if let Some(stat) = asks.stat() {
            for part in [S::WithinPart, S::WherePart] {
                if let Some(part) = node.child(part) {
                    let span = self.span(&part);
                    let message = "a total over the whole run takes no such condition";
                    self.error(Code::OutOfPlace, span, message);
                }
            }
            let words = node.child(S::BecausePart).and_then(|n| super::quoted::text_of(&n));
            let credit = node.child(S::CreditPart).and_then(|n| n.child(S::KindSet));
            if words.is_none() && credit.is_none() {
                return (ExprKind::Stat(stat, kinds, causes), Ty::Num(Dim::NONE));
            }
            let credit = credit.map(|set| self.kind_set(&set)).unwrap_or_default();
            let tally = Tally { kinds, causes, words, credit };
            return (ExprKind::Tally(tally), Ty::Num(Dim::NONE));
        }
        if let Some(by) = node.child(S::ByCauses) {
            let span = self.span(&by);
            self.error(Code::OutOfPlace, span, "`by` a cause belongs to `ended(…)`");
        }
        let what = asks.what();
        if what == QueryKind::Nearest && scope.owner == POND {
            let diagnostic = Diagnostic::new(
                Code::OutOfPlace,
                self.span(node),
                "the pond is nowhere, so nothing is nearest to it",
            )
            .with_help("ask from an entity's handler");
            self.report(diagnostic);
            return unknown();
        }
        let ty = match what {
            QueryKind::Count => Ty::Num(Dim::NONE),
            QueryKind::Any => Ty::Truth,
            _ => Ty::Entity(kinds.clone()),
        };
        let query = self.query_parts(node, kinds, what, scope);
        (ExprKind::Query(Box::new(query)), ty)
    }

    /// The distance and the condition of a query.
    pub(super) fn query_parts(
        &mut self,
        node: &Node,
        kinds: Vec<KindId>,
        what: QueryKind,
        scope: &mut Scope,
    ) -> Query {
        let within = node.child(S::WithinPart).map(|part| {
            let mut exprs = part.exprs();
            let distance = self.expr_of(exprs.next(), &Ty::Num(Dim::LENGTH), scope);
            let from = exprs.next().map(|n| {
                let from = self.expr(&n, scope);
                self.as_place(from)
            });
            if from.is_none() && scope.owner == POND {
                let span = self.span(&part);
                let diagnostic = Diagnostic::new(
                    Code::OutOfPlace,
                    span,
                    "the pond is nowhere, so `within` needs a place of its own",
                )
                .with_help(format!("write `within 20 u of {}`", self.program.arena.example()));
                self.report(diagnostic);
            }
            (distance, from)
        });
        let condition = node.child(S::WherePart).map(|part| {
            let outer = scope.candidates.replace(kinds.clone());
            let condition = self.expr_of(part.expr(), &Ty::Truth, scope);
            scope.candidates = outer;
            condition
        });
        let touching = node.child(S::TouchingPart);
        if let (Some(part), true) = (&touching, scope.owner == POND) {
            self.error(Code::OutOfPlace, self.span(part), "the pond touches nothing");
        }
        Query { what, kinds, touching: touching.is_some(), value: None, within, condition }
    }

    fn mail_stat(&mut self, set: &Node, stat: MailStat) -> (ExprKind, Ty) {
        let Some(token) = set.name() else { return unknown() };
        match self.symbol_at(&token) {
            Some(super::names::Symbol::Message(id)) => {
                (ExprKind::Mail(stat, id), Ty::Num(Dim::NONE))
            }
            _ => {
                let span = self.shifted(token.text_range().into());
                let names = self.names.of(|s| matches!(s, super::names::Symbol::Message(_)));
                self.unknown_name(span, token.text(), "message", names.iter().map(String::as_str));
                unknown()
            }
        }
    }

    /// `random one of midge within 20 u`
    pub(super) fn random_one(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(set) = node.child(S::KindSet) else { return unknown() };
        let kinds = self.kind_set(&set);
        if kinds.is_empty() || !self.chance_allowed(self.span(node), scope) {
            return unknown();
        }
        let query = self.query_parts(node, kinds.clone(), QueryKind::Random, scope);
        (ExprKind::Query(Box::new(query)), Ty::Entity(kinds))
    }

    /// `inside(weir)`: whether the entity, or the candidate of the query around, is in a zone.
    fn inside(&mut self, node: &Node, args: &[Node], scope: &mut Scope) -> (ExprKind, Ty) {
        let token = args.first().filter(|n| n.kind() == S::NameExpr).and_then(|n| n.name());
        let (Some(token), true) = (token, args.len() == 1) else {
            let diagnostic = Diagnostic::new(
                Code::WrongCount,
                self.span(node),
                "`inside` takes the name of a zone",
            )
            .with_help("write `inside(weir)`, or `p is inside weir`");
            self.report(diagnostic);
            return unknown();
        };
        let Some(zone) = self.zone_named(&token) else { return unknown() };
        let span = self.span(node);
        let place = if scope.candidates.is_some() {
            Expr { kind: ExprKind::Its(Field::Pos), ty: Ty::PLACE, span }
        } else if scope.owner == POND {
            self.own_word("here", span, scope);
            return unknown();
        } else {
            super::act::own_place(span)
        };
        (ExprKind::Inside(place.into(), zone), Ty::Truth)
    }

    /// `sum(midge.health)` and its like.
    fn aggregate(
        &mut self,
        what: QueryKind,
        arg: &Node,
        scope: &mut Scope,
    ) -> Option<(ExprKind, Ty)> {
        let base = (arg.kind() == S::FieldExpr).then(|| arg.expr()).flatten()?;
        let name = (base.kind() == S::NameExpr).then(|| base.name()).flatten()?;
        let symbol = self.names.get(name.text());
        if symbol.is_none() && scope.find(name.text()).is_none() {
            use super::names::Symbol;
            let kinds = self.names.of(|s| matches!(s, Symbol::Kind(_) | Symbol::Tag(_)));
            let near = near_miss(name.text(), kinds.iter().map(String::as_str)).is_some();
            let value = ["self", "maker", "pond", "here", "view"].contains(&name.text())
                || self.own_field(scope, name.text()).is_some()
                || scope.find_bound(name.text()).is_some()
                || scope.find_param(name.text()).is_some();
            if near || !value && matches!(what, QueryKind::Sum | QueryKind::Mean) {
                let span = self.shifted(name.text_range().into());
                let kinds = kinds.iter().map(String::as_str);
                self.unknown_name(span, name.text(), "kind or tag", kinds);
                return Some(unknown());
            }
        }
        let is_kinds =
            matches!(symbol, Some(super::names::Symbol::Kind(_) | super::names::Symbol::Tag(_)));
        if !is_kinds || scope.find(name.text()).is_some() {
            return None;
        }
        let kinds = self.kinds_named(&name);
        let field = arg.name()?;
        let span = self.span(arg);
        let Some((field, ty)) = self.field_of(&kinds, field.text()) else {
            let message = self.lacks(&kinds, field.text());
            let span = self.shifted(field.text_range().into());
            let diagnostic = Diagnostic::new(Code::NoSuchField, span, message)
                .with_help(super::name::give_it(field.text()));
            self.report(diagnostic);
            return Some(unknown());
        };
        if let Some(token) = arg.name() {
            self.note_field(self.token_span(&token), &kinds, &field);
        }
        if !matches!(ty, Ty::Num(_)) {
            self.error(Code::WrongType, span, format!("{} cannot be added up", ty.noun()));
            return Some(unknown());
        }
        let value = Expr { kind: ExprKind::Its(field), ty: ty.clone(), span };
        let query = Query {
            what,
            kinds,
            touching: false,
            value: Some(value),
            within: None,
            condition: None,
        };
        Some((ExprKind::Query(Box::new(query)), ty))
    }

    pub(super) fn call(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(token) = node.name() else { return unknown() };
        let args: Vec<Node> =
            node.child(S::Args).iter().flat_map(|a| a.exprs().collect::<Vec<_>>()).collect();
        if let Some(super::names::Symbol::ValueFunction(at)) = self.names.get(token.text()) {
            return self.call_value(node, &token, at, scope);
        }
        if let Some(super::names::Symbol::Function(_)) = self.names.get(token.text()) {
            self.symbol_at(&token);
            self.look_at_arguments(node, scope);
            let span = self.shifted(token.text_range().into());
            let message = format!("`{}` does something and gives no value", token.text());
            let diagnostic = Diagnostic::new(Code::WrongSort, span, message)
                .with_help("call it on a line of its own");
            self.report(diagnostic);
            return unknown();
        }
        if FUNCTIONS.iter().any(|(name, ..)| *name == token.text())
            || matches!(token.text(), "inside" | "sum" | "mean")
        {
            self.note_word(self.token_span(&token), Sort::Word);
        }
        if token.text() == "inside" {
            return self.inside(node, &args, scope);
        }
        if let [arg] = &args[..] {
            let what = match token.text() {
                "sum" => Some(QueryKind::Sum),
                "mean" => Some(QueryKind::Mean),
                "min" => Some(QueryKind::Smallest),
                "max" => Some(QueryKind::Largest),
                _ => None,
            };
            if let Some(found) = what.and_then(|what| self.aggregate(what, arg, scope)) {
                return found;
            }
        }
        if let what @ ("sum" | "mean") = token.text() {
            let span = self.shifted(token.text_range().into());
            let message = format!("`{what}` is of a field of kinds");
            let diagnostic = Diagnostic::new(Code::WrongSort, span, message)
                .with_help(format!("write `{what}(KIND.FIELD)`, such as `{what}(midge.health)`"));
            self.report(diagnostic);
            return unknown();
        }
        let Some((_, function, wanted)) = FUNCTIONS.iter().find(|(n, _, _)| *n == token.text())
        else {
            let near = near_miss(token.text(), FUNCTIONS.iter().map(|(n, _, _)| *n));
            let message = format!("there is no function `{}`", token.text());
            let span = self.shifted(token.text_range().into());
            let mut diagnostic = Diagnostic::new(Code::UnknownName, span, message);
            if let Some(near) = near {
                diagnostic =
                    diagnostic.with_help(format!("did you mean `{near}`?")).with_mend(span, near);
            }
            self.report(diagnostic);
            self.look_at_arguments(node, scope);
            return unknown();
        };
        let args: Vec<Expr> = args.iter().map(|n| self.expr(n, scope)).collect();
        if args.len() != *wanted {
            let message = format!(
                "`{}` takes {wanted} value{}, found {}",
                token.text(),
                if *wanted == 1 { "" } else { "s" },
                args.len()
            );
            self.error(Code::WrongCount, self.span(node), message);
            return unknown();
        }
        self.call_typed(*function, args)
    }

    fn call_typed(&mut self, function: Function, args: Vec<Expr>) -> (ExprKind, Ty) {
        let number = |dim| Ty::Num(dim);
        let mut args = args.into_iter();
        let Some(first) = args.next() else { return unknown() };
        let (args, ty) = match function {
            Function::Min | Function::Max => {
                let ty = self.number_type(&first);
                let second = args.next().map(|b| self.wants(b, &ty));
                (std::iter::once(first).chain(second).collect(), ty)
            }
            Function::Abs => {
                let ty = self.number_type(&first);
                (vec![first], ty)
            }
            Function::Floor | Function::Round | Function::Sqrt => {
                (vec![self.wants(first, &number(Dim::NONE))], number(Dim::NONE))
            }
            Function::Sin | Function::Cos => {
                (vec![self.wants(first, &number(Dim::ANGLE))], number(Dim::NONE))
            }
            Function::Length => match first.ty {
                Ty::Pair(dim) => (vec![first], number(dim)),
                Ty::Unknown => return unknown(),
                _ => {
                    self.wants(first, &Ty::PLACE);
                    return unknown();
                }
            },
            Function::Direction => match first.ty {
                Ty::Pair(_) => (vec![first], number(Dim::ANGLE)),
                Ty::Unknown => return unknown(),
                _ => {
                    self.wants(first, &Ty::Pair(Dim::SPEED));
                    return unknown();
                }
            },
            // Made by `turn toward` alone.
            Function::TurnToward => return unknown(),
            Function::Distance => {
                let first = self.as_place(first);
                let second = args.next().map(|b| self.as_place(b));
                (std::iter::once(first).chain(second).collect(), number(Dim::LENGTH))
            }
        };
        (ExprKind::Call(function, args), ty)
    }

    fn number_type(&mut self, expr: &Expr) -> Ty {
        match expr.ty {
            Ty::Num(_) | Ty::Unknown => expr.ty.clone(),
            _ => {
                self.wants(expr.clone(), &Ty::Num(Dim::NONE));
                Ty::Unknown
            }
        }
    }
}
