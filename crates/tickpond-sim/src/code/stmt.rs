//! Statements to code.

use std::sync::Arc;

use tickpond_lang::program::{
    Blast, Expr, ExprKind, Field, LocalId, MessageId, Query, QueryKind, Ray, Stmt, StmtKind,
    Target, TextPart, Ty, Whom,
};

use super::builder::Builder;
use super::layout::words_of;
use super::op::{Binary, BlastOp, Op, Operand, Reg, SendOp, SendTo, TextOp, Unary, Word};
use crate::state::EntityId;

impl Builder<'_> {
    pub fn block(&mut self, body: &[Stmt]) {
        for stmt in body {
            self.next = self.base;
            self.site = stmt.site;
            self.emit(Op::Stmt(stmt.site));
            self.stmt(&stmt.kind);
        }
    }

    fn stmt(&mut self, stmt: &StmtKind) {
        match stmt {
            StmtKind::Set(field, value) => {
                let value = self.expr(value);
                self.write(*field, value, true);
            }
            StmtKind::Add(field, value) => self.add(*field, value),
            StmtKind::Let(local, value) => {
                let words = words_of(&value.ty);
                let value = self.finite_of(value);
                let to = self.locals[local.index()];
                self.copy(to, value, words);
            }
            StmtKind::Spawn(birth) => {
                let at = self.birth(birth);
                self.emit(Op::Spawn(at));
            }
            StmtKind::SpawnAs(birth, local) => self.spawn_as(birth, *local),
            StmtKind::Replace(birth) => {
                let at = self.birth(birth);
                self.emit(Op::Replace(at));
            }
            StmtKind::Damage { target, amount, credit } => {
                let amount = self.finite_of(amount);
                let credit = credit.as_ref().map(|c| self.expr(c));
                self.whom(target, |builder, target| {
                    builder.emit(Op::Damage { target, amount, credit, heals: false });
                });
            }
            StmtKind::Heal { target, amount } => {
                let amount = self.finite_of(amount);
                self.whom(target, |builder, target| {
                    builder.emit(Op::Damage { target, amount, credit: None, heals: true });
                });
            }
            StmtKind::End { target, because } => {
                let words: Option<Arc<str>> =
                    (!because.is_empty()).then(|| Arc::from(because.as_str()));
                self.whom(target, |builder, target| {
                    builder.emit(Op::End(target, words.clone()));
                });
            }
            StmtKind::Become { state, time } => {
                let time = time.as_ref().map(|t| self.finite_of(t));
                self.emit(Op::Become(*state, time));
            }
            StmtKind::Push { target, by, along } => {
                let by = self.velocity(by, along.as_ref());
                self.whom(target, |builder, target| builder.emit(Op::Push { target, by }));
            }
            StmtKind::Ray(ray) => self.ray(ray),
            StmtKind::Show(local, time) => {
                let time = self.finite_of(time);
                self.emit(Op::Show { ray: self.locals[local.index()], time });
            }
            StmtKind::Blast(blast) => self.blast(blast),
            StmtKind::Attach { target, owner, mount, outlives } => {
                let target = self.expr(target);
                let owner = match owner {
                    Some(owner) => self.expr(owner),
                    None => self.me(),
                };
                let (mount, outlives) = (mount.as_str().into(), *outlives);
                self.emit(Op::Attach { target, owner, mount, outlives });
            }
            StmtKind::Detach(target) => {
                self.whom(target, |builder, target| builder.emit(Op::Detach(target)));
            }
            StmtKind::Activate(target, on) => {
                self.whom(target, |builder, target| builder.emit(Op::Activate(target, *on)));
            }
            StmtKind::Each { query, bind, body } => {
                let to = self.locals[bind.index()];
                self.each_of(query, to, |builder| builder.block(body));
            }
            StmtKind::Send { message, values, to } => self.send(*message, values, to),
            StmtKind::If { condition, bind, then, otherwise } => {
                self.if_else(condition, *bind, then, otherwise);
            }
            StmtKind::Repeat { times, counter, body } => {
                self.repeat(times.as_ref(), *counter, body);
            }
            StmtKind::Wait(time) => {
                let time = self.finite_of(time);
                self.emit(Op::Wait(time));
                self.load_cached(false);
            }
            StmtKind::WaitUntil(condition) => {
                let top = self.ops.len() as u32;
                self.wait_a_tick();
                let condition = self.expr(condition);
                self.emit(Op::JumpIfNot(condition, top));
            }
            StmtKind::Wave { bind, body } => self.wave(*bind, body),
            StmtKind::Say(parts) => {
                let parts = self.text(parts);
                self.emit(Op::Say(parts));
            }
        }
    }

    pub fn copy(&mut self, to: Reg, from: Reg, words: u8) {
        for word in 0..Reg::from(words) {
            self.emit(Op::Copy(to + word, from + word));
        }
    }

    fn jump_here(&mut self, from: usize) {
        let here = self.ops.len() as u32;
        match &mut self.ops[from] {
            Op::Jump(to) | Op::JumpIfNot(_, to) => *to = here,
            _ => {}
        }
    }

    // Ways through.

    fn if_else(
        &mut self,
        condition: &Expr,
        bind: Option<LocalId>,
        then: &[Stmt],
        otherwise: &[Stmt],
    ) {
        let first = self.ops.len();
        let mut value = self.expr(condition);
        if let Some(bind) = bind {
            let local = self.locals[bind.index()];
            self.emit(Op::Copy(local, value));
            let alive = self.temp();
            if let ExprKind::Query(_) = condition.kind {
                // Whom a question finds lives: it is somebody or nobody.
                let nobody = Operand::Word(EntityId::NONE.to_word());
                let none = self.temp();
                self.emit(Op::Binary(Binary::SameWord, none, Operand::Reg(local), nobody));
                self.emit(Op::Unary(Unary::Not, alive, none));
            } else {
                self.emit(Op::Alive(alive, local));
            }
            value = alive;
        }
        let skip = self.ops.len();
        self.emit(Op::JumpIfNot(value, 0));
        self.block(then);
        if otherwise.is_empty() {
            self.jump_here(skip);
            self.send_to_any(first);
            return;
        }
        let out = self.ops.len();
        self.emit(Op::Jump(0));
        self.jump_here(skip);
        self.block(otherwise);
        self.jump_here(out);
    }

    /// If what was emitted from here on sends a plain letter to one of a kind by chance and does no more, it
    /// is tried for all at once first.
    fn send_to_any(&mut self, first: usize) {
        let [
            Op::Query(found, query),
            Op::Copy(who, found_too),
            Op::Binary(Binary::SameWord, none, Operand::Reg(who_too), _),
            Op::Unary(Unary::Not, some, none_too),
            Op::JumpIfNot(some_too, _),
            Op::Stmt(site),
            Op::Send(send),
        ] = self.ops[first..]
        else {
            return;
        };
        let asked = &self.compiled.queries[query as usize];
        let any = asked.what == QueryKind::Random
            && asked.kinds.len() == 1
            && asked.within.is_none()
            && asked.condition.is_none()
            && !asked.touching;
        let letter = &self.compiled.sends[send as usize];
        let one_word = (who, none, some) == (who_too, none_too, some_too) && found == found_too;
        if any && one_word && letter.values.is_empty() && letter.to == SendTo::One(who) {
            let past = self.ops.len() as u32 + 1;
            self.ops[first + 4] = Op::JumpIfNot(some, past);
            self.ops.insert(first, Op::SendToAny { query, send, with: found, site, past });
        }
    }

    fn repeat(&mut self, times: Option<&Expr>, counter: Option<LocalId>, body: &[Stmt]) {
        let (outer, site) = (self.base, self.site);
        let limits = times.map(|times| {
            let times = self.finite_of(times);
            let limit = self.keep(1);
            self.emit(Op::Copy(limit, times));
            let (count, one) = (self.keep(1), self.keep(1));
            self.emit(Op::Const(count, 0f64.to_bits()));
            self.emit(Op::Const(one, 1f64.to_bits()));
            (limit, count, one)
        });
        let top = self.ops.len() as u32;
        let mut out = None;
        if let Some((limit, count, one)) = limits {
            self.emit(Op::Binary(Binary::Add, count, Operand::Reg(count), Operand::Reg(one)));
            let goes_on = self.temp();
            self.emit(Op::Binary(
                Binary::LessEqual,
                goes_on,
                Operand::Reg(count),
                Operand::Reg(limit),
            ));
            out = Some(self.ops.len());
            self.emit(Op::JumpIfNot(goes_on, 0));
            if let Some(counter) = counter {
                self.emit(Op::Copy(self.locals[counter.index()], count));
            }
        }
        self.block(body);
        self.emit(Op::Back(top, site));
        if let Some(out) = out {
            self.jump_here(out);
        }
        self.base = outer;
    }

    fn wave(&mut self, bind: LocalId, body: &[Stmt]) {
        let wave = self.locals[bind.index()];
        self.emit(Op::WaveNew(wave));
        let outer = self.wave.replace(wave);
        self.block(body);
        self.wave = outer;
        // Goes on when the last is born: asks once a tick.
        self.next = self.base;
        let top = self.ops.len() as u32;
        self.wait_a_tick();
        let unborn = self.temp();
        self.emit(Op::WaveUnborn(unborn, wave));
        let zero = self.temp();
        self.emit(Op::Const(zero, 0f64.to_bits()));
        let done = self.temp();
        self.emit(Op::Binary(Binary::Equal, done, Operand::Reg(unborn), Operand::Reg(zero)));
        self.emit(Op::JumpIfNot(done, top));
    }

    fn wait_a_tick(&mut self) {
        let tick = self.temp();
        self.emit(Op::Const(tick, 0f64.to_bits()));
        self.emit(Op::Wait(tick));
        self.load_cached(false);
    }

    // Asking.

    /// A register with the asker.
    fn me(&mut self) -> Reg {
        let to = self.temp();
        self.emit(Op::Own(to, Word::Id));
        to
    }

    /// Does something for one entity, or for each of a query.
    fn whom(&mut self, whom: &Whom, act: impl FnOnce(&mut Self, Reg)) {
        match whom {
            Whom::One(e) => {
                let target = self.expr(e);
                act(self, target);
            }
            Whom::Each(query) => {
                let to = self.keep(1);
                self.each_of(query, to, |builder| act(builder, to));
            }
        }
    }

    /// A loop over those a query finds; they are fixed when it begins.
    fn each_of(&mut self, query: &Query, to: Reg, body: impl FnOnce(&mut Self)) {
        let site = self.site;
        let query = self.query(query);
        let list = self.keep(2);
        self.emit(Op::Gather(list, query));
        let more = self.keep(1);
        let top = self.ops.len() as u32;
        self.emit(Op::Next { to, more, list });
        let out = self.ops.len();
        self.emit(Op::JumpIfNot(more, 0));
        body(self);
        self.emit(Op::Back(top, site));
        self.jump_here(out);
    }

    /// A velocity as it is, or a speed along a direction; the own heading if none is given.
    fn velocity(&mut self, by: &Expr, along: Option<&Expr>) -> Reg {
        let value = self.finite_of(by);
        if matches!(by.ty, Ty::Pair(_)) {
            return value;
        }
        let angle = match along {
            Some(along) => self.finite_of(along),
            None => self.own(Field::Heading),
        };
        let unit = self.temps(2);
        self.emit(Op::UnitVector(unit, angle));
        let to = self.temps(2);
        for word in 0..2 {
            self.emit(Op::Binary(
                Binary::Multiply,
                to + word,
                Operand::Reg(unit + word),
                Operand::Reg(value),
            ));
        }
        to
    }

    fn ray(&mut self, ray: &Ray) {
        let from = match &ray.from {
            Some(from) => self.finite_of(from),
            None => self.own(Field::Pos),
        };
        let along = self.finite_of(&ray.along);
        let reach = self.finite_of(&ray.reach);
        let query = self.query(&ray.hits);
        let to = self.locals[ray.bind.index()];
        self.emit(Op::Ray { to, from, along, reach, query });
        if ray.then.is_empty() && ray.otherwise.is_empty() {
            return;
        }
        let hit = self.temp();
        self.emit(Op::Alive(hit, to));
        let skip = self.ops.len();
        self.emit(Op::JumpIfNot(hit, 0));
        self.block(&ray.then);
        let out = self.ops.len();
        self.emit(Op::Jump(0));
        self.jump_here(skip);
        self.block(&ray.otherwise);
        self.jump_here(out);
    }

    fn blast(&mut self, blast: &Blast) {
        let at = self.finite_of(&blast.at);
        let radius = self.finite_of(&blast.radius);
        let damage = blast.damage.as_ref().map(|e| self.finite_of(e));
        let push = blast.push.as_ref().map(|e| self.finite_of(e));
        let kinds = self.compiled.program.kinds.len();
        let mut spares = vec![false; kinds];
        blast.spares.iter().for_each(|k| spares[k.index()] = true);
        self.compiled.blasts.push(BlastOp {
            at,
            radius,
            damage,
            push,
            falloff: blast.falloff,
            spares,
            spares_maker: blast.spares_maker,
            shields: blast.shields.clone(),
        });
        let at = self.compiled.blasts.len() as u32 - 1;
        self.emit(Op::Blast(at));
    }

    fn send(&mut self, message: MessageId, values: &[Expr], to: &Target) {
        let mut words = Vec::new();
        for value in values {
            let reg = self.finite_of(value);
            words.extend((0..Reg::from(words_of(&value.ty))).map(|word| reg + word));
        }
        let to = match to {
            Target::Pond => SendTo::Pond,
            Target::All => SendTo::All,
            Target::One(e) => SendTo::One(self.expr(e)),
            Target::Each(query) => SendTo::Each(self.query(query)),
        };
        self.compiled.sends.push(SendOp { message, values: words, to, site: self.site });
        let at = self.compiled.sends.len() as u32 - 1;
        self.emit(Op::Send(at));
    }

    pub fn text(&mut self, parts: &[TextPart]) -> Arc<[TextOp]> {
        let ops: Vec<TextOp> = parts
            .iter()
            .flat_map(|part| match part {
                TextPart::Words(words) => vec![TextOp::Words(words.as_str().into())],
                TextPart::Value(e) => self.text_value(e),
            })
            .collect();
        ops.into()
    }

    fn text_value(&mut self, e: &Expr) -> Vec<TextOp> {
        let reg = self.finite_of(e);
        match &e.ty {
            Ty::Num(dim) => vec![TextOp::Number(reg, *dim)],
            Ty::Pair(dim) => vec![TextOp::Pair(reg, *dim)],
            Ty::Truth => vec![TextOp::Truth(reg)],
            Ty::Kind | Ty::KindOf(_) => vec![TextOp::Kind(reg)],
            Ty::State(_) => vec![TextOp::State(reg)],
            // A text that is a value is always a name or a label, and its register holds whose.
            Ty::Text => match e.kind {
                ExprKind::Own(Field::Label)
                | ExprKind::Its(Field::Label)
                | ExprKind::Of(_, Field::Label) => vec![TextOp::Label(reg)],
                _ => vec![TextOp::Entity(reg)],
            },
            // Who was hit is the first word.
            Ty::Entity(_) | Ty::Ray(_) | Ty::Impact(_) => vec![TextOp::Entity(reg)],
            Ty::Wave => {
                let count = self.temp();
                self.emit(Op::WaveCount(count, reg));
                vec![TextOp::Number(count, tickpond_lang::units::Dim::NONE)]
            }
            Ty::Unknown => Vec::new(),
        }
    }

    /// `not`, for those who compose conditions.
    pub fn not(&mut self, value: Reg) -> Reg {
        let to = self.temp();
        self.emit(Op::Unary(Unary::Not, to, value));
        to
    }
}
