//! Operations on registers, all lanes at once.

use super::block::Block;
use super::chosen::Chosen;
use super::lanes::LANES;
use crate::angle;
use crate::code::op::{Binary, Operand, Reg, Unary};

pub(super) fn unary(op: Unary, block: &mut Block, lanes: Chosen, to: Reg, a: Reg) {
    #[inline(always)]
    fn number(block: &mut Block, lanes: Chosen, (to, a): (Reg, Reg), f: impl Fn(f64) -> f64) {
        block.map(to, a, lanes, move |a| f(f64::from_bits(a)).to_bits());
    }
    let at = (to, a);
    match op {
        Unary::Negate => number(block, lanes, at, |a| -a),
        Unary::Abs => number(block, lanes, at, f64::abs),
        Unary::Floor => number(block, lanes, at, f64::floor),
        Unary::Round => number(block, lanes, at, f64::round),
        // The square root is exact by the standard, so the machine's own is portable.
        Unary::Sqrt => number(block, lanes, at, f64::sqrt),
        Unary::Sin => number(block, lanes, at, |a| angle::sin_cos(a).0),
        Unary::Cos => number(block, lanes, at, |a| angle::sin_cos(a).1),
        Unary::Not => block.map(to, a, lanes, |a| u64::from(a == 0)),
    }
}

pub(super) fn binary(
    op: Binary,
    block: &mut Block,
    lanes: Chosen,
    to: Reg,
    of: (Operand, Operand),
) {
    type At = (Reg, (Operand, Operand));
    #[inline(always)]
    fn words(block: &mut Block, lanes: Chosen, (to, of): At, f: impl Fn(u64, u64) -> u64) {
        match of {
            (Operand::Reg(a), Operand::Reg(b)) => block.map2(to, (a, b), lanes, f),
            (Operand::Reg(a), Operand::Word(b)) => block.map(to, a, lanes, move |a| f(a, b)),
            (Operand::Word(a), Operand::Reg(b)) => block.map(to, b, lanes, move |b| f(a, b)),
            (Operand::Word(a), Operand::Word(b)) => block.fill(to, lanes, f(a, b)),
        }
    }
    #[inline(always)]
    fn number(block: &mut Block, lanes: Chosen, at: At, f: impl Fn(f64, f64) -> f64) {
        words(block, lanes, at, move |a, b| f(f64::from_bits(a), f64::from_bits(b)).to_bits());
    }
    #[inline(always)]
    fn truth(block: &mut Block, lanes: Chosen, at: At, f: impl Fn(f64, f64) -> bool) {
        words(block, lanes, at, move |a, b| u64::from(f(f64::from_bits(a), f64::from_bits(b))));
    }
    let at = (to, of);
    match op {
        Binary::Add => number(block, lanes, at, |a, b| a + b),
        Binary::Subtract => number(block, lanes, at, |a, b| a - b),
        Binary::Multiply => number(block, lanes, at, |a, b| a * b),
        Binary::Divide => number(block, lanes, at, |a, b| a / b),
        // The standard functions leave the order of -0 and 0 open.
        Binary::Min => number(block, lanes, at, |a, b| if b < a { b } else { a }),
        Binary::Max => number(block, lanes, at, |a, b| if b > a { b } else { a }),
        Binary::Hypot => number(block, lanes, at, libm::hypot),
        Binary::Less => truth(block, lanes, at, |a, b| a < b),
        Binary::LessEqual => truth(block, lanes, at, |a, b| a <= b),
        Binary::Equal => truth(block, lanes, at, |a, b| a == b),
        Binary::SameWord => words(block, lanes, at, |a, b| u64::from(a == b)),
        Binary::And => words(block, lanes, at, |a, b| a & b),
        Binary::Or => words(block, lanes, at, |a, b| a | b),
    }
}

/// What a function gives for the lanes, one behind another.
#[inline(always)]
pub(super) fn gathered<T: Copy>(
    lanes: Chosen,
    to: &mut [T; LANES],
    f: impl Fn(usize) -> T,
) -> &[T] {
    let mut count = 0;
    lanes.each(
        #[inline(always)]
        |lane| {
            to[count % LANES] = f(lane);
            count += 1;
        },
    );
    &to[..count]
}
