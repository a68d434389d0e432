//! Expectations: what must hold, and when.

use super::scope::Scope;
use super::{Checker, text_of};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::units::Dim;

impl Checker {
    pub(super) fn expectation(&mut self, item: &Node) {
        let words = text_of(item).unwrap_or_default();
        let Some(node) = item.children().find(|n| n.kind() != S::Broken) else { return };
        let Some(check) = self.check_of(&node) else { return };
        let span = self.first_line(item);
        self.program.expects.push(Expect { words, check, span });
    }

    fn check_of(&mut self, node: &Node) -> Option<Check> {
        let mut exprs = node.exprs();
        let mut next = || exprs.next();
        Some(match node.kind() {
            S::CheckAlways => Check::Always(self.holds(next())),
            S::CheckNever => Check::Never(self.holds(next())),
            S::CheckAt => Check::At(self.span_of_time(next()), self.holds(next())),
            S::CheckBy => Check::By(self.span_of_time(next()), self.holds(next())),
            S::CheckInTheEnd => Check::InTheEnd(self.holds(next())),
            S::CheckFrom => {
                let low = self.span_of_time(next());
                let high = (!node.has_word("on")).then(|| self.span_of_time(next()));
                Check::From(low, high, self.holds(next()))
            }
            S::CheckLives => {
                let kinds = self.kind_set(&node.child(S::KindSet)?);
                let time = self.span_of_time(next());
                if node.has_word("most") {
                    Check::LivesAtMost(kinds, time)
                } else {
                    Check::LivesAtLeast(kinds, time)
                }
            }
            S::CheckEnds => {
                let kinds = self.kind_set(&node.child(S::KindSet)?);
                Check::EndsBy(kinds, self.causes(node.child(S::ByCauses)))
            }
            S::CheckAfter => self.after(node)?,
            _ => return None,
        })
    }

    fn after(&mut self, node: &Node) -> Option<Check> {
        let event = self.happening(&node.child(S::CheckEvent)?)?;
        let mut exprs: Vec<Node> = node.exprs().collect();
        let holds = self.holds(exprs.pop());
        let mut times = exprs.into_iter().map(Some);
        let first = self.span_of_time(times.next().flatten());
        if node.has_word("for") {
            return Some(Check::AfterFor { event, time: first, holds });
        }
        Some(match times.next() {
            Some(second) => {
                let high = self.span_of_time(second);
                Check::AfterWithin { event, low: Some(first), high, holds }
            }
            None => Check::AfterWithin { event, low: None, high: first, holds },
        })
    }

    fn happening(&mut self, node: &Node) -> Option<Happening> {
        if let Some(set) = node.child(S::KindSet) {
            let kinds = self.kind_set(&set);
            return Some(if node.has_word("born") {
                Happening::Born(kinds)
            } else {
                Happening::Ends(kinds, self.causes(node.child(S::ByCauses)))
            });
        }
        Some(Happening::Turns(self.holds(node.expr())))
    }

    fn holds(&mut self, node: Option<Node>) -> Expr {
        self.expr_of(node, &Ty::Truth, &mut Scope::reading(POND))
    }

    fn span_of_time(&mut self, node: Option<Node>) -> Expr {
        let time = self.expr_of(node, &Ty::Num(Dim::TIME), &mut Scope::reading(POND));
        if time.ty != Ty::Unknown && constant(&time, &self.knob_values()).is_none() {
            let message = "the time of an expectation is a number or made of knobs";
            self.error(crate::Code::WrongType, time.span, message);
        }
        time
    }
}
