//! Handlers, spawners and values to code.

use tickpond_lang::program::{
    Birth, Cause, Event, Expr, Field, Function, Handler, KindId, LocalId, Rhythm, SiteId,
    SpawnerRule, Stmt, StmtKind, Ty,
};
use tickpond_lang::program::{ExprKind, Role};
use tickpond_lang::units::Dim;

use super::op::{Code, Op, Reg, Word};
use super::{Compiled, HandlerCode, SpawnerCode, words_of};
use crate::luck;

/// The code under construction.
pub(super) struct Builder<'c> {
    pub compiled: &'c mut Compiled,
    pub owner: KindId,
    pub ops: Vec<Op>,
    /// First register of each local.
    pub locals: Vec<Reg>,
    /// Words of the own entity that are kept in registers, because this handler writes them.
    pub cached: Vec<(Reg, Word)>,
    /// Fields the handler assigns somewhere: adding to those is assigning, too.
    pub assigned: Vec<Field>,
    /// Registers below are in use for longer than a statement.
    pub base: Reg,
    /// Next free register.
    pub next: Reg,
    /// Most registers in use at once.
    pub most: Reg,
    /// Inside a condition on a candidate: what it takes over from outside.
    pub captures: Option<Vec<Expr>>,
    /// The wave births belong to.
    pub wave: Option<Reg>,
    /// The site of the statement being compiled.
    pub site: SiteId,
}

impl<'c> Builder<'c> {
    pub fn new(compiled: &'c mut Compiled, owner: KindId) -> Builder<'c> {
        Builder {
            compiled,
            owner,
            ops: Vec::new(),
            locals: Vec::new(),
            cached: Vec::new(),
            assigned: Vec::new(),
            base: 0,
            next: 0,
            most: 0,
            captures: None,
            wave: None,
            site: SiteId(0),
        }
    }

    /// A register that is free until the statement ends.
    pub fn temp(&mut self) -> Reg {
        self.temps(1)
    }

    /// Registers in a row that are free until the statement ends.
    pub fn temps(&mut self, count: u8) -> Reg {
        let reg = self.next;
        self.next += Reg::from(count);
        self.most = self.most.max(self.next);
        reg
    }

    /// Registers in a row that are never given out again.
    pub fn keep(&mut self, count: u8) -> Reg {
        // Whatever is in use now may still be needed.
        let reg = self.temps(count);
        self.base = self.next;
        reg
    }

    pub fn emit(&mut self, op: Op) {
        self.ops.push(op);
    }

    /// Reads the kept words: anew after a wait, or as an earlier firing left them at the start.
    pub fn load_cached(&mut self, at_start: bool) {
        for (reg, word) in self.cached.clone() {
            self.emit(if at_start { Op::Cached(reg, word) } else { Op::Own(reg, word) });
        }
    }

    pub fn finish(mut self, result: Reg) -> Code {
        self.emit(Op::Done);
        Code { ops: self.ops, regs: self.most, result }
    }
}

impl Compiled {
    /// Code for a value, in its result register.
    pub(super) fn value(&mut self, owner: KindId, expr: &Expr) -> Code {
        let mut builder = Builder::new(self, owner);
        let reg = builder.expr(expr);
        builder.finish(reg)
    }

    pub(super) fn handler(&mut self, owner: KindId, handler: &Handler) -> HandlerCode {
        let period = match &handler.event {
            Event::After(t) | Event::Every(t) | Event::WhileHeld(_, t) => {
                Some(self.value(owner, t))
            }
            _ => None,
        };
        let types: Vec<Ty> = handler.locals.iter().map(|l| l.ty.clone()).collect();
        let mut code = self.body(owner, &types, &handler.body, handler.event.clone(), handler.site);
        code.hash = luck::fold(
            luck::hash_text(&self.program.kinds[owner.index()].name),
            luck::hash_text(&handler.head),
        );
        code.period = period;
        code
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
        builder.cache_written(body);
        builder.load_cached(true);
        builder.block(body);
        let (locals, cached) = (builder.locals.clone(), builder.cached.clone());
        let code = builder.finish(0);
        let waits = code.ops.iter().any(|op| matches!(op, Op::Wait(_)));
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
            clock: None,
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
            Rhythm::Every { period, .. } => Some(self.value(id, period)),
            Rhythm::AgainAfterEnd(delay) => Some(self.value(id, delay)),
        };
        SpawnerCode {
            make: self.birth_code(id, &rule.birth, rule.site, Some(Ty::Num(Dim::NONE))),
            period,
            rhythm: rule.rhythm.clone(),
            keep_at_most: rule.keep_at_most.as_ref().map(|e| self.value(id, e)),
            at_most: rule.at_most.as_ref().map(|e| self.value(id, e)),
            clock,
        }
    }
}

impl Builder<'_> {
    /// Gives registers to the own words this handler writes: it reads back what it wrote.
    fn cache_written(&mut self, body: &[Stmt]) {
        let mut written: Vec<Field> = Vec::new();
        let mut assigned: Vec<Field> = Vec::new();
        written_fields(body, &mut |field, set| {
            written.push(field);
            if set {
                assigned.push(field);
            }
        });
        self.assigned = assigned;
        let moves = written.iter().any(|f| matches!(f, Field::Vel | Field::Heading | Field::Speed));
        let mut words: Vec<Word> = Vec::new();
        if moves {
            // Heading, velocity and speed move together.
            words.extend([Word::Vx, Word::Vy, Word::Heading]);
        }
        for field in written {
            match field {
                Field::Pos => words.extend([Word::X, Word::Y]),
                Field::Spin => words.push(Word::Spin),
                Field::Var(name) => {
                    let var = self.compiled.program.var_of(self.owner, name);
                    let count = var.map_or(1, |v| words_of(&v.ty));
                    words.extend((0..count).map(|part| Word::Var(name, part)));
                }
                _ => {}
            }
        }
        let mut seen: Vec<Word> = Vec::new();
        for word in words {
            if !seen.contains(&word) {
                seen.push(word);
                let reg = self.keep(1);
                self.cached.push((reg, word));
            }
        }
    }

    /// The register a word is kept in.
    pub fn kept(&self, word: Word) -> Option<Reg> {
        if self.captures.is_some() {
            return None;
        }
        self.cached.iter().find(|(_, w)| *w == word).map(|(reg, _)| *reg)
    }

    /// Whether the owner is somewhere: the pond is not.
    pub fn is_somewhere(&self) -> bool {
        !matches!(self.compiled.program.kinds[self.owner.index()].role, Role::Pond)
    }
}

fn written_fields(body: &[Stmt], see: &mut impl FnMut(Field, bool)) {
    for stmt in body {
        match &stmt.kind {
            StmtKind::Set(field, _) => see(*field, true),
            StmtKind::Add(field, _) => see(*field, false),
            StmtKind::If { then, otherwise, .. } => {
                written_fields(then, see);
                written_fields(otherwise, see);
            }
            StmtKind::Repeat { body, .. } | StmtKind::Wave { body, .. } => {
                written_fields(body, see)
            }
            _ => {}
        }
    }
}

fn cause_of(event: &Event) -> Cause {
    match event {
        Event::Touch { .. } => Cause::Touch,
        Event::LeaveArena => Cause::Edge,
        Event::After(_) | Event::Every(_) | Event::Routine(_) => Cause::Timer,
        _ => Cause::Script,
    }
}
