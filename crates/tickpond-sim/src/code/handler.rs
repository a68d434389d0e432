//! Handlers, spawners and values to code.

use std::collections::{HashMap, HashSet};

use tickpond_lang::program::{
    Birth, Cause, Event, Expr, Field, Function, Handler, KindId, LocalId, Rhythm, SiteId,
    SpawnerRule, Stmt, StmtKind, Ty,
};
use tickpond_lang::program::{ExprKind, Role, walk};
use tickpond_lang::units::Dim;

use super::compiled::Compiled;
use super::effects::Doubt;
use super::kinds::{HandlerCode, SpawnerCode};
use super::layout::words_of;
use super::op::{Code, FilterCode, Op, Reg, Word};
use super::traits::Traits;
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
    /// Registers of values bound in expressions.
    pub bounds: HashMap<u32, Reg>,
    /// Fields the handler assigns somewhere: adding to those is assigning, too.
    pub assigned: Vec<Field>,
    /// Registers below hold locals and kept words.
    pub first_temp: Reg,
    /// Registers below are in use for longer than a statement.
    pub base: Reg,
    /// Next free register.
    pub next: Reg,
    /// Most registers in use at once.
    pub most: Reg,
    /// Inside a condition on a candidate: what it takes over from outside.
    pub captures: Option<Vec<Expr>>,
    /// Registers of what was taken over.
    pub taken: Vec<Reg>,
    /// The wave births belong to.
    pub wave: Option<Reg>,
    /// The site of the statement being compiled.
    pub site: SiteId,
    /// Registers with a number that may not be finite, and has not been looked at.
    pub doubtful: HashSet<Reg>,
}

impl<'c> Builder<'c> {
    pub fn new(compiled: &'c mut Compiled, owner: KindId) -> Builder<'c> {
        Builder {
            compiled,
            owner,
            ops: Vec::new(),
            locals: Vec::new(),
            cached: Vec::new(),
            bounds: HashMap::new(),
            assigned: Vec::new(),
            first_temp: 0,
            base: 0,
            next: 0,
            most: 0,
            captures: None,
            taken: Vec::new(),
            wave: None,
            site: SiteId(0),
            doubtful: HashSet::new(),
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
        self.note_doubt(&op);
        self.ops.push(op);
    }

    /// Notes whether what an instruction gives can be something else than a finite number though all it
    /// works with are: sums, products and quotients can. What such a number goes through carries it on.
    fn note_doubt(&mut self, op: &Op) {
        let given = op.gives();
        for reg in given.first..given.first + given.count {
            let doubt = match given.doubt {
                Doubt::None => false,
                Doubt::Arises => true,
                Doubt::Of(from) => self.doubtful.contains(&from),
            };
            match doubt {
                true => self.doubtful.insert(reg),
                false => self.doubtful.remove(&reg),
            };
        }
    }

    /// Reads the kept words: anew after a wait, or as an earlier firing left them at the start.
    pub fn load_cached(&mut self, at_start: bool) {
        for (reg, word) in self.cached.clone() {
            self.emit(if at_start { Op::Cached(reg, word) } else { Op::Own(reg, word) });
        }
    }

    pub fn finish(mut self, result: Reg) -> Code {
        self.emit(Op::Done);
        let traits = Traits::of(&self.ops);
        // Locals and what is taken over come first; nothing else is read before it is written.
        let cleared = if traits.waits { self.most } else { self.first_temp };
        Code {
            traits,
            ops: self.ops,
            regs: self.most,
            result,
            cleared,
            gives: true,
            numeric: false,
            site: None,
            span: None,
        }
    }
}

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
            bit: None,
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

impl Builder<'_> {
    /// Gives registers to the own words this handler writes: it reads back what it wrote.
    ///
    /// A handler that fires once for an entity keeps only what it reads somewhere; one that can fire
    /// several times leaves all it writes to the firings after it.
    fn cache_written(&mut self, body: &[Stmt], once: bool) {
        let mut written: Vec<Field> = Vec::new();
        let mut assigned: Vec<Field> = Vec::new();
        written_fields(body, &mut |field, set| {
            written.push(field);
            if set {
                assigned.push(field);
            }
        });
        self.assigned = assigned;
        if once {
            let mut read: Vec<Field> = Vec::new();
            read_fields(body, &mut |field| read.push(field));
            // What is added to and assigned is read by the adding.
            read.extend(written.iter().copied().filter(|f| self.assigned.contains(f)));
            let moving = [Field::Vel, Field::Heading, Field::Speed];
            let reads_motion = read.iter().any(|f| moving.contains(f));
            written.retain(|f| read.contains(f) || reads_motion && moving.contains(f));
        }
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
            StmtKind::Repeat { body, .. }
            | StmtKind::Wave { body, .. }
            | StmtKind::Each { body, .. } => written_fields(body, see),
            StmtKind::Ray(ray) => {
                written_fields(&ray.then, see);
                written_fields(&ray.otherwise, see);
            }
            _ => {}
        }
    }
}

/// The own fields a handler reads: in its expressions, or by what it asks for.
fn read_fields(body: &[Stmt], see: &mut impl FnMut(Field)) {
    walk::statements(body, &mut |stmt| {
        let along_heading = match &stmt.kind {
            StmtKind::Push { along, .. } => along.is_none(),
            StmtKind::Add(Field::Heading, _) => false,
            _ => false,
        };
        if along_heading {
            see(Field::Heading);
        }
        if let StmtKind::Ray(ray) = &stmt.kind
            && ray.from.is_none()
        {
            see(Field::Pos);
        }
        walk::of_statement(stmt, &mut |expr| match &expr.kind {
            ExprKind::Own(field) => see(*field),
            ExprKind::Call(Function::TurnToward, _) => see(Field::Heading),
            ExprKind::DirectionTo(_) | ExprKind::DistanceTo(_) | ExprKind::Query(_) => {
                see(Field::Pos);
            }
            _ => {}
        });
        // A question in a request is asked from here.
        let asks =
            matches!(&stmt.kind, StmtKind::Each { .. } | StmtKind::Ray(_) | StmtKind::Send { .. });
        if asks {
            see(Field::Pos);
        }
        if matches!(stmt.kind.whom(), Some(tickpond_lang::program::Whom::Each(_))) {
            see(Field::Pos);
        }
    });
}

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
