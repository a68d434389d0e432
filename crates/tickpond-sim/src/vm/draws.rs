//! Random draws, for all lanes at once.

use super::block::Block;
use super::chosen::Chosen;
use super::lanes::LANES;
use super::step::{Run, next};
use crate::code::op::{Operand, Reg};
use crate::luck;
use crate::wide::wide;

impl Run<'_> {
    /// The hash of a lane's next draw.
    pub(super) fn next_draw(&self, block: &mut Block, lane: usize) -> u64 {
        let nth = next(&mut block.draws[lane]);
        let luck = self.columns().luck[block.rows[lane] as usize];
        luck::draw(self.base, luck, block.other_luck[lane], nth)
    }

    pub(super) fn draw(
        &self,
        block: &mut Block,
        lanes: Chosen,
        to: Reg,
        (low, high): (Operand, Operand),
        whole: bool,
    ) {
        let base = self.base;
        let column = &self.columns().luck;
        let all = lanes.len() == block.len();
        if let Some(first) = block.first.filter(|_| all || block.masks) {
            // The usual case, written out so that lanes are worked out side by side.
            let n = block.len();
            let column = &column[first as usize..first as usize + n];
            let Block { regs, spare, draws, other_luck, mask, .. } = block;
            let draws = Draws {
                base,
                luck: column,
                other: &other_luck[..n],
                made: &mut draws[..n],
                // Worked out for all of them, and kept for those meant.
                kept: (!all).then(|| (&mask[..n], &regs[usize::from(to)][..n])),
                drawn: &mut spare[..n],
                whole,
            };
            match (low, high) {
                (Operand::Word(low), Operand::Word(high)) => {
                    draws.draw(move |_| low, move |_| high)
                }
                (Operand::Reg(low), Operand::Word(high)) => {
                    let low = &regs[usize::from(low)];
                    draws.draw(move |lane| low[lane], move |_| high);
                }
                (Operand::Word(low), Operand::Reg(high)) => {
                    let high = &regs[usize::from(high)];
                    draws.draw(move |_| low, move |lane| high[lane]);
                }
                (Operand::Reg(low), Operand::Reg(high)) => {
                    let (low, high) = (&regs[usize::from(low)], &regs[usize::from(high)]);
                    draws.draw(move |lane| low[lane], move |lane| high[lane]);
                }
            }
            std::mem::swap(&mut regs[usize::from(to)], spare);
            return;
        }
        for lane in lanes {
            let nth = next(&mut block.draws[lane]);
            let luck = column[block.rows[lane] as usize];
            let hash = luck::draw(base, luck, block.other_luck[lane], nth);
            let bound = |of: Operand| match of {
                Operand::Reg(reg) => block.word(reg, lane),
                Operand::Word(word) => word,
            };
            let drawn = between(hash, bound(low), bound(high), whole);
            block.set(to, lane, drawn);
        }
    }
}

/// Draws of a stretch of rows.
struct Draws<'a> {
    base: u64,
    luck: &'a [u64],
    other: &'a [u64],
    /// How many draws each lane has made.
    made: &'a mut [u32],
    /// If not all lanes are meant: those that are, as a mask, and what the others keep.
    kept: Option<(&'a [u64], &'a [u64])>,
    drawn: &'a mut [u64],
    whole: bool,
}

impl Draws<'_> {
    #[inline(always)]
    fn draw(self, low: impl Fn(usize) -> u64, high: impl Fn(usize) -> u64) {
        let Draws { base, luck, other, made, kept, drawn, whole } = self;
        let n = luck.len();
        wide(
            #[inline(always)]
            move || {
                let (other, made, drawn) = (&other[..n], &mut made[..n], &mut drawn[..n]);
                for lane in 0..n {
                    let hash = luck::draw(base, luck[lane], other[lane], made[lane]);
                    drawn[lane] = between(hash, low(lane % LANES), high(lane % LANES), whole);
                }
                match kept {
                    None => made.iter_mut().for_each(|made| *made += 1),
                    Some((mask, old)) => {
                        for (((drawn, made), mask), old) in
                            drawn.iter_mut().zip(made).zip(mask).zip(old)
                        {
                            *drawn = old & !mask | *drawn & mask;
                            *made += (mask & 1) as u32;
                        }
                    }
                }
            },
        );
    }
}

/// A draw between two numbers, all as words.
#[inline(always)]
fn between(hash: u64, low: u64, high: u64, whole: bool) -> u64 {
    let (low, high) = (f64::from_bits(low), f64::from_bits(high));
    let drawn = if whole { luck::whole(hash, low, high) } else { luck::between(hash, low, high) };
    drawn.to_bits()
}
