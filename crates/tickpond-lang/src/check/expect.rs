//! Expectations: what must hold, and when.

use super::checker::Checker;
use super::names::Symbol;
use super::quoted::text_of;
use super::scope::Scope;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::tree;
use crate::units::Dim;

impl Checker {
    pub(super) fn expectation(&mut self, item: &Node) {
        let words = text_of(item).unwrap_or_default();
        let skipped = [S::Broken, S::OnTape];
        let Some(node) = item.children().find(|n| !skipped.contains(&n.kind())) else { return };
        let Some(check) = self.check_of(&node) else { return };
        let tape = self.expect_tape(item);
        let span = self.first_line(item);
        let whole = self.span(item);
        self.program.expects.push(Expect { words, tape, check, span, whole });
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
                let high = (!tree::Check(node).goes_on()).then(|| self.span_of_time(next()));
                Check::From(low, high, self.holds(next()))
            }
            S::CheckLives => {
                let those = self.those(node)?;
                let time = self.span_of_time(next());
                if tree::Check(node).is_at_most() {
                    Check::LivesAtMost(those, time)
                } else {
                    Check::LivesAtLeast(those, time)
                }
            }
            S::CheckEnds => Check::EndsBy(self.those(node)?, self.causes(node.child(S::ByCauses))),
            S::CheckHurt => {
                let those = self.those(node)?;
                let times = self.expr_of(next(), &Ty::Num(Dim::NONE), &mut Scope::reading(POND));
                Check::HurtAtMost(those, times)
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
        if tree::Check(node).lasts() {
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

    fn those(&mut self, node: &Node) -> Option<Those> {
        let kinds = self.kind_set(&node.child(S::KindSet)?);
        let condition = node.child(S::WherePart).map(|part| {
            let mut scope = Scope::reading(POND);
            scope.candidates = Some(kinds.clone());
            self.expr_of(part.expr(), &Ty::Truth, &mut scope)
        });
        (!kinds.is_empty()).then_some(Those { kinds, condition })
    }

    fn happening(&mut self, node: &Node) -> Option<Happening> {
        let waits_for = tree::Happening(node);
        if waits_for.is_press() {
            return Some(Happening::Press(self.input_of(&node.name()?)?));
        }
        let Some(set) = node.child(S::KindSet) else {
            return Some(Happening::Turns(self.holds(node.expr())));
        };
        if waits_for.is_sent() || waits_for.is_heard() {
            let token = set.name()?;
            let Some(Symbol::Message(id)) = self.symbol_at(&token) else {
                let names = self.names.of(|s| matches!(s, Symbol::Message(_)));
                let span = token.text_range().into();
                self.unknown_name(span, token.text(), "message", names.iter().map(String::as_str));
                return None;
            };
            return Some(match waits_for.is_sent() {
                true => Happening::Sent(id),
                false => Happening::Heard(id),
            });
        }
        let kinds = self.kind_set(&set);
        Some(match () {
            () if waits_for.is_born() => Happening::Born(kinds),
            () if waits_for.is_hurt() => Happening::Hurt(kinds),
            () => Happening::Ends(kinds, self.causes(node.child(S::ByCauses))),
        })
    }

    fn holds(&mut self, node: Option<Node>) -> Expr {
        self.expr_of(node, &Ty::Truth, &mut Scope::reading(POND))
    }

    fn span_of_time(&mut self, node: Option<Node>) -> Expr {
        let time = self.expr_of(node, &Ty::Num(Dim::TIME), &mut Scope::reading(POND));
        if time.ty != Ty::Unknown && constant(&time, &self.knob_values()).is_none() {
            let message = "the time of an expectation is a number or made of knobs";
            self.error(crate::diagnostic::Code::WrongType, time.span, message);
        }
        time
    }
}
