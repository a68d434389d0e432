//! Handlers, spawners and values to code.

use tickpond_lang::program::ExprKind;
use tickpond_lang::program::{
    Birth, Cause, Event, Expr, Function, Handler, KindId, LocalId, Rhythm, SiteId, SpawnerRule,
    Stmt, StmtKind, Ty,
};
use tickpond_lang::units::Dim;

use super::builder::Builder;
use super::compiled::Compiled;
use super::kinds::{HandlerCode, SpawnerCode};
use super::layout::words_of;
use super::op::{Code, FilterCode};
use crate::luck;

impl Compiled {
    /// Code for a value, in its result register.
    pub(super) fn value(&mut self, owner: KindId, expr: &Expr) -> Code {
        let mut builder = Builder::new(self, owner);
        let reg = builder.finite_of(expr);
        let numeric = matches!(expr.ty, Ty::Num(_) | Ty::Pair(_));
        Code { span: Some(expr.span), numeric, ..builder.finish(reg) }
    }

    /// The same for a value that stands on a line.
    fn value_at(&mut self, owner: KindId, expr: &Expr, site: SiteId) -> Code {
        Code { site: Some(site), ..self.value(owner, expr) }
    }

    pub(super) fn handler(&mut self, owner: KindId, handler: &Handler) -> HandlerCode {
        let period = match &handler.event {
            Event::After(t)
            | Event::Every(t)
            | Event::WhileHeld(_, t)
            | Event::WhileTouching(_, t)
            | Event::Impact(_, t)
            | Event::When(t)
            | Event::Line(_, t) => Some(self.value_at(owner, t, handler.site)),
            _ => None,
        };
        let filter = match &handler.event {
            Event::Touch { other, .. }
            | Event::Part(other)
            | Event::WhileTouching(other, _)
            | Event::Impact(other, _) => other.filter.as_ref().map(|e| self.filter(owner, e)),
            _ => None,
        };
        let types: Vec<Ty> = handler.locals.iter().map(|l| l.ty.clone()).collect();
        let mut code = self.body(owner, &types, &handler.body, handler.event.clone(), handler.site);
        code.hash = luck::fold(
            luck::hash_text(&self.program.kinds[owner.index()].name),
            luck::hash_text(&handler.head),
        );
        // A kind's own handlers outside all states keep the luck they have without either.
        if !handler.part.is_empty() {
            code.hash = luck::fold(code.hash, luck::hash_text(&handler.part));
        }
        if let Some(state) = handler.state {
            code.hash = luck::fold(code.hash, state.state as u64 + 1);
        }
        code.period = period;
        code.filter = filter;
        code.state = handler.state;
        code.overlapping = handler.overlapping;
        code.while_inactive = handler.while_inactive;
        code
    }

    fn filter(&mut self, owner: KindId, condition: &Expr) -> FilterCode {
        let mut builder = Builder::new(self, owner);
        let (inner, captures) = builder.on_candidate(condition);
        FilterCode { outer: builder.finish(0), captures, inner }
    }

    fn body(
        &mut self,
        owner: KindId,
        locals: &[Ty],
        body: &[Stmt],
        event: Event,
        site: SiteId,
    ) -> HandlerCode {
        let mut builder = Builder::new(self, owner);
        builder.site = site;
        for ty in locals {
            let reg = builder.keep(words_of(ty));
            builder.locals.push(reg);
        }
        let once = !matches!(
            event,
            Event::Touch { .. }
                | Event::Part(_)
                | Event::WhileTouching(..)
                | Event::Impact(..)
                | Event::Message { .. }
        );
        builder.cache_written(body, once);
        builder.first_temp = builder.base;
        builder.load_cached(true);
        builder.block(body);
        let (locals, cached) = (builder.locals.clone(), builder.cached.clone());
        let code = Code { gives: false, ..builder.finish(0) };
        let waits = code.traits.waits;
        let cause = cause_of(&event);
        HandlerCode {
            event,
            code,
            hash: 0,
            site,
            locals,
            cached,
            waits,
            period: None,
            filter: None,
            clock: None,
            held: None,
            state: None,
            overlapping: false,
            while_inactive: false,
            alone: false,
            cause,
        }
    }

    /// Code that asks for one birth. With `room`, local 0 caps the count.
    pub(super) fn birth_code(
        &mut self,
        owner: KindId,
        birth: &Birth,
        site: SiteId,
        room: Option<Ty>,
    ) -> HandlerCode {
        let mut birth = birth.clone();
        if let Some(ty) = &room {
            let span = birth.kind.span;
            let number = |kind| Expr { kind, ty: Ty::Num(Dim::NONE), span };
            let one = number(ExprKind::Num(1.0));
            let room = Expr { kind: ExprKind::Local(LocalId(0)), ty: ty.clone(), span };
            let count = birth.count.take().unwrap_or(one);
            birth.count = Some(number(ExprKind::Call(Function::Min, vec![count, room])));
        }
        let stmt = Stmt { kind: StmtKind::Spawn(Box::new(birth)), site };
        let locals: Vec<Ty> = room.into_iter().collect();
        let mut code = self.body(owner, &locals, &[stmt], Event::Birth, site);
        code.cause = Cause::Script;
        code.hash = luck::hash_text(&self.program.kinds[owner.index()].name);
        code
    }

    pub(super) fn spawner(&mut self, id: KindId, rule: &SpawnerRule, clock: u16) -> SpawnerCode {
        let period = match &rule.rhythm {
            Rhythm::Once => None,
            Rhythm::Every { period, .. } => Some(self.value_at(id, period, rule.site)),
            Rhythm::AgainAfterEnd(delay) => Some(self.value_at(id, delay, rule.site)),
        };
        let mut value = |e: &Option<Expr>| e.as_ref().map(|e| self.value_at(id, e, rule.site));
        let (keep_at_most, at_most) = (value(&rule.keep_at_most), value(&rule.at_most));
        let (from, until) = (value(&rule.from), value(&rule.until));
        SpawnerCode {
            make: self.birth_code(id, &keeping(rule), rule.site, Some(Ty::Num(Dim::NONE))),
            period,
            rhythm: rule.rhythm.clone(),
            keep_at_most,
            keep: rule.keep.as_ref().map(|(e, site)| (self.value_at(id, e, *site), *site)),
            at_most,
            from,
            until,
            clock,
        }
    }
}

/// The birth of a spawner; one that keeps a number alive makes all that are missing.
fn keeping(rule: &SpawnerRule) -> Birth {
    let mut birth = rule.birth.clone();
    if rule.keep.is_some() && birth.count.is_none() {
        let span = birth.kind.span;
        let all = Expr { kind: ExprKind::Num(MOST_AT_ONCE), ty: Ty::Num(Dim::NONE), span };
        birth.count = Some(all);
    }
    birth
}

/// More than any pond keeps.
const MOST_AT_ONCE: f64 = 1.0e6;

fn cause_of(event: &Event) -> Cause {
    match event {
        Event::Touch { .. } | Event::Part(_) | Event::WhileTouching(..) => Cause::Touch,
        Event::Impact(..) => Cause::Impact,
        Event::Enter(_) | Event::Leave(_) => Cause::Zone,
        Event::LeaveArena | Event::TouchEdge(_) => Cause::Edge,
        Event::Line(..) => Cause::Line,
        Event::After(_) | Event::Every(_) | Event::Routine(_) => Cause::Timer,
        _ => Cause::Script,
    }
}
