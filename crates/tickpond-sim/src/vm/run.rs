//! The interpreter loop: lane masks, branches, loops, waits and ends.

use super::block::Block;
use super::chosen::Chosen;
use super::lanes::LANES;
use super::outbox::Outbox;
use super::step;
use super::world::{Origin, World};
use crate::code::HandlerCode;
use crate::code::op::{Code, Op};
use crate::event::Guard;
use crate::luck;

/// Lanes at one place in the code.
#[derive(Clone, Copy)]
struct Group {
    at: u32,
    lanes: Chosen,
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
    let mut now = Group { at, lanes: Chosen::first(block.len()) };
    let mut waiting: Vec<Group> = Vec::new();
    // No lane has gone back more often than all have together.
    let mut steps = 0u32;
    let limits = &world.compiled.program.limits;
    let base = luck::draw_base(world.state.seed, world.state.tick, origin.hash);
    let run = step::Run { world, origin, code, base };
    block.failed = Chosen::first(0);
    if code.traits.loops {
        block.steps.fill(0);
    }
    out.look_up(limits);
    // Whether the block knows which lanes are meant.
    let mut chosen = false;
    loop {
        if now.lanes.is_empty() {
            match waiting.pop() {
                Some(next) => now = next,
                None => break,
            }
            chosen = false;
        }
        // Lanes further back in the code go first; lanes at the same place go together.
        if let Some(next) = waiting.last() {
            if next.at < now.at {
                let at = waiting.partition_point(|g| g.at > now.at);
                waiting.insert(at, now);
                now = waiting.pop().unwrap_or(now);
                chosen = false;
            }
            while let Some(met) = waiting.pop_if(|g| g.at == now.at) {
                now.lanes = now.lanes.join(met.lanes);
                chosen = false;
            }
        }
        match &code.ops[now.at as usize] {
            Op::Jump(to) => {
                now.at = *to;
                continue;
            }
            Op::Back(to, site) => {
                out.spend_steps(now.lanes.len() as u64, *site);
                out.look_up(limits);
                if out.is_over() {
                    break;
                }
                let counts = &mut block.steps;
                now.lanes.each(
                    #[inline(always)]
                    |lane| counts[lane % LANES] += 1,
                );
                steps += 1;
                if steps > limits.steps {
                    let past = |lane: &usize| block.steps[*lane] > limits.steps;
                    for lane in now.lanes.into_iter().filter(past).collect::<Vec<_>>() {
                        let times = u64::from(block.steps[lane]);
                        run.fault(block, lane, (Guard::Steps, Some(*site), times), out);
                    }
                    now.lanes = now.lanes.without(std::mem::take(&mut block.failed));
                    chosen = false;
                }
                now.at = *to;
                continue;
            }
            Op::Finite(reg) => {
                if let Some(bad) = now.lanes.not_finite(&block.regs[usize::from(*reg)]) {
                    for lane in bad {
                        run.not_finite(block, lane, out);
                    }
                    now.lanes = now.lanes.without(std::mem::take(&mut block.failed));
                    chosen = false;
                }
                now.at += 1;
                continue;
            }
            Op::JumpIfNot(condition, to) => {
                let (hold, fail) = now.lanes.part(&block.regs[usize::from(*condition)]);
                if fail.is_empty() {
                    now.at += 1;
                } else if hold.is_empty() {
                    now.at = *to;
                } else {
                    chosen = false;
                    let at = waiting.partition_point(|g| g.at > *to);
                    waiting.insert(at, Group { at: *to, lanes: fail });
                    now = Group { at: now.at + 1, lanes: hold };
                }
                continue;
            }
            Op::Done | Op::Wait(_) | Op::WaitBorn => {
                match &code.ops[now.at as usize] {
                    Op::Wait(time) => run.wait(block, now.lanes, Some(*time), now.at + 1, out),
                    Op::WaitBorn => run.wait(block, now.lanes, None, now.at + 1, out),
                    _ => {}
                }
                now.lanes = Chosen::first(0);
                continue;
            }
            Op::SendToAny { query, send, with, site, past } => {
                if run.send_to_any(block, now.lanes, (*query, *send, *with), *site, out) {
                    now.at = *past;
                    continue;
                }
            }
            op => {
                if !chosen {
                    block.choose(now.lanes);
                    chosen = true;
                }
                run.step(op, block, now.lanes, out);
                if !block.failed.is_empty() {
                    now.lanes = now.lanes.without(std::mem::take(&mut block.failed));
                    chosen = false;
                }
            }
        }
        now.at += 1;
    }
}
