//! Expressions to code.

use tickpond_lang::program::{BinaryOp, Expr, ExprKind, Field, Function, RayPart, Ty};
use tickpond_lang::units::Dim;

use super::builder::Builder;
use super::layout::words_of;
use super::op::{Binary, Op, Operand, Reg, Unary, Word};

impl Builder<'_> {
    /// Emits the code of a value and gives its first register.
    pub fn expr(&mut self, e: &Expr) -> Reg {
        if let Some(reg) = self.captured(e) {
            return reg;
        }
        match &e.kind {
            ExprKind::Num(n) => self.constant(n.to_bits()),
            ExprKind::Truth(t) => self.constant(u64::from(*t)),
            ExprKind::Kind(kind) => {
                let word = self.compiled.kind_words[kind.index()];
                self.constant(u64::from(word))
            }
            ExprKind::Knob(knob) => {
                let to = self.temp();
                self.emit(Op::Knob(to, *knob));
                to
            }
            ExprKind::Local(local) => self.locals[local.index()],
            ExprKind::Bound(id) => self.bounds.get(id).copied().unwrap_or(0),
            ExprKind::With { bound, value, body } => {
                let words = words_of(&value.ty);
                let value = self.finite_of(value);
                let to = self.keep(words);
                self.copy(to, value, words);
                self.bounds.insert(*bound, to);
                self.expr(body)
            }
            ExprKind::State(name) => self.constant(u64::from(name.0)),
            ExprKind::Named(kind, number) => {
                let to = self.temp();
                self.emit(Op::Named(to, *kind, *number));
                to
            }
            ExprKind::Pointer(input) => {
                let to = self.temps(2);
                self.emit(Op::Pointer(to, *input));
                to
            }
            ExprKind::View => {
                let to = self.temps(2);
                self.emit(Op::View(to));
                to
            }
            ExprKind::RayPart(local, part) => {
                let ray = self.locals[local.index()];
                match part {
                    RayPart::Target => ray,
                    RayPart::Length | RayPart::Velocity => ray + 1,
                    RayPart::Place => ray + 2,
                    RayPart::Speed => self.length(ray + 1),
                }
            }
            ExprKind::Inside(place, zone) => {
                let place = self.finite_of(place);
                let to = self.temp();
                self.emit(Op::Inside(to, place, *zone));
                to
            }
            ExprKind::IsKind(entity, kinds) => {
                let entity = self.expr(entity);
                let to = self.temp();
                self.emit(Op::IsKind(to, entity, kinds.as_slice().into()));
                to
            }
            ExprKind::Mail(stat, message) => {
                let to = self.temp();
                self.emit(Op::Mail(to, *stat, *message));
                to
            }
            ExprKind::Tally(tally) => {
                self.compiled.tallies.push(tally.clone());
                let to = self.temp();
                self.emit(Op::Tally(to, self.compiled.tallies.len() as u32 - 1));
                to
            }
            ExprKind::PondVar(name) => {
                let words = words_of(&e.ty);
                let to = self.temps(words);
                for word in 0..words {
                    self.emit(Op::PondVar(to + Reg::from(word), *name, word));
                }
                to
            }
            ExprKind::Pair(a, b) => {
                let (a, b) = (self.expr(a), self.expr(b));
                let to = self.temps(2);
                self.emit(Op::Copy(to, a));
                self.emit(Op::Copy(to + 1, b));
                to
            }
            ExprKind::Part(pair, part) => self.expr(pair) + Reg::from(*part),
            ExprKind::Me | ExprKind::It => {
                let to = self.temp();
                self.emit(Op::Own(to, Word::Id));
                to
            }
            ExprKind::Own(field) | ExprKind::Its(field) => self.own(*field),
            ExprKind::Of(entity, field) => {
                let entity = self.expr(entity);
                self.field_of(entity, *field)
            }
            ExprKind::Spot(group, at) => {
                let spots = &self.compiled.program.spots[group.index()].spots;
                let (x, y) = spots.get(*at as usize).map_or((0.0, 0.0), |s| s.at);
                let to = self.temps(2);
                self.emit(Op::Const(to, x.to_bits()));
                self.emit(Op::Const(to + 1, y.to_bits()));
                to
            }
            ExprKind::Negate(inner) => self.unary(Unary::Negate, inner),
            ExprKind::Not(inner) => {
                let inner = self.expr(inner);
                self.not(inner)
            }
            ExprKind::Binary(op, a, b) => self.binary(*op, a, b),
            ExprKind::Near(a, b, tolerance) => self.near(a, b, tolerance),
            ExprKind::Call(function, args) => self.call(*function, args),
            ExprKind::Random { low, high, whole } => {
                let (low, high) = (self.operand(low), self.operand(high));
                self.must_be_finite_operand(low, 1);
                self.must_be_finite_operand(high, 1);
                let to = self.temp();
                self.emit(Op::Random { to, low, high, whole: *whole });
                to
            }
            ExprKind::DirectionTo(place) => {
                let offset = self.offset_from_here(place);
                self.must_be_finite(offset, 2);
                let to = self.temp();
                self.emit(Op::Direction(to, offset));
                to
            }
            ExprKind::DistanceTo(place) => {
                let offset = self.offset_from_here(place);
                self.length(offset)
            }
            ExprKind::Alive(entity) => {
                let entity = self.expr(entity);
                let to = self.temp();
                self.emit(Op::Alive(to, entity));
                to
            }
            ExprKind::Query(query) => {
                let at = self.query(query);
                let to = self.temp();
                self.emit(Op::Query(to, at));
                to
            }
            ExprKind::Stat(stat, kinds, causes) => self.stat(*stat, kinds.clone(), causes.clone()),
            ExprKind::WaveCount(wave) => {
                let wave = self.expr(wave);
                let to = self.temp();
                self.emit(Op::WaveCount(to, wave));
                to
            }
            // Texts are built where they are used.
            ExprKind::Text(_) => self.constant(0),
        }
    }

    /// The code of a value whose numbers must be finite, such as one that is kept, compared or handed on: a
    /// firing that comes to another ends there.
    pub fn finite_of(&mut self, e: &Expr) -> Reg {
        let reg = self.expr(e);
        if matches!(e.ty, Ty::Num(_) | Ty::Pair(_)) {
            self.must_be_finite(reg, words_of(&e.ty));
        }
        reg
    }

    /// Has registers looked at that may hold something else than finite numbers.
    pub fn must_be_finite(&mut self, reg: Reg, words: u8) {
        for reg in reg..reg + Reg::from(words) {
            if self.doubtful.remove(&reg) {
                self.emit(Op::Finite(reg));
            }
        }
    }

    fn must_be_finite_operand(&mut self, operand: Operand, words: u8) {
        if let Operand::Reg(reg) = operand {
            self.must_be_finite(reg, words);
        }
    }

    fn constant(&mut self, word: u64) -> Reg {
        let to = self.temp();
        self.emit(Op::Const(to, word));
        to
    }

    /// Inside a condition on a candidate, what belongs to the asker comes in from outside.
    fn captured(&mut self, e: &Expr) -> Option<Reg> {
        let outside = match &e.kind {
            ExprKind::Local(_) | ExprKind::Me | ExprKind::Own(_) | ExprKind::RayPart(..) => true,
            ExprKind::Bound(id) => !self.bounds.contains_key(id),
            _ => false,
        };
        if !outside || self.captures.is_none() {
            return None;
        }
        let to = self.keep(words_of(&e.ty));
        let captures = self.captures.as_mut()?;
        captures.push(e.clone());
        self.taken.push(to);
        Some(to)
    }

    /// A field of the own entity, as this handler has left it.
    pub fn own(&mut self, field: Field) -> Reg {
        if field == Field::Speed
            && let Some(vx) = self.kept(Word::Vx)
        {
            return self.length(vx);
        }
        let words = self.words_of_field(field);
        if let Some(reg) = self.kept(words[0]) {
            return reg;
        }
        let to = self.temps(words.len() as u8);
        for (i, word) in words.into_iter().enumerate() {
            self.emit(Op::Own(to + i as Reg, word));
        }
        to
    }

    fn field_of(&mut self, entity: Reg, field: Field) -> Reg {
        if matches!(field, Field::Name | Field::Label) {
            return entity;
        }
        let words = self.words_of_field(field);
        let to = self.temps(words.len() as u8);
        for (i, word) in words.into_iter().enumerate() {
            self.emit(Op::Of(to + i as Reg, entity, word));
        }
        to
    }

    fn words_of_field(&self, field: Field) -> Vec<Word> {
        match field {
            Field::Pos => vec![Word::X, Word::Y],
            Field::Vel => vec![Word::Vx, Word::Vy],
            Field::Heading => vec![Word::Heading],
            Field::Speed => vec![Word::Speed],
            Field::Spin => vec![Word::Spin],
            Field::Health => vec![Word::Health],
            Field::Age => vec![Word::Age],
            Field::Maker => vec![Word::Maker],
            Field::Name | Field::Label => vec![Word::Id],
            Field::State(track) => vec![Word::State(track)],
            Field::Active => vec![Word::Active],
            Field::Down => vec![Word::Down],
            Field::Resting => vec![Word::Resting],
            Field::Var(name) => {
                let kinds = &self.compiled.program.kinds;
                let var = kinds.iter().flat_map(|k| &k.vars).find(|v| v.name == name);
                let words = var.map_or(1, |v| words_of(&v.ty));
                (0..words).map(|word| Word::Var(name, word)).collect()
            }
        }
    }

    fn unary(&mut self, op: Unary, inner: &Expr) -> Reg {
        let words = words_of(&inner.ty);
        let inner = self.expr(inner);
        let to = self.temps(words);
        for word in 0..Reg::from(words) {
            self.emit(Op::Unary(op, to + word, inner + word));
        }
        to
    }

    pub(super) fn two(&mut self, op: Binary, a: Reg, b: Reg) -> Reg {
        self.two_of(op, Operand::Reg(a), Operand::Reg(b))
    }

    fn two_of(&mut self, op: Binary, a: Operand, b: Operand) -> Reg {
        let to = self.temp();
        self.emit(Op::Binary(op, to, a, b));
        to
    }

    /// A value of one word: a register, or itself if it is a number that is known.
    fn operand(&mut self, e: &Expr) -> Operand {
        match e.kind {
            ExprKind::Num(n) => Operand::Word(n.to_bits()),
            _ => Operand::Reg(self.expr(e)),
        }
    }

    fn binary(&mut self, op: BinaryOp, a: &Expr, b: &Expr) -> Reg {
        let number = matches!(a.ty, Ty::Num(_));
        let (words_a, words_b) = (words_of(&a.ty), words_of(&b.ty));
        let (a, b) = (self.operand(a), self.operand(b));
        let equal = if number { Binary::Equal } else { Binary::SameWord };
        match op {
            BinaryOp::Add | BinaryOp::Subtract | BinaryOp::Multiply => {}
            // What is divided by something without bounds comes to nothing.
            BinaryOp::Divide => self.must_be_finite_operand(b, words_b),
            _ => {
                self.must_be_finite_operand(a, words_a);
                self.must_be_finite_operand(b, words_b);
            }
        }
        match op {
            BinaryOp::Add => self.each(Binary::Add, a, words_a, b, words_b),
            BinaryOp::Subtract => self.each(Binary::Subtract, a, words_a, b, words_b),
            BinaryOp::Multiply => self.each(Binary::Multiply, a, words_a, b, words_b),
            BinaryOp::Divide => self.each(Binary::Divide, a, words_a, b, words_b),
            BinaryOp::And => self.two_of(Binary::And, a, b),
            BinaryOp::Or => self.two_of(Binary::Or, a, b),
            BinaryOp::Less => self.two_of(Binary::Less, a, b),
            BinaryOp::LessEqual => self.two_of(Binary::LessEqual, a, b),
            BinaryOp::Greater => self.two_of(Binary::Less, b, a),
            BinaryOp::GreaterEqual => self.two_of(Binary::LessEqual, b, a),
            BinaryOp::Equal => self.equal(equal, a, b, words_a),
            BinaryOp::NotEqual => {
                let same = self.equal(equal, a, b, words_a);
                self.not(same)
            }
        }
    }

    fn equal(&mut self, op: Binary, a: Operand, b: Operand, words: u8) -> Reg {
        if words == 1 {
            return self.two_of(op, a, b);
        }
        let x = self.two_of(Binary::Equal, a, b);
        let y = self.two_of(Binary::Equal, a.word(1), b.word(1));
        self.two(Binary::And, x, y)
    }

    /// The operation on each word; a single one meets both words of a pair.
    fn each(&mut self, op: Binary, a: Operand, words_a: u8, b: Operand, words_b: u8) -> Reg {
        let words = words_a.max(words_b);
        let to = self.temps(words);
        for word in 0..Reg::from(words) {
            let a = if words_a > 1 { a.word(word) } else { a };
            let b = if words_b > 1 { b.word(word) } else { b };
            self.emit(Op::Binary(op, to + word, a, b));
        }
        to
    }

    fn near(&mut self, a: &Expr, b: &Expr, tolerance: &Expr) -> Reg {
        let words = words_of(&a.ty);
        let is_angle = a.ty == Ty::Num(Dim::ANGLE);
        let (a, b, tolerance) = (self.expr(a), self.expr(b), self.expr(tolerance));
        let difference =
            self.each(Binary::Subtract, Operand::Reg(a), words, Operand::Reg(b), words);
        let off = if words == 2 {
            self.length(difference)
        } else {
            let difference = if is_angle { self.short_way(difference) } else { difference };
            let to = self.temp();
            self.emit(Op::Unary(Unary::Abs, to, difference));
            to
        };
        self.must_be_finite(off, 1);
        self.must_be_finite(tolerance, 1);
        self.two(Binary::LessEqual, off, tolerance)
    }

    /// A difference of angles in deg, the short way round: -180 to 180.
    fn short_way(&mut self, difference: Reg) -> Reg {
        let around = Operand::Word(360f64.to_bits());
        let turns = self.two_of(Binary::Divide, Operand::Reg(difference), around);
        let whole = self.temp();
        self.emit(Op::Unary(Unary::Round, whole, turns));
        let back = self.two_of(Binary::Multiply, Operand::Reg(whole), around);
        self.two(Binary::Subtract, difference, back)
    }

    fn call(&mut self, function: Function, args: &[Expr]) -> Reg {
        let unary = match function {
            Function::Abs => Some(Unary::Abs),
            Function::Floor => Some(Unary::Floor),
            Function::Round => Some(Unary::Round),
            Function::Sqrt => Some(Unary::Sqrt),
            Function::Sin => Some(Unary::Sin),
            Function::Cos => Some(Unary::Cos),
            _ => None,
        };
        if let Some(op) = unary {
            if matches!(op, Unary::Sin | Unary::Cos) {
                let words = words_of(&args[0].ty);
                let value = self.finite_of(&args[0]);
                let to = self.temps(words);
                self.emit(Op::Unary(op, to, value));
                return to;
            }
            return self.unary(op, &args[0]);
        }
        if let Function::Min | Function::Max = function {
            let op = if function == Function::Min { Binary::Min } else { Binary::Max };
            let (first, second) = (self.operand(&args[0]), self.operand(&args[1]));
            self.must_be_finite_operand(first, 1);
            self.must_be_finite_operand(second, 1);
            return self.two_of(op, first, second);
        }
        let first = self.expr(&args[0]);
        match function {
            Function::Direction => {
                self.must_be_finite(first, 2);
                let to = self.temp();
                self.emit(Op::Direction(to, first));
                to
            }
            Function::TurnToward => {
                self.must_be_finite(first, 1);
                let most = self.finite_of(&args[1]);
                let heading = self.own(Field::Heading);
                let to = self.temp();
                self.emit(Op::TurnToward { to, direction: first, most, heading });
                to
            }
            Function::Length => self.length(first),
            Function::Distance => {
                let second = self.expr(&args[1]);
                let offset = self.temps(2);
                self.emit(Op::Offset { to: offset, start: first, end: second });
                self.length(offset)
            }
            _ => first,
        }
    }

    fn length(&mut self, pair: Reg) -> Reg {
        self.two(Binary::Hypot, pair, pair + 1)
    }

    pub(super) fn here(&mut self) -> Reg {
        self.own(Field::Pos)
    }

    fn offset_from_here(&mut self, place: &Expr) -> Reg {
        let end = self.expr(place);
        let start = self.here();
        let to = self.temps(2);
        self.emit(Op::Offset { to, start, end });
        to
    }
}
