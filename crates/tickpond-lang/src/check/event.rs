//! The heads of handlers: the events they wait for.

use super::checker::Checker;
use super::names::Symbol;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::tree;
use crate::units::Dim;

impl Checker {
    pub(super) fn event(&mut self, head: &Node, scope: &mut Scope) -> Option<Event> {
        let time = Ty::Num(Dim::TIME);
        let entity_only = matches!(
            head.kind(),
            S::OnBirth
                | S::OnEnd
                | S::OnHurt
                | S::OnTouch
                | S::OnLeaveArena
                | S::OnZone
                | S::OnLine
                | S::OnTouchEdge
                | S::OnPart
                | S::OnImpact
                | S::OnDown
                | S::OnBecoming
                | S::OnQuitting
                | S::WhileTouching
        );
        if entity_only && scope.owner == POND {
            let diagnostic = Diagnostic::new(
                Code::OutOfPlace,
                self.span(head),
                "this never happens to the pond",
            )
            .with_help("move it into a kind");
            self.report(diagnostic);
            return None;
        }
        Some(match head.kind() {
            S::OnBirth => Event::Birth,
            S::After => Event::After(self.expr_of(head.expr(), &time, scope)),
            S::Every => Event::Every(self.expr_of(head.expr(), &time, scope)),
            S::EveryTick => Event::EveryTick,
            S::OnLeaveArena => Event::LeaveArena,
            S::OnHurt => {
                self.needs_health(head, scope.owner);
                Event::Hurt
            }
            S::OnEnd => Event::End(self.causes(head.child(S::ByCauses))),
            S::OnDown => {
                self.needs_health(head, scope.owner);
                Event::Down
            }
            S::OnTouch => {
                let other = self.other(head, scope, Ty::Entity)?;
                Event::Touch { first: tree::Head(head).is_first(), other }
            }
            S::OnPart => Event::Part(self.other(head, scope, Ty::Entity)?),
            S::WhileTouching => {
                let period = self.expr_of(head.expr(), &time, scope);
                Event::WhileTouching(self.other(head, scope, Ty::Entity)?, period)
            }
            S::OnImpact => {
                let over = self.expr_of(head.expr(), &Ty::Num(Dim::SPEED), scope);
                Event::Impact(self.other(head, scope, Ty::Impact)?, over)
            }
            S::OnZone => {
                let zone = self.zone_named(&head.name()?)?;
                if tree::Head(head).is_enter() { Event::Enter(zone) } else { Event::Leave(zone) }
            }
            S::OnLine => {
                let at = self.expr_of(head.expr(), &Ty::Num(Dim::LENGTH), scope);
                Event::Line(tree::Head(head).line_side(), at)
            }
            S::OnTouchEdge => Event::TouchEdge(tree::AtSide(head).side()),
            S::When => Event::When(self.expr_of(head.expr(), &Ty::Truth, scope)),
            S::OnBecoming => Event::Becoming(self.state_of(None, &head.name()?, scope)?),
            S::OnQuitting => Event::Quitting(self.state_of(None, &head.name()?, scope)?),
            S::OnPress => Event::Press(self.key_of(&head.name()?)?),
            S::OnRelease => Event::Release(self.key_of(&head.name()?)?),
            S::WhileHeld => {
                let period = self.expr_of(head.expr(), &time, scope);
                Event::WhileHeld(self.key_of(&head.name()?)?, period)
            }
            S::OnMessage => self.on_message(head, scope)?,
            _ => return None,
        })
    }

    fn needs_health(&mut self, head: &Node, owner: KindId) {
        let kind = &self.program.kinds[owner.index()];
        if kind.health.is_none() {
            let message = format!("`{}` has no health, so it is never hurt", kind.name);
            let diagnostic = Diagnostic::new(Code::NoSuchField, self.span(head), message)
                .with_help("give the kind a line `health 3`");
            self.report(diagnostic);
        }
    }

    /// Who a touch is with: kinds, a condition on the other, and its name.
    fn other(
        &mut self,
        head: &Node,
        scope: &mut Scope,
        ty: impl Fn(Vec<KindId>) -> Ty,
    ) -> Option<Other> {
        let set = head.child(S::KindSet)?;
        let kinds = self.kind_set(&set);
        let filter = head.child(S::WherePart).map(|part| {
            let outer = scope.candidates.replace(kinds.clone());
            let filter = self.expr_of(part.expr(), &Ty::Truth, scope);
            scope.candidates = outer;
            filter
        });
        let name = head.child(S::AsName).and_then(|n| n.name());
        let bind = name.map(|token| self.bind(&token, ty(kinds.clone()), scope));
        (!kinds.is_empty()).then_some(Other {
            kinds,
            but_maker: tree::KindSet(&set).leaves_out_maker(),
            filter,
            bind,
        })
    }

    /// An input that can be pressed.
    fn key_of(&mut self, token: &Token) -> Option<InputId> {
        let id = self.input_of(token)?;
        if self.program.inputs[id.index()].pointer {
            let span = self.shifted(token.text_range().into());
            let message =
                format!("`{}` is a pointer: it has a place, and is not pressed", token.text());
            let diagnostic = Diagnostic::new(Code::WrongSort, span, message)
                .with_help("declare a key for it: `input fire = key f`");
            self.report(diagnostic);
            return None;
        }
        Some(id)
    }

    pub(super) fn input_of(&mut self, token: &Token) -> Option<InputId> {
        let span = self.shifted(token.text_range().into());
        match self.symbol_at(token) {
            Some(Symbol::Input(id)) => {
                self.names.used(token.text());
                Some(id)
            }
            Some(symbol) => {
                let message =
                    format!("expected an input, found {} `{}`", symbol.noun(), token.text());
                self.error(Code::WrongSort, span, message);
                None
            }
            None => {
                let names = self.names.of(|s| matches!(s, Symbol::Input(_)));
                self.unknown_name(span, token.text(), "input", names.iter().map(String::as_str));
                None
            }
        }
    }

    /// Reports the head of a handler that is neither an event nor a message.
    fn no_such_event(&mut self, token: &Token, span: crate::diagnostic::Span) {
        let name = token.text();
        let message = format!("there is no event or message `{name}`");
        let diagnostic = Diagnostic::new(Code::UnknownName, span, message);
        if let Some(Symbol::Input(_)) = self.names.get(name) {
            let press = format!("press {name}");
            let help = format!("`{name}` is an input: write `on {press}`");
            self.report(diagnostic.with_help(help).with_mend(span, press));
            return;
        }
        if let Some(habit) = crate::parse::habits::event(name) {
            let diagnostic = diagnostic.with_help(habit.help);
            self.report(match habit.word {
                Some(word) if word != "touch" => diagnostic.with_mend(span, word),
                _ => diagnostic,
            });
            return;
        }
        let mut names = self.names.of(|s| matches!(s, Symbol::Message(_)));
        names.extend(["birth", "end", "touch", "press", "leave", "hurt"].map(String::from));
        let candidates = names.iter().map(String::as_str);
        self.unknown_name(span, name, "event or message", candidates);
    }

    fn on_message(&mut self, head: &Node, scope: &mut Scope) -> Option<Event> {
        let token = head.name()?;
        let names: Vec<Token> = head
            .child(S::Params)
            .iter()
            .flat_map(|p| p.children_of(S::Param).filter_map(|n| n.name()).collect::<Vec<_>>())
            .collect();
        let from = head.child(S::FromName).and_then(|n| n.name());
        let known = match self.symbol_at(&token) {
            Some(Symbol::Message(id)) => Some(id),
            _ => {
                let span = self.shifted(token.text_range().into());
                self.no_such_event(&token, span);
                None
            }
        };
        let params = known.map(|id| self.program.messages[id.index()].params.clone());
        let types = params.clone().unwrap_or_default();
        if known.is_some() && names.len() > types.len() {
            let message = format!("`{}` carries {} values", token.text(), types.len());
            self.error(Code::WrongCount, self.span(head), message);
        }
        let locals = names
            .iter()
            .enumerate()
            .map(|(i, name)| {
                let ty = types.get(i).map_or(Ty::Unknown, |(_, ty)| ty.clone());
                self.bind(name, ty, scope)
            })
            .collect();
        let everyone = self.program.kinds.iter().enumerate().skip(1);
        let everyone = everyone.map(|(i, _)| KindId(i as u32)).collect();
        let from = from.map(|name| self.bind(&name, Ty::Entity(everyone), scope));
        Some(Event::Message { message: known?, params: locals, from })
    }
}
