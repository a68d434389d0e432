//! One instruction for all lanes of a group.

use tickpond_lang::program::{KindId, POND};

use super::{Block, LANES, Origin, Outbox, World};
use crate::angle;
use crate::code::op::{Binary, Code, Op, Reg, Unary, Word};
use crate::luck;
use crate::space;
use crate::state::{EntityId, Key, State, Wait};
use crate::vm::outbox::Write;

pub(super) struct Run<'a> {
    pub world: World<'a>,
    pub origin: Origin,
    pub code: &'a Code,
}

/// Carries out a number operation for the lanes; whole blocks take the loop without an index list.
fn each_lane(lanes: &[u16], count: usize, mut work: impl FnMut(usize)) {
    if lanes.len() == count {
        (0..count).for_each(work);
    } else {
        lanes.iter().for_each(|lane| work(usize::from(*lane)));
    }
}

impl Run<'_> {
    pub fn step(&self, op: &Op, block: &mut Block, lanes: &[u16], out: &mut Outbox) {
        let n = block.len();
        match op {
            Op::Const(to, word) => each_lane(lanes, n, |l| block.set(*to, l, *word)),
            Op::Knob(to, knob) => {
                let value = self.world.state.knobs[knob.index()];
                each_lane(lanes, n, |l| block.put(*to, l, value));
            }
            Op::Copy(to, from) => each_lane(lanes, n, |l| {
                let word = block.word(*from, l);
                block.set(*to, l, word);
            }),
            Op::Own(to, word) => self.load(block, lanes, *to, *word),
            Op::Cached(to, word) => {
                self.load(block, lanes, *to, *word);
                self.load_overlay(block, lanes, *to, out);
            }
            Op::Of(to, entity, word) => self.load_of(block, lanes, (*to, *entity), *word),
            Op::PondVar(to, name, part) => {
                let word = word_of(self.world, POND, 0, Word::Var(*name, *part));
                each_lane(lanes, n, |l| block.set(*to, l, word));
            }
            Op::Unary(op, to, a) => unary(*op, block, lanes, *to, *a),
            Op::Binary(op, to, a, b) => binary(*op, block, lanes, *to, (*a, *b)),
            Op::Direction(to, pair) => each_lane(lanes, n, |l| {
                let (x, y) = (block.number(*pair, l), block.number(*pair + 1, l));
                let own = self.columns().heading[block.rows[l] as usize];
                block.put(*to, l, angle::direction(x, y).unwrap_or(own));
            }),
            Op::UnitVector(to, angle) => each_lane(lanes, n, |l| {
                let (sin, cos) = angle::sin_cos(block.number(*angle, l));
                block.put(*to, l, cos);
                block.put(*to + 1, l, sin);
            }),
            Op::Swing { to, vector, old, new } => each_lane(lanes, n, |l| {
                let by = block.number(*new, l) - block.number(*old, l);
                let (x, y) = (block.number(*vector, l), block.number(*vector + 1, l));
                let (x, y) = if x == 0.0 && y == 0.0 { (x, y) } else { angle::turned(x, y, by) };
                block.put(*to, l, x);
                block.put(*to + 1, l, y);
            }),
            Op::Offset { to, start, end } => each_lane(lanes, n, |l| {
                let pair =
                    |block: &Block, reg: Reg| (block.number(reg, l), block.number(reg + 1, l));
                let arena = &self.world.compiled.program.arena;
                let (x, y) = space::offset(arena, pair(block, *start), pair(block, *end));
                block.put(*to, l, x);
                block.put(*to + 1, l, y);
            }),
            Op::Random { to, low, high, whole } => {
                self.draw(block, lanes, *to, (*low, *high), *whole)
            }
            Op::Alive(to, entity) => each_lane(lanes, n, |l| {
                let id = EntityId::from_word(block.word(*entity, l));
                block.set(*to, l, u64::from(is_alive(self.world.state, id)));
            }),
            Op::WaveNew(to) => each_lane(lanes, n, |l| {
                let nth = next(&mut block.asked[l]);
                let luck = self.columns().luck[block.rows[l] as usize];
                let keys = [luck, self.origin.hash, self.world.state.tick, u64::from(nth)];
                // 0 stands for no wave.
                let wave = luck::hash(&keys).max(1);
                block.set(*to, l, wave);
            }),
            Op::WaveCount(to, wave) => each_lane(lanes, n, |l| {
                let wave = self.world.state.waves.get(&block.word(*wave, l)).copied();
                let wave = wave.unwrap_or_default();
                block.put(*to, l, f64::from(wave.live + wave.unborn));
            }),
            Op::WaveUnborn(to, wave) => each_lane(lanes, n, |l| {
                let wave = self.world.state.waves.get(&block.word(*wave, l)).copied();
                block.put(*to, l, f64::from(wave.unwrap_or_default().unborn));
            }),
            Op::Query(to, query) => self.query(block, lanes, *to, *query, out),
            Op::Stat(to, stat) => {
                let value = self.stat(*stat);
                each_lane(lanes, n, |l| block.put(*to, l, value));
            }
            Op::Stmt(site) => {
                out.last_site = Some(*site);
                out.fire(*site, lanes.len() as u64);
            }
            Op::Set(slot, value) => self.write(block, lanes, (*slot, *value), false, out),
            Op::Add(slot, value) => self.write(block, lanes, (*slot, *value), true, out),
            Op::Spawn(at) => self.spawn(block, lanes, *at, out),
            Op::Damage { target, amount, credit, heals } => {
                self.damage(block, lanes, (*target, *amount, *credit), *heals, out);
            }
            Op::End(target, words) => self.end(block, lanes, *target, words.as_ref(), out),
            Op::Send(at) => self.send(block, lanes, *at, out),
            Op::Say(parts) => self.say(block, lanes, parts, out),
            Op::Jump(_) | Op::JumpIfNot(..) | Op::Wait(_) | Op::Done => {}
        }
    }

    pub(super) fn columns(&self) -> &crate::state::Columns {
        &self.world.state.kinds[self.origin.kind.index()]
    }

    /// The next place in the roll for a request of a lane.
    pub(super) fn key(&self, block: &mut Block, lane: usize) -> Key {
        Key {
            asker: self.columns().serial[block.rows[lane] as usize],
            handler: self.origin.handler,
            other: block.others[lane],
            nth: next(&mut block.asked[lane]),
        }
    }

    fn load(&self, block: &mut Block, lanes: &[u16], to: Reg, word: Word) {
        let columns = self.columns();
        let n = block.len();
        let plain = match word {
            Word::X => Some(&columns.x),
            Word::Y => Some(&columns.y),
            Word::Vx => Some(&columns.vx),
            Word::Vy => Some(&columns.vy),
            Word::Heading => Some(&columns.heading),
            Word::Spin => Some(&columns.spin),
            Word::Health => Some(&columns.health),
            _ => None,
        };
        let start = to as usize * LANES;
        if let Some(column) = plain {
            let (rows, regs) = (&block.rows, &mut block.regs[start..start + LANES]);
            each_lane(lanes, n, |l| regs[l] = column[rows[l] as usize].to_bits());
            return;
        }
        if let Word::Var(name, part) = word {
            let at = self.world.compiled.var_word(self.origin.kind, name);
            if let Some(column) = at.and_then(|at| columns.vars.get(at + usize::from(part))) {
                let (rows, regs) = (&block.rows, &mut block.regs[start..start + LANES]);
                each_lane(lanes, n, |l| regs[l] = column[rows[l] as usize]);
            }
            return;
        }
        each_lane(lanes, n, |l| {
            let word = word_of(self.world, self.origin.kind, block.rows[l] as usize, word);
            block.set(to, l, word);
        });
    }

    /// A second firing in one phase goes on from what the first made of the kept words. They are
    /// loaded in their order, so the register tells which of them it is.
    fn load_overlay(&self, block: &mut Block, lanes: &[u16], to: Reg, out: &Outbox) {
        if out.overlay.is_empty() {
            return;
        }
        for lane in lanes {
            let lane = usize::from(*lane);
            if let Some(words) = out.overlay.get(&block.rows[lane]) {
                block.set(to, lane, words[to as usize]);
            }
        }
    }

    fn load_of(&self, block: &mut Block, lanes: &[u16], (to, entity): (Reg, Reg), word: Word) {
        each_lane(lanes, block.len(), |l| {
            let id = EntityId::from_word(block.word(entity, l));
            let value = match self.world.state.find(id) {
                Some((kind, row)) => word_of(self.world, kind, row, word),
                None => 0,
            };
            block.set(to, l, value);
        });
    }

    fn draw(&self, block: &mut Block, lanes: &[u16], to: Reg, bounds: (Reg, Reg), whole: bool) {
        let state = self.world.state;
        let luck = &self.columns().luck;
        each_lane(lanes, block.len(), |l| {
            let nth = next(&mut block.draws[l]);
            let hash = luck::hash(&[
                state.seed,
                luck[block.rows[l] as usize],
                state.tick,
                self.origin.hash,
                block.other_luck[l],
                u64::from(nth),
            ]);
            let (low, high) = (block.number(bounds.0, l), block.number(bounds.1, l));
            let drawn =
                if whole { luck::whole(hash, low, high) } else { luck::between(hash, low, high) };
            block.put(to, l, drawn);
        });
    }

    fn write(
        &self,
        block: &mut Block,
        lanes: &[u16],
        (slot, value): (crate::code::op::Slot, Reg),
        adds: bool,
        out: &mut Outbox,
    ) {
        use crate::code::op::Slot;
        let pair = match slot {
            Slot::Pos | Slot::Vel => true,
            Slot::Var { words, .. } => words == 2,
            _ => false,
        };
        let site = out.last_site.unwrap_or(tickpond_lang::program::SiteId(0));
        for lane in lanes {
            let lane = usize::from(*lane);
            let second = if pair { block.word(value + 1, lane) } else { 0 };
            let nth = next(&mut block.asked[lane]);
            out.writes.push(Write {
                kind: self.origin.kind,
                row: block.rows[lane],
                handler: self.origin.handler,
                nth: (out.round, nth),
                slot,
                words: [block.word(value, lane), second],
                adds,
                site,
            });
        }
    }

    pub fn wait(&self, block: &mut Block, lanes: &[u16], time: Reg, at: u32, out: &mut Outbox) {
        let rate = self.world.compiled.program.rate;
        for lane in lanes {
            let lane = usize::from(*lane);
            let row = block.rows[lane] as usize;
            let ticks = tickpond_lang::program::ticks(block.number(time, lane), rate);
            out.waits.push(Wait {
                due: self.world.state.tick.saturating_add(ticks),
                entity: self.columns().id[row],
                serial: self.columns().serial[row],
                handler: self.origin.handler,
                at,
                words: block.words(self.code.regs, lane),
            });
        }
    }
}

fn next(counter: &mut u32) -> u32 {
    *counter += 1;
    *counter - 1
}

/// Whether an entity is there for queries: those that end in this phase are not.
pub(super) fn is_alive(state: &State, id: EntityId) -> bool {
    state.find(id).is_some_and(|(kind, row)| !state.kinds[kind.index()].ending[row])
}

/// One word of one entity.
pub(super) fn word_of(world: World<'_>, kind: KindId, row: usize, word: Word) -> u64 {
    let columns = &world.state.kinds[kind.index()];
    match word {
        Word::X => columns.x[row].to_bits(),
        Word::Y => columns.y[row].to_bits(),
        Word::Vx => columns.vx[row].to_bits(),
        Word::Vy => columns.vy[row].to_bits(),
        Word::Heading => columns.heading[row].to_bits(),
        Word::Speed => libm::hypot(columns.vx[row], columns.vy[row]).to_bits(),
        Word::Spin => columns.spin[row].to_bits(),
        Word::Health => columns.health[row].to_bits(),
        Word::Age => {
            let ticks = world.state.tick - columns.born[row];
            (ticks as f64 / world.compiled.program.rate).to_bits()
        }
        Word::Maker => columns.maker[row].to_word(),
        Word::Id => columns.id[row].to_word(),
        Word::Var(name, part) => match world.compiled.var_word(kind, name) {
            Some(at) => columns.vars[at + usize::from(part)][row],
            None => 0,
        },
    }
}

fn unary(op: Unary, block: &mut Block, lanes: &[u16], to: Reg, a: Reg) {
    let n = block.len();
    let number = |f: fn(f64) -> f64, block: &mut Block| {
        each_lane(lanes, n, |l| {
            let value = f(block.number(a, l));
            block.put(to, l, value);
        });
    };
    match op {
        Unary::Negate => number(|a| -a, block),
        Unary::Abs => number(f64::abs, block),
        Unary::Floor => number(f64::floor, block),
        Unary::Round => number(f64::round, block),
        Unary::Sqrt => number(libm::sqrt, block),
        Unary::Sin => number(|a| angle::sin_cos(a).0, block),
        Unary::Cos => number(|a| angle::sin_cos(a).1, block),
        Unary::Not => each_lane(lanes, n, |l| {
            let word = u64::from(block.word(a, l) == 0);
            block.set(to, l, word);
        }),
    }
}

fn binary(op: Binary, block: &mut Block, lanes: &[u16], to: Reg, (a, b): (Reg, Reg)) {
    let n = block.len();
    let number = |f: fn(f64, f64) -> f64, block: &mut Block| {
        each_lane(lanes, n, |l| {
            let value = f(block.number(a, l), block.number(b, l));
            block.put(to, l, value);
        });
    };
    let truth = |f: fn(f64, f64) -> bool, block: &mut Block| {
        each_lane(lanes, n, |l| {
            let value = f(block.number(a, l), block.number(b, l));
            block.set(to, l, u64::from(value));
        });
    };
    let words = |f: fn(u64, u64) -> u64, block: &mut Block| {
        each_lane(lanes, n, |l| {
            let value = f(block.word(a, l), block.word(b, l));
            block.set(to, l, value);
        });
    };
    match op {
        Binary::Add => number(|a, b| a + b, block),
        Binary::Subtract => number(|a, b| a - b, block),
        Binary::Multiply => number(|a, b| a * b, block),
        Binary::Divide => number(|a, b| a / b, block),
        // The standard functions leave the order of -0 and 0 open.
        Binary::Min => number(|a, b| if b < a { b } else { a }, block),
        Binary::Max => number(|a, b| if b > a { b } else { a }, block),
        Binary::Hypot => number(libm::hypot, block),
        Binary::Less => truth(|a, b| a < b, block),
        Binary::LessEqual => truth(|a, b| a <= b, block),
        Binary::Equal => truth(|a, b| a == b, block),
        Binary::SameWord => words(|a, b| u64::from(a == b), block),
        Binary::And => words(|a, b| a & b, block),
        Binary::Or => words(|a, b| a | b, block),
    }
}
