//! Runs register code for a block of entities at once.
//!
//! Each lane is one firing. An instruction is carried out for all lanes that are at it before the
//! next one is. Where lanes part at a branch, those with the lower place in the code go first, and
//! lanes that meet again go on together; code from blocks always meets again behind its branches.
//! Nothing a lane does can be seen by another: it reads the state of the phase's start and its own
//! registers, and everything it wants goes into the [`Outbox`].

mod ask;
mod outbox;
mod query;
mod step;
mod text;

use tickpond_lang::program::{Cause, KindId};

pub use outbox::{Outbox, Write};
pub use text::number_text;

use crate::code::op::{Code, Op, Reg};
use crate::code::{Compiled, HandlerCode};
use crate::event::{Guard, Phase};
use crate::state::State;

/// Most lanes in a block: their registers stay in the first-level cache.
pub const LANES: usize = 256;
/// Most jumps back within one firing.
const MOST_STEPS: u32 = 100_000;

/// What the code of a block reads, beside its registers.
#[derive(Clone, Copy)]
pub struct World<'a> {
    /// The program.
    pub compiled: &'a Compiled,
    /// The state as the phase found it.
    pub state: &'a State,
    /// The phase.
    pub phase: Phase,
}

/// Whose code a block runs, for requests and chance.
#[derive(Clone, Copy)]
pub struct Origin {
    /// The kind of all lanes.
    pub kind: KindId,
    /// What draws are keyed by.
    pub hash: u64,
    /// The handler's place in the roll of its kind.
    pub handler: u32,
    /// The cause of ends asked for.
    pub cause: Cause,
}

/// The lanes of a block and their registers.
#[derive(Default)]
pub struct Block {
    /// Row of each lane.
    pub rows: Vec<u32>,
    /// How many were born before the other party of each lane; 0 if there is none.
    pub others: Vec<u64>,
    /// What the other party brings into each lane's chance; 0 if there is none.
    pub other_luck: Vec<u64>,
    regs: Vec<u64>,
    /// Requests each lane has made.
    asked: Vec<u32>,
    /// Draws each lane has made.
    draws: Vec<u32>,
    /// Lists of lanes that are not in use, kept for their memory.
    free: Vec<Vec<u16>>,
}

impl Block {
    /// Makes ready for `rows`, at most [`LANES`], with registers for `code`; all are 0.
    pub fn prepare(&mut self, rows: &[u32], code: &Code) {
        self.rows.clear();
        self.rows.extend_from_slice(rows);
        let n = rows.len();
        for column in [&mut self.others, &mut self.other_luck] {
            column.clear();
            column.resize(n, 0);
        }
        for column in [&mut self.asked, &mut self.draws] {
            column.clear();
            column.resize(n, 0);
        }
        self.regs.clear();
        self.regs.resize(code.regs as usize * LANES, 0);
    }

    /// How many lanes there are.
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// A word of a lane.
    pub fn word(&self, reg: Reg, lane: usize) -> u64 {
        self.regs[reg as usize * LANES + lane]
    }

    /// A number of a lane.
    pub fn number(&self, reg: Reg, lane: usize) -> f64 {
        f64::from_bits(self.word(reg, lane))
    }

    /// Sets a word of a lane.
    pub fn set(&mut self, reg: Reg, lane: usize, word: u64) {
        self.regs[reg as usize * LANES + lane] = word;
    }

    fn put(&mut self, reg: Reg, lane: usize, number: f64) {
        self.set(reg, lane, number.to_bits());
    }

    /// All words of a lane.
    pub fn words(&self, regs: Reg, lane: usize) -> Vec<u64> {
        (0..regs).map(|reg| self.word(reg, lane)).collect()
    }
}

/// Lanes at one place in the code.
struct Group {
    at: u32,
    lanes: Vec<u16>,
}

/// Runs a handler for all lanes of the block, which [`Block::prepare`] has made ready.
pub fn run_handler(
    world: World<'_>,
    origin: Origin,
    handler: &HandlerCode,
    block: &mut Block,
    out: &mut Outbox,
) {
    out.fire(handler.site, block.len() as u64);
    run(world, origin, &handler.code, 0, block, out);
}

/// Runs code from a place in it for all lanes of the block.
pub fn run(
    world: World<'_>,
    origin: Origin,
    code: &Code,
    at: u32,
    block: &mut Block,
    out: &mut Outbox,
) {
    let mut free = std::mem::take(&mut block.free);
    let mut lanes = free.pop().unwrap_or_default();
    lanes.clear();
    lanes.extend(0..block.len() as u16);
    let mut now = Group { at, lanes };
    let mut waiting: Vec<Group> = Vec::new();
    let mut steps = 0u32;
    let run = step::Run { world, origin, code };
    'groups: loop {
        // Lanes further back in the code go first; lanes at the same place go together.
        if let Some(next) = waiting.last() {
            if next.at < now.at {
                let at = waiting.partition_point(|g| g.at > now.at);
                let other = waiting.pop();
                if let Some(other) = other {
                    let parted = std::mem::replace(&mut now, other);
                    waiting.insert(at.min(waiting.len()), parted);
                }
            }
            while waiting.last().is_some_and(|g| g.at == now.at) {
                if let Some(mut met) = waiting.pop() {
                    now.lanes.append(&mut met.lanes);
                    free.push(met.lanes);
                    now.lanes.sort_unstable();
                }
            }
        }
        match &code.ops[now.at as usize] {
            Op::Jump(to) => {
                if *to <= now.at {
                    steps += 1;
                    if steps > MOST_STEPS {
                        out.stop(Guard::Steps, out.last_site);
                        break 'groups;
                    }
                }
                now.at = *to;
                continue;
            }
            Op::JumpIfNot(condition, to) => {
                if *to <= now.at {
                    steps += 1;
                    if steps > MOST_STEPS {
                        out.stop(Guard::Steps, out.last_site);
                        break 'groups;
                    }
                }
                let mut parted = free.pop().unwrap_or_default();
                parted.clear();
                now.lanes.retain(|lane| {
                    let stays = block.word(*condition, usize::from(*lane)) != 0;
                    if !stays {
                        parted.push(*lane);
                    }
                    stays
                });
                if parted.is_empty() {
                    free.push(parted);
                    now.at += 1;
                } else if now.lanes.is_empty() {
                    free.push(std::mem::replace(&mut now.lanes, parted));
                    now.at = *to;
                } else {
                    let at = waiting.partition_point(|g| g.at > *to);
                    waiting.insert(at, Group { at: *to, lanes: parted });
                    now.at += 1;
                }
                continue;
            }
            Op::Done | Op::Wait(_) => {
                if let Op::Wait(time) = &code.ops[now.at as usize] {
                    run.wait(block, &now.lanes, *time, now.at + 1, out);
                }
                free.push(std::mem::take(&mut now.lanes));
                match waiting.pop() {
                    Some(next) => now = next,
                    None => break,
                }
                continue;
            }
            op => run.step(op, block, &now.lanes, out),
        }
        now.at += 1;
    }
    block.free = free;
}
