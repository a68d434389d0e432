//! Questions about all entities, and built-in functions.

use super::Checker;
use super::expr::unknown;
use super::names::near_miss;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::units::Dim;

impl Checker {
    pub(super) fn query_expr(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(set) = node.child(S::KindSet) else { return unknown() };
        if node.has_word("count")
            && let Some(token) = set.name()
            && let Some((local, Ty::Wave)) = scope.find(token.text())
        {
            let span = self.span(&set);
            let wave = Expr { kind: ExprKind::Local(local), ty: Ty::Wave, span };
            return (ExprKind::WaveCount(wave.into()), Ty::Num(Dim::NONE));
        }
        let kinds = self.kind_set(&set);
        if kinds.is_empty() {
            return unknown();
        }
        let stat = match () {
            () if node.has_word("born") => Some(Stat::Born),
            () if node.has_word("ended") => Some(Stat::Ended),
            () if node.has_word("peak") => Some(Stat::Peak),
            () => None,
        };
        let causes = self.causes(node.child(S::ByCauses));
        if let Some(stat) = stat {
            for part in [S::WithinPart, S::WherePart] {
                if let Some(part) = node.child(part) {
                    let span = self.span(&part);
                    let message = "a total over the whole run takes no such condition";
                    self.error(Code::OutOfPlace, span, message);
                }
            }
            return (ExprKind::Stat(stat, kinds, causes), Ty::Num(Dim::NONE));
        }
        if let Some(by) = node.child(S::ByCauses) {
            let span = self.span(&by);
            self.error(Code::OutOfPlace, span, "`by` a cause belongs to `ended(…)`");
        }
        let what = match () {
            () if node.has_word("nearest") => QueryKind::Nearest,
            () if node.has_word("any") => QueryKind::Any,
            () => QueryKind::Count,
        };
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
            QueryKind::Nearest => Ty::Entity(kinds.clone()),
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
                let diagnostic =
                    Diagnostic::new(Code::OutOfPlace, span, "the pond is nowhere: within of what?")
                        .with_help("write `within 20 u of (80, 45)`");
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
        Query { what, kinds, within, condition }
    }

    pub(super) fn call(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(token) = node.name() else { return unknown() };
        let args: Vec<Node> =
            node.child(S::Args).iter().flat_map(|a| a.exprs().collect::<Vec<_>>()).collect();
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

/// Name, function, number of values.
const FUNCTIONS: &[(&str, Function, usize)] = &[
    ("min", Function::Min, 2),
    ("max", Function::Max, 2),
    ("abs", Function::Abs, 1),
    ("floor", Function::Floor, 1),
    ("round", Function::Round, 1),
    ("sqrt", Function::Sqrt, 1),
    ("sin", Function::Sin, 1),
    ("cos", Function::Cos, 1),
    ("length", Function::Length, 1),
    ("distance", Function::Distance, 2),
];
