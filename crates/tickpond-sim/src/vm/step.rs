//! One instruction for all lanes of a group.

use super::words::{binary, gathered, unary};
use tickpond_lang::program::{KindId, POND};

use super::block::Block;
use super::chosen::Chosen;
use super::lanes::LANES;
use super::outbox::Outbox;
use super::outbox::Writes;
use super::world::{Origin, World};
use crate::angle;
use crate::code::op::{Code, Op, Reg, Word};
use crate::event::What;
use crate::luck;
use crate::space;
use crate::state::{EntityId, Key, State, Trace, Wait};

pub(super) struct Run<'a> {
    pub world: World<'a>,
    pub origin: Origin,
    pub code: &'a Code,
    /// What all draws of the handler in this tick have in common.
    pub base: u64,
}

/// Carries out a number operation for the lanes; whole blocks take the loop without an index list.
fn each_lane(lanes: Chosen, count: usize, work: impl FnMut(usize)) {
    if lanes.len() == count {
        (0..count).for_each(work);
    } else {
        lanes.each(work);
    }
}

impl Run<'_> {
    pub fn step(&self, op: &Op, block: &mut Block, lanes: Chosen, out: &mut Outbox) {
        let n = block.len();
        match op {
            Op::Const(to, word) => block.fill(*to, lanes, *word),
            Op::Knob(to, knob) => {
                let value = self.world.state.knobs[knob.index()].to_bits();
                block.fill(*to, lanes, value);
            }
            Op::Copy(to, from) => block.map(*to, *from, lanes, |word| word),
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
                let found = self.find_drawn(block, l, id);
                let is = found
                    .is_some_and(|(kind, row)| !self.world.state.kinds[kind.index()].ending[row]);
                block.set(*to, l, u64::from(is));
            }),
            Op::Pointer(to, input) => {
                let (x, y) = self.world.state.input.places[input.index()];
                each_lane(lanes, n, |l| {
                    block.put(*to, l, x);
                    block.put(*to + 1, l, y);
                });
            }
            Op::View(to) => {
                let (x, y) = self.world.state.view;
                each_lane(lanes, n, |l| {
                    block.put(*to, l, x);
                    block.put(*to + 1, l, y);
                });
            }
            Op::Named(to, kind, number) => {
                let columns = &self.world.state.kinds[kind.index()];
                // Numbers are given in the order of birth.
                let row = columns.number.binary_search(number).ok();
                let row = row.filter(|row| !columns.ending[*row]);
                let id = row.map_or(EntityId::NONE, |row| columns.id[row]);
                each_lane(lanes, n, |l| block.set(*to, l, id.to_word()));
            }
            Op::Inside(to, place, zone) => {
                let zone = &self.world.compiled.program.zones[zone.index()].shape;
                each_lane(lanes, n, |l| {
                    let at = (block.number(*place, l), block.number(*place + 1, l));
                    block.set(*to, l, u64::from(space::in_zone(zone, at)));
                });
            }
            Op::IsKind(to, entity, kinds) => each_lane(lanes, n, |l| {
                let id = EntityId::from_word(block.word(*entity, l));
                let is = is_alive(self.world.state, id)
                    && self.world.state.find(id).is_some_and(|(kind, _)| kinds.contains(&kind));
                block.set(*to, l, u64::from(is));
            }),
            Op::Mail(to, stat, message) => {
                use tickpond_lang::program::MailStat;
                let totals = &self.world.state.mail_totals[message.index()];
                let value = match stat {
                    MailStat::Sent => totals.sent,
                    MailStat::Heard => totals.heard,
                    MailStat::Unheard => totals.unheard,
                };
                each_lane(lanes, n, |l| block.put(*to, l, value as f64));
            }
            Op::Tally(to, at) => {
                let value = self.tally(*at);
                each_lane(lanes, n, |l| block.put(*to, l, value));
            }
            Op::TurnToward { to, direction, most, heading } => {
                let tick = 1.0 / self.world.compiled.program.rate;
                each_lane(lanes, n, |l| {
                    let off = block.number(*direction, l) - block.number(*heading, l);
                    // The short way round, -180..180.
                    let off = angle::normal(off + 180.0) - 180.0;
                    let most = block.number(*most, l).abs() * tick;
                    block.put(*to, l, off.clamp(-most, most));
                });
            }
            Op::Gather(to, query) => {
                for lane in lanes {
                    let query = &self.world.compiled.queries[*query as usize];
                    let found = self.found_by_age(block, lane, query, out);
                    // What is listed is walked: it counts as steps from here on.
                    out.spend_steps(found.len() as u64, Self::site(out));
                    out.look_up(&self.world.compiled.program.limits);
                    let found = if out.is_over() { Vec::new() } else { found };
                    let at = block.keep_list(found) as u64;
                    block.set(*to, lane, at);
                    block.set(*to + 1, lane, 0);
                }
            }
            Op::Next { to, more, list: to_list } => each_lane(lanes, n, |l| {
                let (at, taken) = (block.word(*to_list, l), block.word(*to_list + 1, l));
                let next = block.lists.get(at as usize).and_then(|list| list.get(taken as usize));
                let next = next.copied();
                block.set(*more, l, u64::from(next.is_some()));
                if let Some(next) = next {
                    block.set(*to, l, next.to_word());
                    block.set(*to_list + 1, l, taken + 1);
                } else if let Some(list) = block.lists.get_mut(at as usize) {
                    // Loops in loops would pile up what they have gone through.
                    *list = Vec::new();
                    block.free_lists.push(at as usize);
                    // Which place it was hangs on who is in the block; a wait would keep that.
                    block.set(*to_list, l, 0);
                }
            }),
            Op::Ray { to, from, along, reach, query } => {
                for lane in lanes {
                    let (id, length, (x, y)) =
                        self.ray(block, lane, (*from, *along, *reach), *query, out);
                    block.set(*to, lane, id.to_word());
                    block.put(*to + 1, lane, length);
                    block.put(*to + 2, lane, x);
                    block.put(*to + 3, lane, y);
                    for word in 0..2 {
                        let start = block.word(*from + word, lane);
                        block.set(*to + 4 + word, lane, start);
                    }
                }
            }
            Op::Show { ray, time } => {
                for lane in lanes {
                    let (x, y) = (block.number(*ray + 2, lane), block.number(*ray + 3, lane));
                    let from = (block.number(*ray + 4, lane), block.number(*ray + 5, lane));
                    let since = self.world.state.tick;
                    let time = block.number(*time, lane);
                    let time =
                        tickpond_lang::program::ticks(time, self.world.compiled.program.rate);
                    let until = since.saturating_add(time);
                    let key = self.key(block, lane);
                    out.traces.push((key, Trace { from, to: (x, y), radius: None, since, until }));
                }
            }
            Op::Blast(at) => self.blast(block, lanes, *at, out),
            Op::Push { target, by } => self.push(block, lanes, (*target, *by), out),
            Op::Become(state, time) => self.become_state(block, lanes, *state, *time, out),
            Op::Attach { target, owner, mount, outlives } => {
                self.attach(block, lanes, (*target, *owner), (mount, *outlives), out);
            }
            Op::Detach(target) => self.detach(block, lanes, *target, out),
            Op::Activate(target, on) => self.activate(block, lanes, *target, *on, out),
            Op::SpawnAs(at, token) => {
                let before = out.births.len();
                for lane in lanes {
                    let first = out.births.len();
                    self.spawn(block, Chosen::one(lane), (*at, true), out);
                    let batch = out.births.get(first).map_or(0, |birth| birth.batch);
                    block.set(*token, lane, batch);
                }
                debug_assert!(out.births.len() >= before);
            }
            Op::Newborn { to, token, kind } => each_lane(lanes, n, |l| {
                let kind = self.world.compiled.kind_of_word(block.word(*kind, l));
                let batch = block.word(*token, l);
                let id = if batch == 0 { EntityId::NONE } else { self.newborn(kind, batch) };
                block.set(*to, l, id.to_word());
            }),
            Op::Replace(at) => self.replace(block, lanes, *at, out),
            Op::WaveNew(to) => {
                for lane in lanes {
                    let key = self.key(block, lane);
                    let luck = self.columns().luck[block.rows[lane] as usize];
                    let tick = self.world.state.tick;
                    let keys = [luck, self.origin.hash, tick, u64::from(key.nth)];
                    // 0 stands for no wave.
                    block.set(*to, lane, luck::hash(&keys).max(1));
                    self.note_at(key, (block, lane), What::Wave, None, out);
                }
            }
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
            Op::Spawn(at) => self.spawn(block, lanes, (*at, false), out),
            Op::Damage { target, amount, credit, heals } => {
                self.damage(block, lanes, (*target, *amount, *credit), *heals, out);
            }
            Op::End(target, words) => self.end(block, lanes, *target, words.as_ref(), out),
            Op::Send(at) => self.send(block, lanes, *at, out),
            Op::Say(parts) => self.say(block, lanes, parts, out),
            Op::SendToAny { .. }
            | Op::Jump(_)
            | Op::JumpIfNot(..)
            | Op::Back(..)
            | Op::Finite(_)
            | Op::Wait(_)
            | Op::WaitBorn
            | Op::Done => {}
        }
    }

    pub(super) fn columns(&self) -> &crate::state::Columns {
        &self.world.state.kinds[self.origin.kind.index()]
    }

    /// The next place in the roll for a request of a lane.
    #[inline]
    pub(super) fn key(&self, block: &mut Block, lane: usize) -> Key {
        let (other, nth) = block.next_request(lane);
        let asker = self.columns().serial[block.rows[lane] as usize];
        Key { asker, handler: self.origin.handler, other, nth }
    }

    fn load(&self, block: &mut Block, lanes: Chosen, to: Reg, word: Word) {
        let columns = self.columns();
        let n = block.len();
        let plain = match word {
            Word::X => Some(&columns.x),
            Word::Y => Some(&columns.y),
            Word::Vx => Some(&columns.vx),
            Word::Vy => Some(&columns.vy),
            Word::Heading => Some(&columns.heading),
            _ => None,
        };
        if let Some(column) = plain {
            block.load(to, column, lanes, f64::to_bits);
            return;
        }
        let lazy = match word {
            Word::Spin => Some(&columns.spin),
            Word::Health => Some(&columns.health),
            _ => None,
        };
        if let Some(column) = lazy {
            match column.stored() {
                Some(values) => block.load(to, values, lanes, f64::to_bits),
                None => block.fill(to, lanes, column.usual().to_bits()),
            }
            return;
        }
        if let Word::Id = word {
            block.load(to, &columns.id, lanes, EntityId::to_word);
            return;
        }
        if let Word::Var(name, part) = word {
            let at = self.world.compiled.var_word(self.origin.kind, name);
            if let Some(column) = at.and_then(|at| columns.vars.get(at + usize::from(part))) {
                block.load(to, column, lanes, |word| word);
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
    fn load_overlay(&self, block: &mut Block, lanes: Chosen, to: Reg, out: &Outbox) {
        if out.overlay.is_empty() {
            return;
        }
        for lane in lanes {
            if let Some(words) = out.overlay.get(block.rows[lane]) {
                block.set(to, lane, words[to as usize]);
            }
        }
    }

    fn load_of(&self, block: &mut Block, lanes: Chosen, (to, entity): (Reg, Reg), word: Word) {
        each_lane(lanes, block.len(), |l| {
            let id = EntityId::from_word(block.word(entity, l));
            let value = match self.world.state.find(id) {
                Some((kind, row)) => word_of(self.world, kind, row, word),
                None => 0,
            };
            block.set(to, l, value);
        });
    }

    fn write(
        &self,
        block: &mut Block,
        lanes: Chosen,
        (slot, value): (crate::code::op::Slot, Reg),
        adds: bool,
        out: &mut Outbox,
    ) {
        use crate::code::op::Slot;
        let pair = slot.is_pair();
        let site = out.last_site.unwrap_or(tickpond_lang::program::SiteId(0));
        let full = lanes.len() == block.len();
        // Adding nothing changes nothing, so many lanes of a stretch of rows are written as a whole. A
        // speed is worked out anew by any addition, and a spin may not be there yet.
        let stretched = adds && block.masks && !matches!(slot, Slot::Speed | Slot::Spin);
        let first = block.first.filter(|_| full || stretched);
        let count = if first.is_some() { block.len() } else { lanes.len() };
        let (rows_from, words_from) = (out.write_rows.len(), out.write_words.len());
        if first.is_none() {
            if full {
                out.write_rows.extend_from_slice(&block.rows);
            } else {
                let mut rows = [0; LANES];
                out.write_rows.extend_from_slice(gathered(lanes, &mut rows, |l| block.rows[l]));
            }
        }
        for reg in [Some(value), pair.then_some(value + 1)].into_iter().flatten() {
            let column = &block.regs[usize::from(reg)];
            if full {
                out.write_words.extend_from_slice(&column[..count]);
            } else if first.is_some() {
                let lanes = column[..count].iter().zip(&block.mask[..count]);
                out.write_words.extend(lanes.map(|(word, mask)| word & mask));
            } else {
                let mut words = [0; LANES];
                out.write_words.extend_from_slice(gathered(lanes, &mut words, |l| column[l]));
            }
        }
        out.writes.push(Writes {
            kind: self.origin.kind,
            handler: self.origin.handler,
            round: out.round,
            slot,
            adds,
            site,
            first,
            count,
            asked: lanes.len(),
            rows_from,
            words_from,
        });
    }

    /// Waits for a time; for the births asked for now, if none is given.
    pub fn wait(
        &self,
        block: &mut Block,
        lanes: Chosen,
        time: Option<Reg>,
        at: u32,
        out: &mut Outbox,
    ) {
        let rate = self.world.compiled.program.rate;
        for lane in lanes {
            let row = block.rows[lane] as usize;
            let due = match time {
                Some(time) => {
                    let ticks = tickpond_lang::program::ticks(block.number(time, lane), rate);
                    self.world.state.tick.saturating_add(ticks)
                }
                None => self.birth_tick() + 1,
            };
            out.waits.push(Wait {
                due,
                entity: self.columns().id[row],
                serial: self.columns().serial[row],
                handler: self.origin.handler,
                at,
                words: block.words(self.code.regs, lane),
            });
        }
    }
}

pub(super) fn next(counter: &mut u32) -> u32 {
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
        Word::State(name) => {
            let tracks = &world.compiled.program.kinds[kind.index()].tracks;
            let at = tracks.iter().position(|t| t.name == name);
            at.map_or(crate::state::NO_STATE, |at| {
                let state = columns.tracks[at].now[row] as usize;
                u64::from(tracks[at].states[state].0.0)
            })
        }
        Word::Active => u64::from(columns.is_active(row)),
        Word::Down => u64::from(columns.down[row]),
        Word::Resting => {
            let long_enough = (world.compiled.program.rate / 2.0).ceil() as u32;
            u64::from(columns.still[row] >= long_enough)
        }
        Word::Age => {
            let ticks = columns.age(row, world.state.tick);
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
