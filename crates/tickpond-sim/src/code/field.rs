//! Writes to an entity's own fields, and what is kept of them in registers.

use tickpond_lang::program::{Expr, Field, Ty};

use super::builder::Builder;
use super::layout::words_of;
use super::op::{Binary, Op, Operand, Reg, Slot, Word};

impl Builder<'_> {
    pub(super) fn slot(&self, field: Field) -> Slot {
        match field {
            Field::Pos => Slot::Pos,
            Field::Vel => Slot::Vel,
            Field::Heading => Slot::Heading,
            Field::Speed => Slot::Speed,
            Field::Var(name) => {
                let var = self.compiled.program.var_of(self.owner, name);
                let ty = var.map(|v| v.ty.clone()).unwrap_or(Ty::Unknown);
                let numeric = matches!(ty, Ty::Num(_) | Ty::Pair(_));
                Slot::Var { name, words: words_of(&ty), numeric }
            }
            _ => Slot::Spin,
        }
    }

    pub(super) fn field_words(&self, field: Field) -> u8 {
        match self.slot(field) {
            Slot::Pos | Slot::Vel => 2,
            Slot::Var { words, .. } => words,
            _ => 1,
        }
    }

    /// Puts the new value into the kept registers, and asks for the write.
    pub(super) fn write(&mut self, field: Field, value: Reg, is_set: bool) {
        let slot = self.slot(field);
        if !matches!(slot, Slot::Var { numeric: false, .. }) {
            self.must_be_finite(value, self.field_words(field));
        }
        if is_set {
            self.emit(Op::Set(slot, value));
            self.keep_new(field, value);
        } else {
            if self.assigned.contains(&field) {
                let sum = self.sum(field, value);
                self.emit(Op::Set(slot, sum));
                self.keep_new(field, sum);
            } else {
                self.emit(Op::Add(slot, value));
                if self.keeps(field) {
                    let sum = self.sum(field, value);
                    self.keep_new(field, sum);
                }
            }
        }
    }

    /// Whether what is made of a field is read back.
    pub(super) fn keeps(&self, field: Field) -> bool {
        let first = match field {
            Field::Heading | Field::Speed | Field::Vel => Word::Vx,
            Field::Pos => Word::X,
            Field::Spin => Word::Spin,
            Field::Var(name) => Word::Var(name, 0),
            _ => return false,
        };
        self.kept(first).is_some()
    }

    pub(super) fn add(&mut self, field: Field, value: &Expr) {
        let value = self.expr(value);
        self.write(field, value, false);
    }

    pub(super) fn sum(&mut self, field: Field, value: Reg) -> Reg {
        let now = self.own(field);
        let words = self.field_words(field);
        let sum = self.temps(words);
        for word in 0..Reg::from(words) {
            self.emit(Op::Binary(
                Binary::Add,
                sum + word,
                Operand::Reg(now + word),
                Operand::Reg(value + word),
            ));
        }
        sum
    }

    pub(super) fn keep_new(&mut self, field: Field, value: Reg) {
        match field {
            Field::Heading => {
                // Turning swings the velocity along.
                let (Some(old), Some(vector)) = (self.kept(Word::Heading), self.kept(Word::Vx))
                else {
                    return;
                };
                if !self.compiled.program.kinds[self.owner.index()].drifts {
                    self.emit(Op::Swing { to: vector, vector, old, new: value });
                    self.must_be_finite(vector, 2);
                }
                self.emit(Op::Copy(old, value));
                self.must_be_finite(old, 1);
            }
            Field::Speed => {
                let (Some(heading), Some(vector)) = (self.kept(Word::Heading), self.kept(Word::Vx))
                else {
                    return;
                };
                let unit = self.temps(2);
                self.emit(Op::UnitVector(unit, heading));
                for word in 0..2 {
                    self.emit(Op::Binary(
                        Binary::Multiply,
                        vector + word,
                        Operand::Reg(unit + word),
                        Operand::Reg(value),
                    ));
                }
                self.must_be_finite(vector, 2);
            }
            Field::Pos => self.keep_words(Word::X, value, 2),
            Field::Vel => self.keep_words(Word::Vx, value, 2),
            Field::Spin => self.keep_words(Word::Spin, value, 1),
            Field::Var(name) => {
                let words = self.field_words(field);
                self.keep_words(Word::Var(name, 0), value, words);
            }
            _ => {}
        }
    }

    pub(super) fn keep_words(&mut self, first: Word, value: Reg, words: u8) {
        if let Some(to) = self.kept(first) {
            self.copy(to, value, words);
            self.must_be_finite(to, words);
        }
    }
}
